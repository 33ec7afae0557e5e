"""Placing labels so that they cover neither each other nor what must stay clear. Pure geometry."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

# of the font size; a little more than the font's mean, so that boxes are never too small
_WIDTH_PER_LETTER = 0.56
_LINE = 1.25

Anchor = Literal["start", "middle", "end"]


@dataclass(frozen=True)
class Box:
    left: float
    top: float
    right: float
    bottom: float

    def overlaps(self, other: Box) -> bool:
        """Whether two boxes share any area."""
        return (
            self.left < other.right
            and other.left < self.right
            and self.top < other.bottom
            and other.top < self.bottom
        )

    def within(self, other: Box) -> bool:
        """Whether this box lies wholly in the other."""
        return (
            self.left >= other.left
            and self.right <= other.right
            and self.top >= other.top
            and self.bottom <= other.bottom
        )


@dataclass(frozen=True)
class Wish:
    """A label that wants to stand near a point.

    Lower ``rank`` is placed first and may be dropped last.
    """

    text: str
    x: float
    y: float
    role: str
    size: float = 12.0
    rank: int = 1
    sides: tuple[str, ...] = ("right", "left", "above", "below")
    must: bool = False
    furthest: float = 50.0  # how far off the point it may move
    more: tuple[tuple[float, float], ...] = ()  # further points that the label may stand near


@dataclass(frozen=True)
class Placed:
    text: str
    x: float
    y: float
    anchor: Anchor
    role: str
    box: Box
    size: float


def width(text: str, size: float) -> float:
    """Estimated width of a text [px]."""
    return len(text) * size * _WIDTH_PER_LETTER


# Where a label stands by its side: x and y off the point, how they grow when it moves away, whether
# half its height counts, its anchor.
_SIDES: dict[str, tuple[float, float, float, float, float, Anchor]] = {
    "right": (7, 1, 0, 0, 0, "start"),
    "left": (-7, -1, 0, 0, 0, "end"),
    "above": (0, 0, -9, -1, -0.5, "middle"),
    "below": (0, 0, 9, 1, 0.5, "middle"),
    "above right": (6, 0, -7, -1, -0.5, "start"),
    "below right": (6, 0, 7, 1, 0.5, "start"),
    "above left": (-6, 0, -7, -1, -0.5, "end"),
    "below left": (-6, 0, 7, 1, 0.5, "end"),
}
_LEFT_OF: dict[Anchor, float] = {"start": 0.0, "middle": 0.5, "end": 1.0}


def _spot(wish: Wish, x: float, y: float, side: str, away: float) -> Placed:
    wide, high = width(wish.text, wish.size), wish.size * _LINE
    x_off, x_away, y_off, y_away, half, anchor = _SIDES[side]
    x, y = x + x_off + x_away * away, y + y_off + y_away * away + half * high
    left = x - _LEFT_OF[anchor] * wide
    return Placed(
        text=wish.text,
        x=x,
        y=y + wish.size * 0.35,
        anchor=anchor,
        role=wish.role,
        box=Box(left, y - high / 2, left + wide, y + high / 2),
        size=wish.size,
    )


def place(wishes: Sequence[Wish], bounds: Box, taken: Sequence[Box] = ()) -> list[Placed]:
    """Place as many labels as go without overlap, the important ones first.

    Each tries its sides close by and then a little further off. One that finds no room is left out,
    unless it ``must`` be there: then it stands where it covers fewest lines. No label ever covers
    another.
    """
    fixed = np.array([(box.left, box.top, box.right, box.bottom) for box in taken]).reshape(-1, 4)
    placed: list[Placed] = []

    def covers(spot: Placed) -> int:
        box = spot.box
        hit = (
            (fixed[:, 0] < box.right)
            & (box.left < fixed[:, 2])
            & (fixed[:, 1] < box.bottom)
            & (box.top < fixed[:, 3])
        )
        return int(hit.sum())

    def room(spot: Placed) -> bool:
        return spot.box.within(bounds) and not any(spot.box.overlaps(other.box) for other in placed)

    for wish in sorted(wishes, key=lambda one: one.rank):
        inside = (spot for spot in _spots(wish) if room(spot))
        found = next((spot for spot in inside if not covers(spot)), None)
        if found is None and wish.must:
            inside = (
                spot
                for near in _spots(wish)
                for spot in (near, _pushed_in(near, bounds))
                if room(spot)
            )
            found = min(inside, key=covers, default=None)
        if found is not None:
            placed.append(found)
    return placed


def _pushed_in(spot: Placed, bounds: Box) -> Placed:
    """The label moved sideways and up or down until it lies within.

    One that is wider than the bounds stays outside.
    """
    box = spot.box
    dx = max(bounds.left - box.left, 0.0) + min(bounds.right - box.right, 0.0)
    dy = max(bounds.top - box.top, 0.0) + min(bounds.bottom - box.bottom, 0.0)
    moved = Box(box.left + dx, box.top + dy, box.right + dx, box.bottom + dy)
    return replace(spot, x=spot.x + dx, y=spot.y + dy, box=moved)


def _spots(wish: Wish) -> Iterator[Placed]:
    """Every place that a label may take, the best first."""
    near = ((wish.x, wish.y), *wish.more)
    return (
        _spot(wish, x, y, side, away)
        for away in (0.0, 8.0, 18.0, 32.0, 50.0)
        if away <= wish.furthest
        for x, y in near
        for side in wish.sides
    )
