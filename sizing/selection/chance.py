"""The chance that a pump makes its duty, by sampling every doubt of the route at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from sizing.base.message import Measure, Message, message
from sizing.document.job import JobDocument, LegEntry
from sizing.hydraulics import pipes
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import LOSS_COLUMNS, SystemCurve, losses_of_m
from sizing.pump.curve import PumpCurve
from sizing.selection.uncertainty import UncertainFigure

if TYPE_CHECKING:
    from sizing.selection.sweep import Wanted

SAMPLES = 2000
SAMPLES_BY_THE_DAY = 400
SEED = 20260101  # the same figure gives the same chance, today and when the paper is printed again
_DEVIATIONS = 1.959964  # standard deviations that hold nineteen times in twenty
_LEG_COLUMNS = (*LOSS_COLUMNS, "end_elevation_m")
_AS_SURE_AS_SAID = 0.99
_FIXED = 5  # numbers of a route that are no leg's: see _numbers
Moved = Callable[[JobDocument], "tuple[SystemCurve, float] | None"]


@dataclass(frozen=True)
class Routes:
    """Many routes of one shape, sampled: each column of shape (legs, samples) or (samples,)."""

    system: SystemCurve
    legs: dict[str, Array]
    fixed: dict[str, Array]
    needed_m3s: Array
    needed_now_m3s: float

    def head_m(self, flow_m3s: Array) -> Array:
        """Head [m] that each route asks for at a flow of its own, shape (samples,)."""
        c, route = self.legs, self.system.route
        pipe, fittings = losses_of_m(
            c, flow_m3s, route.method, self.system.water.kinematic_viscosity_m2_s
        )
        upto = np.cumsum(pipe + fittings + self.system.device_losses_m(flow_m3s), axis=0)
        ends = sum((device.loss_m(flow_m3s) for device in route.devices), np.zeros_like(flow_m3s))
        best = np.full_like(flow_m3s, -np.inf)
        for number, point in enumerate(self.system.points):
            last = number == len(self.system.points) - 1
            head = upto[point.leg] - (1.0 - point.share) * pipe[point.leg] + (ends if last else 0.0)
            if not route.closed_loop:
                level = (
                    c["end_elevation_m"][point.leg]
                    if point.share == 1
                    else point.static_m + route.start_level_m
                )
                head = (
                    head
                    + level
                    - self.fixed["start_level_m"]
                    - self.fixed["supply_m"]
                    + (self.fixed["delivery_m"] if last else 0.0)
                )
                head = head + self.fixed["drawdown_s_m2"] * flow_m3s
            best = np.maximum(best, head)
        return best


def _numbers(system: SystemCurve, needed_m3s: float) -> Array:
    """A route as one row of numbers, in the order in which :func:`_routes` takes them apart."""
    route, water = system.route, system.water
    legs = [[getattr(leg, name) for leg in route.legs] for name in _LEG_COLUMNS]
    fixed = [
        route.start_level_m,
        water.head_m(route.supply_pressure_pa),
        water.head_m(route.delivery_pressure_pa),
        route.drawdown_s_m2,
        needed_m3s,
    ]
    return np.array([*np.ravel(legs), *fixed])


def _routes(system: SystemCurve, rows: Array, needed_now_m3s: float) -> Routes:
    count = len(system.route.legs)
    each = {name: rows[:, at * count : (at + 1) * count].T for at, name in enumerate(_LEG_COLUMNS)}
    tail = rows[:, len(_LEG_COLUMNS) * count :].T
    each["length_m"] = np.maximum(each["length_m"], 0.0)
    each["roughness_m"] = np.clip(each["roughness_m"], 0.0, each["inside_diameter_m"] / 4)
    fixed = dict(
        zip(("start_level_m", "supply_m", "delivery_m", "drawdown_s_m2"), tail[:4], strict=True)
    )
    return Routes(system, each, fixed, np.maximum(tail[4], 1e-9), needed_now_m3s)


@dataclass(frozen=True)
class Sampler:
    """How each figure moves the route, ready to be sampled.

    Between and beyond the two ends looked at it moves in straight lines.
    """

    system: SystemCurve
    now: Array
    down: Array
    up: Array
    pump_spread: float

    def sample(self, count: int = SAMPLES, seed: int = SEED) -> tuple[Routes, Array]:
        """So many routes, and the factor on the pump's head in each; the same for the same seed."""
        rng = np.random.default_rng(seed)
        z = rng.standard_normal((count, len(self.up))) / _DEVIATIONS
        rows = self.now + np.maximum(z, 0.0) @ self.up + np.maximum(-z, 0.0) @ self.down
        factor = 1.0 + self.pump_spread / _DEVIATIONS * rng.standard_normal(count)
        return _routes(self.system, rows, float(self.now[-1])), factor


