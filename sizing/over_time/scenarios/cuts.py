"""The power goes: a pit with a second pump on a battery, and a display that runs back to its sump.

The battery pump is what is asked; its flow is taken as steady. A display runs down over its weir:
A dh/dt = -C b h^1.5 would do so in seconds to minutes, so that only where it ends matters; the way
there is drawn with what the pump gives at first.
"""

from __future__ import annotations

from dataclasses import replace

from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import CheckState, Running
from sizing.checks.pit import drain_back_m3, levels
from sizing.document.answers import Answers
from sizing.kinds.base import Kind
from sizing.kinds.pit import PitKind, pit_plan
from sizing.over_time.scenarios.base import (
    Band,
    Event,
    Line,
    Mark,
    Outcome,
    Scenario,
    SimulationResult,
    asked,
    factor,
)
from sizing.over_time.scenarios.pit_day import OUT, TIMES
from sizing.over_time.simulation.power_cut import Battery, PowerCut, power_cut
from sizing.storage.return_sump import return_sump

_AFTER_S = 600.0  # of a display that runs back
# The usable share of a lead battery that is not to be harmed, and a house pump's Peukert exponent.
_USABLE, _PEUKERT = 0.5, 1.2
_COLD_PER_K, _WARM_C = 0.01, 25.0  # of a lead battery's capacity under the printed temperature
_A_YEAR = 0.05  # of its capacity that a battery loses in a year, assumed


_FLOW, _AH, _A, _C = ("m³/h", "gpm"), ("Ah", "Ah"), ("A", "A"), ("°C", "°F")
BATTERY = (
    replace(OUT, default="6 h", high=72 * SECONDS_PER_HOUR),
    asked("battery", "Battery, at its 20 h rate", "charge", _AH, (3600.0, 3.6e7), "75 Ah"),
    asked("pump", "The battery pump gives", "flow", _FLOW, (1e-6, 0.1), "4 m³/h"),
    asked("amps", "and draws", "current", _A, (0.1, 500.0), "12 A"),
    asked("cold", "The battery stands at", "temperature", _C, (-20.0, 50.0), "10 °C"),
    asked("age", "and is old, in years", "count", ("×", "×"), (0.0, 20.0), "3 ×"),
    TIMES,
)


def _battery(running: Running, given: Answers) -> SimulationResult:
    at, area = levels(running.facts), pit_plan(running.facts).area_m2
    inflow, out = running.demand.inflow_m3s * given.si("times"), given.si("out")
    warm = 1 - _COLD_PER_K * max(_WARM_C - given.si("cold"), 0.0)
    aged = max(1 - _A_YEAR * given.si("age"), 0.0)
    found = power_cut(
        plan_area_m2=area,
        level_m=at.start_m,
        rim_m=at.overflow_m,
        inflow_m3s=inflow,
        outage_s=out,
        drain_back_m3=drain_back_m3(running),
        battery=Battery(
            start_m=min(at.start_m + 0.5 * (at.alarm_m - at.start_m), 0.999 * at.overflow_m),
            stop_m=at.stop_m,
            flow_m3s=given.si("pump"),
            current_a=given.si("amps"),
            capacity_ah=given.si("battery") / 3600.0,
            peukert_exponent=_PEUKERT,
            usable_share=_USABLE * aged,
            temperature_factor=max(warm, 0.05),
        ),
    )
    begin = tuple((time, level) for time, level in found.levels if time <= out)
    end = found.levels[-1] if found.levels else (0.0, at.start_m)
    line = Line("level in the pit", "length", (*begin, (out, _level_at(found, out, end[1]))))
    over = found.time_to_overflow_s
    over = over if over is not None and over <= out else None
    events = [(begun, "the battery pump starts") for begun, _ in found.runs if begun < out]
    if found.time_until_flat_s is not None and found.time_until_flat_s < out:
        events.append((found.time_until_flat_s, "the battery is flat"))
    if over is not None:
        events.append((over, "the pit overflows"))
    return SimulationResult(
        end_s=out,
        line=line,
        marks=(
            Mark("stop", "stops", at.stop_m),
            Mark("start", "starts", at.start_m),
            Mark("alarm", "alarm", at.alarm_m),
            Mark("rim", "overflows", at.overflow_m),
        ),
        bands=(Band("battery", tuple((a, min(b, out)) for a, b in found.runs if a < out)),),
        events=tuple(Event(time, words, line.at(time)) for time, words in sorted(events)),
        sums=_sums(found, out),
        outcome=_lasts(found, out, over),
        below=Line("comes in", "flow", ((0.0, inflow),), steps=True),
        away=((0.0, out),),
        upright=True,
        over_at_s=over,
    )


def _level_at(found: PowerCut, time_s: float, otherwise: float) -> float:
    points = found.levels
    return Line("", "length", points).at(time_s) if points else otherwise


