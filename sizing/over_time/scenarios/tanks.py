"""From tank to tank by floats over a day, and effluent dosed by the clock."""

from __future__ import annotations

from sizing.base.errors import SizingError
from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.checks.base import Running
from sizing.checks.pit import levels
from sizing.document.answers import Answers
from sizing.kinds.base import Kind
from sizing.kinds.pit import pit_plan
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
from sizing.over_time.scenarios.pit_model import flow_at_level
from sizing.over_time.simulation.delivery import Pump
from sizing.over_time.simulation.dosing import DosingRun, DosingTank, run_dosing
from sizing.over_time.simulation.two_tanks import Lower, TwoTanks, TwoTanksRun, Upper, run_two_tanks

_FLOAT_M = 0.1  # of a dry-run float's swing, and of air over the upper stop: assumed
_WORDS = {"start 1": "the pump starts", "stop 1": "the pump stops", "empty": "the tank is empty"}


_M, _M2, _L = ("m", "ft"), ("m²", "ft²"), ("l", "gal")
TANKS = (
    asked("upper_area", "Upper tank, plan", "area", _M2, (0.01, 1e5), "1 m²"),
    asked("upper_depth", "filled, from empty", "length", _M, (0.15, 20.0), "1 m"),
    asked("lower_area", "Lower tank, plan", "area", _M2, (0.01, 1e5), "3 m²"),
    asked("lower_depth", "full, over its lowest water", "length", _M, (0.2, 30.0), "1.5 m"),
    asked(
        "draw",
        "Drawn a day",
        "volume",
        _L,
        (0.0, 1e5),
        help_text="Left blank: the volume to move.",
    ),
    asked("comes", "Comes in below a day", "volume", _L, (0.0, 1e5), "0 l"),
)


def _tank_pump(running: Running, depth_m: float, entry_m: float) -> Pump:
    """The parabola of pump and run together, over the lower tank's levels."""
    lowest = running.facts.si("source_level")
    low, high = (flow_at_level(running, lowest + rise, lowest) for rise in (0.0, depth_m))
    if low <= 0:
        raise SizingError("the pump gives nothing while the lower tank is nearly empty")
    c = depth_m / max(high**2 - low**2, 1e-12)
    return Pump(entry_m - lowest + c * low**2, c)


def _two_tanks(running: Running, given: Answers) -> SimulationResult:
    facts = running.facts
    lowest, entry = facts.si("source_level"), running.system.route.legs[-1].end_elevation_m
    depth, full = given.si("lower_depth"), entry - _FLOAT_M
    floor = full - given.si("upper_depth")
    lower_area, upper_area = given.si("lower_area"), given.si("upper_area")
    drawn = given.optional("draw")
    if drawn is None:
        drawn = facts.optional("volume") or upper_area * given.si("upper_depth")
    tanks = TwoTanks(
        upper=Upper(upper_area, floor, floor + 0.5 * given.si("upper_depth"), full),
        lower=Lower(lower_area, lowest, lowest + min(_FLOAT_M, 0.5 * depth), lowest + depth),
        pump=_tank_pump(running, depth, entry),
        system_k_s2_m5=0.0,
        entry_m=entry,
    )
    mean, hours = drawn / SECONDS_PER_DAY, running.demand.day_shares
    draws = tuple(
        (hour * SECONDS_PER_HOUR, mean * share * 24 / sum(hours))
        for hour, share in enumerate(hours)
    )
    run = run_two_tanks(
        tanks,
        upper_m=full,
        lower_m=lowest + depth,
        draws=draws,
        inflows=((0.0, given.si("comes") / SECONDS_PER_DAY),),
    )
    line = Line(
        "level in the upper tank", "length", tuple((t, up - floor) for t, up, _ in run.levels)
    )
    return SimulationResult(
        end_s=SECONDS_PER_DAY,
        line=line,
        marks=(
            Mark("start", "starts", tanks.upper.start_m - floor),
            Mark("rim", "stops, full", full - floor),
        ),
        bands=(Band("pump", _spans(run, SECONDS_PER_DAY)),),
        events=tuple(
            Event(one.time_s, _WORDS.get(one.code, one.code), one.level_m - floor)
            for one in run.events
        ),
        sums=(
            ("The pump starts", f"{run.starts} times"),
            ("It runs", Measure(run.run_time_s, "time")),
            ("Pumped", Measure(run.pumped_m3, "volume")),
            ("Drawn", Measure(run.drawn_m3, "volume")),
            ("Wanted and not there", Measure(run.unmet_draw_m3, "volume")),
            ("Stopped for want of water below", f"{run.dry_run_stops} times"),
            (
                "Least water below",
                Measure(run.lowest_lower_level_m - lowest, "length"),
            ),
            ("Ran over below", Measure(run.lower_overflow_m3, "volume")),
        ),
        outcome=_of_tanks(run),
        below=Line("drawn", "flow", draws, steps=True),
        upright=True,
        over_at_s=run.first_empty_s if run.unmet_draw_m3 > 1e-6 else None,
        worse=1e3 * run.unmet_draw_m3 + run.starts,
    )


