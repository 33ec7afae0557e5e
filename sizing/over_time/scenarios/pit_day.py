"""A job in a pit run over a day: what its pump really does, hour by hour, and what goes wrong.

Inflows are assumed unless a day is told, and every assumption is named with the scenario.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from sizing.base.message import Measure, Message, message
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.checks.base import Running
from sizing.demand.day_pattern import busiest_hour_m3s
from sizing.document.answers import Answers, MissingFact, Question
from sizing.kinds import kind as find_kind
from sizing.kinds.base import Kind
from sizing.kinds.pit import PitKind
from sizing.over_time.scenarios.base import (
    Band,
    Event,
    Line,
    Mark,
    Outcome,
    Scenario,
    SimulationResult,
    asked,
    clock,
    factor,
)
from sizing.over_time.scenarios.pit_model import pit_of
from sizing.over_time.simulation.pit import Inflow, Pit, PitRun, run_pit
from sizing.selection.starts_and_runs import starts_of

Shares = tuple[tuple[float, float], ...]

_QUIET = 0.15  # of the inflow told: a dry day
_STORM_H = 3.0  # when it is worst
_RISES: Shares = ((0.0, 0.3), (1.0, 0.6), (2.0, 1.0))
_FALLS: Shares = ((0.0, 1.0), (2.0, 0.7), (5.0, 0.5), (10.0, 0.3))  # hours after the worst is over
_ALL_DAY: Shares = ((0.0, 1.0),)
_BY_HOUR: Shares = ()  # by the hours of those whose water it is
_CUT_FROM_H = 1.0
_SAMPLES = 360
_APART_M = 1e-3  # levels nearer than that are one on the chart
_WORDS = {
    "start 1": "pump 1 starts",
    "start 2": "pump 2 starts",
    "stop 1": "pump 1 stops",
    "stop 2": "pump 2 stops",
    "alarm": "the alarm sounds",
    "overflow": "the pit overflows",
    "power off": "the power goes",
    "power on": "the power comes back",
}
TIMES = factor("times", "With that inflow, times")
OUT = asked("out", "Out for", "time", ("h", "h"), (60.0, 22 * SECONDS_PER_HOUR), "4 h")


PEAK = asked("peak", "At its worst, times", "count", ("×", "×"), (1.0, 20.0), "1.5 ×")
LASTS = asked("lasts", "for", "time", ("h", "h"), (300.0, 9 * SECONDS_PER_HOUR), "1 h")


@dataclass(frozen=True)
class Day:
    """A pit, run through a day, and how often its pumps may start [1/h]."""

    pit: Pit
    run: PitRun
    shares: Shares
    inflow_m3s: float  # as told, times what was asked; of people the mean of their busiest hour
    power_cuts_s: tuple[tuple[float, float], ...]
    usual_starts_per_h: float
    most_starts_per_h: float

    @property
    def busiest_starts_per_h(self) -> float:
        """Of each pump in the busiest hour of the clock, those that take turns sharing."""
        busy = self.run.most_starts_in_an_hour
        working = sum(1 for starts in self.run.starts if starts)
        return busy / (working if self.pit.alternating and working > 1 else 1)

    @property
    def lasted_s(self) -> float | None:
        """From when the power goes until it overflows; None where either does not happen."""
        first = self.run.first_overflow_s
        return None if first is None or not self.power_cuts_s else first - self.power_cuts_s[0][0]


def day_of_people_m3(running: Running) -> float:
    """What people send down in a day [m3].

    Raises
    ------
    MissingFact
        Nobody said: an instant's peak tells nothing of a day.
    """
    day = running.demand.daily_volume_m3
    if day is None:
        raise MissingFact("answers.people", "the people, for the day's volume", "flow")
    return day


def reference_inflow_m3s(running: Running) -> float:
    """The inflow that a day is run by [m3/s].

    Where people's water comes in, the mean of their busiest hour; else the inflow told, which is a
    storm's or a spring's and lasts.
    """
    if _of_people(find_kind(running.job.kind), running):
        return busiest_hour_m3s(day_of_people_m3(running), running.demand.day_shares)
    return running.demand.inflow_m3s


def _day(
    running: Running,
    given: Answers,
    shares: Shares,
    *,
    failed: tuple[int, ...] = (),
    cut: bool = False,
) -> Day:
    kind = find_kind(running.job.kind)
    assert isinstance(kind, PitKind)  # a pit's scenario applies to nothing else
    pit, most = pit_of(running), reference_inflow_m3s(running) * given.si("times")
    by_people = _of_people(kind, running)
    hours = running.demand.day_shares
    if shares == _BY_HOUR or (by_people and shares == _ALL_DAY):
        shares = tuple((float(hour), share) for hour, share in enumerate(hours))
    begin = (hours.index(max(hours)) if by_people else _CUT_FROM_H) * SECONDS_PER_HOUR
    cuts = ((begin, begin + given.si("out")),) if cut else ()
    found = run_pit(
        pit,
        Inflow(tuple((hour * SECONDS_PER_HOUR, share * most) for hour, share in shares)),
        end_s=SECONDS_PER_DAY,
        initial_level_m=pit.start_m if cut else pit.stop_m,
        power_cuts=cuts,
        failed=failed,
    )
    borne = starts_of(running.pump.pump, running.rules, kind.pit_rules.starts)
    return Day(
        pit=pit,
        run=found,
        shares=shares,
        inflow_m3s=most,
        power_cuts_s=cuts,
        usual_starts_per_h=float(borne.usual) * SECONDS_PER_HOUR,
        most_starts_per_h=float(borne.refused) * SECONDS_PER_HOUR,
    )


def _run(
    running: Running,
    given: Answers,
    *,
    shares: Shares,
    told: bool = False,
    failed: tuple[int, ...] = (),
    cut: bool = False,
) -> SimulationResult:
    """``told``: all that comes in was told, so that failing it is no mere thought."""
    found = _day(running, given, shares, failed=failed, cut=cut)
    run, pit = found.run, found.pit
    must = told and given.si("times") <= 1.0
    return SimulationResult(
        end_s=SECONDS_PER_DAY,
        line=Line("level in the pit", "length", tuple(run.timeline.samples(_SAMPLES))),
        marks=level_marks(pit),
        bands=tuple(
            Band(f"pump {number}", _spans(run, number)) for number in range(1, len(pit.pumps) + 1)
        ),
        events=tuple(
            Event(one.time_s, _WORDS.get(one.code, one.code), one.level_m)
            for one in run.timeline.events
        ),
        sums=_sums(found),
        outcome=_outcome(found, failed=bool(failed), must=must),
        below=Line(
            "comes in",
            "flow",
            tuple(
                (hour * SECONDS_PER_HOUR, share * found.inflow_m3s) for hour, share in found.shares
            ),
            steps=True,
        ),
        away=found.power_cuts_s,
        upright=True,
        over_at_s=run.first_overflow_s,
        worse=1e3 * run.overflow_m3 + found.busiest_starts_per_h,
    )


def _wet_night(running: Running, given: Answers) -> SimulationResult:
    """A storm that is worst from three o'clock on, for as long as is asked."""
    over_h = _STORM_H + given.si("lasts") / SECONDS_PER_HOUR
    falls = tuple((over_h + hour, share) for hour, share in _FALLS if over_h + hour < 24.0)
    return _run(running, given, shares=(*_RISES, (_STORM_H, given.si("peak")), *falls))