def _sums(found: PowerCut, out: float) -> tuple[tuple[str, Measure | str], ...]:
    never = "never"
    return (
        ("Without a battery it overflows after", _time(found.time_to_overflow_no_backup_s, never)),
        ("With it after", _time(found.time_to_overflow_s, never)),
        ("The battery is flat after", _time(found.time_until_flat_s, never)),
        ("It starts", f"{found.starts or 0} times in all"),
        ("Share of the time that it runs", Measure(found.duty_share or 0.0, "ratio")),
        ("Goes over the rim while out", Measure(found.overflow_m3, "volume")),
    )


def _time(seconds: float | None, otherwise: str) -> Measure | str:
    return otherwise if seconds is None else Measure(seconds, "time")


def _lasts(found: PowerCut, out: float, over: float | None) -> Outcome:
    if over is not None:
        said = message(
            "With that battery the pit lasts {lasts} of the {out} without power.",
            lasts=Measure(over, "time"),
            out=Measure(out, "time"),
        )
        remedy = (
            "A larger battery, or a second beside it."
            if found.keeps_up
            else "A stronger battery pump: this one gives less than what comes in."
        )
        return Outcome("fail", said, remedy)
    if found.time_until_flat_s is not None and found.time_until_flat_s <= out:
        said = message(
            "The pit holds, but the battery is flat after {flat}.",
            flat=Measure(found.time_until_flat_s, "time"),
        )
        return Outcome("watch", said, "A larger battery leaves something for the next cut.")
    said = message("It holds the {out} on the battery.", out=Measure(out, "time"))
    return Outcome("hold", said)


def _runs_back(running: Running, given: Answers) -> SimulationResult:
    facts = running.facts
    pipes = sum(leg.volume_m3 for leg in running.system.route.legs)
    area, level, rim = facts.si("sump_area"), facts.si("sump_level"), facts.si("sump_rim")
    depth = facts.si("siphon_depth") * given.si("depth")
    found = return_sump(
        drained=[(facts.si("display_area"), depth)],
        pipes_m3=pipes,
        other_volume_m3=0.0,
        sump_plan_area_m2=area,
        sump_rim_level_m=rim,
        sump_running_level_m=level,
    )
    volume = found.volume_into_sump_m3
    lasts = min(volume / running.flow_m3s, 0.9 * _AFTER_S)
    top = min(found.sump_level_after_m, rim)
    over = None
    if found.overflows:
        over = lasts * found.room_before_m3 / volume
    restart = max(top - running.flow_m3s * 60.0 / area, 0.0)  # refills the riser and the display
    points = [(0.0, level), (over if over is not None else lasts, top), (lasts, top)]
    points += [(_AFTER_S, top), (_AFTER_S + 60.0, max(restart, min(level, top)))]
    said = message(
        "{volume} run back into room for {room}: "
        + ("{spilt} go over." if over is not None else "{left} are left."),
        volume=Measure(volume, "volume"),
        room=Measure(found.room_before_m3, "volume"),
        spilt=Measure(found.spilled_m3, "volume"),
        left=Measure(max(found.room_left_m3, 0.0), "volume"),
    )
    tight = found.room_left_m3 < 0.1 * found.room_before_m3
    state: CheckState = "fail" if over is not None else "watch" if tight else "hold"
    return SimulationResult(
        end_s=_AFTER_S + 120.0,
        line=Line("level in the sump", "length", (*points, (_AFTER_S + 120.0, level))),
        marks=(Mark("start", "runs at", level), Mark("rim", "overflows", rim)),
        bands=(Band("pump", ((_AFTER_S, _AFTER_S + 120.0),)),),
        events=(
            Event(0.0, "the power goes", level),
            *(() if over is None else (Event(over, "the sump overflows", rim),)),
            Event(_AFTER_S, "the power is back", top),
        ),
        sums=(
            ("Runs back", Measure(volume, "volume")),
            ("Room in the sump", Measure(found.room_before_m3, "volume")),
            ("Goes over", Measure(found.spilled_m3, "volume")),
            ("Highest level to run it at", Measure(found.highest_safe_running_level_m, "length")),
        ),
        outcome=Outcome(
            state,
            said,
            "Run the sump lower, raise the nozzle, or drill a siphon break and keep it clear.",
        ),
        away=((0.0, _AFTER_S),),
        upright=True,
        over_at_s=over,
    )


def _in_a_pit(kind: Kind, running: Running) -> bool:
    return isinstance(kind, PitKind)


def _over_a_sump(kind: Kind, running: Running) -> bool:
    return running.facts.asks("sump_area") and running.facts.optional("display_area") is not None


SCENARIOS = (
    Scenario(
        "battery",
        "out, with a battery pump",
        "a lead battery used to half, Peukert's exponent 1.2, a hundredth less for each degree"
        " under 25 °C and 5 % a year; the pit at its start level when the power goes",
        _in_a_pit,
        _battery,
        BATTERY,
        rank=20,
    ),
    Scenario(
        "runs_back",
        "the power is out",
        "ten minutes without power; no siphon break is counted on, for they clog",
        _over_a_sump,
        _runs_back,
        (factor("depth", "Depth that runs back, times", 10.0),),
        rank=20,
    ),
)
