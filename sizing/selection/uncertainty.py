"""The figures that a sizing rests on, and how wide each may be off."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from sizing.base import units
from sizing.base.message import Measure
from sizing.base.rules import Rules
from sizing.document.answers import Facts, Question
from sizing.document.build_route import the_leg
from sizing.document.job import Figure, JobDocument, LegEntry, Provenance

_SHARE: dict[Provenance, str] = {
    "measured": "TRU-01",
    "drawing": "TRU-02",
    "designed": "TRU-01",  # what the shop decides is set to it
    "told": "TRU-03",
    "assumed": "TRU-04",
}
_LEVEL: dict[Provenance, str] = {
    "measured": "TRU-05",
    "drawing": "TRU-06",
    "designed": "TRU-05",
    "told": "TRU-07",
    "assumed": "TRU-08",
}
# Dimensions of what is no fact of the site.
_NOT_IN_DOUBT = ("price", "factor", "voltage", "count", "people")


@dataclass(frozen=True)
class UncertainFigure:
    """One figure in doubt: ``spread_si`` is its plus-or-minus that holds nineteen times in twenty.

    ``typed`` by a person or by a rule.
    """

    path: str
    label: str
    provenance: Provenance
    figure: Figure
    dimension: str
    spread_si: float
    typed: bool
    low_si: float
    high_si: float

    @property
    def value(self) -> Measure:
        """The figure as it is shown."""
        return Measure(self.figure.si(self.dimension), self.dimension)

    def moved(self, by_si: float) -> Figure:
        """The figure moved by so much, kept within what its field accepts."""
        unit = units.find(self.figure.unit, self.dimension) or units.unit(
            self.figure.unit, self.dimension
        )
        wanted = min(max(self.figure.si(self.dimension) + by_si, self.low_si), self.high_si)
        return self.figure.model_copy(update={"value": unit.from_si(wanted), "text": ""})

    def put(self, job: JobDocument, by_si: float) -> JobDocument:
        """The job with this figure moved by so much."""
        return _put(job, self.path, self.moved(by_si))


def _put(job: JobDocument, path: str, figure: Figure) -> JobDocument:
    head, key, *rest = path.split(".")
    if head == "answers":
        return job.model_copy(update={"answers": {**job.answers, key: figure}})
    return job.with_leg(job.leg(key).model_copy(update={rest[0]: figure}))


def spread_si(figure: Figure, dimension: str, rules: Rules, *, is_level: bool) -> float:
    """How wide a figure may be off [SI].

    As typed, else by the rule of its standing (a level by so much, all else by a share).
    """
    typed = figure.plus_minus_si(dimension)
    if typed is not None:
        return typed
    if is_level:
        return rules.value(_LEVEL[figure.provenance])
    if dimension == "temperature":
        return (
            rules.value(_SHARE[figure.provenance]) * 20.0
        )  # of the span in which water is usually met
    return rules.value(_SHARE[figure.provenance]) * abs(figure.si(dimension))


def doubts(
    job: JobDocument,
    facts: Facts,
    legs: tuple[LegEntry, ...],
    questions: tuple[Question, ...],
    rules: Rules,
    *,
    closed_loop: bool,
) -> tuple[UncertainFigure, ...]:
    """Every figure of the site that may be off.

    Answers with their defaults, and lengths and levels of the legs.
    """
    found = [*_of_answers(facts, questions, rules), *_of_legs(job, legs, rules, closed_loop)]
    return tuple(one for one in found if one.spread_si > 0)


def _of_answers(
    facts: Facts, questions: tuple[Question, ...], rules: Rules
) -> Iterator[UncertainFigure]:
    for question in questions:
        if (
            not question.dimension
            or question.dimension in _NOT_IN_DOUBT
            or not question.in_doubt
            or not facts.shown(question)
        ):
            continue
        figure = facts.figure(question.key)
        if figure is not None:
            path = facts.path(question.key)
            wide = spread_si(figure, question.dimension, rules, is_level=question.is_level)
            yield UncertainFigure(
                path=path,
                label=question.label,
                provenance=figure.provenance,
                figure=figure,
                dimension=question.dimension,
                spread_si=wide,
                typed=figure.plus_minus is not None,
                low_si=question.low,
                high_si=question.high,
            )


def _of_legs(
    job: JobDocument, legs: tuple[LegEntry, ...], rules: Rules, closed_loop: bool
) -> Iterator[UncertainFigure]:
    for leg in legs:
        name = the_leg(leg, job.legs.index(leg) + 1)
        for field, label in (("length", "length of"), ("ends_at", "end of")):
            figure: Figure | None = getattr(leg, field)
            if figure is None or (field == "ends_at" and closed_loop):
                continue
            path = f"legs.{leg.id}.{field}"
            wide = spread_si(figure, "length", rules, is_level=field == "ends_at")
            low = 0.0 if field == "length" else -1e5
            yield UncertainFigure(
                path=path,
                label=f"{label} {name}",
                provenance=figure.provenance,
                figure=figure,
                dimension="length",
                spread_si=wide,
                typed=figure.plus_minus is not None,
                low_si=low,
                high_si=1e5,
            )
