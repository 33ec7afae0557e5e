"""A check, and the pump at work that it looks at."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sizing.base.message import Message, Working
from sizing.base.rules import Rules
from sizing.demand.method import Demand
from sizing.document.answers import Facts
from sizing.document.job import LegEntry
from sizing.hydraulics.system_curve import Ledger, SystemCurve
from sizing.operating_point.one import OperatingPoint
from sizing.pump.curve import PumpCurve
from sizing.selection.match import Candidate

CheckState = Literal["hold", "watch", "fail"]


CHECK_WORDS: dict[CheckState, str] = {"hold": "holds", "watch": "watch", "fail": "fails"}


@dataclass(frozen=True)
class Check:
    """One thing that must hold for the pump to live; a failing one says the remedy."""

    code: str
    label: str
    state: CheckState
    message: Message
    remedy: str = ""
    working: Working | None = None
    # of a check on a figure [SI]: what it should lie between
    band: tuple[float, float] | None = None


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
    operating_point: OperatingPoint
    flow_m3s: float
    ledger: Ledger


def state(holds: bool, nearly: bool = False) -> CheckState:
    """The state of a check that holds, nearly does, or fails."""
    return "hold" if holds else "watch" if nearly else "fail"
