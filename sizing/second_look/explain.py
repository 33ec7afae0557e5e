"""Which slip, or which two, explain a figure that somebody got.

In this order: right within 3 %; the single slip whose figure is nearest, within 2 %; the two slips
whose joint figure is nearest, within 2 %; else none.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from sizing.base.errors import SizingError
from sizing.second_look.hand_sum import Figures, HandSum, Steps, right
from sizing.second_look.more_slips import MORE_SLIPS
from sizing.second_look.slip import Slip
from sizing.second_look.slips import SLIPS

RIGHT, NEAR = 0.03, 0.02


@dataclass(frozen=True)
class Explained:
    """A figure and what explains it: no slips and ``is_right``, one or two slips, or nothing."""

    is_right: bool
    slips: tuple[Slip, ...]
    figure: float  # what the explanation gives
    right_figure: float

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


def explain(facts: HandSum, quantity: str, value: float) -> Explained:
    """What explains a figure [SI] of one of the quantities.

    Raises
    ------
    SizingError
        The job itself cannot be worked out.
    """
    steps = right(facts)
    wanted = steps.figures().of(quantity)
    if abs(value / wanted - 1) <= RIGHT:
        return Explained(True, (), wanted, wanted)
    for count in (1, 2):
        best = min(_off(steps, count, quantity, value), key=lambda one: one[0], default=None)
        if best is not None and best[0] <= NEAR:
            return Explained(False, best[1], best[2], wanted)
    return Explained(False, (), wanted, wanted)


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
