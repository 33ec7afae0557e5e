"""The site sheet: the kind's drawing with empty boxes, to take along and fill in by hand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from kyrtos.drawing.blank import BlankPicture, blank_picture
from kyrtos.shops.models import Shop
from sizing.analysis.typical import typical_site
from sizing.base import units
from sizing.base.numbers import as_read
from sizing.base.rules import Rules
from sizing.document.answers import Facts, Question, Stage
from sizing.document.build_route import leg_name, pipe_label
from sizing.document.job import JobDocument
from sizing.pump.catalogue import EMPTY
from sizing.size import size

# The order in which one walks: the source, the pit, the pipe, and last what is asked at the table.
_WALK: tuple[tuple[Stage, str], ...] = (
    ("water", "The water"),
    ("run", "Levels and the place"),
    ("flow", "How much"),
    ("pump", "Supply"),
)
_SPARE_LEGS = 2


@dataclass(frozen=True)
class Box:
    """One thing to write down: what, in which unit, what is known already, or what to tick."""

    label: str
    unit: str
    known: str
    choices: tuple[tuple[str, bool], ...] = ()


@dataclass(frozen=True)
class Part:
    title: str
    boxes: tuple[Box, ...]


@dataclass(frozen=True)
class LegLine:
    name: str
    pipe: str
    length: str
    ends_at: str


@dataclass(frozen=True)
class SiteSheetView:
    """All that the sheet prints."""

    shop: Shop
    kind: str
    title: str
    customer: str
    site: str
    picture: BlankPicture | None
    parts: tuple[Part, ...]
    legs: tuple[LegLine, ...]
    closed_loop: bool
    length_unit: str
    datum: str


def site_sheet_view(job: JobDocument, shop: Shop, rules: Rules) -> SiteSheetView:
    """The sheet of a job; of a blank one, of its kind."""
    sizing, site = size(job, EMPTY, rules), typical_site(job, rules)
    kind = sizing.kind
    drawn = None if site is None else blank_picture(site, sizing.missing, job.units)
    parts = (
        Part(title, tuple(_boxes(kind.questions, sizing.facts, job, stage)))
        for stage, title in _WALK
    )
    legs = [
        LegLine(
            leg_name(leg, number),
            pipe_label(leg),
            as_read(leg.length.shown()) if leg.length else "",
            as_read(leg.ends_at.shown()) if leg.ends_at else "",
        )
        for number, leg in enumerate(job.legs, 1)
    ]
    return SiteSheetView(
        shop=shop,
        kind=kind.label,
        title=job.title,
        customer=job.customer,
        site=job.site,
        picture=drawn,
        parts=tuple(one for one in parts if one.boxes),
        legs=(*legs, *[LegLine("", "", "", "")] * _SPARE_LEGS),
        closed_loop=kind.closed_loop,
        length_unit=units.shown("length", job.units).unit,
        datum=kind.datum,
    )


def _boxes(
    questions: tuple[Question, ...], facts: Facts, job: JobDocument, stage: Stage
) -> Iterator[Box]:
    """A box for each question of a stage that is asked in the open."""
    for question in questions:
        if question.stage != stage or question.group:
            continue
        if question.choices:
            yield Box(question.label, "", "", _ticks(facts, question, job))
        elif question.dimension:
            answer = facts.answer(question.key)
            known = "" if answer is None or isinstance(answer, str) else as_read(answer.shown())
            yield Box(question.label, question.unit(job.units), known)


def _ticks(facts: Facts, question: Question, job: JobDocument) -> tuple[tuple[str, bool], ...]:
    answered = facts.answer(question.key)
    return tuple(
        (units.in_one_system(one.label, job.units), one.code == answered)
        for one in question.choices
    )
