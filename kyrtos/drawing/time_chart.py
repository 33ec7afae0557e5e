"""A pit over a day: its level, the pumps that run, what comes in, on one axis of hours."""

from __future__ import annotations

import math
from dataclasses import dataclass

from kyrtos.drawing.plot import Plot, Tick, axis, plot
from kyrtos.drawing.scale import Scale, px
from sizing.analysis.over_time import Day
from sizing.base import units
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR, System

_WIDTH, _LEFT, _RIGHT, _TOP, _BOTTOM = 660, 52, 560, 14, 250
_BAND, _GAP, _INFLOW = 9, 5, 34
_EVERY_H = 3
_APART = 13  # pixels between two names of levels


@dataclass(frozen=True)
class Mark:
    """A level that matters, and where its name stands."""

    role: str
    y: str
    text: str
    text_y: str


@dataclass(frozen=True)
class Band:
    """When a pump runs, as x and width."""

    label: str
    y: str
    bars: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class TimeChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    level: str  # path
    marks: tuple[Mark, ...]
    bands: tuple[Band, ...]
    inflow: str  # path
    inflow_y: str
    out: tuple[tuple[str, str], ...]  # power cuts, x and width
    hours: tuple[Tick, ...]
    hours_y: str
    over: tuple[str, str] | None  # the first overflow


def time_chart(day: Day, system: System) -> TimeChart:
    """The chart of a day."""
    x = Scale(0.0, SECONDS_PER_DAY, _LEFT, _RIGHT)
    y = Scale(0.0, day.pit.rim_m * 1.04, _BOTTOM, _TOP)
    below = _BOTTOM + 10
    bands = tuple(
        Band(
            f"pump {number}",
            px(below + at * (_BAND + _GAP)),
            tuple(_bars(day, x, number)),
        )
        for at, number in enumerate(range(1, len(day.pit.pumps) + 1))
    )
    base = below + len(bands) * (_BAND + _GAP) + _INFLOW
    first = day.run.first_overflow_s
    return TimeChart(
        width=_WIDTH,
        height=int(base + 30),
        title=f"Level in the pit over 24 hours: {day.scenario.label}",
        plot=plot(
            axis(x, units.unit("h", "time"), 8),
            axis(y, units.shown_unit("length", system), 6),
            _TOP,
            _BOTTOM,
        ),
        level=_level(day, x, y),
        marks=_marks(day, y, system),
        bands=bands,
        inflow=_inflow(day, x, base),
        inflow_y=px(base),
        out=tuple(
            (
                px(x.pixel(begin * SECONDS_PER_HOUR)),
                px(x.pixel(end * SECONDS_PER_HOUR) - x.pixel(begin * SECONDS_PER_HOUR)),
            )
            for begin, end in day.scenario.power_cuts_h
        ),
        hours=tuple(
            Tick(px(x.pixel(hour * SECONDS_PER_HOUR)), f"{hour:02}:00")
            for hour in range(0, 25, _EVERY_H)
        ),
        hours_y=px(base + 16),
        over=None if first is None else (px(x.pixel(first)), px(y.pixel(day.pit.rim_m))),
    )


def _level(day: Day, x: Scale, y: Scale) -> str:
    """The level, and where it saws finer than a pixel the band that it fills."""
    columns: dict[int, tuple[float, float]] = {}
    order: list[tuple[float, float]] = []
    for time, level in day.run.timeline.samples(1200):
        at = x.pixel(time)
        column = int(at)
        low, high = columns.get(column, (math.inf, -math.inf))
        columns[column] = min(low, level), max(high, level)
        order.append((at, level))
    if len(order) < 900:
        return "M" + "L".join(f"{px(at)} {px(y.pixel(level))}" for at, level in order)
    return "M" + "L".join(
        f"{px(column + 0.5)} {px(y.pixel(level))}"
        for at, (column, ends) in enumerate(sorted(columns.items()))
        for level in (ends if at % 2 else reversed(ends))
    )


def _marks(day: Day, y: Scale, system: System) -> tuple[Mark, ...]:
    """Levels with their names, moved apart where two lie close."""
    pit = day.pit
    named = [("stop", pit.stop_m, "stops"), ("start", pit.start_m, "starts")]
    if pit.lag_start_m is not None and pit.lag_start_m != pit.alarm_m:
        named.append(("start", pit.lag_start_m, "second starts"))
    named += [("alarm", pit.alarm_m, "alarm"), ("rim", pit.rim_m, "overflows")]
    if abs(pit.inlet_m - pit.rim_m) > 1e-3:
        named.append(("inlet", pit.inlet_m, "inlet"))
    found, last = [], math.inf
    for role, level, text in sorted(named, key=lambda one: one[1]):
        place = min(y.pixel(level), last - _APART)
        last = place
        shown = units.show(level, "length", system)
        found.append(Mark(role, px(y.pixel(level)), f"{text} {shown}", px(place + 4)))
    return tuple(found)


def _bars(day: Day, x: Scale, number: int) -> list[tuple[str, str]]:
    """Runs as bars of half a pixel at least; what lies closer is one bar."""
    spans: list[list[float]] = []
    for piece in day.run.timeline.pieces:
        if number in piece.running:
            begin, end = x.pixel(piece.from_s), x.pixel(piece.to_s)
            if spans and begin - spans[-1][1] < 0.4:
                spans[-1][1] = end
            else:
                spans.append([begin, end])
    return [(px(begin), px(max(end - begin, 0.5))) for begin, end in spans]


def _inflow(day: Day, x: Scale, base: float) -> str:
    """What comes in, as steps upon their own line."""
    rows = [(hour * SECONDS_PER_HOUR, share) for hour, share in day.scenario.shares]
    most = max(share for _, share in rows) or 1.0
    path = f"M{px(x.start)} {px(base)}"
    for (begin, share), (end, _) in zip(rows, [*rows[1:], (SECONDS_PER_DAY, 0.0)], strict=True):
        top = px(base - (_INFLOW - 8) * share / most)
        path += f"L{px(x.pixel(begin))} {top}L{px(x.pixel(end))} {top}"
    return path + f"L{px(x.end)} {px(base)}Z"
