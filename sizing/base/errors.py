"""What the core raises: a ``ValueError`` that names the thing, its value and what would do."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches


class SizingError(ValueError):
    """Root of every error that the core raises on purpose; its text is fit for a person."""


class UnreadableQuantity(SizingError):
    """Text that does not say an amount of the wanted dimension."""


class GoneError(SizingError):
    """A leg or a row of a list that is not there any more: somebody took it out meanwhile."""


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


class NoSolution(SizingError):
    """A solver that did not arrive; says how far it got."""


def check_range(name: str, value: float, low: float, high: float, unit: str) -> None:
    """Raise :class:`OutOfRange` unless ``low <= value <= high`` (so a NaN raises too)."""
    if not low <= value <= high:
        raise OutOfRange(name, value, low, high, unit)
