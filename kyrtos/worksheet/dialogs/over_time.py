"""The job run over a day: level, starts and overflow by the hour."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.time_chart import TimeChart, time_chart
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis import over_time
from sizing.analysis.over_time import Day
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.pit import PitKind
from sizing.size import Sizing

_LONGEST = 40
_MOST_TIMES = 20.0
_SHOWN = 60  # events
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


@dataclass(frozen=True)
class OverTimeView:
    """What the dialog shows."""

    scenarios: tuple[tuple[str, str, bool], ...]
    assumed: str
    times: str
    problem: str
    state: str
    verdict: str
    chart: TimeChart | None
    sums: tuple[tuple[str, str], ...]
    events: tuple[tuple[str, str, str], ...]
    more: int


def over_time_view(asked: Asked) -> OverTimeView:
    """Run through the scenario asked for, with the inflow as told or so many times that."""
    days = over_time.scenarios(asked.base.sizing.kind)
    wanted = asked.given.get("day", "")
    code = wanted if wanted in {one.code for one in days} else days[0].code
    times, problem = _times(asked.given.get("times", "")[:_LONGEST])
    system = asked.base.sizing.job.units
    found = over_time.day(asked.base, code, times)
    events = found.run.timeline.events
    return OverTimeView(
        scenarios=tuple((one.code, one.label, one.code == code) for one in days),
        assumed=found.scenario.assumed,
        times=asked.given.get("times", "")[:_LONGEST] or "1",
        problem=problem,
        state=found.state,
        verdict=_verdict(found, system),
        chart=time_chart(found, system),
        sums=_sums(found, system),
        events=tuple(
            (_clock(one.time_s), _WORDS.get(one.code, one.code), _level(one.level_m, system))
            for one in events[:_SHOWN]
        ),
        more=max(len(events) - _SHOWN, 0),
    )


def _times(text: str) -> tuple[float, str]:
    if not text.strip():
        return 1.0, ""
    try:
        found = quantity.read(numbers.as_kept(text), "count", "×").si
    except SizingError as problem:
        return 1.0, str(problem)
    if not 0 <= found <= _MOST_TIMES:
        return 1.0, f"type between 0 and {_MOST_TIMES:g} times"
    return found, ""


def _clock(seconds: float) -> str:
    whole = int(seconds)
    return f"{whole // 3600:02}:{whole % 3600 // 60:02}:{whole % 60:02}"


def _level(level_m: float, system: System) -> str:
    return units.show(level_m, "length", system)


def _verdict(day: Day, system: System) -> str:
    """What came of it in a sentence, whose fault it is, and what to do."""
    run, busy = day.run, day.busiest_starts_per_h
    if run.first_overflow_s is not None:
        lost = units.show(run.overflow_m3, "volume", system)
        told = f"It overflows at {_clock(run.first_overflow_s)}, and {lost} go over by midnight."
        if day.scenario.failed and len(day.pit.pumps) == 1:
            return f"{told} One pump alone has no other: a second one that takes turns would."
        if day.lasted_s is not None and day.lasted_s >= 0:
            lasts = units.show(day.lasted_s, "time", system)
            return (
                f"{told} From the level that it had when the power went the pit lasts {lasts}: a"
                " battery pump, a larger pit, or somebody who comes."
            )
        return f"{told} The pump gives less than what comes in: a stronger one, or a second."
    if busy > day.most_starts_per_h:
        return (
            f"It starts {busy:.0f} times in its busiest hour, over the {day.most_starts_per_h:.0f}"
            " that the house bears: a larger pit or levels further apart cure that, nothing else."
        )
    if run.total_above_inlet_s > 0:
        stands = units.show(run.total_above_inlet_s, "time", system)
        return (
            f"It does not overflow, but the water stands over the inlet for {stands}, and backs up"
            " into the pipe that leads in: a stronger pump, a second, or a larger pit."
        )
    if run.first_alarm_s is not None:
        return f"It holds, but the alarm sounds at {_clock(run.first_alarm_s)}."
    if busy > day.usual_starts_per_h:
        return (
            f"It holds; in its busiest hour it starts {busy:.0f} times, over the usual"
            f" {day.usual_starts_per_h:.0f}."
        )
    return f"It holds: {busy:.0f} starts in its busiest hour, and no alarm."


def _sums(day: Day, system: System) -> tuple[tuple[str, str], ...]:
    run, rows = day.run, []
    for number, (starts, ran) in enumerate(zip(run.starts, run.run_times_s, strict=True), 1):
        rows.append((f"Pump {number} starts", f"{starts} times"))
        rows.append((f"Pump {number} runs", units.show(ran, "time", system)))
    rows += [
        ("Busiest hour, each", f"{day.busiest_starts_per_h:.0f} starts"),
        ("Came in", units.show(run.inflow_m3, "volume", system)),
        ("Ran back at the stops", units.show(run.drained_back_m3, "volume", system)),
        ("Pumped", units.show(run.pumped_m3, "volume", system)),
        ("Went over the rim", units.show(run.overflow_m3, "volume", system)),
        ("Highest level", _level(run.max_level_m, system)),
        ("Over the inlet", units.show(run.total_above_inlet_s, "time", system)),
    ]
    return tuple(rows)


def _applies(sizing: Sizing) -> bool:
    return isinstance(sizing.kind, PitKind)


DIALOG = Dialog(
    name="over_time",
    words="over a day",
    key="t",
    tells="a day of the pit, a wet night, a power cut",
    place="choosing",
    rank=9,
    view=over_time_view,
    applies=_applies,
)
