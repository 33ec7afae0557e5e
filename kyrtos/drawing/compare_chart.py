"""Up to four pumps and the site on one chart.

Told apart by their dashes, which the table beside it names.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kyrtos.drawing import labels
from kyrtos.drawing.curve_chart import axis_ticks
from kyrtos.drawing.labels import Box, Wish
from kyrtos.drawing.picture import Label, Tick
from kyrtos.drawing.scale import Scale, points, px
from sizing.base import units
from sizing.base.units import System
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.catalogue import Pump

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
    left: str
    right: str
    top: str
    bottom: str
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    lines: tuple[Line, ...]
    dots: tuple[tuple[str, str], ...]
    needed: str
    labels: tuple[Label, ...]
    x_unit: str
    y_unit: str


def compare_chart(
    pumps: Sequence[tuple[Pump, float | None]], site: SystemCurve, needed_m3s: float, system: System
) -> CompareChart:
    """The chart of some pumps, each with the flow at which it runs on the site, if it does."""
    flow, head = units.shown_unit("flow", system), units.shown_unit("length", system)
    most_flow = max(needed_m3s * 1.6, *(pump.curve.last_flow_m3s for pump, _ in pumps))
    most_flow = min(most_flow, needed_m3s * 4.0)
    most_head = max(max(pump.curve.heads_m) for pump, _ in pumps) * 1.1
    x, y = (
        Scale(0.0, most_flow, _LEFT, _RIGHT),
        Scale(min(site.static_head_m, 0.0), most_head, _BOTTOM, _TOP),
    )
    lines, wishes, boxes, dots = [], [], [], []
    grid = np.linspace(0.0, most_flow, _STEPS)
    curves = [(site.head_m(grid), grid, "", "system", "this site")]
    for dash, (pump, runs) in zip(DASHES, pumps, strict=False):
        own = np.linspace(pump.curve.flows_m3s[0], min(pump.curve.last_flow_m3s, most_flow), _STEPS)
        curves.append((pump.curve.head_m(own), own, dash, "pump", pump.name))
        if runs is not None and runs <= most_flow:
            dots.append((px(x.pixel(runs)), px(y.pixel(site.head_at(runs)))))
    for heads, flows, dash, role, name in curves:
        pairs = [
            (x.pixel(q), y.pixel(h))
            for q, h in zip(flows.tolist(), heads.tolist(), strict=True)
            if y.low <= h <= y.high
        ]
        lines.append(Line(points(pairs), dash, role, name))
        boxes += [Box(a - 3, b - 3, a + 3, b + 3) for a, b in pairs]
        if pairs and role == "system":
            near = tuple(pairs[at] for at in (len(pairs) // 6, len(pairs) // 3, -len(pairs) // 3))
            sides = ("above right", "below left", "right", "left")
            wishes.append(
                Wish(
                    name,
                    *pairs[-max(len(pairs) // 5, 1)],
                    "system",
                    12,
                    1,
                    sides,
                    must=True,
                    more=near,
                )
            )
    placed = labels.place(wishes, Box(_LEFT + 2, _TOP - 6, _RIGHT + 12, _BOTTOM - 2), boxes)
    return CompareChart(
        _WIDTH,
        _HEIGHT,
        "Curves of " + ", ".join(pump.name for pump, _ in pumps) + " and of the site",
        px(_LEFT),
        px(_RIGHT),
        px(_TOP),
        px(_BOTTOM),
        axis_ticks(x, flow, 7),
        axis_ticks(y, head, 6),
        tuple(lines),
        tuple(dots),
        px(x.pixel(needed_m3s)),
        tuple(
            Label(px(one.x), px(one.y), one.anchor, one.text, one.role, px(one.size))
            for one in placed
        ),
        flow.symbol,
        head.symbol,
    )