def sampler(
    system: SystemCurve,
    needed_m3s: float,
    legs: Sequence[LegEntry],
    job: JobDocument,
    figures: Iterable[UncertainFigure],
    moved: Moved,
    pump_spread: float,
) -> Sampler:
    """The job's doubts as directions in which its route may lie.

    Each figure's, each wall's, and the pump's own. ``moved`` makes system and flow needed of a
    changed job, None where that cannot be; a leg's own length and end are moved without it.
    """
    now = _numbers(system, needed_m3s)
    down: list[Array] = []
    up: list[Array] = []
    for figure in figures:
        for by, where in ((-figure.spread_si, down), (figure.spread_si, up)):
            direct = _of_a_leg(system, legs, figure, by)
            if direct is None:
                found = moved(figure.put(job, by))
                same = found is not None and len(found[0].route.legs) == len(system.route.legs)
                direct = _numbers(*found) - now if found is not None and same else 0.0 * now
            where.append(direct)
    for smooth, rough in _walls(system, legs):
        down.append(smooth)
        up.append(rough)
    return Sampler(system, now, np.array(down), np.array(up), pump_spread)


def _of_a_leg(
    system: SystemCurve, legs: Sequence[LegEntry], figure: UncertainFigure, by_si: float
) -> Array | None:
    """What a leg's own length or end does to the numbers, off by so much; None for all else."""
    head, leg_id, *field = figure.path.split(".")
    at = next((index for index, one in enumerate(legs) if one.id == leg_id), None)
    if head != "legs" or at is None or legs[at].survey or field not in (["length"], ["ends_at"]):
        return None
    change = np.zeros(len(_LEG_COLUMNS) * len(legs) + _FIXED)
    column = "length_m" if field == ["length"] else "end_elevation_m"
    change[_LEG_COLUMNS.index(column) * len(legs) + at] = by_si
    return change


def _walls(system: SystemCurve, legs: Sequence[LegEntry]) -> Iterator[tuple[Array, Array]]:
    """What the smoothest wall of each leg's table, and an aged one, do to the numbers."""
    for at, (entry, leg) in enumerate(zip(legs, system.route.legs, strict=True)):
        pair = []
        for code, better, worse in (("new", min, max), ("aged", max, min)):
            wall, change = (
                pipes.wall_of(entry.series, code),
                np.zeros(len(_LEG_COLUMNS) * len(legs) + _FIXED),
            )
            rough = min(better(wall.roughness_m, leg.roughness_m), leg.inside_diameter_m / 4)
            smooth_c = worse(wall.hazen_williams_c or leg.hazen_williams_c, leg.hazen_williams_c)
            change[_LEG_COLUMNS.index("roughness_m") * len(legs) + at] = rough - leg.roughness_m
            change[_LEG_COLUMNS.index("hazen_williams_c") * len(legs) + at] = (
                smooth_c - leg.hazen_williams_c
            )
            pair.append(change)
        yield pair[0], pair[1]


def met_by(
    wanted: Wanted | None, drawn: Sampler, curves: Sequence[PumpCurve], count: int = SAMPLES
) -> tuple[Routes, Array, Array]:
    """Sampled routes, the factors on the head, and whether each pump does the job on each.

    By the flow needed, or by what the job reckons instead, with fewer samples: each is then a year.
    """
    if wanted is None or wanted.served is None:
        routes, factor = drawn.sample(count)
        return routes, factor, duty_met(curves, routes, factor)
    routes, factor = drawn.sample(min(count, SAMPLES_BY_THE_DAY))
    return routes, factor, wanted.served.met_on(curves, routes, factor)


def sure_of_it(chance: float) -> Message:
    """A chance in words: never that anything is certain."""
    over = "over " if chance > _AS_SURE_AS_SAID else ""
    return message(
        over + "{chance} sure of its duty", chance=Measure(min(chance, _AS_SURE_AS_SAID), "ratio")
    )


def duty_met(curves: Sequence[PumpCurve], routes: Routes, head_factor: Array) -> Array:
    """Whether each pump makes the flow needed on each route, shape (pumps, samples), of truths.

    A pump whose head at the end of its curve is above what the route asks there runs off its end:
    its duty counts as met (:func:`off_end` marks it).
    """
    needed, asked = routes.needed_m3s, routes.head_m(routes.needed_m3s)
    met = np.empty((len(curves), len(needed)), dtype=bool)
    for row, curve in enumerate(curves):
        beyond = needed > curve.last_flow_m3s
        heads = curve.head_m(np.clip(needed, curve.flows_m3s[0], curve.last_flow_m3s))
        met[row] = heads * head_factor >= asked
        if beyond.any():
            met[row] = np.where(beyond, off_end(curve, routes, head_factor), met[row])
    return met


def off_end(curve: PumpCurve, routes: Routes, head_factor: Array) -> Array:
    """Whether a pump runs off the end of its curve on each route, shape (samples,)."""
    last = np.full_like(routes.needed_m3s, curve.last_flow_m3s)
    return np.asarray(
        float(curve.head_m(np.asarray(curve.last_flow_m3s))) * head_factor > routes.head_m(last)
    )
