"""A check, and the pump at work that it looks at."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, Literal, ParamSpec, TypeVar, cast

import numpy as np

from sizing.base.errors import SizingError
from sizing.base.failure import Failure, failure_of
from sizing.base.message import Message, Working, message
from sizing.base.rules import Rules
from sizing.demand.method import Demand
from sizing.document.answers import Facts
from sizing.document.job import JobDocument, LegEntry
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import Ledger, SystemCurve
from sizing.operating_point.one import OperatingPoint
from sizing.pump.curve import PumpCurve
from sizing.selection.limit import ASK, FAILS, HOLDS, WATCH, States
from sizing.selection.match import Candidate

CheckState = Literal["hold", "watch", "fail"]


CHECK_WORDS: dict[CheckState, str] = {"hold": "holds", "watch": "watch", "fail": "fails"}


Weight = Literal["must", "should", "note"]
About = Literal["pump", "site"]


@dataclass(frozen=True)
class Check:
    """One thing that must or should hold for the pump to live; a failing one says the remedy.

    A *must* that fails makes the verdict bad: it will not live, is unsafe or cannot work. A
    *should* that fails is watched. A *note* cannot fail: it informs. ``about`` says whose fault a
    failure is: another pump would not, or the site does it to every pump.
    """

    code: str
    label: str
    state: CheckState
    message: Message
    remedy: str = ""
    working: Working | None = None
    # of a check on a figure [SI]: what it should lie between
    band: tuple[float, float] | None = None
    weight: Weight = "should"
    about: About = "pump"
    asks: bool = False  # nobody has said what decides it: somebody is to be asked
    # it could not be worked out: what it lacks, or where it broke
    raised: SizingError | Failure | None = None

    @property
    def fatal(self) -> bool:
        """A must that fails."""
        return self.weight == "must" and self.state == "fail"


@dataclass(frozen=True)
class Site:
    """All of a job that does not hang on the pump: what its site does to every pump."""

    job: JobDocument
    facts: Facts
    rules: Rules
    demand: Demand
    system: SystemCurve
    legs: tuple[LegEntry, ...]


@dataclass(frozen=True)
class Running(Site):
    """A pump at work on the job: all that a check may look at."""

    pump: Candidate
    curve: PumpCurve
    operating_point: OperatingPoint
    flow_m3s: float
    ledger: Ledger
    bought: int = 1  # how many of it are bought, with those that stand by
    running: int = 1  # how many run together
    starts_higher_by_m: float = 0.0  # water at the start over the level it is sized at

    @property
    def operating_head_m(self) -> float:
        """Head that it makes where it runs [m]."""
        return self.pump.head_m


def state(holds: bool, nearly: bool = False) -> CheckState:
    """The state of a check that holds, nearly does, or fails."""
    return "hold" if holds else "watch" if nearly else "fail"


STATES: dict[int, CheckState] = {HOLDS: "hold", WATCH: "watch", ASK: "watch", FAILS: "fail"}


def state_of(judge: Callable[[Array], States], figure: float) -> CheckState:
    """The state that a limit gives a single figure: the same that decides in matching."""
    return STATES[int(judge(np.array([figure]))[0])]


Given = ParamSpec("Given")
Found = TypeVar("Found")
# every function that makes checks, by its full name: the tests break each in turn
MAKERS: dict[str, Callable[..., Any]] = {}


def alone(about: str) -> Callable[[Callable[Given, Found]], Callable[Given, Found]]:
    """Let a function that makes a check, or several, fail alone.

    What it raises becomes a check of its own in its place, named ``about``.
    """

    def guard(make: Callable[Given, Found]) -> Callable[Given, Found]:
        name = f"{make.__module__}.{make.__qualname__}"
        MAKERS[name] = make
        returns = str(make.__annotations__["return"])

        @wraps(make)
        def guarded(*args: Given.args, **named: Given.kwargs) -> Found:
            made: Any
            try:
                made = MAKERS[name](*args, **named)
                made = made if returns == "Check" else list(made)
            except Exception as problem:
                made = _not_worked_out(make.__name__.strip("_"), about, problem)
                made = made if returns == "Check" else [made]
            return cast(Found, iter(made) if returns == "Iterator[Check]" else made)

        return guarded

    return guard


def _not_worked_out(name: str, about: str, problem: Exception) -> Check:
    return Check(
        code=f"failed_{name}",
        label=about[:1].upper() + about[1:],
        state="watch",
        message=message("This could not be worked out; the other checks stand."),
        remedy="Work it out by hand before you rely on it, and tell the owner of the shop.",
        raised=problem if isinstance(problem, SizingError) else failure_of(about, problem),
    )
