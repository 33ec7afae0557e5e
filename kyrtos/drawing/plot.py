"""Axes and plot, as every chart has them: ticks, grid, lines and dots in pixels, as text."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from kyrtos.drawing.labels import Placed
from kyrtos.drawing.scale import Point, Scale, points, px, ticks
from sizing.base import units

_EDGE = 1.0001  # a last point on the rim is not lost to rounding


@dataclass(frozen=True)
class Tick:
    at: str
    text: str
    zero: bool = False


@dataclass(frozen=True)
class Axis:
    """A scale in SI with round ticks in the unit in which it is read."""

    scale: Scale
    ticks: tuple[Tick, ...]
    unit: str


def axis(scale: Scale, unit: units.Unit, most: int, datum: bool = False) -> Axis:
    """An axis of at most about ``most`` ticks; on one with a ``datum`` the zero is marked."""
    values = ticks(unit.from_si(scale.low), unit.from_si(scale.high), most)
    decimals = 0 if all(value == int(value) for value in values) else 1
    return Axis(
        scale,
        tuple(
            Tick(
                px(scale.pixel(unit.to_si(value))),
                units.number_text(value, 0 if datum and value == 0 else decimals),
                datum and value == 0,
            )
            for value in values
        ),
        unit.symbol,
    )


@dataclass(frozen=True)
class Plot:
    """Where a chart lies on its page, with its axes.

    ``left`` to ``right`` is how far the lines of the grid across go.
    """

    left: str
    right: str
    top: str
    bottom: str
    x: Axis
    y: Axis | None = None  # a chart of rows has none

    def pixels(self, flows_m3s: Iterable[float], heads_m: Iterable[float]) -> list[Point]:
        """The points of a curve that lie within the plot."""
        assert self.y is not None
        x, y = self.x.scale, self.y.scale
        return [
            (x.pixel(flow), y.pixel(head))
            for flow, head in zip(flows_m3s, heads_m, strict=True)
            if y.low <= head <= y.high * _EDGE and flow <= x.high * _EDGE
        ]

    def line(self, flows_m3s: Iterable[float], heads_m: Iterable[float]) -> str:
        """A curve, cut off at the edges, as the points of a polyline."""
        return points(self.pixels(flows_m3s, heads_m))

    def dot(self, flow_m3s: float, head_m: float) -> tuple[str, str]:
        """One point."""
        assert self.y is not None
        return px(self.x.scale.pixel(flow_m3s)), px(self.y.scale.pixel(head_m))


def plot(x: Axis, y: Axis | None, top: float, bottom: float, left: float | None = None) -> Plot:
    """A plot as wide as its axis across, unless ``left`` says where its grid begins."""
    start = x.scale.start if left is None else left
    return Plot(left=px(start), right=px(x.scale.end), top=px(top), bottom=px(bottom), x=x, y=y)


@dataclass(frozen=True)
class Label:
    x: str
    y: str
    anchor: str
    text: str
    role: str
    size: str


def label(placed: Placed) -> Label:
    """A label at the place that was found for it."""
    return Label(
        x=px(placed.x),
        y=px(placed.y),
        anchor=placed.anchor,
        text=placed.text,
        role=placed.role,
        size=px(placed.size),
    )
