"""What a job does over time: its line, what is on when, what comes in, on one axis of time.

Where the line is a level, what stands beside it is drawn on the same height scale, so that any
moment can be seen as water. ``moments`` are what a hand on the slider asks for.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable
from dataclasses import dataclass

from kyrtos.drawing.plot import Plot, Tick, axis, plot
from kyrtos.drawing.scale import Scale, px, step
from sizing.base import units
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR, System
from sizing.over_time.scenarios.base import Line, Mark, SimulationResult

_WIDTH, _RIGHT, _TOP, _BOTTOM = 720, 618, 16, 250
_VESSEL_LEFT, _VESSEL_WIDTH = 8, 46
_BAND, _GAP, _BELOW = 9, 5, 34
_APART = 13  # pixels between two names of levels
_COLUMNS = 900  # points beyond which the line is drawn as the band that it fills
MOMENTS = 480
_MONTH_STARTS = (0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334)
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


@dataclass(frozen=True)
class DrawnMark:
    """A value that matters, and where its name stands."""

    role: str
    y: str
    text: str
    text_y: str


@dataclass(frozen=True)
class DrawnBand:
    """When something is on, as x and width."""

    label: str
    y: str
    bars: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Vessel:
    """The pit or tank beside the chart, on its height scale."""

    left: str
    width: str
    top: str
    floor: str
    height: str


@dataclass(frozen=True)
class TimeChart:
    """Everything the template prints.

    ``moments`` are JSON: of each [y, time, value, what is on, below].
    """

    width: int
    height: int
    title: str
    plot: Plot
    vessel: Vessel | None
    line: str  # path
    beside: str  # path
    beside_label: str
    marks: tuple[DrawnMark, ...]
    bands: tuple[DrawnBand, ...]
    below: str  # path
    below_label: str
    below_y: str
    away: tuple[tuple[str, str], ...]
    times: tuple[Tick, ...]
    times_y: str
    over: tuple[str, str] | None
    first_y: str
    first_height: str  # of the water in what stands beside
    moments: str
    moment_count: int
    first_moment: str


def time_chart(ran: SimulationResult, title: str, system: System) -> TimeChart:
    """The chart of a run."""
    left = 112 if ran.upright else 62
    x = Scale(0.0, ran.end_s, left, _RIGHT)
    y = _heights(ran)
    below = _BOTTOM + 10
    bands = tuple(
        DrawnBand(band.label, px(below + at * (_BAND + _GAP)), tuple(_bars(band.spans, x)))
        for at, band in enumerate(ran.bands)
    )
    base = below + len(bands) * (_BAND + _GAP) + (_BELOW if ran.below else 0)
    shown = units.shown_unit(ran.line.dimension, system)
    moments = tuple(_moments(ran, y, system))
    vessel = Vessel(
        px(_VESSEL_LEFT),
        px(_VESSEL_WIDTH),
        px(y.pixel(max(mark.value for mark in ran.marks))),
        px(_BOTTOM),
        px(_BOTTOM - y.pixel(max(mark.value for mark in ran.marks))),
    )
    return TimeChart(
        width=_WIDTH,
        height=int(base + 30),
        title=f"{ran.line.label[:1].upper()}{ran.line.label[1:]}: {title}",
        plot=plot(axis(x, units.unit("s", "time"), 8), axis(y, shown, 6), _TOP, _BOTTOM),
        vessel=vessel if ran.upright else None,
        line=_path(ran.line, x, y),
        beside=_path(ran.beside, x, y) if ran.beside else "",
        beside_label=ran.beside.label if ran.beside else "",
        marks=_marks(ran, y, system),
        bands=bands,
        below=_steps(ran.below, x, base) if ran.below else "",
        below_label=ran.below.label if ran.below else "",
        below_y=px(base),
        away=tuple((px(x.pixel(a)), px(x.pixel(b) - x.pixel(a))) for a, b in ran.away),
        times=tuple(_times(x)),
        times_y=px(base + 16),
        over=(
            None
            if ran.over_at_s is None
            else (px(x.pixel(ran.over_at_s)), px(y.pixel(ran.line.at(ran.over_at_s))))
        ),
        first_y=px(y.pixel(ran.line.at(0.0))),
        first_height=px(max(_BOTTOM - y.pixel(ran.line.at(0.0)), 0.0)),
        moments=json.dumps(moments, ensure_ascii=False),
        moment_count=MOMENTS,
        first_moment=" · ".join(words for words in moments[0][1:] if words),
    )


def _heights(ran: SimulationResult) -> Scale:
    """From nothing, or a little under what is lowest where that is far from nothing."""
    values = [value for _, value in ran.line.points] + [mark.value for mark in ran.marks]
    values += [value for _, value in ran.beside.points] if ran.beside else []
    low, high = min(values), max(values)
    if ran.upright or 0 <= low < 0.5 * high:
        low = min(low, 0.0)
    else:
        low -= 0.08 * max(high - low, 1e-9)
    return Scale(low, high + 0.04 * max(high - low, 1e-9), _BOTTOM, _TOP)


def when(time_s: float, end_s: float) -> str:
    """A moment as it is read: on the clock of a day, by day and hour of a year, or in seconds."""
    if end_s <= 10 * SECONDS_PER_HOUR and end_s < 3600:
        return units.show(time_s, "time", "metric")
    minutes = int(time_s // 60)
    clock = f"{minutes // 60 % 24:02}:{minutes % 60:02}"
    if end_s <= SECONDS_PER_DAY:
        return clock if time_s < SECONDS_PER_DAY else "24:00"
    day = int(time_s // SECONDS_PER_DAY)
    if end_s < 300 * SECONDS_PER_DAY:
        return f"day {day + 1}, {clock}"
    month = max(at for at, start in enumerate(_MONTH_STARTS) if start <= day % 365)
    return f"{day % 365 - _MONTH_STARTS[month] + 1} {_MONTHS[month]}, {clock}"


def _moments(ran: SimulationResult, y: Scale, system: System) -> Iterable[tuple[str, ...]]:
    """What stands at each of the moments that can be asked for."""
    for at in range(MOMENTS + 1):
        time = ran.end_s * at / MOMENTS
        value = ran.line.at(time)
        on = " and ".join(band.label for band in ran.bands if band.on(time))
        below = ""
        if ran.below is not None:
            amount = units.show(ran.below.at(time), ran.below.dimension, system)
            below = f"{ran.below.label} {amount}"
        shown = units.show(value, ran.line.dimension, system)
        yield px(y.pixel(value)), when(time, ran.end_s), shown, on and f"{on} on", below


def _times(x: Scale) -> Iterable[Tick]:
    end_s = x.high
    if end_s >= 300 * SECONDS_PER_DAY:
        for name, start in zip(_MONTHS, _MONTH_STARTS, strict=True):
            yield Tick(px(x.pixel((start + 15) * SECONDS_PER_DAY)), name)
        return
    if end_s == SECONDS_PER_DAY:
        for hour in range(0, 25, 3):
            yield Tick(px(x.pixel(hour * SECONDS_PER_HOUR)), f"{hour:02}:00")
        return
    symbol = next(
        (one for one in ("day", "h", "min") if end_s >= 2 * units.unit(one, "time").scale), "s"
    )
    unit = units.unit(symbol, "time")
    size = step(unit.from_si(end_s), 8)
    for at in range(int(unit.from_si(end_s) / size + 1e-9) + 1):
        text = f"{at * size:g}"
        yield Tick(px(x.pixel(unit.to_si(at * size))), f"{text} {symbol}" if at == 0 else text)


def _path(line: Line, x: Scale, y: Scale) -> str:
    """The line, and where it saws finer than a pixel the band that it fills."""
    if len(line.points) < _COLUMNS:
        return "M" + "L".join(f"{px(x.pixel(a))} {px(y.pixel(b))}" for a, b in line.points)
    columns: dict[int, tuple[float, float]] = {}
    for time, value in line.points:
        column = int(x.pixel(time))
        low, high = columns.get(column, (math.inf, -math.inf))
        columns[column] = min(low, value), max(high, value)
    return "M" + "L".join(
        f"{px(column + 0.5)} {px(y.pixel(value))}"
        for at, (column, ends) in enumerate(sorted(columns.items()))
        for value in (ends if at % 2 else reversed(ends))
    )


def _marks(ran: SimulationResult, y: Scale, system: System) -> tuple[DrawnMark, ...]:
    """Values that matter with their names, moved apart where two lie close."""
    found, last = [], math.inf
    for mark in sorted(ran.marks, key=lambda one: one.value):
        place = min(y.pixel(mark.value), last - _APART)
        last = place
        found.append(
            DrawnMark(mark.role, px(y.pixel(mark.value)), _named(mark, ran, system), px(place + 4))
        )
    return tuple(found)


def _named(mark: Mark, ran: SimulationResult, system: System) -> str:
    return f"{mark.label} {units.show(mark.value, ran.line.dimension, system)}"


def _bars(spans: tuple[tuple[float, float], ...], x: Scale) -> list[tuple[str, str]]:
    """Spans as bars of half a pixel at least; what lies closer is one bar."""
    drawn: list[list[float]] = []
    for begin_s, end_s in spans:
        begin, end = x.pixel(begin_s), x.pixel(end_s)
        if drawn and begin - drawn[-1][1] < 0.4:
            drawn[-1][1] = end
        else:
            drawn.append([begin, end])
    return [(px(begin), px(max(end - begin, 0.5))) for begin, end in drawn]


def _steps(line: Line, x: Scale, base: float) -> str:
    """What comes in, upon its own line: as steps where it holds, else from point to point."""
    most = max(value for _, value in line.points) or 1.0
    path = f"M{px(x.start)} {px(base)}"
    ends = [*(time for time, _ in line.points[1:]), x.high]
    for (begin, value), end in zip(line.points, ends, strict=True):
        top = px(base - (_BELOW - 8) * value / most)
        path += f"L{px(x.pixel(begin))} {top}" + (
            f"L{px(x.pixel(end))} {top}" if line.steps else ""
        )
    return path + f"L{px(x.end)} {px(base)}Z"
