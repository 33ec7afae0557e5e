"""What is drawn over a picture of curves, and said beside it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from kyrtos.catalogue.models import Trace
from kyrtos.catalogue.tracing import KINDS, RULERS, axes, in_hand, kept, traced
from kyrtos.drawing.scale import points, px
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.numbers import as_read
from sizing.pump.digitise import Axes, trace

_WIDE = 0.014  # of the picture's width: the ruler's breadth
_GRADUATIONS = 10


@dataclass(frozen=True)
class End:
    """One end of a ruler: its place, its share across and down the picture, what is printed."""

    x: str
    y: str
    across: str  # per cent of the picture
    down: str
    value: str
    name: str  # 'start of the flow ruler'


@dataclass(frozen=True)
class RulerView:
    """A ruler laid along an axis."""

    key: str
    body: str  # the outline of its body, as the points of a polygon
    graduations: str  # a path
    ends: tuple[End, End]
    unit: str
    units: tuple[str, ...]
    log: bool


@dataclass(frozen=True)
class CurveView:
    """A curve of the picture: its name, what it shows, whether it is in hand, its line."""

    name: str
    kind: str
    label: str
    in_hand: bool
    begun: bool
    line: str


@dataclass(frozen=True)
class Overlay:
    """Everything that is drawn over the picture and said beside it."""

    rulers: tuple[RulerView, ...]
    curves: tuple[CurveView, ...]
    points: tuple[tuple[int, str, str, str], ...]  # index, x, y, what it reads
    clicks: tuple[tuple[str, str], ...]
    lines: tuple[tuple[int, str], ...]  # of the PDF
    problem: str
    said: str
    columns: tuple[str, str]
    rows: tuple[tuple[str, str], ...]
    ready: bool
    kinds: tuple[tuple[str, str, bool], ...]  # key, label, whether the curve in hand is of it
    radius: str
    begun_heads: int


def overlay(found: Trace) -> Overlay:
    """The rulers and curves of a picture as they stand."""
    state = found.state
    curve = in_hand(state)
    clicked = [(x, y) for x, y in curve["points"]]
    flow_unit, value_unit = (state["rulers"][key]["unit"] for key in ("flow", curve["kind"]))
    problem = said = ""
    reads = [""] * len(clicked)
    rows: tuple[tuple[str, str], ...] = ()
    try:
        scale = axes(state, curve["kind"])
        reads = [
            f"{_number(q)} {flow_unit}, {_number(h)} {value_unit}"
            for q, h in (scale.read(point) for point in clicked)
        ]
        if clicked:
            done = trace(scale, clicked)
            said = _said(len(clicked), done.worst_off)
            rows = tuple((_number(q), _number(h)) for q, h in kept(done))
    except SizingError as error:
        problem = str(error)
    return Overlay(
        rulers=tuple(_ruler_view(found, key, ruler) for key, ruler in state["rulers"].items()),
        curves=tuple(_curve_view(state, one) for one in state["curves"]),
        points=tuple(
            (at, px(x), px(y), read)
            for at, ((x, y), read) in enumerate(zip(clicked, reads, strict=True))
        ),
        clicks=tuple((px(x), px(y)) for x, y in curve["clicks"]),
        lines=tuple(
            (at, points([(x, y) for x, y in line])) for at, line in enumerate(state["lines"])
        ),
        problem=problem,
        said=said,
        columns=(flow_unit, value_unit),
        rows=rows,
        ready=bool(rows),
        kinds=tuple((one.key, one.label, one.key == curve["kind"]) for one in KINDS.values()),
        radius=px(max(found.width / 190.0, 3.0)),
        begun_heads=sum(one["kind"] == "head" and bool(one["points"]) for one in state["curves"]),
    )


def _said(count: int, worst_off: float) -> str:
    off = units.show(worst_off, "ratio", "metric", 1)
    return f"{count} points; the worst is {off} off the curve through the others"


def _number(value: float) -> str:
    return as_read(f"{value:.4g}")


def _ruler_view(found: Trace, key: str, ruler: dict[str, Any]) -> RulerView:
    """The body lies outside the chart: under the flow axis, left of the head's, right of others."""
    (x1, y1), (x2, y2) = ruler["ends"]
    length = max(math.hypot(x2 - x1, y2 - y1), 1e-6)
    wide = found.width * _WIDE
    out_x, out_y = -(y2 - y1) / length * wide, (x2 - x1) / length * wide
    outward = {"flow": (0.0, 1.0), "head": (-1.0, 0.0)}.get(key, (1.0, 0.0))
    if out_x * outward[0] + out_y * outward[1] < 0:
        out_x, out_y = -out_x, -out_y
    marks = []
    for at in range(_GRADUATIONS + 1):
        x, y = x1 + (x2 - x1) * at / _GRADUATIONS, y1 + (y2 - y1) * at / _GRADUATIONS
        deep = 0.75 if at % 5 == 0 else 0.45
        marks.append(f"M{px(x)} {px(y)}L{px(x + out_x * deep)} {px(y + out_y * deep)}")
    outline = [(x1, y1), (x2, y2), (x2 + out_x, y2 + out_y), (x1 + out_x, y1 + out_y)]
    ends = [
        End(
            x=px(x),
            y=px(y),
            across=px(100.0 * x / found.width),
            down=px(100.0 * y / found.height),
            value=as_read(value),
            name=f"{which} of the {key} ruler",
        )
        for (x, y), value, which in zip(
            ruler["ends"], ruler["values"], ("start", "end"), strict=True
        )
    ]
    return RulerView(
        key=key,
        body=points(outline),
        graduations="".join(marks),
        ends=(ends[0], ends[1]),
        unit=ruler["unit"],
        units=RULERS[key].units,
        log=ruler["log"],
    )


def _curve_view(state: dict[str, Any], curve: dict[str, Any]) -> CurveView:
    return CurveView(
        name=curve["name"],
        kind=curve["kind"],
        label=KINDS[curve["kind"]].label,
        in_hand=curve is in_hand(state),
        begun=bool(curve["points"] or curve["clicks"]),
        line=_drawn(state, curve),
    )


def _drawn(state: dict[str, Any], curve: dict[str, Any]) -> str:
    """The curve over the picture: as fitted, or straight from point to point until it is."""
    try:
        scale: Axes = axes(state, curve["kind"])
        return points([scale.pixel(q, h) for q, h in traced(state, curve).through()])
    except SizingError:
        return points(sorted((x, y) for x, y in curve["points"]))
