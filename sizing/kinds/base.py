"""What a kind of job declares: its questions, ways to the flow, demands on the pump, checks and cautions."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from sizing.duty import Duty
from sizing.facts import Facts, MissingFact, Question
from sizing.job import LegEntry
from sizing.match import Candidate, Wanted
from sizing.pipework.route import Ledger, SystemCurve
from sizing.pump.curve import PumpCurve
from sizing.rules import Rules
from sizing.said import Said, Working

CheckState = Literal["hold", "watch", "fail"]
CHECK_WORDS: dict[CheckState, str] = {"hold": "holds", "watch": "watch", "fail": "fails"}


@dataclass(frozen=True)
class Way:
    """One way to the flow: its answer, or what it still needs."""

    code: str
    label: str
    flow_m3s: float | None
    missing: tuple[MissingFact, ...] = ()
    working: Working | None = None
    caution: str = ""


@dataclass(frozen=True)
class Demand:
    """The flow that the job wants: the way taken, with the margin added once."""

    ways: tuple[Way, ...]
    taken: str
    inflow_m3s: float
    margin: float
    needed_m3s: float
    working: Working


@dataclass(frozen=True)
class Check:
    """One thing that must hold for the pump to live; a failing one says the remedy."""

    code: str
    label: str
    state: CheckState
    said: Said
    remedy: str = ""
    working: Working | None = None


@dataclass(frozen=True)
class Level:
    """A level worth drawing at the place the water is drawn from."""

    code: Literal["floor", "stop", "start", "alarm", "inlet", "rim"]
    label: str
    elevation_m: float


@dataclass(frozen=True)
class Place:
    """Where the water is drawn from, for the picture."""

    shape: Literal["pit"]
    width_m: float
    levels: tuple[Level, ...]

    def level_m(self, code: str) -> float | None:
        """Elevation of a level, or None where the job does not name it."""
        return next((level.elevation_m for level in self.levels if level.code == code), None)


@dataclass(frozen=True)
class Running:
    """A pump at work on the job: all that a check may look at."""

    facts: Facts
    rules: Rules
    demand: Demand
    system: SystemCurve
    legs: tuple[LegEntry, ...]
    pump: Candidate
    curve: PumpCurve
    duty: Duty
    flow_m3s: float
    ledger: Ledger


class Kind(ABC):
    """A kind of job. Subclasses are declarations with a few short methods; each module names one ``KIND``."""

    code: ClassVar[str]
    label: ClassVar[str]
    purpose: ClassVar[str]
    datum: ClassVar[str]
    questions: ClassVar[tuple[Question, ...]]
    default_legs: ClassVar[tuple[LegEntry, ...]]
    cautions: ClassVar[tuple[str, ...]]

    @abstractmethod
    def demand(self, facts: Facts, rules: Rules) -> Demand:
        """The flow wanted; raises MissingFact when no way has what it needs."""

    @abstractmethod
    def start_level_m(self, facts: Facts) -> float:
        """Level of the water drawn from, at its lowest while pumping."""

    def delivery_head_m(self, facts: Facts) -> float:
        """Head wanted at the end of the run, over its level [m]; nought for a free outlet."""
        return 0.0

    @abstractmethod
    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        """What the job asks of a pump."""

    @abstractmethod
    def place(self, facts: Facts) -> Place:
        """The place the water is drawn from; levels that are not known are left out."""

    @abstractmethod
    def checks(self, running: Running) -> Sequence[Check]:
        """Everything that must hold for a pump at work."""

    def stage_summary(self, facts: Facts) -> str:
        """The water stage in a few words."""
        return ""