def _spans(run: TwoTanksRun, end_s: float) -> tuple[tuple[float, float], ...]:
    spans, begun = [], None
    for one in run.events:
        if one.code == "start 1":
            begun = one.time_s
        elif one.code == "stop 1" and begun is not None:
            spans.append((begun, one.time_s))
            begun = None
    if begun is not None:
        spans.append((begun, end_s))
    return tuple(spans)


def _of_tanks(run: TwoTanksRun) -> Outcome:
    if run.unmet_draw_m3 > 1e-6:
        return Outcome(
            "fail",
            message(
                "The upper tank runs dry: {short} of what is wanted is not there.",
                short=Measure(run.unmet_draw_m3, "volume"),
            ),
            "A larger upper tank, an earlier start of the pump, or more water below."
            if run.dry_run_stops == 0
            else "There is too little water below: a larger lower tank, or a second source.",
        )
    if run.dry_run_stops:
        return Outcome(
            "watch",
            message(
                "The lower tank stops the pump {times} times for want of water; the upper one lasts"
                " until midnight.",
                times=run.dry_run_stops,
            ),
            "More water below, or expect the tap to run dry on the second day.",
        )
    said = message(
        "It holds: {starts} starts, and the upper tank is never empty.", starts=run.starts
    )
    return Outcome("hold", said)


def _dosing(running: Running, given: Answers) -> SimulationResult:
    facts, at = running.facts, levels(running.facts)
    day = facts.si("daily_volume") * given.si("times")
    doses, hours = facts.si("doses"), running.demand.day_shares
    tank = DosingTank(
        area_m2=pit_plan(facts).area_m2,
        low_m=at.stop_m,
        high_m=min(at.alarm_m, 0.999 * at.overflow_m),
        rim_m=at.overflow_m,
        pump_flow_m3s=running.flow_m3s,
        dose_m3=facts.si("daily_volume") / doses,
        every_s=SECONDS_PER_DAY / doses,
    )
    inflow = tuple(
        (
            (number * 24 + hour) * SECONDS_PER_HOUR,
            day / SECONDS_PER_DAY * share * 24 / sum(hours),
        )
        for number in range(2)
        for hour, share in enumerate(hours)
    )
    run = run_dosing(tank, inflow, end_s=2 * SECONDS_PER_DAY, level_m=at.start_m)
    line = Line("level in the dosing tank", "length", tuple(run.levels))
    return SimulationResult(
        end_s=2 * SECONDS_PER_DAY,
        line=line,
        marks=(
            Mark("stop", "low float", tank.low_m),
            Mark("alarm", "high float", tank.high_m),
            Mark("rim", "overflows", tank.rim_m),
        ),
        bands=(Band("dose", tuple(run.doses)),),
        events=tuple(
            Event(begin, f"a dose of {end - begin:.0f} s", line.at(begin))
            for begin, end in run.doses
        ),
        sums=(
            ("Doses in two days", f"{len(run.doses)}"),
            ("Out of turn, for high water", f"{run.out_of_turn}"),
            ("Left out, for low water", f"{run.skipped}"),
            ("A dose", Measure(tank.dose_m3, "volume")),
            ("Came in", Measure(run.inflow_m3, "volume")),
            ("Dosed", Measure(run.dosed_m3, "volume")),
            ("Went over the rim", Measure(run.overflow_m3, "volume")),
        ),
        outcome=_of_dosing(run),
        below=Line("comes in", "flow", inflow, steps=True),
        upright=True,
        over_at_s=run.first_overflow_s,
    )


def _of_dosing(run: DosingRun) -> Outcome:
    if run.first_overflow_s is not None:
        return Outcome(
            "fail",
            message("It overflows: {lost}.", lost=Measure(run.overflow_m3, "volume")),
            "A larger tank, more doses a day, or a stronger pump.",
        )
    if run.out_of_turn:
        return Outcome(
            "watch",
            message(
                "{count} of {all} doses come out of turn because the water stands high: the field"
                " gets them close together.",
                count=run.out_of_turn,
                all=len(run.doses),
            ),
            "A larger tank evens the day out: the space from the low to the high float should hold"
            " what the evening brings.",
        )
    said = message(
        "It holds: {count} doses in two days, {skipped} left out for want of water.",
        count=len(run.doses),
        skipped=run.skipped,
    )
    return Outcome("hold", said)


def _between_tanks(kind: Kind, running: Running) -> bool:
    return kind.between_tanks


def _doses(kind: Kind, running: Running) -> bool:
    return running.facts.asks("doses")


SCENARIOS = (
    Scenario(
        "two_tanks",
        "a day of both tanks",
        "floats in both tanks: the upper one calls at half and stops 10 cm under the inlet, over"
        " the top; the lower one stops the pump at its lowest water; both begin full;"
        " drawn by the hours of a household",
        _between_tanks,
        _two_tanks,
        TANKS,
        rank=40,
    ),
    Scenario(
        "timed",
        "two days of doses by the clock",
        "the day's effluent by the hours of a household; doses by the clock, each a day's water"
        " over the doses told; the alarm level lets one go out of turn",
        _doses,
        _dosing,
        (factor("times", "With the day's effluent, times"),),
        rank=40,
    ),
)
