"""The two loops that matching is measured against: the straightforward one and the clever one."""

from __future__ import annotations

import math

import fluids
import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.curve_table import CurveTable

Answer = tuple[str, float]


def _points(table: CurveTable, row: int) -> slice:
    return slice(int(table.starts[row]), int(table.starts[row] + table.last[row]) + 1)


def straightforward(table: CurveTable, rows: list[int], system: SystemCurve) -> list[Answer]:
    """Pump by pump.

    Scipy's PCHIP and brentq, ``fluids`` solving the friction factor in every residual.
    """
    nu, points = system.water.kinematic_viscosity_m2_s, system.points
    legs = [
        (leg.inside_diameter_m, leg.length_m, leg.roughness_m, leg.k_sum)
        for leg in system.route.legs
    ]

    def needed(flow: float) -> float:
        upto, total = [], 0.0
        for d, length, rough, k in legs:
            v = flow / (math.pi / 4 * d * d)
            f = fluids.friction_factor(v * d / nu, rough / d) if v else 0.0
            total += (f * length / d + k) * v * v / (2 * GRAVITY_M_S2)
            upto.append(total)
        return max(upto[index] + static + pressure for index, static, pressure, _ in points)

    found = []
    for row in rows:
        here = _points(table, row)
        q, curve = (
            table.flows_m3s[here],
            PchipInterpolator(table.flows_m3s[here], table.heads_m[here]),
        )
        end = len(q)
        excess = [float(curve(flow)) - needed(float(flow)) for flow in q]
        falls = [i for i in range(end - 1) if excess[i] > 0 >= excess[i + 1]]
        if falls:
            at = falls[-1]
            found.append(
                (
                    "operates",
                    brentq(
                        lambda flow, curve=curve: float(curve(flow)) - needed(flow),
                        q[at],
                        q[at + 1],
                        xtol=1e-12,
                        rtol=1e-10,
                    ),
                )
            )
        else:
            found.append(("off_end" if excess[-1] > 0 else "cannot_lift", math.nan))
    return found


def clever(table: CurveTable, rows: list[int], system: SystemCurve) -> list[Answer]:
    """Pump by pump in plain Python, the system curve tabulated once and Newton written by hand."""
    most = float(table.last_flow_m3s.max())
    grid = np.linspace(0.0, most, 513)
    spline = PchipInterpolator(grid, system.head_m(grid))
    c3, c2, c1, c0 = (row.tolist() for row in spline.c)
    starts, per_cell = grid.tolist(), 512 / most

    def needed(flow: float) -> tuple[float, float]:
        cell = min(int(flow * per_cell), 511)
        s = flow - starts[cell]
        return ((c3[cell] * s + c2[cell]) * s + c1[cell]) * s + c0[cell], (
            3 * c3[cell] * s + 2 * c2[cell]
        ) * s + c1[cell]

    found: list[Answer] = []
    for row in rows:
        here = _points(table, row)
        q, h, d = (
            table.flows_m3s[here].tolist(),
            table.heads_m[here].tolist(),
            table.slopes[here].tolist(),
        )
        end = len(q)
        at = next(
            (
                i
                for i in range(end - 2, -1, -1)
                if h[i] > needed(q[i])[0] and h[i + 1] <= needed(q[i + 1])[0]
            ),
            None,
        )
        if at is None:
            found.append(("off_end" if h[-1] > needed(q[-1])[0] else "cannot_lift", math.nan))
            continue
        width, mean = q[at + 1] - q[at], (h[at + 1] - h[at]) / (q[at + 1] - q[at])
        b2, b3 = (
            (3 * mean - 2 * d[at] - d[at + 1]) / width,
            (d[at] + d[at + 1] - 2 * mean) / (width * width),
        )
        low, high = q[at], q[at + 1]
        flow = 0.5 * (low + high)
        for _ in range(40):
            s = flow - q[at]
            head, slope = needed(flow)
            excess = ((b3 * s + b2) * s + d[at]) * s + h[at] - head
            low, high = (flow, high) if excess > 0 else (low, flow)
            steep = (3 * b3 * s + 2 * b2) * s + d[at] - slope
            following = flow - excess / steep if steep < 0 else 0.5 * (low + high)
            if not low <= following <= high:
                following = 0.5 * (low + high)
            if abs(following - flow) < 1e-10 * most:
                break
            flow = following
        found.append(("operates", flow))
    return found
