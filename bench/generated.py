"""Catalogues and a route made up by a seeded generator: 8 to 16 points a pump, some of them drooping."""

from __future__ import annotations

import numpy as np

from sizing.pipework.route import Leg, Route, SystemCurve
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.pump.curve_table import CurveTable, from_arrays
from sizing.water import water

_POINTS = 16


def table(count: int, seed: int = 1) -> CurveTable:
    """Curves of ``count`` pumps, heads rounded to a centimetre as in print."""
    rng = np.random.default_rng(seed)
    points = rng.integers(8, _POINTS + 1, count)
    most_flow = np.exp(rng.uniform(np.log(5e-4), np.log(2e-2), count))[:, None]
    shut_off = np.exp(rng.uniform(np.log(12), np.log(80), count))[:, None]
    droop = np.where(rng.random(count) < 0.08, 0.25, 0.0)[:, None]
    x = np.minimum(np.linspace(0, 1, _POINTS)[None] * (_POINTS - 1) / (points[:, None] - 1), 1.0)
    fall = rng.uniform(0.7, 0.95, count)[:, None] * x ** rng.uniform(1.6, 2.6, count)[:, None]
    heads = np.round(shut_off * (1 - fall + droop * x * (1 - x)), 2)
    return from_arrays(x * most_flow, heads, points - 1)


def catalogue(count: int, seed: int = 1) -> Catalogue:
    """The same curves as pumps with price, power and the figures that requirements look at."""
    curves, rng = table(count, seed), np.random.default_rng(seed + 1)
    pumps = []
    for row in range(count):
        end = int(curves.last[row]) + 1
        flows, heads = curves.flows_m3s[row, :end], curves.heads_m[row, :end]
        powers = (flows * heads).max() * 9806.65 / 0.4 * np.linspace(0.6, 1.0, end) + 1.0
        pumps.append(Pump(
            f"p{row:06d}", "Ondrath", f"G {row}", "sump", PumpCurve(tuple(flows.tolist()), tuple(heads.tolist()), tuple(powers.tolist())),
            solids_m=float(rng.uniform(0.004, 0.02)), width_m=float(rng.uniform(0.15, 0.35)), lowest_stop_m=0.1, voltage_v=230.0, phases=1,
            hottest_c=40.0, price=float(rng.uniform(80, 900)),
        ))  # fmt: skip
    return Catalogue(pumps)


def system() -> SystemCurve:
    """Six legs with a suction, a riser and a high point; 12 m of lift."""
    pieces = [
        (0.052, 3, 1e-4, 2, 1),
        (0.0409, 4, 7e-6, 5, 3),
        (0.052, 20, 7e-6, 1, 3.5),
        (0.052, 10, 7e-6, 1, 13.5),
        (0.0627, 40, 7e-6, 3, 10),
        (0.0627, 40, 7e-6, 3, 12),
    ]
    legs = tuple(Leg(inside_diameter_m=d, length_m=length, roughness_m=e, k_sum=k, end_elevation_m=z) for d, length, e, k, z in pieces)
    return SystemCurve(Route(legs, 0.0, suction_legs=1), water(12.0))