def level_marks(pit: Pit) -> tuple[Mark, ...]:
    """The pit's levels with their names."""
    found = [Mark("stop", "stops", pit.stop_m), Mark("start", "starts", pit.start_m)]
    second = pit.lag_start_m
    if second is not None and second != pit.alarm_m and second - pit.start_m > _APART_M:
        found.append(Mark("start", "second starts", second))
    found += [Mark("alarm", "alarm", pit.alarm_m), Mark("rim", "overflows", pit.rim_m)]
    if abs(pit.inlet_m - pit.rim_m) > _APART_M:
        found.append(Mark("inlet", "inlet", pit.inlet_m))
    return tuple(found)


def _spans(run: PitRun, number: int) -> tuple[tuple[float, float], ...]:
    spans: list[tuple[float, float]] = []
    for piece in run.timeline.pieces:
        if number in piece.running:
            if spans and piece.from_s <= spans[-1][1]:
                spans[-1] = (spans[-1][0], piece.to_s)
            else:
                spans.append((piece.from_s, piece.to_s))
    return tuple(spans)


def _sums(day: Day) -> tuple[tuple[str, Measure | str], ...]:
    run = day.run
    found: list[tuple[str, Measure | str]] = []
    for number, (starts, ran) in enumerate(zip(run.starts, run.run_times_s, strict=True), 1):
        found.append((f"Pump {number} starts", f"{starts} times"))
        found.append((f"Pump {number} runs", Measure(ran, "time")))
    return (
        *found,
        ("Busiest hour, each", f"{day.busiest_starts_per_h:.0f} starts"),
        ("Came in", Measure(run.inflow_m3, "volume")),
        ("Ran back at the stops", Measure(run.drained_back_m3, "volume")),
        ("Pumped", Measure(run.pumped_m3, "volume")),
        ("Went over the rim", Measure(run.overflow_m3, "volume")),
        ("Highest level", Measure(run.max_level_m, "length")),
        ("Over the inlet", Measure(run.total_above_inlet_s, "time")),
    )


