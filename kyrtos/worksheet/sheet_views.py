"""What the templates of the worksheet print, in frozen pieces."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.blank import BlankPicture
from kyrtos.drawing.picture import Picture
from kyrtos.jobs.services import Conflict
from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.fields import Field, LegRow, ListView
from sizing.base.failure import Failure
from sizing.base.units import System


@dataclass(frozen=True)
class WorkingView:
    """A working as text."""

    title: str
    formula: str
    lines: tuple[tuple[str, str], ...]
    source: str
    stands_on: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class FlowMethodView:
    label: str
    flow: str
    taken: bool
    caution: str
    problem: str
    working: WorkingView | None


@dataclass(frozen=True)
class StageView:
    code: str
    title: str
    decided: str
    fields: tuple[Field, ...]
    folded: tuple[tuple[str, tuple[Field, ...], int], ...]  # (heading, fields, how many are filled)
    lists: tuple[ListView, ...]
    needs: int
    open: bool


@dataclass(frozen=True)
class FamilyView:
    """The family of pump for the job.

    (label, reason) of those that fit, and of the tempting others why not.
    """

    fits: tuple[tuple[str, str], ...]
    others: tuple[tuple[str, str], ...]
    query: str


@dataclass(frozen=True)
class TapeRow:
    leg_id: str
    label: str
    detail: str
    speed: str
    head: str
    counted: bool
    working: WorkingView


@dataclass(frozen=True)
class CandidateView:
    pump_id: str
    name: str
    flow: str
    head: str
    why: str
    cost: str
    picked: bool
    rough: bool


@dataclass(frozen=True)
class CheckView:
    label: str
    state: str
    sign: str
    word: str
    said: str
    remedy: str
    working: WorkingView | None
    tone: str = "good"  # the colour of its sign
    whose: str = ""  # 'The site:' or 'The pump:', where it does not hold


@dataclass(frozen=True)
class Choosing:
    """The pumps of the sheet: those that fit, might do or nearly do, and why the rest is out."""

    dialogs: tuple[Dialog, ...]
    candidates: tuple[CandidateView, ...]
    near_misses: tuple[CandidateView, ...]
    fit_count: int
    considered: int
    rough: bool  # matched to a told head without a run
    near_count: int
    out: tuple[tuple[str, int], ...]
    order: tuple[tuple[str, str], ...]
    picked_by_person: bool
    pump_id: str
    to_ask: tuple[CandidateView, ...]
    ask_count: int
    nearest: tuple[CandidateView, ...]
    remedies: tuple[tuple[str, str], ...]  # key and words

    @classmethod
    def nothing(cls, picked_by_person: bool) -> Choosing:
        """No pumps: where they cannot be shown."""
        return cls((), (), (), 0, 0, False, 0, (), (), picked_by_person, "", (), 0, (), ())


@dataclass(frozen=True)
class Sheet:
    """One worksheet, ready to print."""

    units: System
    verdict: str
    verdict_state: str
    worries: tuple[tuple[str, str, str], ...]
    last_good: tuple[str, ...]
    stages: tuple[StageView, ...]
    methods: tuple[FlowMethodView, ...]
    reason: str
    family: FamilyView
    needed: str
    needed_working: WorkingView | None
    flow_steps: tuple[tuple[WorkingView, str], ...]  # before the last: (working, flow)
    legs: tuple[LegRow, ...]
    tape: tuple[TapeRow, ...]
    tape_total: str
    tape_at: str
    length_unit: str
    flow_unit: str
    decimal: str  # the decimal mark of who reads
    other_units: System
    tape_text: str
    head_dialogs: tuple[Dialog, ...]
    choosing: Choosing
    checks: tuple[CheckView, ...]
    notes: tuple[CheckView, ...]
    proof_of: str  # the best try, where nothing fits
    wide: Picture | None
    narrow: Picture | None
    blank_wide: BlankPicture | None
    blank_narrow: BlankPicture | None
    cautions: tuple[str, ...]
    datum: str
    closed_loop: bool
    has_suction: bool
    fields: dict[str, Field]
    hydraulic_methods: tuple[Field, ...]
    group: tuple[Field, ...]
    conflict: Conflict | None = None
    failures: tuple[Failure, ...] = ()  # of the sizing and of what the sheet makes of it
