"""Up to four pumps and the site on one chart.

Told apart by their dashes, which the table beside it names.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from kyrtos.drawing import labels
from kyrtos.drawing.labels import Box, Wish
from kyrtos.drawing.plot import Label, Plot, axis, label, plot
from kyrtos.drawing.scale import Point, Scale, points, px
from sizing.base import units
from sizing.base.units import System
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.catalogue import Pump
from sizing.pump.label_data import RoughCurve

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 640, 330, 44, 624, 14, 292
_STEPS = 50
DASHES = ("", "7 4", "2 3", "10 3 2 3")


@dataclass(frozen=True)
class Line:
    points: str
    dash: str
    role: str
    title: str


@dataclass(frozen=True)
class CompareChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    lines: tuple[Line, ...]
    dots: tuple[tuple[str, str], ...]
    bands: tuple[str, ...]
    needed: str
    labels: tuple[Label, ...]


def compare_chart(
    pumps: Sequence[tuple[Pump, float | None]],
    site: SystemCurve,
    needed_m3s: float,
    system: System,
    rough: Mapping[str, RoughCurve] = MappingProxyType({}),
) -> CompareChart:
    """The chart of some pumps, each with the flow at which it runs on the site, if it does.

    ``rough`` holds, by id, the pumps whose curve is only a band.
    """
    runs_m3s = max((runs for _, runs in pumps if runs is not None), default=0.0)
    frame = _frame([pump for pump, _ in pumps], site, needed_m3s, runs_m3s, system)
    most_flow = frame.x.scale.high
    flows = np.linspace(0.0, most_flow, _STEPS)
    on_site = frame.pixels(flows.tolist(), site.head_m(flows).tolist())
    drawn = [(on_site, Line(points(on_site), "", "system", "this site"))]
    for dash, (pump, _) in zip(DASHES, pumps, strict=False):
        last = min(pump.curve.last_flow_m3s, most_flow)
        own = np.linspace(pump.curve.flows_m3s[0], last, _STEPS)
        pairs = frame.pixels(own.tolist(), pump.curve.head_m(own).tolist())
        drawn.append((pairs, Line(points(pairs), dash, "pump", pump.name)))
    return CompareChart(
        width=_WIDTH,
        height=_HEIGHT,
        title="Curves of " + ", ".join(pump.name for pump, _ in pumps) + " and of the site",
        plot=frame,
        lines=tuple(line for _, line in drawn),
        dots=tuple(
            frame.dot(runs, site.head_at(runs))
            for _, runs in pumps
            if runs is not None and runs <= most_flow
        ),
        bands=tuple(
            band_points(frame, rough[pump.pump_id], most_flow)
            for pump, _ in pumps
            if pump.pump_id in rough
        ),
        needed=px(frame.x.scale.pixel(needed_m3s)),
        labels=_name_of_site(on_site, [pair for pairs, _ in drawn for pair in pairs]),
    )


def band_points(frame: Plot, rough: RoughCurve, most_flow_m3s: float) -> str:
    """The band in which a rough curve lies, as the points of a polygon."""
    flows = np.linspace(0.0, min(rough.flows_m3s[-1], most_flow_m3s), _STEPS)
    low = np.interp(flows, rough.flows_m3s, rough.low_m)
    high = np.interp(flows, rough.flows_m3s, rough.high_m)
    there = frame.pixels(flows.tolist(), high.tolist())
    back = frame.pixels(flows.tolist(), low.tolist())
    return points([*there, *reversed(back)])


def _frame(
    pumps: list[Pump], site: SystemCurve, needed_m3s: float, runs_m3s: float, system: System
) -> Plot:
    """The plot: wide enough for every pump and where it runs; of the rest four times the need."""
    ends = (pump.curve.last_flow_m3s for pump in pumps)
    most_flow = min(max(needed_m3s * 1.6, *ends), max(needed_m3s * 4.0, 1.15 * runs_m3s))
    most_head = max(max(pump.curve.heads_m) for pump in pumps) * 1.1
    x = Scale(0.0, most_flow, _LEFT, _RIGHT)
    y = Scale(min(site.static_head_m, 0.0), most_head, _BOTTOM, _TOP)
    return plot(
        axis(x, units.shown_unit("flow", system), 7),
        axis(y, units.shown_unit("length", system), 6),
        _TOP,
        _BOTTOM,
    )


def _name_of_site(on_site: list[Point], drawn: list[Point]) -> tuple[Label, ...]:
    """The name of the site's own curve, beside it and off every line."""
    if not on_site:
        return ()
    count = len(on_site)
    near = tuple(on_site[at] for at in (count // 6, count // 3, -count // 3))
    sides = ("above right", "below left", "right", "left")
    at = on_site[-max(count // 5, 1)]
    wish = Wish("this site", *at, "system", 12, 1, sides, must=True, more=near)
    boxes = [Box(x - 3, y - 3, x + 3, y + 3) for x, y in drawn]
    room = Box(_LEFT + 2, _TOP - 6, _RIGHT + 12, _BOTTOM - 2)
    return tuple(label(one) for one in labels.place([wish], room, boxes))
