"""A figure that answers a question, from typed text: its unit, where it is from, its bounds."""

from __future__ import annotations

from sizing.base import numbers, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.document.answers import Answers, Question
from sizing.document.job import Figure, JobDocument, Provenance

_SAME_EVERYWHERE = (
    "ratio",
    "price",
    "time",
    "voltage",
    "mains",
    "sound",
    "money",
    "factor",
    "count",
    "angle",
    "turnover",
    "power",
    "people",
    "drainage",
)
_METRIC = {
    *(
        "mm",
        "cm",
        "m",
        "km",
        "m²",
        "m³",
        "l",
        "ml",
        "°C",
        "mm/h",
        "bar",
        "kPa",
        "Pa",
        "mbar",
        "MPa",
    ),
    *("l/s", "l/min", "l/h", "l/day", "m³/h", "m³/s", "m³/day"),
}


def bare_unit(question: Question, before: Figure | str | None, system: System) -> str:
    """The unit that a bare number takes: a field that got '18 in' goes on in inches."""
    if isinstance(before, Figure) and before.provenance != "assumed":
        known = units.find(before.unit, question.dimension)
        if known is not None and known.symbol == before.unit and question.dimension != "latitude":
            return before.unit
    return question.unit(system)


def as_shown(answers: Answers, question: Question, system: System) -> str:
    """The figure that stands for a question as text: as it was typed, a default in the job's units.

    '' where it is not answered and has no default.
    """
    answer, figure = answers.answer(question.key), answers.figure(question.key)
    if figure is None:
        return ""
    unit = question.unit(system)
    if isinstance(answer, Figure) or figure.unit == unit:
        return numbers.as_read(figure.shown())
    return units.show_in(figure.si(question.dimension), question.dimension, unit)


def converted(figure: Figure | None, question: Question, system: System) -> str:
    """'= 2.52 m³/h' where a figure was typed in a unit of another system; '' where it was not.

    A flow is converted wherever its unit is not that of the results.
    """
    dimension = question.dimension
    typed = None if figure is None else units.find(figure.unit, dimension)
    if figure is None or typed is None or dimension in _SAME_EVERYWHERE:
        return ""
    if dimension == "flow":
        wanted = units.shown(dimension, system).unit
        same = typed.symbol == wanted
    else:
        wanted = question.unit(system)
        same = (typed.symbol in _METRIC) == (wanted in _METRIC)
    return "" if same else "= " + units.show_in(figure.si(dimension), dimension, wanted)


def read_figure(
    job: JobDocument, question: Question, before: Figure | str | None, text: str
) -> Figure:
    """A typed answer to a question, within its bounds; where it is from stays as before.

    Raises
    ------
    SizingError
    """
    typed: Provenance = "designed" if question.designed else "told"
    provenance = before.provenance if isinstance(before, Figure) else typed
    figure = Figure.typed(
        text,
        question.dimension,
        bare_unit(question, before, job.units),
        typed if provenance == "assumed" else provenance,
    )
    check_bounds(figure, question.low, question.high, question.label.lower(), question.dimension)
    return figure


def check_bounds(figure: Figure, low: float, high: float, label: str, dimension: str) -> None:
    """Raise :class:`SizingError` in words when a figure lies outside its bounds [SI]."""
    if not low <= figure.si(dimension) <= high:
        unit = units.find(figure.unit, dimension) or units.unit(figure.unit, dimension)
        bounds = [units.show_in(bound, dimension, unit.symbol) for bound in (low, high)]
        raise SizingError(
            f"{label} cannot be {figure.shown()}; it must lie between {bounds[0]} and {bounds[1]}"
        )
