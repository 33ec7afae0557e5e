"""What the paper prints, as text."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from kyrtos.accounts.templatetags.terms import day
from kyrtos.catalogue.pump_facts import pump_facts
from kyrtos.drawing.time_chart import TimeChart, time_chart
from kyrtos.shops import trouble
from kyrtos.shops.models import Shop
from kyrtos.shops.services import logo_address
from kyrtos.worksheet.dialogs.calculation_review import instead_of, lines_of, verdict_of
from kyrtos.worksheet.sheet import sheet
from kyrtos.worksheet.sheet_views import Sheet
from sizing.analysis.calculation_review import DIMENSIONS, of_job
from sizing.analysis.changed import known
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.failure import Parts
from sizing.base.numbers import as_read
from sizing.base.units import System
from sizing.document import items
from sizing.document.answers import Answers, Question
from sizing.document.build_route import length_label
from sizing.document.job import PROVENANCE_WORDS, LegEntry
from sizing.document.read_figure import as_shown, converted
from sizing.over_time.scenarios import kept
from sizing.size import Sizing

_OF_THE_SHOP = ("On the shelf", "More within")  # no customer's business


@dataclass(frozen=True)
class FactLine:
    label: str
    value: str
    provenance: str


@dataclass(frozen=True)
class Replaced:
    """The paper before this one, and what changed since."""

    number: int
    issued: datetime
    changed: tuple[str, ...]


@dataclass(frozen=True)
class RunOnPaper:
    """What the job is run through: its chart, and its figures side by side where it has some."""

    label: str
    assumed: str
    chart: TimeChart
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Annex:
    """Why our figure differs from somebody else's."""

    label: str
    verdict: str
    instead: tuple[str, ...]
    rows: tuple[tuple[str, str, str, bool], ...]


@dataclass(frozen=True)
class PaperView:
    """One paper; ``sheet`` gives verdict, tape, checks and picture as on the worksheet."""

    shop: Shop
    title: str
    customer: str
    site: str
    number: int
    revision: int
    issued: str
    issued_by: str
    replaces: Replaced | None
    logo: str
    sheet: Sheet
    facts: tuple[FactLine, ...]
    pump_name: str
    pump_facts: tuple[tuple[str, str], ...]
    runs: tuple[RunOnPaper, ...]
    annex: Annex | None
    failures: tuple[str, ...] = ()  # what could not be worked out


def paper_view(
    sizing: Sizing,
    *,
    shop: Shop,
    number: int,
    revision: int,
    issued: datetime,
    issued_by: str,
    replaces: Replaced | None = None,
    job: UUID | None = None,
) -> PaperView:
    """The paper of a sizing; ``job`` is what a part that breaks is noted with."""
    assert sizing.chosen is not None  # checked before a paper is issued
    pump, system = sizing.chosen.candidate.pump, sizing.job.units
    parts, no_runs = Parts(), ()  # type: tuple[Parts, tuple[RunOnPaper, ...]]
    made = PaperView(
        shop=shop,
        title=sizing.job.title,
        customer=sizing.job.customer,
        site=sizing.job.site,
        number=number,
        revision=revision,
        issued=day(issued),
        replaces=replaces,
        logo=logo_address(shop),
        issued_by=issued_by,
        sheet=sheet(sizing, currency=shop.currency),
        facts=(*_facts(sizing), *_list_facts(sizing), *_leg_facts(sizing)),
        pump_name=pump.name,
        pump_facts=tuple(
            (label, text)
            for label, text in pump_facts(pump, system, shop.currency)
            if text and label not in _OF_THE_SHOP
        ),
        runs=parts.part("the runs over time", lambda: tuple(_runs(sizing)), no_runs),
        annex=parts.part("the second look", lambda: _annex(sizing), None),
    )
    failures = (*made.sheet.failures, *parts.failures)
    trouble.note(shop, failures, job)
    return replace(made, failures=tuple(dict.fromkeys(one.about for one in failures)))


def _annex(sizing: Sizing) -> Annex | None:
    """The second look that stands on the job; None where none does or it cannot be taken."""
    try:
        found = of_job(known(sizing))
    except SizingError:
        return None
    if found is None:
        return None
    system, dimension = sizing.job.units, DIMENSIONS[found.quantity]
    return Annex(
        label=found.quantity.replace("_", " "),
        verdict=verdict_of(found.explained, found.value_si, dimension, system),
        instead=instead_of(found.explained),
        rows=lines_of(found.lines, system),
    )


