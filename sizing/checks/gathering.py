"""The parts of a sizing run one by one: what one lacks or breaks of is noted, the rest goes on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from sizing.base.errors import SizingError
from sizing.base.failure import Failure, Parts
from sizing.checks.base import Check
from sizing.document.answers import Facts, MissingFact, WrongFact
from sizing.document.build_route import lacking, left_out
from sizing.document.job import JobDocument

T = TypeVar("T")


class Gathering(Parts):
    """Runs the parts one by one; what one part lacks is noted and the rest goes on."""

    def __init__(self) -> None:
        super().__init__()
        self.missing: dict[str, MissingFact] = {}
        self.problems: list[str] = []
        self.wrong: dict[str, WrongFact] = {}

    def tell_all_missing(self, job: JobDocument, facts: Facts, *, closed_loop: bool) -> None:
        """What legs and questions lack is told at once, not one after the other."""
        for blank in (*lacking(job, closed_loop=closed_loop), *left_out(job)):
            self.missing.setdefault(blank.path, blank)
        if self.missing:
            for fact in facts.required():
                self.missing.setdefault(fact.path, fact)

    def find(self, about: str, work: Callable[[], T]) -> T | None:
        """The part's result, or None when it lacks something or breaks."""

        def found() -> T | None:
            try:
                return work()
            except SizingError as problem:
                self.lacks(problem)
                return None

        return self.part(about, found, None)

    def lacks(self, problem: SizingError) -> None:
        """Note what a part wants of the person."""
        if isinstance(problem, MissingFact):
            self.missing.setdefault(problem.path, problem)
            return
        if isinstance(problem, WrongFact):
            self.wrong.setdefault(problem.path, problem)
        self.problems.append(str(problem))

    def judged(self, found: tuple[Check, ...]) -> tuple[Check, ...]:
        """The checks but those that lack a fact; those that broke stay, and are told."""
        self.failures += [one.raised for one in found if isinstance(one.raised, Failure)]
        for one in found:
            if isinstance(one.raised, SizingError):
                self.lacks(one.raised)
        return tuple(one for one in found if not isinstance(one.raised, SizingError))
