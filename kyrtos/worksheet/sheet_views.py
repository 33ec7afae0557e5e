"""What the templates of the worksheet print, in frozen pieces."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.picture import Picture
from kyrtos.jobs.services import Conflict
from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.fields import Field, LegRow, ListView
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


@dataclass(frozen=True)
class CheckView:
    label: str
    state: str
    sign: str
    word: str
    said: str
    remedy: str
    working: WorkingView | None


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
    legs: tuple[LegRow, ...]
    tape: tuple[TapeRow, ...]
    tape_total: str
    tape_at: str
    length_unit: str
    tape_text: str
    head_dialogs: tuple[Dialog, ...]
    choosing_dialogs: tuple[Dialog, ...]
    candidates: tuple[CandidateView, ...]
    near_misses: tuple[CandidateView, ...]
    fit_count: int
    considered: int
    near_count: int
    out: tuple[tuple[str, int], ...]
    order: tuple[tuple[str, str], ...]
    picked_by_person: bool
    pump_id: str
    checks: tuple[CheckView, ...]
    wide: Picture | None
    narrow: Picture | None
    cautions: tuple[str, ...]
    datum: str
    closed_loop: bool
    has_suction: bool
    fields: dict[str, Field]
    hydraulic_methods: tuple[Field, ...]
    group: tuple[Field, ...]
    conflict: Conflict | None = None
