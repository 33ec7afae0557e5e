"""What must hold for a pump in a pit to live, each as a sentence with its remedy."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, state
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import velocities
from sizing.storage.basin import Basin, Levels, basin
from sizing.storage.plan import Plan


@dataclass(frozen=True)
class Limits:
    """The house rules that bound a pit of one kind: ids of :mod:`sizing.base.rules`."""

    starts: str
    run_time: str
    slowest: str
    fastest: str


_CHECK_VALVES = (
    "check_swing_100",
    "check_swing_50",
    "check_lift",
    "check_tilting",
    "check_spring_inline",
    "check_ball_sewage",
)


def checks(running: Running, plan: Plan, limits: Limits) -> list[Check]:
    """All checks of a pit, in the order in which a person would ask."""
    found = [
        *pump_checks(running),
        *velocities(
            running, limits.slowest, limits.fastest, "keeps solids moving and the loss small"
        ),
    ]
    worked = pit(running, plan, limits)
    found += [
        _starts(running, worked, limits),
        _run_time(running, worked, limits),
        *_levels(running),
        _drain_back(running, worked),
        _power_cut(running, worked),
    ]
    return found


def pit(running: Running, plan: Plan, limits: Limits) -> Basin:
    """The pit with this pump at the worst inflow."""
    facts = running.facts
    start = facts.si("start_level")
    depth = facts.si("pit_depth")
    inlet = facts.optional("inlet_level")
    levels = Levels(
        facts.si("stop_level"),
        start,
        depth if inlet is None else inlet,
        facts.si("alarm_level"),
        depth,
    )
    return basin(
        plan,
        levels,
        pump_flow_m3s=running.flow_m3s,
        inflow_m3s=running.demand.inflow_m3s,
        allowed_starts_per_h=running.rules.high(limits.starts) * SECONDS_PER_HOUR,
        drain_line_volume_m3=0.0 if holds_back(running) else line_volume_m3(running),
    )


def holds_back(running: Running) -> bool:
    """Whether a check valve keeps the outlet from running back."""
    return any(entry.fitting in _CHECK_VALVES for leg in running.legs for entry in leg.fittings)


def line_volume_m3(running: Running) -> float:
    """What would run back: the legs up to the highest point."""
    legs = running.system.route.legs
    top = max(range(len(legs)), key=lambda index: legs[index].end_elevation_m)
    return sum(leg.volume_m3 for leg in legs[: top + 1])


def _starts(running: Running, worked: Basin, limits: Limits) -> Check:
    usual, most = running.rules.value(limits.starts), running.rules.high(limits.starts)
    worst = worked.worst_starts_per_pump_per_h / SECONDS_PER_HOUR
    return Check(
        code="starts",
        label="Starts an hour",
        state=state(worst <= usual, worst <= most),
        message=message(
            "At the inflow that starts it most (half its flow) it starts {worst}; {usual} is usual"
            " and {most} the most (rule {rule}). Between its levels the pit holds {storage};"
            " {least} is the least for that.",
            rule=limits.starts,
            storage=Measure(worked.storage_m3, "volume"),
            least=Measure(worked.minimum_storage_m3, "volume"),
            worst=Measure(worst, "frequency"),
            usual=Measure(usual, "frequency"),
            most=Measure(most, "frequency"),
        ),
        remedy="Widen the float's travel, take a wider pit or a smaller pump.",
        working=Working(
            "Most starts an hour",
            "Qp / (4 V), at an inflow of Qp / 2",
            (
                ("pump flow Qp", Measure(running.flow_m3s, "flow")),
                ("storage V", Measure(worked.storage_m3, "volume")),
            ),
            Measure(worst, "frequency"),
            "rule BAS-01",
        ),
    )


def _run_time(running: Running, worked: Basin, limits: Limits) -> Check:
    least, usual, run = (
        running.rules.low(limits.run_time),
        running.rules.value(limits.run_time),
        worked.shortest_run_time_s,
    )
    return Check(
        code="run_time",
        label="Run time",
        state=state(run >= usual, run >= least),
        message=message(
            "With little water coming in it empties the pit in {run}; {least} is the least, {usual}"
            " kinder (rule {rule}).",
            rule=limits.run_time,
            run=Measure(run, "time"),
            least=Measure(least, "time"),
            usual=Measure(usual, "time"),
        ),
        remedy="Widen the float's travel, take a wider pit or a smaller pump.",
        working=Working(
            "Shortest run",
            "V / Qp",
            (
                ("storage V", Measure(worked.storage_m3, "volume")),
                ("pump flow Qp", Measure(running.flow_m3s, "flow")),
            ),
            Measure(run, "time"),
            "continuity, no inflow meanwhile",
        ),
    )


def _levels(running: Running) -> Iterator[Check]:
    facts, rules = running.facts, running.rules
    start, alarm, depth = facts.si("start_level"), facts.si("alarm_level"), facts.si("pit_depth")
    inlet = facts.optional("inlet_level")
    if not start < depth:
        raise SizingError("the pump must start below the rim of the pit")
    yield Check(
        "alarm",
        "Alarm between start and rim",
        state(start + rules.low("BAS-09") <= alarm < depth, start < alarm < depth),
        message(
            "The alarm stands {over} over the start and {under} under the rim.",
            over=Measure(alarm - start, "length"),
            under=Measure(depth - alarm, "length"),
        ),
        "Set it about 100 mm over the start, and well under the rim.",
    )
    if inlet is not None:
        room = inlet - start
        yield Check(
            "inlet",
            "Inlet above the start",
            state(room >= rules.low("BAS-08"), room >= 0),
            message(
                "The lowest inlet lies {room} over the start level; at least {least} keeps it from"
                " standing full (rule BAS-08).",
                room=Measure(room, "length"),
                least=Measure(rules.low("BAS-08"), "length"),
            ),
            "Depth over the inlet is of no use: lower the start level or deepen the pit.",
        )


def _drain_back(running: Running, worked: Basin) -> Check:
    volume = line_volume_m3(running)
    if holds_back(running):
        text = message(
            "A check valve holds {volume} in the line at every stop.",
            volume=Measure(volume, "volume"),
        )
        return Check("drain_back", "Nothing runs back", "hold", text)
    share = worked.drain_back_volume_m3 / worked.storage_m3
    text = message(
        "Without a check valve {volume} runs back at every stop, {share} of the storage.",
        volume=Measure(volume, "volume"),
        share=Measure(share, "ratio"),
    )
    return Check(
        "drain_back",
        "What runs back",
        state(share <= 0.2, share < 0.6),
        text,
        "Fit a check valve near the pump, with a union to lift it out.",
    )


def _power_cut(running: Running, worked: Basin) -> Check:
    wanted, left = running.facts.si("time_to_come"), worked.time_to_overflow_s
    return Check(
        code="power_cut",
        label="Power cut",
        state=state(left >= wanted, left >= 0.25 * wanted),
        message=message(
            "Without power the pit spills {left} after the start level is reached, at the worst"
            " inflow; somebody comes within {wanted}.",
            left=Measure(left, "time"),
            wanted=Measure(wanted, "time"),
        ),
        remedy="Fit a second pump on a battery and a high-water alarm that works without mains.",
        working=Working(
            "Time to overflow",
            "t = area × (rim − start) / inflow",
            (
                ("pit area", Measure(worked.plan_area_m2, "area", 3)),
                ("inflow", Measure(running.demand.inflow_m3s, "flow")),
            ),
            Measure(left, "time"),
            "continuity",
        ),
    )
