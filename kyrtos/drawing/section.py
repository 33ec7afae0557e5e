"""The site in section: the pit, the legs, the ground and over them the grade line, in pixels."""

from __future__ import annotations

import math
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


def section(system: SystemCurve, ledger: Ledger, *, y: Scale, left: float, right: float, rim_m: float, pump_top_m: float) -> Section:
    """Lay out a section between two pixels.

    ``y`` maps heads over the water drawn from (its level while pumping) to pixels; ``rim_m`` and
    ``pump_top_m`` are such heads too.
    """
    route, start = system.route, system.route.start_level_m
    ends = [leg.end_elevation_m - start for leg in route.legs]
    begins = [pump_top_m, *ends[:-1]]
    runs = [flat_run_m(leg.length_m, end - begin) for leg, begin, end in zip(route.legs, begins, ends, strict=True)]
    wide = widths(runs, [leg.length_m for leg in route.legs], right - left)
    finest = max((w / run for w, run in zip(wide, runs, strict=True) if run > 1), default=1.0)
    losses = _losses(ledger, len(route.legs))
    shapes, x, energy = [], left, ledger.total_head_m
    for index, (begin, end) in enumerate(zip(begins, ends, strict=True)):
        after = _energy_after(energy, losses[index], end, index > ledger.governing_leg)
        shapes.append(LegShape(
            (x, y.pixel(begin)), (x + wide[index], y.pixel(end)), runs[index] < _STEEP * route.legs[index].length_m, (x, y.pixel(energy)), (x + wide[index], y.pixel(after)),
            runs[index] > 1 and wide[index] / runs[index] < 0.45 * finest,
        ))  # fmt: skip
        x, energy = x + wide[index], after
    pump = (left, y.pixel(pump_top_m))
    ground = _ground(shapes, y.pixel(rim_m), left)
    return Section(tuple(shapes), pump, (left, y.pixel(0.0)), (left, y.pixel(ledger.total_head_m)), ground, shapes[-1].end)


def _losses(ledger: Ledger, count: int) -> list[float]:
    losses = [0.0] * count
    for line in ledger.lines:
        if line.leg is not None and line.code in ("pipe", "fittings"):
            losses[line.leg] += line.head_m
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
