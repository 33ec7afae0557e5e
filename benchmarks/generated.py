"""Catalogues and a route made up by a seeded generator.

8 to 16 points a pump, some of them drooping.
"""

from __future__ import annotations

import numpy as np

from sizing.base.water import water
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.pump.catalogue import Pump
from sizing.pump.curve import PumpCurve
from sizing.pump.curve_table import CurveTable, from_points
from sizing.pump.packed import PackedCatalogue, pack

_POINTS = 16


def _points(count: int, seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Flows and heads of ``count`` pumps one curve after the other, heads rounded to a centimetre
    as in print; and how many points each has.
    """
    rng = np.random.default_rng(seed)
    counts = rng.integers(8, _POINTS + 1, count)
    most_flow = np.exp(rng.uniform(np.log(5e-4), np.log(2e-2), count))[:, None]
    shut_off = np.exp(rng.uniform(np.log(12), np.log(80), count))[:, None]
    droop = np.where(rng.random(count) < 0.08, 0.25, 0.0)[:, None]
    x = np.minimum(np.linspace(0, 1, _POINTS)[None] * (_POINTS - 1) / (counts[:, None] - 1), 1.0)
    fall = rng.uniform(0.7, 0.95, count)[:, None] * x ** rng.uniform(1.6, 2.6, count)[:, None]
    heads = np.round(shut_off * (1 - fall + droop * x * (1 - x)), 2)
    there = np.arange(_POINTS) < counts[:, None]
    return (x * most_flow)[there], heads[there], counts


def table(count: int, seed: int = 1) -> CurveTable:
    """Curves of ``count`` pumps."""
    return from_points(*_points(count, seed))


def pumps(count: int, seed: int = 1) -> list[Pump]:
    """The same curves as pumps with price, power, NPSH and what requirements look at."""
    flows, heads, counts = _points(count, seed)
    rng, end = np.random.default_rng(seed + 1), np.cumsum(counts)
    made = []
    for row in range(count):
        points = slice(int(end[row] - counts[row]), int(end[row]))
        q, h = flows[points], heads[points]
        powers = np.round((q * h).max() * 9806.65 / 0.4 * np.linspace(0.6, 1.0, len(q)) + 1.0, 1)
        npsh = np.round(1.0 + 3.0 * (q / q[-1]) ** 2, 2)
        made.append(
            Pump(
                pump_id=f"p{row:06d}",
                maker="Ondrath",
                model=f"G {row}",
                family="sump",
                curve=PumpCurve(
                    tuple(q.tolist()),
                    tuple(h.tolist()),
                    tuple(powers.tolist()),
                    tuple(npsh.tolist()),
                ),
                solids_m=float(rng.uniform(0.004, 0.02)),
                width_m=float(rng.uniform(0.15, 0.35)),
                lowest_stop_m=0.1,
                voltage_v=230.0,
                phases=1,
                hottest_c=40.0,
                noise_db=45.0,
                price=float(rng.uniform(80, 900)),
                stock=float(rng.integers(0, 3)),
                discharge="1-1/2 in",
                float_type="tethered",
            )
        )
    return made


def catalogue(count: int, seed: int = 1) -> PackedCatalogue:
    """The pumps as a packed catalogue, as a worker has them."""
    return PackedCatalogue(pack(pumps(count, seed)))


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
    legs = tuple(
        Leg(inside_diameter_m=d, length_m=length, roughness_m=e, k_sum=k, end_elevation_m=z)
        for d, length, e, k, z in pieces
    )
    return SystemCurve(Route(legs, 0.0, suction_legs=1), water(12.0))
