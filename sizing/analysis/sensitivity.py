"""What to measure next: how far each doubt moves the real flow.

And how wrong a figure may be before the choice changes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from sizing.analysis.changed import Known, NotYet, changed_demand, changed_system
from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.document.build_route import the_leg
from sizing.document.job import Provenance
from sizing.hydraulics import pipes
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.one import operating_point
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import PumpCurve
from sizing.selection.uncertainty import UncertainFigure, doubts
from sizing.size import Sizing, size

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


def route_with(
    base: Known, figure: UncertainFigure, by_si: float
) -> tuple[SystemCurve, float] | None:
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
            route_with(base, figure, by) or (base.system, needed)
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
                label=figure.label,
                path=figure.path,
                provenance=figure.provenance,
                value=value,
                figure=figure,
                flow_low_m3s=flows[0],
                flow_high_m3s=flows[1],
                needed_low_m3s=wants[0],
                needed_high_m3s=wants[1],
                size_m3s=size_m3s,
            )
        )
    found += [*_of_walls(base, flow), _of_pump(base, flow)]
    found = [swing for swing in found if swing.size_m3s > _NOTHING * max(needed, flow)]
    return tuple(sorted(found, key=lambda swing: -swing.size_m3s))


def _of_walls(base: Known, flow_m3s: float) -> Iterator[Sensitivity]:
    for entry, (smooth, rough) in zip(base.sizing.legs, smooth_and_aged(base), strict=True):
        low, high = _real_flow(base.pump, rough), _real_flow(base.pump, smooth)
        name = the_leg(entry, base.sizing.job.legs.index(entry) + 1)
        size_m3s = max(abs((low or 0.0) - flow_m3s), abs((high or 0.0) - flow_m3s))
        needed = base.demand.needed_m3s
        yield Sensitivity(
            label=f"wall of {name}",
            path=f"legs.{entry.id}.wall",
            provenance=None,
            value=message("new to slimed or lightly rusted"),
            figure=None,
            flow_low_m3s=low,
            flow_high_m3s=high,
            needed_low_m3s=needed,
            needed_high_m3s=needed,
            size_m3s=size_m3s,
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
        label="the pump itself",
        path="",
        provenance=None,
        value=value,
        figure=None,
        flow_low_m3s=low,
        flow_high_m3s=high,
        needed_low_m3s=needed,
        needed_high_m3s=needed,
        size_m3s=size_m3s,
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


def smooth_and_aged(base: Known) -> list[tuple[SystemCurve, SystemCurve]]:
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
