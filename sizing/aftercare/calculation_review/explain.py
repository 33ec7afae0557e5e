"""Which slip, or which two, explain a figure that somebody got.

In this order: right within 3 %; the single slip whose figure is nearest, within 2 %; the two slips
whose joint figure is nearest, within 2 %; else none. Where it is known how the figure was rounded,
what explains it within that goes before what only comes near, two slips that give it before one
that nearly does; of a power three are tried too; and what else explains it as well is named.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from sizing.aftercare.calculation_review.hand_sum import Figures, HandSum, Steps, right
from sizing.aftercare.calculation_review.more_slips import MORE_SLIPS
from sizing.aftercare.calculation_review.slip import Slip
from sizing.aftercare.calculation_review.slips import SLIPS
from sizing.base.errors import SizingError

RIGHT, NEAR = 0.03, 0.02
_TABLES = 0.003  # read off tables and constants rounded on the way
_OF_POWERS = ("hydraulic_power", "shaft_power", "input_power")
_NUMBER = re.compile(r"\d+(?:\.(\d*))?")
_Sets = list[tuple[float, tuple[Slip, ...], float]]


@dataclass(frozen=True)
class Explained:
    """A figure and what explains it: no slips and ``is_right``, one or two slips, or nothing."""

    is_right: bool
    slips: tuple[Slip, ...]
    figure: float  # what the explanation gives
    right_figure: float
    exactly: bool = True  # within rounding; else it only comes near
    rivals: tuple[tuple[Slip, ...], ...] = ()  # what gives the figure as well

    @property
    def code(self) -> str:
        """'right', the slips' codes parted by '+', or 'none'."""
        if self.is_right:
            return "right"
        return "+".join(sorted(one.code for one in self.slips)) or "none"


def possible(facts: HandSum) -> tuple[Slip, ...]:
    """The slips that can be made in a sum."""
    return tuple(one for one in (*SLIPS, *MORE_SLIPS) if one.possible(facts))


def slipped(steps: Steps, slips: tuple[Slip, ...]) -> Figures | None:
    """What a sum comes to with some slips; None where by them nothing runs."""
    for one in slips:
        steps = one.change(steps)
    try:
        return steps.figures()
    except (SizingError, ZeroDivisionError):
        return None


def rounding_of(text: str) -> float:
    """By what share a figure may be off for having been rounded, from how it was written.

    Half of its last digit that is none of the zeros that only give its size.

    >>> [round(rounding_of(text), 4) for text in ("8.40 m", "1200 W", "8.4 m", "37 gpm")]
    [0.003, 0.02, 0.006, 0.0135]
    """
    found = _NUMBER.search(text.replace(",", ""))
    if found is None or not float(found[0]):
        return NEAR
    whole = found[0].partition(".")[0]
    places = -len(found[1]) if found[1] else len(whole) - len(whole.rstrip("0"))
    return min(max(0.5 * 10.0**places / float(found[0]), _TABLES), NEAR)


def explain(
    facts: HandSum, quantity: str, value: float, rounding: float | None = None
) -> Explained:
    """What explains a figure [SI] of one of the quantities.

    Parameters
    ----------
    rounding : by what share it may be off for having been rounded; None: not known.

    Raises
    ------
    SizingError
        The job itself cannot be worked out.
    """
    steps = right(facts)
    wanted = steps.figures().of(quantity)
    if abs(value / wanted - 1) <= RIGHT:
        return Explained(True, (), wanted, wanted)
    tried: dict[int, _Sets] = {}
    for within, count in _tries(facts, quantity, rounding):
        if count not in tried:
            tried[count] = sorted(_off(steps, count, quantity, value), key=lambda one: one[0])
        fits = [one for one in tried[count] if one[0] <= within]
        if fits:
            exactly = rounding is None or within == rounding
            rivals = tuple(one[1] for one in fits[1:]) if rounding is not None else ()
            return Explained(False, fits[0][1], fits[0][2], wanted, exactly, rivals)
    return Explained(False, (), wanted, wanted)


def _tries(facts: HandSum, quantity: str, rounding: float | None) -> Iterator[tuple[float, int]]:
    """How near, and by how many slips, in the order in which they are believed."""
    if rounding is not None:
        yield from ((rounding, 1), (rounding, 2))
    yield from ((NEAR, 1), (NEAR, 2))
    if rounding is not None and quantity in _OF_POWERS and facts.curve is None:
        yield rounding, 3


@dataclass(frozen=True)
class Part:
    """A part of the sum: what it is, and what it would be if all else of theirs were right."""

    label: str
    dimension: str
    right: float
    theirs: float

    @property
    def times(self) -> float:
        """How many times the right one theirs would be."""
        return self.theirs / self.right if self.right else float("inf")


def parts_that_would(facts: HandSum, quantity: str, value: float) -> tuple[Part, ...]:
    """Where a figure that no slip explains may come from: the nearest part to the right one first.

    Of a flow and of an NPSH nothing is told.
    """
    steps = right(facts)
    done = steps.figures()
    friction = done.head - steps.static_m - steps.pressure_m
    if quantity == "head":
        off = value - done.head
        parts = [
            Part("lift", "length", steps.static_m, steps.static_m + off),
            Part("pressure as head", "length", steps.pressure_m, steps.pressure_m + off),
            Part("friction", "length", friction, friction + off),
        ]
    elif quantity in ("hydraulic_power", "shaft_power", "input_power"):
        times = value / done.of(quantity)
        parts = [
            Part("head", "length", done.head, done.head * times),
            Part("flow", "flow", done.flow, done.flow * times),
        ]
        if quantity != "hydraulic_power":
            share = facts.pump_efficiency
            parts.append(Part("pump's efficiency", "ratio", share, share / times))
    else:
        return ()
    able = [
        one
        for one in parts
        if one.right > 0 and one.theirs > 0 and (one.dimension != "ratio" or one.theirs <= 1)
    ]
    return tuple(sorted(able, key=lambda one: abs(math.log(one.times))))


def _off(
    steps: Steps, count: int, quantity: str, value: float
) -> Iterator[tuple[float, tuple[Slip, ...], float]]:
    """How far each set of so many slips is from a figure, as a share of it."""
    for slips in combinations(possible(steps.facts), count):
        found = slipped(steps, slips)
        if found is None:
            continue
        figure = found.of(quantity)
        yield abs(figure - value) / abs(value), slips, figure
