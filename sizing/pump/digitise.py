"""A printed curve from a picture.

Two marked points on each axis, then points clicked along the curve.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from sizing.base.errors import SizingError

Point = tuple[float, float]  # pixels, from the upper left corner
FEWEST_POINTS = 4
_NEXT_TO_NOTHING = 1e-9


class TraceError(SizingError):
    """Marks that give no axes, or points that give no curve."""


@dataclass(frozen=True)
class Axis:
    """Two points marked on an axis with the values printed there; ``log`` for a logarithmic one."""

    first: Point
    second: Point
    first_value: float
    second_value: float
    log: bool = False

    def __post_init__(self) -> None:
        if math.dist(self.first, self.second) < 5.0:
            raise TraceError(
                "the two marks of an axis lie almost on each other: take the first and the last"
                " printed value"
            )
        if self.first_value == self.second_value:
            raise TraceError("both marks of an axis have the same value")
        if self.log and min(self.first_value, self.second_value) <= 0:
            raise TraceError("a logarithmic axis has no zero and nothing below it")

    def value(self, along: float) -> float:
        """The value at a share of the way from the first mark to the second; beyond them too."""
        low, high = (
            math.log(one) if self.log else one for one in (self.first_value, self.second_value)
        )
        found = low + along * (high - low)
        return math.exp(found) if self.log else found

    def along(self, value: float) -> float:
        """The inverse of :meth:`value`."""
        low, high = (
            math.log(one) if self.log else one for one in (self.first_value, self.second_value)
        )
        return ((math.log(max(value, 1e-300)) if self.log else value) - low) / (high - low)


@dataclass(frozen=True)
class Axes:
    """Both axes of a chart. They need be neither level nor square.

    A tilted or sheared scan is straightened by them.
    """

    x: Axis
    y: Axis

    def _frame(self) -> tuple[np.ndarray, np.ndarray]:
        """Origin (where the axes' lines meet) and the two directions as columns."""
        a, b = np.array(self.x.first), np.array(self.y.first)
        u, v = np.array(self.x.second) - a, np.array(self.y.second) - b
        directions = np.column_stack([u, v])
        if (
            abs(np.linalg.det(directions))
            < _NEXT_TO_NOTHING * np.linalg.norm(u) * np.linalg.norm(v)
            or abs(np.linalg.det(directions)) < 1.0
        ):
            raise TraceError("the axes run the same way: mark two points on each of them")
        # a + s u = b + t v: where the lines meet, as shares of the way along each
        s, t = np.linalg.solve(np.column_stack([u, -v]), b - a)
        return np.array([s, t]), directions

    def read(self, point: Point) -> tuple[float, float]:
        """The values at a pixel.

        Raises
        ------
        TraceError
            Axes that run the same way.
        """
        (s, t), directions = self._frame()
        meeting = np.array(self.x.first) + s * directions[:, 0]
        along = np.linalg.solve(directions, np.array(point) - meeting)
        return self.x.value(float(along[0] + s)), self.y.value(float(along[1] + t))

    def pixel(self, x_value: float, y_value: float) -> Point:
        """The pixel of two values: the inverse of :meth:`read`."""
        (s, t), directions = self._frame()
        meeting = np.array(self.x.first) + s * directions[:, 0]
        found = meeting + directions @ np.array(
            [self.x.along(x_value) - s, self.y.along(y_value) - t]
        )
        return float(found[0]), float(found[1])


@dataclass(frozen=True)
class Traced:
    """A curve read off a picture.

    Its points in rising order, and by how much each is off the curve through all others.
    """

    points: tuple[tuple[float, float], ...]
    worst_off: float  # share of the highest value

    def through(self, count: int = 60) -> list[tuple[float, float]]:
        """The fitted curve at so many places, for drawing it over the picture."""
        xs, ys = zip(*self.points, strict=True)
        at = np.linspace(xs[0], xs[-1], count)
        return list(
            zip(at.tolist(), scipy.interpolate.PchipInterpolator(xs, ys)(at).tolist(), strict=True)
        )


def trace(axes: Axes, clicked: Sequence[Point]) -> Traced:
    """The values of clicked points, in rising order, and how well they agree with each other.

    Each inner point is left out in turn, and compared with the shape-preserving curve through the
    rest: a slip of the hand stands out.

    Raises
    ------
    TraceError
        Too few points, or two at the same place along the axis.
    """
    if len(clicked) < FEWEST_POINTS:
        raise TraceError(
            f"{len(clicked)} point{'s' * (len(clicked) != 1)}; a curve needs {FEWEST_POINTS} at"
            " least, and more where it bends"
        )
    found = sorted(axes.read(point) for point in clicked)
    xs, ys = (np.array(column) for column in zip(*found, strict=True))
    span = xs[-1] - xs[0]
    if np.any(np.diff(xs) <= 1e-6 * max(span, 1e-12)):
        raise TraceError("two points lie one over the other: take one of them away")
    off = 0.0
    for index in range(1, len(xs) - 1):
        rest = np.arange(len(xs)) != index
        if rest.sum() >= 2:
            off = max(
                off,
                abs(
                    float(scipy.interpolate.PchipInterpolator(xs[rest], ys[rest])(xs[index]))
                    - ys[index]
                ),
            )
    return Traced(tuple(found), off / max(float(np.max(np.abs(ys))), 1e-12))
