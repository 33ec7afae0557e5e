"""The site in section: the pit, the legs, the ground and over them the grade line, in pixels."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kyrtos.drawing.scale import Point, Scale
from sizing.hydraulics.system_curve import Ledger, Leg, SystemCurve

_STEEP = 0.6  # a leg that climbs four fifths of its length or more is drawn upright
_STEEP_IN_A_BUILDING = 0.9
_UPRIGHT_PX = 16.0
_MOST_DRAWN = 80  # points of a survey: more cannot be told apart


@dataclass(frozen=True)
class LegShape:
    """A leg on the page.

    Its pipe over the ground, its stretch of the grade line, and whether its length is drawn short.
    """

    pipe: tuple[Point, ...]
    grade: tuple[Point, ...]
    upright: bool
    shortened: bool

    @property
    def start(self) -> Point:
        """Where its pipe begins."""
        return self.pipe[0]

    @property
    def end(self) -> Point:
        """Where its pipe ends."""
        return self.pipe[-1]

    @property
    def middle(self) -> Point:
        """A point on its pipe, half its width along."""
        x = (self.start[0] + self.end[0]) / 2
        return (
            (x, height_at(self.pipe, x))
            if self.end[0] > self.start[0] and not self.upright
            else (self.end[0], (self.start[1] + self.end[1]) / 2)
        )


@dataclass(frozen=True)
class Section:
    legs: tuple[LegShape, ...]
    pump: Point
    lift_foot: Point
    lift_top: Point
    ground: tuple[Point, ...]
    outlet: Point


def flat_run_m(length_m: float, climb_m: float) -> float:
    """How far a leg goes on the flat [m]."""
    return math.sqrt(max(length_m**2 - climb_m**2, 0.0))


def widths(
    runs_m: list[float], lengths_m: list[float], room_px: float, steep: float = _STEEP
) -> list[float]:
    """Pixels for each leg.

    By the root of its run, so that a short leg stays visible beside a long one.
    """
    upright = [run < steep * length for run, length in zip(runs_m, lengths_m, strict=True)]
    left = room_px - _UPRIGHT_PX * sum(upright)
    weights = [
        0.0 if stands else math.sqrt(max(run, 0.5))
        for run, stands in zip(runs_m, upright, strict=True)
    ]
    total = sum(weights) or 1.0
    return [
        _UPRIGHT_PX if stands else max(left, 0.0) * weight / total
        for weight, stands in zip(weights, upright, strict=True)
    ]


def section(
    system: SystemCurve,
    ledger: Ledger,
    *,
    y: Scale,
    left: float,
    right: float,
    ends: Sequence[float],
    begin: float,
    pump: float,
    rim: float,
    building: bool = False,
) -> Section:
    """Lay out a section between two pixels.

    ``y`` maps heads over the water's energy at the source to pixels. All levels are such heads:
    ``ends`` of the legs, ``begin`` where the first leg starts, ``pump`` where the pump stands,
    ``rim`` of the ground by the source. In a ``building`` what climbs is drawn upright sooner:
    risers stand.
    """
    route = system.route
    begins = [begin, *ends[:-1]]
    if route.suction_legs:
        begins[route.suction_legs] = pump
    runs = [
        flat_run_m(leg.length_m, end - start)
        for leg, start, end in zip(route.legs, begins, ends, strict=True)
    ]
    steep = _STEEP_IN_A_BUILDING if building else _STEEP
    wide = widths(runs, [leg.length_m for leg in route.legs], right - left, steep)
    finest = max((w / run for w, run in zip(wide, runs, strict=True) if run > 1), default=1.0)
    losses = _losses(ledger, len(route.legs))
    zero_m = route.start_level_m + system.water.head_m(route.supply_pressure_pa)
    lines = [
        _line(leg, start, end, zero_m, route.closed_loop)
        for leg, start, end in zip(route.legs, begins, ends, strict=True)
    ]
    grades = _grade(lines, losses, ledger, route.suction_legs, _wanted_m(system))
    shapes, x, lift = [], left, (left, 0.0)
    for index, (along, grade) in enumerate(zip(lines, grades, strict=True)):
        if index == route.suction_legs:
            lift = (x, grade[0] - ledger.total_head_m)
        upright = runs[index] < steep * route.legs[index].length_m
        pipe = [(x + share * wide[index], y.pixel(height)) for share, height in along]
        if upright:  # it steps aside first, so that it stands clear of the pump's lift
            pipe.insert(1, (pipe[-1][0], pipe[0][1]))
        heights = tuple(
            (x + share * wide[index], y.pixel(height))
            for (share, _), height in zip(along, grade, strict=True)
        )
        shapes.append(
            LegShape(
                tuple(pipe),
                heights,
                upright,
                runs[index] > 1 and wide[index] / runs[index] < 0.45 * finest,
            )
        )
        x += wide[index]
    foot = (lift[0], y.pixel(lift[1]))
    top = (lift[0], y.pixel(lift[1] + ledger.total_head_m))
    return Section(
        legs=tuple(shapes),
        pump=(lift[0], y.pixel(pump)),
        lift_foot=foot,
        lift_top=top,
        ground=_ground(shapes, y.pixel(rim), left),
        outlet=shapes[-1].end,
    )


Line = list[
    tuple[float, float]
]  # (share of the leg's length, head over the water's energy at the source)


def _wanted_m(system: SystemCurve) -> float:
    return (
        0.0 if system.route.closed_loop else system.water.head_m(system.route.delivery_pressure_pa)
    )


def _line(leg: Leg, start: float, end: float, zero_m: float, closed_loop: bool) -> Line:
    """The pipe of a leg over its ground, thinned to what can be seen.

    Its highest and lowest points are kept.
    """
    if closed_loop or not leg.tops:
        return [(0.0, start), (1.0, end)]
    points = [(top.share, top.elevation_m - zero_m) for top in leg.tops]
    every = max(len(points) // _MOST_DRAWN, 1)
    kept = {
        *points[::every],
        max(points, key=lambda point: point[1]),
        min(points, key=lambda point: point[1]),
    }
    return [(0.0, start), *sorted(kept), (1.0, end)]


def _grade(
    lines: list[Line], losses: list[float], ledger: Ledger, suction_legs: int, wanted_m: float
) -> list[list[float]]:
    """The water's energy at every point of every leg, as heads over its energy at the source.

    Before the pump it sinks by what is lost. Behind it, it is what the most demanding point still
    ahead asks for: up to the governing point that falls leg by leg; beyond, the water runs down by
    itself, filling every dip.
    """
    gone, lost = -_drawdown(ledger), []
    for line, loss in zip(lines, losses, strict=True):
        lost.append([gone - share * loss for share, _ in line])
        gone -= loss
    if ledger.lines and ledger.lines[0].code != "static":  # a closed loop: nothing but losses
        lift = ledger.total_head_m
        return [
            [level + (lift if index >= suction_legs else 0.0) for level in levels]
            for index, levels in enumerate(lost)
        ]
    found, ahead = [list(levels) for levels in lost], -np.inf
    for index in range(len(lines) - 1, suction_legs - 1, -1):
        for at in range(len(lines[index]) - 1, -1, -1):
            asks = lines[index][at][1] + (
                wanted_m if index == len(lines) - 1 and at == len(lines[index]) - 1 else 0.0
            )
            ahead = max(
                ahead, asks - lost[index][at]
            )  # less what was lost up to there: comparable along the way
            found[index][at] = ahead + lost[index][at]
    top = lost[suction_legs][0] + ledger.total_head_m
    for index in range(suction_legs, len(lines)):
        found[index] = [min(level, top) for level in found[index]]
    found[suction_legs][0] = top
    return found


def height_at(line: Sequence[Point], x: float) -> float:
    """Height [px] of a line at a place along the section."""
    for (x1, y1), (x2, y2) in pairwise(line):
        if x1 <= x <= x2 and x2 > x1:
            return y1 + (y2 - y1) * (x - x1) / (x2 - x1)
    return line[-1][1]


def _drawdown(ledger: Ledger) -> float:
    """How far the water drawn from sinks below its standing level."""
    return sum(line.head_m for line in ledger.lines if line.code == "drawdown")


def _losses(ledger: Ledger, count: int) -> list[float]:
    losses = [0.0] * count
    for line in ledger.lines:
        if line.code in ("pipe", "fittings", "device"):
            losses[-1 if line.leg is None else line.leg] += line.head_m
    return losses


def _ground(shapes: list[LegShape], rim: float, left: float) -> tuple[Point, ...]:
    """The surface of the ground from the pit to the outlet.

    Level with the rim up to the first leg's end.
    """
    first = shapes[0]
    surface: list[Point] = [(left, rim), (first.end[0], rim)]
    for shape in shapes:
        surface += [(x, min(y, rim) if shape is first else y) for x, y in shape.pipe[1:]]
    return tuple(surface)
