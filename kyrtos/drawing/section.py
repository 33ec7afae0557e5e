"""The site in section: the pit, the legs, the ground and over them the grade line, in pixels."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from kyrtos.drawing.scale import Scale
from sizing.pipework.route import Ledger, SystemCurve

Point = tuple[float, float]
_STEEP = 0.6  # a leg that climbs four fifths of its length or more is drawn upright
_UPRIGHT_PX = 16.0


@dataclass(frozen=True)
class LegShape:
    """A leg on the page: its pipe, its stretch of the grade line, and whether its length is drawn short."""

    start: Point
    end: Point
    upright: bool
    grade_start: Point
    grade_end: Point
    shortened: bool

    @property
    def pipe(self) -> list[Point]:
        """The pipe's line; an upright leg steps aside first, so that it stands clear of the pump's lift."""
        return [self.start, (self.end[0], self.start[1]), self.end] if self.upright else [self.start, self.end]


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


def widths(runs_m: list[float], lengths_m: list[float], room_px: float) -> list[float]:
    """Pixels for each leg: by the root of its run, so that a short leg stays visible beside a long one."""
    upright = [run < _STEEP * length for run, length in zip(runs_m, lengths_m, strict=True)]
    left = room_px - _UPRIGHT_PX * sum(upright)
    weights = [0.0 if stands else math.sqrt(max(run, 0.5)) for run, stands in zip(runs_m, upright, strict=True)]
    total = sum(weights) or 1.0
    return [_UPRIGHT_PX if stands else max(left, 0.0) * weight / total for weight, stands in zip(weights, upright, strict=True)]


def section(
    system: SystemCurve, ledger: Ledger, *, y: Scale, left: float, right: float, ends: Sequence[float], begin: float, pump: float, rim: float
) -> Section:
    """Lay out a section between two pixels.

    ``y`` maps heads over the water's energy at the source to pixels. All levels are such heads: ``ends`` of the legs, ``begin`` where
    the first leg starts, ``pump`` where the pump stands, ``rim`` of the ground by the source.
    """
    route = system.route
    begins = [begin, *ends[:-1]]
    if route.suction_legs:
        begins[route.suction_legs] = pump
    runs = [flat_run_m(leg.length_m, end - start) for leg, start, end in zip(route.legs, begins, ends, strict=True)]
    wide = widths(runs, [leg.length_m for leg in route.legs], right - left)
    finest = max((w / run for w, run in zip(wide, runs, strict=True) if run > 1), default=1.0)
    losses = _losses(ledger, len(route.legs))
    shapes, x, energy, lift = [], left, -_drawdown(ledger), (left, 0.0)
    for index, (start, end) in enumerate(zip(begins, ends, strict=True)):
        if index == route.suction_legs:
            lift, energy = (x, energy), energy + ledger.total_head_m
        after = _energy_after(energy, losses[index], end, index > ledger.governing_leg)
        shapes.append(LegShape(
            (x, y.pixel(start)), (x + wide[index], y.pixel(end)), runs[index] < _STEEP * route.legs[index].length_m, (x, y.pixel(energy)), (x + wide[index], y.pixel(after)),
            runs[index] > 1 and wide[index] / runs[index] < 0.45 * finest,
        ))  # fmt: skip
        x, energy = x + wide[index], after
    foot = (lift[0], y.pixel(lift[1]))
    top = (lift[0], y.pixel(lift[1] + ledger.total_head_m))
    return Section(tuple(shapes), (lift[0], y.pixel(pump)), foot, top, _ground(shapes, y.pixel(rim), left), shapes[-1].end)


def _drawdown(ledger: Ledger) -> float:
    """How far the water drawn from sinks below its standing level."""
    return sum(line.head_m for line in ledger.lines if line.code == "drawdown")


def _losses(ledger: Ledger, count: int) -> list[float]:
    losses = [0.0] * count
    for line in ledger.lines:
        if line.leg is not None and line.code in ("pipe", "fittings"):
            losses[line.leg] += line.head_m
        if line.code == "device":
            losses[-1] += line.head_m
    return losses


def _energy_after(energy: float, loss: float, end: float, past_the_top: bool) -> float:
    """Energy at a leg's end; beyond the governing point the water runs down by itself, along the pipe."""
    return min(energy, end) if past_the_top else energy - loss


def _ground(shapes: list[LegShape], rim: float, left: float) -> tuple[Point, ...]:
    """The surface of the ground from the pit to the outlet: level with the rim up to the first leg's end."""
    first = shapes[0]
    surface: list[Point] = [(left, rim), (first.end[0], rim)]
    surface += [(shape.end[0], min(shape.end[1], rim) if shape is first else shape.end[1]) for shape in shapes]
    return tuple(surface)
