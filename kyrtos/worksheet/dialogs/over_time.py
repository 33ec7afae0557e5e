"""The job run over time: a line with what matters on it, events, and what came of it."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from kyrtos.drawing.time_chart import TimeChart, time_chart, when
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis.changed import NotYet
from sizing.analysis.simulate_candidates import beside
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.message import Measure
from sizing.base.units import System
from sizing.document.answers import Question
from sizing.document.job import Figure, JobDocument
from sizing.editing import edit_scenarios
from sizing.editing.edit_scenarios import AskedWrong
from sizing.over_time.scenarios import scenarios
from sizing.over_time.scenarios.base import Scenario, SimulationResult
from sizing.size import Sizing

_LONGEST = 40
_SHOWN = 60  # events
_WORDS = {"fail": "bad", "watch": "watch", "hold": "good"}


@dataclass(frozen=True)
class AskedFigure:
    """A figure of the scenario, as a field."""

    key: str
    label: str
    text: str
    placeholder: str
    problem: str


@dataclass(frozen=True)
class ShownTable:
    """Figures side by side, in words."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    note: str


@dataclass(frozen=True)
class BesideRow:
    """Another pump, and what became of it."""

    pump_id: str
    name: str
    fits: bool
    picked: bool
    state: str
    says: str


@dataclass(frozen=True)
class OverTimeView:
    """What the dialog shows."""

    scenarios: tuple[tuple[str, str, bool], ...]
    code: str
    assumed: str
    figures: tuple[AskedFigure, ...]
    wrong: bool
    state: str
    verdict: str
    chart: TimeChart | None
    sums: tuple[tuple[str, str], ...]
    events: tuple[tuple[str, str, str], ...]
    more: int
    table: ShownTable | None
    kept: bool
    keep: str  # what is saved to keep it as it is run
    query: str  # of the files
    beside: tuple[BesideRow, ...]  # empty unless asked for
    asks_beside: bool


def over_time_view(asked: Asked) -> OverTimeView:
    """Run through the scenario asked for, with its figures as given.

    Raises
    ------
    NotYet
        No pump that runs, or nothing to run it through.
    """
    sizing = asked.base.sizing
    running = sizing.running
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    able = scenarios(sizing.kind, running)
    if not able:
        raise NotYet("with this pump there is nothing to run this job through")
    wanted = asked.given.get("day", "")
    scenario = next((one for one in able if one.code == wanted), able[0])
    kept = sizing.job.scenarios.get(scenario.code)
    texts, given, wrong = read_asked(
        sizing.job, scenario, {key: str(text) for key, text in asked.given.items()}, kept
    )
    ran, cannot = None, ""
    try:
        ran = scenario.run(running, scenario.answers(given))
    except SizingError as problem:
        cannot = f"It cannot be run: {problem}."
    system = sizing.job.units
    typed = [f"{key}={text}" for key, text in texts.items() if text.strip()]
    return OverTimeView(
        scenarios=tuple((each.code, each.label, each.code == scenario.code) for each in able),
        code=scenario.code,
        assumed=scenario.assumed,
        figures=tuple(
            AskedFigure(
                question.key,
                question.label,
                texts.get(question.key, ""),
                _placeholder(question, system),
                wrong[1] if wrong and wrong[0] == question.key else "",
            )
            for question in scenario.asks
        ),
        wrong=wrong is not None,
        state="bad" if ran is None else _WORDS[ran.outcome.state],
        verdict=cannot if ran is None else _verdict(ran, system),
        chart=None if ran is None else time_chart(ran, scenario.label, system),
        sums=tuple((label, _shown(value, system)) for label, value in ran.sums) if ran else (),
        events=_events(ran, system) if ran else (),
        more=max(len(ran.events) - _SHOWN, 0) if ran else 0,
        table=_table(ran, system),
        kept=kept is not None,
        keep="; ".join(typed) or "on",
        query=urlencode({key: text for key, text in texts.items() if text.strip()}),
        beside=_beside(asked, scenario, given) if asked.given.get("beside") else (),
        asks_beside=bool(asked.given.get("beside")),
    )


def _verdict(ran: SimulationResult, system: System) -> str:
    one = ran.outcome
    return f"{one.message.text(system)} {one.remedy if one.state != 'hold' else ''}".strip()


def _table(ran: SimulationResult | None, system: System) -> ShownTable | None:
    if ran is None or ran.table is None:
        return None
    rows = tuple(tuple(_shown(cell, system) for cell in row) for row in ran.table.rows)
    return ShownTable(ran.table.heads, rows, ran.table.note)


def _beside(asked: Asked, scenario: Scenario, given: dict[str, Figure]) -> tuple[BesideRow, ...]:
    system, chosen = asked.base.sizing.job.units, asked.base.sizing.chosen
    picked = chosen.candidate.pump.pump_id if chosen else ""
    return tuple(
        BesideRow(
            pump_id=one.candidate.pump.pump_id,
            name=one.candidate.pump.name,
            fits=one.fits,
            picked=one.candidate.pump.pump_id == picked,
            state=_WORDS[one.ran.outcome.state],
            says=one.ran.outcome.message.text(system),
        )
        for one in beside(asked.base, scenario, given)
    )


def read_asked(
    job: JobDocument, scenario: Scenario, typed: dict[str, str], kept: dict[str, Figure] | None
) -> tuple[dict[str, str], dict[str, Figure], tuple[str, str] | None]:
    """The texts of a scenario's figures, the figures, and which is wrong and why.

    What was not typed is as it stands on the job. What is wrong runs with the defaults.
    """
    keys = [question.key for question in scenario.asks]
    asked_anew = any(key in typed for key in keys)
    texts = {key: typed.get(key, "")[:_LONGEST] for key in keys if key in typed}
    if not asked_anew and kept:
        return {key: one.shown() for key, one in kept.items()}, dict(kept), None
    try:
        return texts, edit_scenarios.figures(job, scenario.code, texts), None
    except AskedWrong as problem:
        return texts, {}, (problem.key, str(problem))


def _placeholder(question: Question, system: System) -> str:
    if question.default:
        return f"{question.default}"
    return question.unit(system)


def _shown(value: Measure | str, system: System) -> str:
    return value.text(system) if isinstance(value, Measure) else value


def _events(ran: SimulationResult, system: System) -> tuple[tuple[str, str, str], ...]:
    return tuple(
        (
            when(one.time_s, ran.end_s),
            one.words,
            units.show(one.value, ran.line.dimension, system),
        )
        for one in ran.events[:_SHOWN]
    )


def _applies(sizing: Sizing) -> bool:
    return sizing.running is not None and bool(scenarios(sizing.kind, sizing.running))


DIALOG = Dialog(
    name="over_time",
    words="over time",
    key="t",
    tells="a day, a wet night, a power cut, a year",
    place="choosing",
    rank=9,
    view=over_time_view,
    applies=_applies,
)
