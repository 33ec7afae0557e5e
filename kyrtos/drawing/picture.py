"""The signature picture: site and curve on one height scale, as a frozen model whose numbers are text."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kyrtos.drawing import labels
from kyrtos.drawing.labels import Box, Placed, Wish
from kyrtos.drawing.scale import Scale, points, px, step, ticks
from kyrtos.drawing.section import Section, section
from kyrtos.drawing.site import Site
from sizing import run, units
from sizing.match import Candidate
from sizing.size import Sizing
from sizing.units import System

_CURVE_STEPS = 48


@dataclass(frozen=True)
class Frame:
    """The page: how wide and high, where section and chart lie."""

    width: int
    height: int
    left: float
    pit: float
    split: float
    chart: float
    right: float
    top: float
    bottom: float
    font: float
    others: int


WIDE = Frame(920, 400, 46, 92, 560, 588, 908, 16, 366, 12, 3)
NARROW = Frame(390, 240, 30, 42, 216, 230, 384, 12, 206, 10, 1)


@dataclass(frozen=True)
class Tick:
    at: str
    text: str
    zero: bool = False


@dataclass(frozen=True)
class LegLine:
    leg_id: str
    pipe: str
    grade: str
    title: str
    mark: str


@dataclass(frozen=True)
class CurveLine:
    role: str
    points: str
    title: str


@dataclass(frozen=True)
class Label:
    x: str
    y: str
    anchor: str
    text: str
    role: str
    size: str


@dataclass(frozen=True)
class Water:
    x: str
    y: str
    width: str
    height: str


@dataclass(frozen=True)
class Mark:
    role: str
    x1: str
    x2: str
    y: str


@dataclass(frozen=True)
class Picture:
    """Everything the template prints, and nothing that it must work out."""

    width: int
    height: int
    title: str
    description: str
    y_ticks: tuple[Tick, ...]
    x_ticks: tuple[Tick, ...]
    left: str
    right: str
    chart: str
    split: str
    top: str
    bottom: str
    ground: str
    pit: str
    water: Water
    marks: tuple[Mark, ...]
    legs: tuple[LegLine, ...]
    curves: tuple[CurveLine, ...]
    needed_x: str
    needed_width: str
    plot_height: str
    lift: tuple[str, str, str]
    pump_x: str
    pump_y: str
    pump_height: str
    outlet: tuple[str, str]
    duty: tuple[str, str] | None
    static_tie: str
    labels: tuple[Label, ...]
    font: str
    y_unit: str
    x_unit: str


class _Drawing:
    """One picture in the making: the scales and what several parts of it share."""

    def __init__(self, sizing: Sizing, system: System, frame: Frame) -> None:
        assert sizing.system is not None
        assert sizing.ledger is not None
        assert sizing.place is not None
        self.sizing, self.units, self.frame = sizing, system, frame
        self.curve, self.ledger, self.place = sizing.system, sizing.ledger, sizing.place
        self.zero = (
            0.0 if self.curve.route.closed_loop else self.curve.route.start_level_m + self.curve.water.head_m(self.curve.route.supply_pressure_pa)
        )
        self.site = Site(self.place, self.zero)
        self.ends = self.site.ends([leg.end_elevation_m for leg in self.curve.route.legs], self.curve.route.closed_loop)
        self.shown = _shown(sizing, frame.others)
        self.length = units.shown_unit("length", system)
        self.flow = units.shown_unit("flow", system)
        self.y = Scale(*self._heights(), frame.bottom, frame.top)
        self.x = Scale(0.0, self._most_flow(), frame.chart, frame.right)
        self.section = self._section()

    def _heights(self) -> tuple[float, float]:
        elevations = [*self.ends, *self.site.levels()]
        top = max(1.0, self.ledger.total_head_m, *elevations)
        chosen = self.sizing.chosen
        shut_off = chosen.candidate.pump.curve.shut_off_head_m if chosen else 0.0
        top = max(top * 1.12, min(max(shut_off, self.curve.static_head_m) * 1.06, top * 1.9))
        before = range(self.curve.route.suction_legs)
        sinks = sum(
            line.head_m
            for line in self.ledger.lines
            if line.code == "drawdown" or (line.leg is not None and line.leg in before and line.code in ("pipe", "fittings"))
        )
        low = min(-sinks, *elevations)
        return low - 0.03 * (top - low), top

    def _most_flow(self) -> float:
        wanted = self.sizing.demand.needed_m3s if self.sizing.demand else 0.0
        ends = [one.pump.curve.last_flow_m3s for one in self.shown[:1]]
        most = max(1.35 * self.ledger.flow_m3s, 1.5 * wanted, *(min(end, 2.2 * max(wanted, self.ledger.flow_m3s)) for end in ends or [0.0]))
        size = self.flow.to_si(step(self.flow.from_si(most), 6)) - self.flow.to_si(0.0)
        return math.ceil(most / size - 1e-9) * size

    def _section(self) -> Section:
        inner, outer = self.sides()
        at = {"well": (inner + outer) / 2, "main": self.frame.left + 8, "tank": outer - 6, "loop": outer - 6}.get(
            self.place.shape, self.frame.left + self.frame.pit * 0.62
        )
        return section(
            self.curve, self.ledger, y=self.y, left=at, right=self.frame.split - 26, ends=self.ends, begin=self.site.begin, pump=self.site.pump, rim=self.site.ground
        )  # fmt: skip

    def sides(self) -> tuple[float, float]:
        return self.site.sides(self.frame.left, self.frame.pit)

    def head(self, value: float) -> str:
        return units.show(value, "length", self.units)

    def flow_text(self, value: float) -> str:
        return units.show(value, "flow", self.units)


def _shown(sizing: Sizing, others: int) -> list[Candidate]:
    """The chosen pump first, then the nearest rivals: a fit or two, and near misses."""
    found = [sizing.chosen.candidate] if sizing.chosen else []
    if sizing.match:
        rivals = [*sizing.match.fits[1:2], *sizing.match.near_misses[:1], *sizing.match.fits[:4], *sizing.match.near_misses[:2]]
        curves = {one.pump.curve.heads_m for one in found}  # twins of one curve are drawn once
        for one in rivals:
            if one.pump.curve.heads_m not in curves:
                curves.add(one.pump.curve.heads_m)
                found.append(one)
    return found[: 1 + others]


def picture(sizing: Sizing, system: System, frame: Frame = WIDE) -> Picture | None:
    """The picture of a sizing, or None while the run is not known."""
    if sizing.system is None or sizing.ledger is None or sizing.place is None:
        return None
    d = _Drawing(sizing, system, frame)
    return Picture(
        width=frame.width, height=frame.height, title=_title(d), description=_description(d),
        y_ticks=tuple(_y_ticks(d)), x_ticks=tuple(_x_ticks(d)),
        left=px(frame.left), right=px(frame.right), chart=px(frame.chart), split=px(frame.split),
        top=px(frame.top), bottom=px(frame.bottom),
        ground=_ground(d), pit=points(d.site.outline(d.y, *d.sides())), water=_water(d), marks=tuple(_marks(d)),
        legs=tuple(_legs(d)), curves=tuple(_curves(d)),
        needed_x=px(d.x.pixel(_needed(d))), needed_width=px(d.x.pixel(min(_needed(d) * 1.3, d.x.high)) - d.x.pixel(_needed(d))),
        plot_height=px(frame.bottom - frame.top),
        lift=(px(d.section.lift_top[0]), px(d.section.lift_foot[1]), px(d.section.lift_top[1])),
        pump_x=px(d.section.pump[0] - 7), pump_y=px(d.site.pump_box(d.y, d.section)[0]), pump_height=px(d.site.pump_box(d.y, d.section)[1]), outlet=(px(d.section.outlet[0]), px(d.section.outlet[1])),
        duty=_duty(d), static_tie=px(d.y.pixel(d.curve.static_head_m)), labels=tuple(_labels(d)), font=px(frame.font),
        y_unit=d.length.symbol, x_unit=d.flow.symbol,
    )  # fmt: skip


def _needed(d: _Drawing) -> float:
    return d.sizing.demand.needed_m3s if d.sizing.demand else 0.0


def _title(d: _Drawing) -> str:
    return f"Section of the site and the pump's curve on one height scale: {d.sizing.job.title or 'untitled job'}"


def _description(d: _Drawing) -> str:
    chosen = d.sizing.chosen
    lift = (
        f"The route asks for {d.head(d.ledger.total_head_m)} at {d.flow_text(d.ledger.flow_m3s)}, of which {d.head(d.curve.static_head_m)} is static."
    )
    return f"{lift} {chosen.candidate.pump.name} is drawn on it." if chosen else lift


def _y_ticks(d: _Drawing) -> list[Tick]:
    low, high = d.length.from_si(d.y.low), d.length.from_si(d.y.high)
    values = ticks(low, high, 9 if d.frame is WIDE else 6)
    decimals = 0 if all(value == int(value) for value in values) else 1
    return [Tick(px(d.y.pixel(d.length.to_si(value))), units.number_text(value, 0 if value == 0 else decimals), value == 0) for value in values]


def _x_ticks(d: _Drawing) -> list[Tick]:
    values = ticks(0.0, d.flow.from_si(d.x.high), 6 if d.frame is WIDE else 4)
    whole = all(value == int(value) for value in values)
    return [Tick(px(d.x.pixel(d.flow.to_si(value))), units.number_text(value, 0 if whole else 1)) for value in values]


def _ground(d: _Drawing) -> str:
    f = d.frame
    return points(d.site.earth(d.y, d.section, left=f.left, right=f.split - 4, base=f.bottom, sides=d.sides()))


def _water(d: _Drawing) -> Water:
    inner, outer = d.sides()
    top, floor = d.y.pixel(0.0), d.y.pixel(d.site.floor)
    return Water(px(inner), px(top), px(outer - inner), px(0.0 if d.place.shape == "main" else max(floor - top, 0)))


def _marks(d: _Drawing) -> list[Mark]:
    inner, outer = d.sides()
    found = []
    for level in d.place.levels:
        if level.code in ("start", "alarm", "inlet"):
            found.append(Mark(level.code, px(inner), px(inner + 0.3 * (outer - inner)), px(d.y.pixel(level.elevation_m - d.zero))))
    return found


def _legs(d: _Drawing) -> list[LegLine]:
    made = []
    for number, (entry, shape) in enumerate(zip(d.sizing.legs, d.section.legs, strict=True), 1):
        length = entry.length.shown() if entry.length else ""
        middle = ((shape.start[0] + shape.end[0]) / 2, (shape.start[1] + shape.end[1]) / 2)
        mark = f"translate({px(middle[0])} {px(middle[1])})" if shape.shortened else ""
        title = f"{run.leg_name(entry, number)}: {length} of {run.pipe_label(entry)}"
        made.append(LegLine(entry.id, points(shape.pipe), points([shape.grade_start, shape.grade_end]), title, mark))
    return made


def _clipped(d: _Drawing, flows: Sequence[float], heads: Sequence[float]) -> str:
    low = d.y.low
    return points(
        [(d.x.pixel(q), d.y.pixel(h)) for q, h in zip(flows, heads, strict=True) if low <= h <= d.y.high * 1.0001 and q <= d.x.high * 1.0001]
    )


def _curves(d: _Drawing) -> list[CurveLine]:
    flows = np.linspace(0.0, d.x.high, _CURVE_STEPS)
    made = []
    for rank, one in enumerate(d.shown):
        curve = one.pump.curve
        own = np.linspace(curve.flows_m3s[0], min(curve.last_flow_m3s, d.x.high), _CURVE_STEPS)
        role = "chosen" if rank == 0 and d.sizing.chosen else "other"
        made.append(CurveLine(role, _clipped(d, own.tolist(), curve.head_m(own).tolist()), one.pump.name))
    made.reverse()  # the chosen one on top
    made.append(CurveLine("system", _clipped(d, flows.tolist(), d.curve.head_m(flows).tolist()), "what this site asks for"))
    return made


def _duty(d: _Drawing) -> tuple[str, str] | None:
    if d.sizing.chosen is None or d.sizing.chosen.duty.point is None:
        return None
    return px(d.x.pixel(d.ledger.flow_m3s)), px(d.y.pixel(d.ledger.total_head_m))


def _labels(d: _Drawing) -> list[Label]:
    wide = d.frame is WIDE
    chart = labels.place(_chart_wishes(d), Box(d.frame.chart + 2, d.frame.top - 6, d.frame.right + 4, d.frame.bottom - 2), _curve_boxes(d))
    site = labels.place(_site_wishes(d, wide), Box(d.frame.left + 2, d.frame.top - 6, d.frame.split, d.frame.bottom - 2), _pipe_boxes(d))
    return [_label(placed) for placed in (*site, *chart)]


def _label(placed: Placed) -> Label:
    return Label(px(placed.x), px(placed.y), placed.anchor, placed.text, placed.role, px(placed.size))


def _chart_wishes(d: _Drawing) -> list[Wish]:
    size, wishes = d.frame.font, []
    duty = _duty(d)
    if duty:
        text = f"{d.flow_text(d.ledger.flow_m3s)} at {d.head(d.ledger.total_head_m)}"
        wishes.append(
            Wish(text, float(duty[0]), float(duty[1]), "duty", size, 0, ("above right", "right", "above left", "below right", "above"), must=True)
        )
    for rank, one in enumerate(d.shown):
        spots = _along(d, one)
        if spots:
            chosen = rank == 0 and d.sizing.chosen is not None
            sides = ("above right", "right", "below right", "below left", "left")
            wishes.append(Wish(one.pump.name, *spots[0], "chosen" if chosen else "other", size, 1 + rank, sides, must=chosen, more=tuple(spots[1:])))
    flow = d.x.high * 0.94
    head = min(d.curve.head_at(flow), d.y.high * 0.97)
    wishes.append(
        Wish("this site", d.x.pixel(flow), d.y.pixel(head), "system", size, 2, ("above left", "below right", "left", "below", "below left"))
    )
    if _needed(d):
        wishes.append(Wish("needed", d.x.pixel(_needed(d)) - 4, d.frame.bottom - 34, "needed", size, 3, ("right", "left")))
    return wishes


def _along(d: _Drawing, one: Candidate) -> list[tuple[float, float]]:
    """Places along a curve, inside the chart, where its name may stand."""
    curve = one.pump.curve
    flows = np.linspace(curve.flows_m3s[0], min(curve.last_flow_m3s, d.x.high), 13)[1:]
    heads = curve.head_m(flows)
    return [(d.x.pixel(q), d.y.pixel(h)) for q, h in zip(flows.tolist(), heads.tolist(), strict=True) if d.y.low < h <= d.y.high * 0.97]


def _curve_boxes(d: _Drawing) -> list[Box]:
    """Small boxes along the curves, so that no label sits on them."""
    boxes = []
    flows = np.linspace(0.0, d.x.high, 80)
    needed = d.x.pixel(_needed(d))
    boxes += [Box(needed - 1, y, needed + 1, y + 8) for y in range(int(d.frame.top), int(d.frame.bottom) - 60, 8)]
    for heads in (d.curve.head_m(flows), *(one.pump.curve.head_m(flows) for one in d.shown)):
        for flow, head in zip(flows.tolist(), heads.tolist(), strict=True):
            if math.isfinite(head):
                x, y = d.x.pixel(flow), d.y.pixel(head)
                boxes.append(Box(x - 2, y - 3, x + 2, y + 3))
    return boxes


_WATER_WORDS = {
    "pit": "water when the pump stops", "well": "standing water", "tank": "lowest water", "pond": "surface", "main": "pressure of the main", "loop": "water of the tub",
}  # fmt: skip


def _site_wishes(d: _Drawing, wide: bool) -> list[Wish]:
    size, s = d.frame.font, d.section
    lift = f"{'pump lifts' if d.sizing.chosen else 'to be lifted'} {d.head(d.ledger.total_head_m)}"
    wishes = [Wish(lift, s.lift_top[0], s.lift_top[1], "lift", size, 0, ("right", "above right", "above"), must=True)]
    wishes.append(
        Wish(
            "back in the tub" if d.curve.route.closed_loop else "outlet",
            s.outlet[0],
            s.outlet[1],
            "place",
            size,
            1,
            ("below left", "above left", "left", "above", "below"),
            must=d.curve.route.closed_loop,
        )
    )
    if wide:
        wishes += [_leg_wish(d, number) for number in range(len(s.legs))]
        _inner, outer = d.sides()
        wishes.append(Wish(_WATER_WORDS[d.place.shape], outer, d.y.pixel(0.0), "water", size - 1, 2, ("right",)))
        wishes.append(
            Wish(
                f"{d.head(d.curve.static_head_m)} at no flow",
                d.frame.split,
                d.y.pixel(d.curve.static_head_m),
                "static",
                size - 1,
                4,
                ("above left", "below left"),
            )
        )
    return wishes


def _leg_wish(d: _Drawing, index: int) -> Wish:
    shape, entry = d.section.legs[index], d.sizing.legs[index]
    length = entry.length.shown() if entry.length else ""
    middle = (shape.start[0] + shape.end[0]) / 2, (shape.start[1] + shape.end[1]) / 2
    return Wish(
        f"{run.leg_name(entry, index + 1)} {length}", *middle, "leg", d.frame.font - 1, 3, ("below right", "below", "right", "above left", "left")
    )


def _pipe_boxes(d: _Drawing) -> list[Box]:
    boxes = []
    lines = [pair for shape in d.section.legs for pair in pairwise(shape.pipe)] + [(shape.grade_start, shape.grade_end) for shape in d.section.legs]
    lines.append((d.section.lift_foot, d.section.lift_top))
    for (x1, y1), (x2, y2) in lines:
        count = max(int(max(abs(x2 - x1), abs(y2 - y1)) // 8), 1)
        for index in range(count + 1):
            x, y = x1 + (x2 - x1) * index / count, y1 + (y2 - y1) * index / count
            boxes.append(Box(x - 2, y - 2, x + 2, y + 2))
    return boxes
