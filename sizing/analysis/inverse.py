"""The sizing asked the other way round.

How far, how high, how narrow, how deep, with the pump that is there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import scipy

from sizing.analysis.changed import Known, changed_system
from sizing.base.message import Measure, Message, message
from sizing.checks.base import Site
from sizing.checks.suction import npsh_limit
from sizing.document.build_route import LONGEST_LEG_M, allowance, bore_m, the_leg
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.hydraulics.system_curve import Leg, Point, SystemCurve
from sizing.selection.limit import npsh_margin_m

_HIGHEST_M = 2000.0
MOST_FLOW_M3S, MOST_HEAD_M = 10.0, 1500.0  # what may be asked: no pump here has more


@dataclass(frozen=True)
class Answer:
    """One unknown solved for with all else as it stands; ``value`` is None where nothing would do.

    ``now`` is how it is today.
    """

    code: str
    label: str
    value: Measure | str | None
    now: Measure | str | None
    note: Message | None = None


def solve(
    base: Known, flow_m3s: float | None = None, head_m: float | None = None
) -> tuple[Answer, ...]:
    """Every unknown in turn, for a flow and a head at that flow.

    Left away, these are the flow needed and the chosen pump's head.

    Raises
    ------
    NotYet
        No pump is chosen and no head was given.
    """
    flow = base.demand.needed_m3s if flow_m3s is None else flow_m3s
    there = _head_there(base, flow) if head_m is None else head_m
    if there is None:
        return (
            Answer(
                "flow",
                "Flow of the pump",
                None,
                None,
                message("the pump's curve ends before {flow}", flow=Measure(flow, "flow")),
            ),
        )
    spare = there - base.system.head_at(flow)
    answers = [
        Answer(
            "head",
            "Head that is there at that flow",
            Measure(there, "length"),
            Measure(there - spare, "length"),
            message("the route asks for {asked}", asked=Measure(there - spare, "length")),
        ),
    ]
    for entry, number in _legs(base):
        answers.append(_longest(base, entry, number, flow, there))
    if not base.system.route.closed_loop:
        answers += [
            _highest(base, flow, there),
            _pressure(base, flow, there),
            _lowest_level(base, spare),
            *_lift(base, flow),
        ]
        shut_off = _stops_at(base)
        answers += [shut_off] if shut_off else []
    for entry, number in _legs(base):
        answers.append(_narrowest(base, entry, number, flow, there))
    return tuple(answers)


def _head_there(base: Known, flow_m3s: float) -> float | None:
    return base.pump.head_at(flow_m3s) if base.pump.covers(flow_m3s) else None


def _legs(base: Known) -> list[tuple[LegEntry, int]]:
    return [(leg, base.sizing.job.legs.index(leg) + 1) for leg in base.sizing.legs]


def with_route_leg(system: SystemCurve, index: int, change: Callable[[Leg], Leg]) -> SystemCurve:
    """The system with one leg of its route changed."""
    legs = system.route.legs
    return SystemCurve(
        replace(system.route, legs=(*legs[:index], change(legs[index]), *legs[index + 1 :])),
        system.water,
    )


def longest_run_m(base: Known, index: int, flow_m3s: float, head_m: float) -> float | None:
    """Length of a leg [m] at which the route asks for exactly that head.

    None where it asks for more with no length at all.
    """
    job = base.sizing.job
    fittings_m = (
        allowance(job) if job.fitting_method == "percent" else None
    )  # of each metre of pipe

    def excess(length_m: float) -> float:
        def change(leg: Leg) -> Leg:
            return replace(
                leg,
                length_m=length_m,
                equivalent_length_m=(
                    leg.equivalent_length_m if fittings_m is None else fittings_m * length_m
                ),
            )

        return with_route_leg(base.system, index, change).head_at(flow_m3s) - head_m

    if excess(0.0) > 0:
        return None
    if excess(LONGEST_LEG_M) <= 0:
        return LONGEST_LEG_M
    return float(scipy.optimize.brentq(excess, 0.0, LONGEST_LEG_M, xtol=1e-6))


def _longest(base: Known, entry: LegEntry, number: int, flow: float, there: float) -> Answer:
    index = [leg.id for leg in base.sizing.legs].index(entry.id)
    found, now = longest_run_m(base, index, flow, there), base.system.route.legs[index].length_m
    label = f"Longest run of {the_leg(entry, number)}"
    if found is None:
        return Answer(
            f"longest.{entry.id}",
            label,
            None,
            Measure(now, "length"),
            message("the rest of the route takes the whole head already"),
        )
    if found >= LONGEST_LEG_M:
        return Answer(
            f"longest.{entry.id}",
            label,
            Measure(found, "length", 0),
            Measure(now, "length"),
            message("or more: its length hardly costs anything"),
        )
    legs = base.system.route.legs
    climb = (
        abs(legs[index].end_elevation_m - legs[index - 1].end_elevation_m)
        if index and not base.system.route.closed_loop
        else 0.0
    )
    note = (
        message("its levels unchanged")
        if found >= climb
        else message("it cannot be: the leg climbs {climb}", climb=Measure(climb, "length"))
    )
    return Answer(
        f"longest.{entry.id}", label, Measure(found, "length"), Measure(now, "length"), note
    )


def _highest(base: Known, flow: float, there: float) -> Answer:
    last = len(base.system.route.legs) - 1
    now = base.system.route.legs[last].end_elevation_m

    def excess(level_m: float) -> float:
        return (
            with_route_leg(
                base.system, last, lambda leg: replace(leg, end_elevation_m=level_m)
            ).head_at(flow)
            - there
        )

    start = base.system.route.start_level_m
    if excess(start - _HIGHEST_M) > 0:
        return Answer(
            "highest",
            "Highest outlet",
            None,
            Measure(now, "length"),
            message("higher ground on the way takes the whole head already"),
        )
    level = float(scipy.optimize.brentq(excess, start - _HIGHEST_M, start + _HIGHEST_M, xtol=1e-9))
    return Answer(
        "highest",
        "Highest outlet",
        Measure(level, "length"),
        Measure(now, "length"),
        message("over {datum}; lengths unchanged", datum=base.sizing.kind.datum),
    )


def _end(system: SystemCurve, flow_m3s: float) -> tuple[float, Point]:
    """Head that the end itself asks for [m], and the end."""
    return float(system.heads_to_points_m(flow_m3s)[-1, 0]), system.points[-1]


def _pressure(base: Known, flow: float, there: float) -> Answer:
    route, water = base.system.route, base.system.water
    asked, _ = _end(base.system, flow)
    wanted = water.head_m(route.delivery_pressure_pa)
    found = water.pressure_pa(there - asked + wanted)
    note = None if found >= 0 else message("less than nothing: the water does not get there")
    return Answer(
        "pressure",
        "Pressure at the far end",
        Measure(found, "pressure"),
        Measure(route.delivery_pressure_pa, "pressure"),
        note,
    )


def _lowest_level(base: Known, spare_m: float) -> Answer:
    now = base.system.route.start_level_m
    label = "Water may sink to, and it still makes the flow"
    note = _under_the_floor(base, now - spare_m) or message(
        "over {datum}", datum=base.sizing.kind.datum
    )
    return Answer("level", label, Measure(now - spare_m, "length"), Measure(now, "length"), note)


def _under_the_floor(base: Known, level_m: float) -> Message | None:
    """What to say of a level below the floor of the pit or tank.

    Height does not stop the pump there; None above it.
    """
    floor_m = base.sizing.place.level_m("floor") if base.sizing.place else None
    if floor_m is None or level_m >= floor_m:
        return None
    return message("below the floor, so no level in it stops the pump for want of head")


def _lift(base: Known, flow_m3s: float) -> Iterator[Answer]:
    """How high a dry pump may stand over the water at that flow, by the NPSH that it requires."""
    suction = base.sizing.kind.suction_at(base.sizing.facts)
    if suction is None:
        return
    label, now = "Pump may stand over the water by", suction[0] - base.system.route.start_level_m
    required = base.curve.npsh_required_at(flow_m3s) if base.curve else None
    if required is None:
        yield Answer(
            "lift",
            label,
            None,
            Measure(now, "length"),
            message("the maker does not say what NPSH the pump requires: ask"),
        )
        return
    job, facts, rules = base.sizing.job, base.sizing.facts, base.rules
    site = Site(job, facts, rules, base.demand, base.system, base.sizing.legs)
    there = float(npsh_limit(site, *suction).available_m(np.array([flow_m3s]))[0])
    margin = float(npsh_margin_m(required, rules))
    note = message(
        "it requires {required} of NPSH, and {margin} are kept to spare (rules NPSH-01, NPSH-03)",
        required=Measure(required, "length"),
        margin=Measure(margin, "length"),
    )
    lift_m = now + there - required - margin
    yield Answer("lift", label, Measure(lift_m, "length"), Measure(now, "length"), note)


def _stops_at(base: Known) -> Answer | None:
    """The level of the water at which nothing comes out any more."""
    if base.curve is None:
        return None
    now = base.system.route.start_level_m
    level_m = now - (base.curve.shut_off_head_m - base.system.static_head_m)
    note = _under_the_floor(base, level_m) or message(
        "the pump's head at shut-off is used up by height and pressure alone"
    )
    return Answer(
        "stops",
        "Nothing comes any more when it sinks to",
        Measure(level_m, "length"),
        Measure(now, "length"),
        note,
    )


def _narrowest(base: Known, entry: LegEntry, number: int, flow: float, there: float) -> Answer:
    label, job = f"Narrowest pipe of {the_leg(entry, number)}", base.sizing.job
    now = (
        pipes.pipe(entry.series, entry.nominal).label
        if entry.bore is None
        else f"bore {entry.bore.shown()}"
    )
    for nominal in pipes.sizes(entry.series):
        changed = entry.model_copy(update={"nominal": nominal, "bore": None})
        if (
            bore_m(changed) > 0.2 * bore_m(entry)
            and changed_system(base, job.with_leg(changed)).head_at(flow) <= there
        ):
            return Answer(
                f"narrowest.{entry.id}",
                label,
                pipes.pipe(entry.series, nominal).label,
                now,
                message("by head alone: look at the speed too"),
            )
    return Answer(
        f"narrowest.{entry.id}",
        label,
        None,
        now,
        message("no size of this family lets the flow through"),
    )
