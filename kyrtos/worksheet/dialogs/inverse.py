"""The other way round: every unknown solved for."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import measure_text, message_text
from sizing.analysis import inverse
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.document.job import Figure

_LONGEST = 60  # characters typed into a field


@dataclass(frozen=True)
class AnswerRow:
    label: str
    value: str
    now: str
    note: str


@dataclass(frozen=True)
class InverseView:
    flow: str
    head: str
    problems: tuple[str, str]
    rows: tuple[AnswerRow, ...]


def inverse_view(base: Known, flow_text: str, head_text: str) -> InverseView:
    """Every unknown solved for; flow and head as typed, or as they stand."""
    system = base.sizing.job.units
    flow, flow_problem = _read(flow_text, "flow", system)
    head, head_problem = _read(head_text, "length", system)
    if flow is not None and not 0 < flow <= inverse.MOST_FLOW_M3S:
        most = units.show(inverse.MOST_FLOW_M3S, "flow", system)
        flow, flow_problem = None, f"a flow must be more than zero, and at most {most}"
    if head is not None and not -inverse.MOST_HEAD_M <= head <= inverse.MOST_HEAD_M:
        most = units.show(inverse.MOST_HEAD_M, "length", system)
        head, head_problem = None, f"no pump here has more than {most}"
    answers = () if flow_problem or head_problem else inverse.solve(base, flow, head)
    rows = tuple(
        AnswerRow(
            one.label,
            measure_text(one.value, system),
            measure_text(one.now, system) if one.now else "",
            message_text(one.note, system),
        )
        for one in answers
    )
    shown = flow_text or units.show(base.demand.needed_m3s, "flow", system)
    return InverseView(shown, head_text, (flow_problem, head_problem), rows)


def _read(text: str, dimension: str, system: System) -> tuple[float | None, str]:
    if not text.strip():
        return None, ""
    try:
        unit = units.shown(dimension, system).unit
        return Figure.typed(text, dimension, unit).si(dimension), ""
    except SizingError as problem:
        return None, str(problem)


DIALOG = Dialog(
    name="inverse",
    words="the other way round",
    key="o",
    tells="the other way round",
    place="head",
    rank=4,
    view=lambda asked: inverse_view(
        asked.base, asked.given.get("flow", "")[:_LONGEST], asked.given.get("head", "")[:_LONGEST]
    ),
)
