"""A figure typed into a dialog: read, bounded, or told what is wrong beside its field."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sizing.base import quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System

_LONGEST = 40


@dataclass(frozen=True)
class Typed:
    """What was typed, what it is [SI] (else what it is without), and what is wrong with it."""

    key: str
    text: str
    si: float
    problem: str


def typed(
    given: Mapping[str, object],
    key: str,
    dimension: str,
    unit: str,
    otherwise: float,
    between: tuple[float, float],
    system: System,
) -> Typed:
    """A figure of a dialog; a bare number is in ``unit``."""
    text = str(given.get(key, ""))[:_LONGEST]
    if not text.strip():
        return Typed(key, text, otherwise, "")
    try:
        found = quantity.typed(text, dimension, unit).si
    except SizingError as problem:
        return Typed(key, text, otherwise, str(problem))
    if not between[0] <= found <= between[1]:
        bounds = [units.show(one, dimension, system) for one in between]
        return Typed(key, text, otherwise, f"type between {bounds[0]} and {bounds[1]}")
    return Typed(key, text, found, "")
