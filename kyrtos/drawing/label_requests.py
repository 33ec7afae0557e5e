"""The labels of the picture: which are wanted, near what, and what they must not cover."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from kyrtos.drawing import labels
from kyrtos.drawing.labels import Box, Placed, Wish
from kyrtos.drawing.layout import WIDE, Drawing, duty_px, needed_m3s, tie_px
from sizing.document import build_route
from sizing.selection.match import Candidate


def placed(d: Drawing) -> list[Placed]:
    """Every label of the picture, where it stands."""
    wide = d.frame is WIDE
    chart = labels.place(
        _chart_wishes(d),
        Box(d.frame.chart + 2, d.frame.top - 6, d.frame.right + 4, d.frame.bottom - 2),
        _curve_boxes(d),
    )
    site = labels.place(
        _site_wishes(d, wide),
        Box(d.frame.left + 2, d.frame.top - 6, d.frame.split, d.frame.bottom - 2),
        _pipe_boxes(d),
    )
    return [*site, *chart]


def _chart_wishes(d: Drawing) -> list[Wish]:
    curves = (_curve_wish(d, rank, one) for rank, one in enumerate(d.shown))
    found = [_duty_wish(d), *curves, _site_curve_wish(d), _needed_wish(d)]
    return [wish for wish in found if wish is not None]


def _duty_wish(d: Drawing) -> Wish | None:
    duty = duty_px(d)
    if duty is None:
        return None
    point = d.sizing.chosen and d.sizing.chosen.operating_point.point
    head_m = point.head_m if point else d.ledger.total_head_m
    text = f"{d.flow_text(d.ledger.flow_m3s)} at {d.head(head_m)}"
    sides = ("above right", "right", "above left", "below right", "above")
    return Wish(text, float(duty[0]), float(duty[1]), "duty", d.frame.font, 0, sides, must=True)


def _lift_word(d: Drawing) -> str:
    chosen = d.sizing.chosen
    if chosen is None:
        return "to be lifted"
    return "the run asks" if chosen.candidate.excess_m else "pump lifts"


def _curve_wish(d: Drawing, rank: int, one: Candidate) -> Wish | None:
    spots = _along(d, one)
    if not spots:
        return None
    chosen = rank == 0 and d.sizing.chosen is not None
    return Wish(
        one.pump.name,
        *spots[0],
        "chosen" if chosen else "other",
        d.frame.font,
        1 + rank,
        ("above right", "right", "below right", "below left", "left"),
        must=chosen,
        more=tuple(spots[1:]),
    )


def _site_curve_wish(d: Drawing) -> Wish:
    flow = d.x.high * 0.94
    head = min(d.curve.head_at(flow), d.y.high * 0.97)
    sides = ("above left", "below right", "left", "below", "below left")
    return Wish("this site", d.x.pixel(flow), d.y.pixel(head), "system", d.frame.font, 2, sides)


def _needed_wish(d: Drawing) -> Wish | None:
    needed = needed_m3s(d)
    if not needed:
        return None
    x, y = d.x.pixel(needed) - 4, d.frame.bottom - 34
    return Wish("needed", x, y, "needed", d.frame.font, 3, ("right", "left"))


def _along(d: Drawing, one: Candidate) -> list[tuple[float, float]]:
    """Places along a curve, inside the chart, where its name may stand."""
    curve = one.pump.curve
    flows = np.linspace(curve.flows_m3s[0], min(curve.last_flow_m3s, d.x.high), 13)[1:]
    heads = curve.head_m(flows)
    return [
        (d.x.pixel(q), d.y.pixel(h))
        for q, h in zip(flows.tolist(), heads.tolist(), strict=True)
        if d.y.low < h <= d.y.high * 0.97
    ]


def _curve_boxes(d: Drawing) -> list[Box]:
    """Small boxes along the curves, so that no label sits on them."""
    boxes = []
    flows = np.linspace(0.0, d.x.high, 80)
    needed = d.x.pixel(needed_m3s(d))
    boxes += [
        Box(needed - 1, y, needed + 1, y + 8)
        for y in range(int(d.frame.top), int(d.frame.bottom) - 60, 8)
    ]
    water = d.y.pixel(0.0)
    boxes += [
        Box(x, water - 2, x + 8, water + 2)
        for x in range(int(d.frame.chart), int(d.frame.right), 8)
    ]
    for heads in (d.curve.head_m(flows), *(one.pump.curve.head_m(flows) for one in d.shown)):
        for flow, head in zip(flows.tolist(), heads.tolist(), strict=True):
            if math.isfinite(head):
                x, y = d.x.pixel(flow), d.y.pixel(head)
                boxes.append(Box(x - 2, y - 3, x + 2, y + 3))
    return boxes


_WATER_WORDS = {
    "pit": "water when the pump stops",
    "well": "standing water",
    "tank": "lowest water",
    "pond": "surface",
    "main": "pressure of the main",
    "loop": "water of the tub",
}


def _site_wishes(d: Drawing, wide: bool) -> list[Wish]:
    size, s = d.frame.font, d.section
    lift = f"{_lift_word(d)} {d.head(d.ledger.total_head_m)}"
    wishes = [
        Wish(
            text=lift,
            x=s.lift_top[0],
            y=s.lift_top[1],
            role="lift",
            size=size,
            rank=0,
            sides=("right", "above right", "above"),
            must=True,
        )
    ]
    wishes.append(
        Wish(
            text="back in the tub" if d.curve.route.closed_loop else "outlet",
            x=s.outlet[0],
            y=s.outlet[1],
            role="place",
            size=size,
            rank=1,
            sides=("below left", "above left", "left", "above", "below"),
            must=d.curve.route.closed_loop,
        )
    )
    if wide:
        wishes += [_leg_wish(d, number) for number in range(len(s.legs))]
        _inner, outer = d.sides()
        wishes.append(
            Wish(
                text=_WATER_WORDS[d.place.shape],
                x=outer,
                y=d.y.pixel(0.0),
                role="water",
                size=size - 1,
                rank=2,
                sides=("above right", "below right", "right"),
                furthest=8.0,
            )
        )
        wishes.append(
            Wish(
                text=f"{d.head(d.curve.static_head_m)} at no flow",
                x=d.frame.split,
                y=d.y.pixel(d.curve.static_head_m),
                role="static",
                size=size - 1,
                rank=4,
                sides=("above left", "below left"),
            )
        )
    return wishes


def _leg_wish(d: Drawing, index: int) -> Wish:
    shape, entry = d.section.legs[index], d.sizing.legs[index]
    middle = shape.middle
    return Wish(
        f"{build_route.leg_name(entry, index + 1)} {build_route.length_label(entry)}",
        *middle,
        "leg",
        d.frame.font - 1,
        3,
        ("below right", "below", "right", "above left", "left"),
    )


def _pipe_boxes(d: Drawing) -> list[Box]:
    boxes = []
    lines = [
        pair
        for shape in d.section.legs
        for line in (shape.pipe, shape.grade)
        for pair in pairwise(line)
    ]
    lines.append((d.section.lift_foot, d.section.lift_top))
    static_y, right = d.y.pixel(d.curve.static_head_m), d.frame.split
    lines.append(((d.section.outlet[0], static_y), (right, static_y)))
    left = d.section.pump[0]
    flat = [
        d.y.pixel(0.0),
        *(
            d.y.pixel(level - d.zero)
            for level in d.place.storeys_m
            if d.y.low <= level - d.zero <= d.y.high
        ),
    ]
    lines += [((left, y), (right, y)) for y in flat]
    duty = tie_px(d)
    # the dotted tie is level with the duty, above the lift's head where drawdown sets its foot
    # below zero
    if duty:
        lines.append(((d.section.lift_top[0], float(duty[1])), (right, float(duty[1]))))
    for (x1, y1), (x2, y2) in lines:
        count = max(int(max(abs(x2 - x1), abs(y2 - y1)) // 8), 1)
        for index in range(count + 1):
            x, y = x1 + (x2 - x1) * index / count, y1 + (y2 - y1) * index / count
            boxes.append(Box(x - 2, y - 2, x + 2, y + 2))
    return boxes
