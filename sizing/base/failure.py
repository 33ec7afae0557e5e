"""What happens where a part raises something that nobody foresaw: it fails alone, and is told.

A :class:`SizingError` is no failure: it says what a person has to give or to change.
"""

from __future__ import annotations

import traceback
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

T = TypeVar("T")
_LONGEST_TRACE = 8000  # characters: the end of it, where the fault is


@dataclass(frozen=True)
class Failure:
    """A part that could not be worked out: what it was about, and where it broke."""

    about: str
    trace: str

    @property
    def words(self) -> str:
        """For the person who reads the sheet."""
        return f"could not be worked out: {self.about}"


def failure_of(about: str, problem: Exception) -> Failure:
    """The failure that an exception means; every one is made here."""
    trace = "".join(traceback.format_exception(problem))
    return Failure(about, trace[-_LONGEST_TRACE:])


class Parts:
    """Runs the parts of something one by one; one that breaks is noted, and the rest goes on."""

    def __init__(self, failures: tuple[Failure, ...] = ()) -> None:
        self.failures = list(failures)

    def part(self, about: str, work: Callable[[], T], otherwise: T) -> T:
        """The part's result, or ``otherwise`` where it breaks."""
        try:
            return work()
        except Exception as problem:
            self.failures.append(failure_of(about, problem))
            return otherwise
