"""What the core raises: a ``ValueError`` that names the thing, its value and what would do."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike


class SizingError(ValueError):
    """Root of every error that the core raises on purpose; its text is fit for a person."""


Unreadable = Literal[
    "not_a_number", "ambiguous", "no_unit", "wrong_unit", "out_of_range", "reversed_range"
]


class UnreadableQuantity(SizingError):
    """Text that does not say an amount of the wanted dimension; ``code`` says in which way."""

    def __init__(self, text: str, code: Unreadable = "not_a_number") -> None:
        self.code = code
        super().__init__(text)


class GoneError(SizingError):
    """A leg or a row of a list that is not there any more: somebody took it out meanwhile."""


class EditError(SizingError):
    """A path that leads nowhere: a broken form, not a person's slip."""


class OutOfRange(SizingError):
    """A number outside the range in which the called function holds."""

    def __init__(self, name: str, value: float, low: float, high: float, unit: str) -> None:
        self.name, self.value, self.low, self.high, self.unit = name, value, low, high, unit
        super().__init__(
            f"{name} is {value:g} {unit}; it must lie between {low:g} and {high:g} {unit}"
        )


class UnknownName(SizingError):
    """A pipe, fitting, material, kind or rule that no table holds."""

    def __init__(self, what: str, name: str, known: Iterable[str]) -> None:
        self.what, self.name = what, name
        self.suggestions = get_close_matches(name, list(known), n=3, cutoff=0.4)
        hint = f"; did you mean {' or '.join(self.suggestions)}?" if self.suggestions else ""
        super().__init__(f"no {what} is called '{name}'{hint}")


class SeveralFit(SizingError):
    """What was written fits several things: ``choices`` names each so that it can be taken."""

    def __init__(self, text: str, choices: Iterable[str]) -> None:
        self.choices = tuple(choices)
        known = f"{', '.join(self.choices[:-1])} or {self.choices[-1]}"
        super().__init__(f"'{text}' may be {known}: choose one")


class NoSolution(SizingError):
    """A solver that did not arrive; says how far it got."""


def check_each(name: str, values: ArrayLike, low: float, high: float, unit: str) -> None:
    """:func:`check_range` of every figure of an array; the first that is wrong is named."""
    plain = np.asarray(values, dtype=float)
    if plain.size and not (plain.min() >= low and plain.max() <= high):
        wrong = plain[~((plain >= low) & (plain <= high))]
        raise OutOfRange(name, float(wrong.flat[0]), low, high, unit)


def check_range(name: str, value: float, low: float, high: float, unit: str) -> None:
    """Raise :class:`OutOfRange` unless ``low <= value <= high`` (so a NaN raises too)."""
    if not low <= value <= high:
        raise OutOfRange(name, value, low, high, unit)
