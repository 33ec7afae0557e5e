"""Judging one reference case: answers within max(abs, rel x |value|), texts and truths equal."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from sizing.reference import commissioning, hydraulics, machines, practice, second, time

FORMAT = "kyrtos-reference-cases/1"
FAMILIES = (
    hydraulics.FAMILIES
    | practice.FAMILIES
    | time.FAMILIES
    | machines.FAMILIES
    | commissioning.FAMILIES
    | second.FAMILIES
)


@dataclass(frozen=True)
class Outcome:
    case_id: str
    title: str
    misses: tuple[str, ...]

    @property
    def passed(self) -> bool:
        """Whether every expected answer was near enough."""
        return not self.misses


def run(case: dict[str, Any]) -> Outcome:
    """Answer a case and compare; an error while answering is a miss that tells the error."""
    return Outcome(case["id"], case.get("title", ""), tuple(_misses(case)))


def _misses(case: dict[str, Any]) -> list[str]:
    answer = FAMILIES.get(case["family"])
    if answer is None:
        return [f"the family '{case['family']}' is not answered yet"]
    try:
        got = answer(case["inputs"])
    except Exception as problem:  # a case must never end the run: whatever broke is its result
        return [f"{type(problem).__name__}: {problem}"]
    return [
        _tell(name, got.get(name, "no answer"), wanted)
        for name, wanted in case["expected"].items()
        if not agrees(got.get(name, _NONE), wanted)
    ]


_NONE = object()


def agrees(got: Any, wanted: dict[str, Any]) -> bool:
    """Whether an answer is near enough; numbers by tolerance, everything else by equality."""
    value = wanted["value"]
    if got is _NONE:
        return False
    if isinstance(value, bool) or isinstance(got, bool) or not isinstance(value, int | float):
        return bool(got == value)
    if not isinstance(got, int | float) or not math.isfinite(got):
        return False
    return bool(
        abs(got - value) <= max(wanted["abs"], wanted["rel"] * abs(value), 1e-12 * abs(value))
    )


def _tell(name: str, got: Any, wanted: dict[str, Any]) -> str:
    return f"{name}: got {got}, wanted {wanted['value']} (rel {wanted['rel']}, abs {wanted['abs']})"