def _outcome(day: Day, *, failed: bool, must: bool) -> Outcome:
    run, busy = day.run, day.busiest_starts_per_h
    if run.first_overflow_s is not None:
        return _over(day, failed=failed, must=must)
    if busy > day.most_starts_per_h:
        said = message(
            "It starts {busy} times in its busiest hour, over the {most} that its motor bears.",
            busy=f"{busy:.0f}",
            most=f"{day.most_starts_per_h:.0f}",
        )
        remedy = "Take a larger pit or levels further apart: nothing else cures that."
        return Outcome("fail", said, remedy, weight="must" if must else "should")
    if run.total_above_inlet_s > 0:
        said = message(
            "It does not overflow, but the water stands over the inlet for {stands}, and backs up"
            " into the pipe that leads in.",
            stands=Measure(run.total_above_inlet_s, "time"),
        )
        return Outcome("watch", said, "Take a stronger pump, a second, or a larger pit.")
    if run.first_alarm_s is not None:
        said = message("It holds, but the alarm sounds at {at}.", at=clock(run.first_alarm_s))
        return Outcome("watch", said, "Set the alarm higher, or let somebody be called.")
    if busy > day.usual_starts_per_h:
        said = message(
            "It holds; in its busiest hour it starts {busy} times, over the usual {usual}.",
            busy=f"{busy:.0f}",
            usual=f"{day.usual_starts_per_h:.0f}",
        )
        return Outcome("watch", said, "Levels further apart or a larger pit would be kinder.")
    said = message("It holds: {busy} starts in its busiest hour, and no alarm.", busy=f"{busy:.0f}")
    return Outcome("hold", said)


def _over(day: Day, *, failed: bool, must: bool) -> Outcome:
    """It overflows: whose fault that is, and what helps."""
    run = day.run
    told = message(
        "It overflows at {at}, and {lost} go over by midnight.",
        at=clock(run.first_overflow_s or 0.0),
        lost=Measure(run.overflow_m3, "volume"),
    )
    if failed and len(day.pit.pumps) == 1:
        return Outcome("fail", told, "One pump alone has no other: a second one would help.")
    if day.lasted_s is not None and day.lasted_s >= 0:
        lasts = Message(
            told.template
            + " From the level that it had when the power went the pit lasts {lasts}.",
            {**told.values, "lasts": Measure(day.lasted_s, "time")},
        )
        return Outcome("fail", lasts, "A battery pump, a larger pit, or somebody who comes.")
    return Outcome(
        "fail",
        told,
        "The pump gives less than what comes in: a stronger one, or a second.",
        about="pump",
        weight="must" if must else "should",
    )


def _in_a_pit(kind: Kind, running: Running) -> bool:
    return isinstance(kind, PitKind)


def _of_people(kind: Kind, running: Running) -> bool:
    """Where people's water comes in as they use it, not the ground's."""
    return isinstance(kind, PitKind) and kind.drains_people


def _of_the_ground(kind: Kind, running: Running) -> bool:
    """Where a storm or a spring comes in: that may last."""
    return isinstance(kind, PitKind) and not _of_people(kind, running)


def _scenario(
    code: str,
    label: str,
    assumed: str,
    run: Callable[[Running, Answers], SimulationResult],
    applies: Callable[[Kind, Running], bool] = _in_a_pit,
    asks: tuple[Question, ...] = (TIMES,),
) -> Scenario:
    return Scenario(code, label, assumed, applies, run, asks, rank=10)


SCENARIOS = (
    _scenario(
        "ordinary",
        "an ordinary day",
        "the day's volume (people by litres, or by their fixtures) over the usual double hump of a"
        " household",
        partial(_run, shares=_BY_HOUR, told=True),
        _of_people,
    ),
    _scenario(
        "wettest",
        "at the inflow told, all day",
        "what was told as the most comes in from midnight to midnight",
        partial(_run, shares=_ALL_DAY, told=True),
        _of_the_ground,
    ),
    _scenario(
        "dry",
        "a dry day",
        f"{_QUIET:.0%} of what was told comes in",
        partial(_run, shares=((0.0, _QUIET),), told=True),
    ),
    _scenario(
        "wet_night",
        "a wet night",
        "rising to what was told, so many times that from three o'clock on, and back; an hour of"
        " 1.5 times where nobody says (compare the design rain of that length)",
        _wet_night,
        asks=(PEAK, LASTS, TIMES),
    ),
    _scenario(
        "failed",
        "pump 1 failed",
        "the first pump never runs; what was told comes in all day, of people their day's volume",
        partial(_run, shares=_ALL_DAY, failed=(1,)),
    ),
    _scenario(
        "out",
        "the power is out",
        "no power from one o'clock on, from the busiest hour where people live, the pit at its"
        " start level, while what was told comes in, of people their day's volume",
        partial(_run, shares=_ALL_DAY, cut=True),
        asks=(OUT, TIMES),
    ),
)
