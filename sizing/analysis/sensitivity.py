"""What to measure next, and the chance that the pump makes its duty.

And how wrong a figure may be before the choice changes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from sizing.analysis.changed import Known, NotYet, changed_demand, changed_system
from sizing.analysis.uncertainty import UncertainFigure, doubts
from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.base.rules import Rules
from sizing.document.build_route import the_leg
from sizing.document.job import Provenance
from sizing.hydraulics import pipes
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve, losses_of_m
from sizing.operating_point.one import operating_point
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import PumpCurve
from sizing.size import Sizing, size

SAMPLES = 2000
SEED = 20260101  # the same figure gives the same chance, today and when the paper is printed again
_DEVIATIONS = 1.959964  # standard deviations that hold nineteen times in twenty
_LEG_COLUMNS = (
    "inside_diameter_m",
    "length_m",
    "roughness_m",
    "k_sum",
    "k1_sum",
    "pipe_share",
    "equivalent_length_m",
    "hazen_williams_c",
    "end_elevation_m",
)
_MOST_TIPPED = 6
_HALVINGS = 6
_NOTHING = 5e-4  # of the flow: less is not worth a line
_STEP = {"temperature": "temperature_step"}  # a plus-or-minus of degrees has no offset
_FURTHEST = 2.0  # times its spread: further off than that a figure is a slip, not a figure


@dataclass(frozen=True)
class Sensitivity:
    """What one figure does when it is off by its spread, up or down.

    To the pump's real flow and to the flow needed [m3/s].
    """

    label: str
    path: str
    provenance: Provenance | None
    value: Message
    figure: UncertainFigure | None
    flow_low_m3s: float | None
    flow_high_m3s: float | None
    needed_low_m3s: float
    needed_high_m3s: float
    size_m3s: float


@dataclass(frozen=True)
class TippingPoint:
    """How far off a figure must be for another pump to be chosen.

    ``by_si`` is None where twice its spread does not do it.
    """

    figure: UncertainFigure
    by_si: float | None
    pump_name: str


@dataclass(frozen=True)
class Chance:
    """The chance that a pump makes its duty, with the error of the sampling.

    The error holds nineteen times in twenty. How often it runs off its curve's end goes with it.
    """

    pump_name: str
    share: float
    error: float
    off_end_share: float
    samples: int


def uncertain_figures(base: Known) -> tuple[UncertainFigure, ...]:
    """Every figure of the job that may be off."""
    sizing = base.sizing
    return doubts(
        sizing.job,
        sizing.facts,
        sizing.legs,
        sizing.kind.questions,
        base.rules,
        closed_loop=sizing.kind.closed_loop,
    )


def _at(base: Known, figure: UncertainFigure, by_si: float) -> tuple[SystemCurve, float] | None:
    """System and flow needed with one figure off.

    None where that cannot be (a leg shorter than its climb).
    """
    try:
        job = figure.put(base.sizing.job, by_si)
        return changed_system(base, job), changed_demand(base, job).needed_m3s
    except SizingError:
        return None


def _real_flow(curve: PumpCurve, system: SystemCurve) -> float | None:
    point = operating_point(curve, system).point
    return point.flow_m3s if point else None


def sensitivities(base: Known) -> tuple[Sensitivity, ...]:
    """Every figure ranked by what it does to the real flow less the flow needed.

    The first is what to measure next.

    Raises
    ------
    NotYet
        No pump to run.
    """
    curve, needed = base.pump, base.demand.needed_m3s
    flow = _real_flow(curve, base.system) or 0.0
    found = []
    for figure in uncertain_figures(base):
        ends = [
            _at(base, figure, by) or (base.system, needed)
            for by in (-figure.spread_si, figure.spread_si)
        ]
        flows = [_real_flow(curve, system) for system, _ in ends]
        wants = [want for _, want in ends]
        spare = [
            (0.0 if got is None else got) - want for got, want in zip(flows, wants, strict=True)
        ]
        size_m3s = max(abs(one - (flow - needed)) for one in spare)
        value = message(
            "{value} ± {spread}",
            value=figure.value,
            spread=Measure(figure.spread_si, _STEP.get(figure.dimension, figure.dimension)),
        )
        found.append(
            Sensitivity(
                figure.label,
                figure.path,
                figure.provenance,
                value,
                figure,
                flows[0],
                flows[1],
                wants[0],
                wants[1],
                size_m3s,
            )
        )
    found += [*_of_walls(base, flow), _of_pump(base, flow)]
    found = [swing for swing in found if swing.size_m3s > _NOTHING * max(needed, flow)]
    return tuple(sorted(found, key=lambda swing: -swing.size_m3s))


def _of_walls(base: Known, flow_m3s: float) -> Iterator[Sensitivity]:
    for entry, (smooth, rough) in zip(base.sizing.legs, _walls(base), strict=True):
        low, high = _real_flow(base.pump, rough), _real_flow(base.pump, smooth)
        name = the_leg(entry, base.sizing.job.legs.index(entry) + 1)
        size_m3s = max(abs((low or 0.0) - flow_m3s), abs((high or 0.0) - flow_m3s))
        needed = base.demand.needed_m3s
        yield Sensitivity(
            f"wall of {name}",
            f"legs.{entry.id}.wall",
            None,
            message("new to slimed or lightly rusted"),
            None,
            low,
            high,
            needed,
            needed,
            size_m3s,
        )


def _of_pump(base: Known, flow_m3s: float) -> Sensitivity:
    spread, needed = base.rules.value("TRU-09"), base.demand.needed_m3s
    low, high = (
        _real_flow(base.pump.scaled(1.0, 1.0 + sign * spread, 1.0), base.system) for sign in (-1, 1)
    )
    size_m3s = max(abs((low or 0.0) - flow_m3s), abs((high or flow_m3s) - flow_m3s))
    value = message(
        "head ± {spread} about its maker's curve (rule TRU-09)", spread=Measure(spread, "ratio")
    )
    return Sensitivity(
        "the pump itself", "", None, value, None, low, high, needed, needed, size_m3s
    )


def tipping_points(
    base: Known, catalogue: Catalogue, ranked: Sequence[Sensitivity]
) -> tuple[TippingPoint, ...]:
    """For the figures that weigh most.

    How wrong each must be, either way, for the choice to change.

    Raises
    ------
    NotYet
        No pump is chosen.
    """
    chosen = base.sizing.chosen
    if chosen is None:
        raise NotYet("this needs a pump: none fits yet")
    now = _choice(base.sizing)

    def choice_at(figure: UncertainFigure, by_si: float) -> tuple[str, str]:
        try:
            there = size(figure.put(base.sizing.job, by_si), catalogue, base.rules)
        except SizingError:
            return now
        # A figure that contradicts another (a leg shorter than its survey) is a slip, and changes
        # no choice.
        return now if there.missing or there.problems else _choice(there)

    weighty = [swing.figure for swing in ranked if swing.figure is not None][:_MOST_TIPPED]
    return tuple(_tip(figure, now, choice_at) for figure in weighty)


def _choice(sizing: Sizing) -> tuple[str, str]:
    """The pump chosen and whether it fits: what a person would call the outcome."""
    if sizing.chosen is None:
        return "", "none fits any more"
    candidate = sizing.chosen.candidate
    return (
        (candidate.pump.pump_id, candidate.pump.name)
        if sizing.chosen.fits
        else (f"{candidate.pump.pump_id} no longer", f"{candidate.pump.name} no longer fits")
    )


def _tip(
    figure: UncertainFigure,
    now: tuple[str, str],
    choice_at: Callable[[UncertainFigure, float], tuple[str, str]],
) -> TippingPoint:
    best: tuple[float, str] | None = None
    for sign in (1.0, -1.0):
        near, far = (
            0.0,
            next(
                (
                    reach
                    for reach in (1.0, _FURTHEST)
                    if choice_at(figure, sign * reach * figure.spread_si)[0] != now[0]
                ),
                None,
            ),
        )
        if far is None or (best and abs(best[0]) <= near):
            continue
        name = choice_at(figure, sign * far * figure.spread_si)[1]
        for _ in range(_HALVINGS):
            middle = 0.5 * (near + far)
            there = choice_at(figure, sign * middle * figure.spread_si)
            near, far, name = (
                (near, middle, there[1]) if there[0] != now[0] else (middle, far, name)
            )
        if best is None or far < abs(best[0]):
            best = (sign * far, name)
    return TippingPoint(
        figure,
        None if best is None else best[0] * figure.spread_si,
        "" if best is None else best[1],
    )


@dataclass(frozen=True)
class Routes:
    """Many routes of one shape, sampled: each column of shape (legs, samples) or (samples,)."""

    system: SystemCurve
    legs: dict[str, Array]
    fixed: dict[str, Array]
    needed_m3s: Array

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


def _routes(system: SystemCurve, rows: Array) -> Routes:
    count = len(system.route.legs)
    each = {name: rows[:, at * count : (at + 1) * count].T for at, name in enumerate(_LEG_COLUMNS)}
    tail = rows[:, len(_LEG_COLUMNS) * count :].T
    each["length_m"] = np.maximum(each["length_m"], 0.0)
    each["roughness_m"] = np.clip(each["roughness_m"], 0.0, each["inside_diameter_m"] / 4)
    fixed = dict(
        zip(("start_level_m", "supply_m", "delivery_m", "drawdown_s_m2"), tail[:4], strict=True)
    )
    return Routes(system, each, fixed, np.maximum(tail[4], 1e-9))


def _walls(base: Known) -> list[tuple[SystemCurve, SystemCurve]]:
    """For each leg the system with the smoothest wall of its table, and with an aged one."""
    found, legs = [], base.system.route.legs
    for at, (entry, leg) in enumerate(zip(base.sizing.legs, legs, strict=True)):
        new, aged = pipes.wall_of(entry.series, "new"), pipes.wall_of(entry.series, "aged")
        pair = []
        for wall, better in ((new, min), (aged, max)):
            rough = replace(
                leg,
                roughness_m=min(
                    better(wall.roughness_m, leg.roughness_m), leg.inside_diameter_m / 4
                ),
                hazen_williams_c=(max if better is min else min)(
                    wall.hazen_williams_c or leg.hazen_williams_c, leg.hazen_williams_c
                ),
            )
            pair.append(
                SystemCurve(
                    replace(base.system.route, legs=(*legs[:at], rough, *legs[at + 1 :])),
                    base.system.water,
                )
            )
        found.append((pair[0], pair[1]))
    return found


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
        return _routes(
            self.system, rows
        ), 1.0 + self.pump_spread / _DEVIATIONS * rng.standard_normal(count)


def sampler(base: Known, rules: Rules) -> Sampler:
    """The job's doubts as directions in which its route may lie.

    Each figure's, each wall's, and the pump's own.
    """
    now = _numbers(base.system, base.demand.needed_m3s)
    down: list[Array] = []
    up: list[Array] = []
    for figure in uncertain_figures(base):
        for by, where in ((-figure.spread_si, down), (figure.spread_si, up)):
            found = _at(base, figure, by)
            moved = (
                now
                if found is None or len(found[0].route.legs) != len(base.system.route.legs)
                else _numbers(*found)
            )
            where.append(moved - now)
    for smooth, rough in _walls(base):
        down.append(_numbers(smooth, base.demand.needed_m3s) - now)
        up.append(_numbers(rough, base.demand.needed_m3s) - now)
    return Sampler(base.system, now, np.array(down), np.array(up), rules.value("TRU-09"))


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


def chances(
    base: Known, curves: Sequence[tuple[str, PumpCurve]], count: int = SAMPLES
) -> tuple[Chance, ...]:
    """The chance of each pump, the first the chosen one, over the same routes."""
    routes, factor = sampler(base, base.rules).sample(count)
    met = duty_met([curve for _, curve in curves], routes, factor)
    found = []
    for (name, curve), row in zip(curves, met, strict=True):
        share = float(row.mean())
        error = max(
            _DEVIATIONS * float(np.sqrt(share * (1 - share) / count)), 3.0 / count
        )  # none in n: up to 3 in n may yet (rule of three)
        found.append(
            Chance(name, share, error, float(off_end(curve, routes, factor).mean()), count)
        )
    return tuple(found)
