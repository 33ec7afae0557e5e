"""Scales between data and pixels, both methods, and the ticks along them. No Django, no SVG."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

Point = tuple[float, float]  # pixels


@dataclass(frozen=True)
class Scale:
    """A straight scale.

    ``low`` sits at pixel ``start``, ``high`` at ``end`` (which may be the smaller pixel).
    """

    low: float
    high: float
    start: float
    end: float

    def pixel(self, value: float) -> float:
        """Where a value lies."""
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)

    def value(self, pixel: float) -> float:
        """The value at a pixel: the inverse of :meth:`pixel`."""
        return self.low + (pixel - self.start) / (self.end - self.start) * (self.high - self.low)


def step(span: float, most: int) -> float:
    """The smallest of 1, 2, 5 x 10^n that makes at most ``most`` steps of a span."""
    rough = span / most
    power = 10.0 ** math.floor(math.log10(rough))
    return next(factor * power for factor in (1, 2, 5, 10) if factor * power >= rough * (1 - 1e-9))


def ticks(low: float, high: float, most: int) -> list[float]:
    """Round values from low to high, at most about ``most`` of them."""
    size = step(high - low, most)
    first = math.ceil(low / size - 1e-9)
    return [round(index * size, 10) for index in range(first, math.floor(high / size + 1e-9) + 1)]


def px(value: float) -> str:
    """A pixel as SVG wants it, whatever the locale of the page: '12.5'."""
    text = f"{value:.1f}"
    return text.removesuffix(".0") if text != "-0.0" else "0"


def points(pairs: Iterable[Point]) -> str:
    """Pixel pairs as the points of a polyline."""
    return " ".join(f"{px(x)},{px(y)}" for x, y in pairs)
