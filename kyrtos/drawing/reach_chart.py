"""A main over distance.

For each size the stretch that speed, head and standing time allow, and where all three do.
"""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.plot import Plot, axis, plot
from kyrtos.drawing.scale import Scale, px
from sizing.analysis.reach import Reach, Reaches
from sizing.base import units
from sizing.base.units import System

_WIDTH, _LEFT, _RIGHT, _TOP, _ROW, _BAR = 640, 150, 622, 26, 46, 9


@dataclass(frozen=True)
class Bar:
    role: str
    x: str
    y: str
    width: str
    title: str


@dataclass(frozen=True)
class ReachRow:
    label: str
    y: str
    now: bool
    bars: tuple[Bar, ...]
    feasible: tuple[str, str, str] | None


@dataclass(frozen=True)
class ReachChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    rows: tuple[ReachRow, ...]
    here: str
    here_text: str


def reach_chart(found: Reaches, system: System) -> ReachChart:
    """The chart of a main; distances beyond twice the run are cut off at the edge."""
    usable = [row.watched_m for row in found.rows]
    most = max(
        found.length_m * 1.6, min(max(usable, default=0.0) * 1.15, found.length_m * 4.0), 1.0
    )
    x = Scale(0.0, most, _LEFT, _RIGHT)
    height = _TOP + _ROW * len(found.rows) + 34
    return ReachChart(
        width=_WIDTH,
        height=height,
        title=f"How far {found.leg_name} can go in each size, by speed, head and standing time",
        plot=plot(axis(x, units.shown_unit("length", system), 7), None, _TOP, height - 34),
        rows=tuple(_row(row, _TOP + _ROW * at, x, system) for at, row in enumerate(found.rows)),
        here=px(x.pixel(found.length_m)),
        here_text=units.show(found.length_m, "length", system, 0),
    )


def _row(row: Reach, top: float, x: Scale, system: System) -> ReachRow:
    def bar(role: str, line: int, until_m: float, from_m: float = 0.0) -> Bar:
        end, start = min(until_m, x.high), min(from_m, x.high)
        title = f"{role}: to {units.show(until_m, 'length', system, 0)}"
        return Bar(
            role,
            px(x.pixel(start)),
            px(top + 8 + line * (_BAR + 2)),
            px(max(x.pixel(end) - x.pixel(start), 0.0)),
            title,
        )

    bars = [bar("scours" if row.scours else "settles", 0, x.high), bar("head", 1, row.head_limit_m)]
    if row.fine_limit_m is not None and row.septic_limit_m is not None:
        bars += [
            bar("fresh", 2, row.fine_limit_m),
            bar("stale", 2, row.septic_limit_m, row.fine_limit_m),
        ]
    end = min(row.watched_m, x.high)
    feasible = (
        (px(x.pixel(0.0)), px(top + 4), px(x.pixel(end) - x.pixel(0.0)))
        if row.watched_m > 0
        else None
    )
    return ReachRow(row.pipe, px(top + 22), row.now, tuple(bars), feasible)
