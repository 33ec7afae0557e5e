"""A line over its distance: the pipe, the grade line as it runs, and how far waves move it."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.plot import Plot, axis, plot
from kyrtos.drawing.scale import Scale, points
from sizing.analysis.surge import SurgeOfJob
from sizing.base import units
from sizing.base.units import System

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 660, 300, 56, 636, 20, 250


@dataclass(frozen=True)
class SurgeChart:
    """Everything the template prints; each line as the points of a polyline."""

    width: int
    height: int
    title: str
    plot: Plot
    pipe: str
    steady: str
    highest: str
    lowest: str
    vapour: str


def surge_chart(found: SurgeOfJob, system: System) -> SurgeChart:
    """The chart of a line's waves."""
    places = found.profile
    levels = [
        level
        for one in places
        for level in (one.elevation_m, one.steady_grade_m, one.lowest_grade_m, one.highest_grade_m)
    ]
    vapour = [one.elevation_m + found.vapour_head_m for one in places]
    low, high = min(*levels, *vapour), max(levels)
    room = 0.05 * max(high - low, 1e-6)
    x = Scale(0.0, max(places[-1].distance_m, 1e-6), _LEFT, _RIGHT)
    y = Scale(low - room, high + room, _BOTTOM, _TOP)

    def line(values: list[float]) -> str:
        return points(
            (x.pixel(one.distance_m), y.pixel(value))
            for one, value in zip(places, values, strict=True)
        )

    shown = units.shown_unit("length", system)
    return SurgeChart(
        width=_WIDTH,
        height=_HEIGHT,
        title="The line with its grade line, and how far waves move it",
        plot=plot(axis(x, shown, 8), axis(y, shown, 6), _TOP, _BOTTOM),
        pipe=line([one.elevation_m for one in places]),
        steady=line([one.steady_grade_m for one in places]),
        highest=line([one.highest_grade_m for one in places]),
        lowest=line([one.lowest_grade_m for one in places]),
        vapour=line(vapour),
    )