def _runs(sizing: Sizing) -> Iterator[RunOnPaper]:
    """What stands on the job to be run; one that cannot be run says so among the checks."""
    running, system = sizing.running, sizing.job.units
    if running is None:
        return
    for scenario, given in kept(sizing.kind, running):
        try:
            ran = scenario.run(running, scenario.answers(given))
        except SizingError:
            continue
        rows = ran.table.rows if ran.table else ()
        yield RunOnPaper(
            label=scenario.label,
            assumed=scenario.assumed,
            chart=time_chart(ran, scenario.label, system),
            heads=ran.table.heads if ran.table else (),
            rows=tuple(
                tuple(cell if isinstance(cell, str) else cell.text(system) for cell in row)
                for row in rows
            ),
        )


def _facts(sizing: Sizing) -> list[FactLine]:
    """Every figure and choice that applies, with where it is from."""
    return [
        line
        for question in sizing.kind.questions
        if sizing.facts.shown(question)
        for line in _fact(sizing.facts, question, sizing.job.units)
    ]


def _list_facts(sizing: Sizing) -> list[FactLine]:
    """Every row of every list that holds a figure, its row named."""
    found = []
    for declared in sizing.kind.lists:
        for number, row in enumerate(sizing.facts.rows(declared.key), 1):
            if not any(
                question.dimension and row.optional(question.key) is not None
                for question in declared.columns
            ):
                continue
            name = declared.names[number - 1] if declared.names else f"{declared.label}, {number}"
            lines = [
                line
                for question in declared.columns
                for line in _fact(row, question, sizing.job.units)
            ]
            found += [
                FactLine(
                    f"{name}: {line.label[:1].lower()}{line.label[1:]}", line.value, line.provenance
                )
                for line in lines
            ]
    return found


def _fact(answers: Answers, question: Question, system: System) -> list[FactLine]:
    """One answer as a line; nothing where it is not answered."""
    if question.choices:
        answered = bool(answers.answer(question.key))
        if question.group and not answered:  # nobody asked for it
            return []
        chosen = units.in_one_system(answers.chosen(question.key), system)
        return [FactLine(question.label, chosen, "" if answered else PROVENANCE_WORDS["assumed"])]
    if question.is_words:
        return (
            [FactLine(question.label, answers.words(question.key), "")]
            if answers.words(question.key)
            else []
        )
    figure = answers.figure(question.key)
    shown = as_shown(answers, question, system)
    if answers.answer(question.key) is not None:
        shown = f"{shown} {converted(figure, question, system)}"
    return (
        []
        if figure is None
        else [
            FactLine(
                question.label,
                shown.strip(),
                PROVENANCE_WORDS[figure.provenance],
            )
        ]
    )


def _leg_details(leg: LegEntry) -> Iterator[tuple[str, str, str]]:
    """What a leg has that most do not: a share of the flow, items, surveyed ground."""
    if leg.share is not None:
        yield (
            "carries",
            f"{as_read(leg.share.shown())} of the flow",
            PROVENANCE_WORDS[leg.share.provenance],
        )
    if leg.rated is not None:
        yield (
            "weakest fitting",
            f"rated {as_read(leg.rated.shown())}",
            PROVENANCE_WORDS[leg.rated.provenance],
        )
    for item in leg.items:
        yield (
            item.name,
            as_read(items.write([item])).partition(": ")[2],
            PROVENANCE_WORDS[item.points[0].loss.provenance],
        )
    if leg.survey:
        yield (
            "ground",
            f"surveyed at {len(leg.survey)} points over {length_label(leg)}",
            PROVENANCE_WORDS["measured"],
        )


def _leg_facts(sizing: Sizing) -> list[FactLine]:
    found = []
    for number, leg in enumerate(sizing.legs, 1):
        name = leg.name or f"leg {number}"
        for label, figure in (("length", leg.length), ("ends at", leg.ends_at)):
            if figure is not None:
                found.append(
                    FactLine(
                        f"{name[:1].upper()}{name[1:]}, {label}",
                        as_read(figure.shown()),
                        PROVENANCE_WORDS[figure.provenance],
                    )
                )
        found += [
            FactLine(f"{name[:1].upper()}{name[1:]}, {label}", value, provenance)
            for label, value, provenance in _leg_details(leg)
        ]
    return found
