"""A figure that answers a question, from typed text: its unit, where it is from, its bounds."""

from __future__ import annotations

from sizing.base import numbers, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.document.answers import Question
from sizing.document.job import Figure, JobDocument, Provenance


def bare_unit(question: Question, before: Figure | str | None, system: System) -> str:
    """The unit that a bare number takes: a field that got '18 in' goes on in inches."""
    if isinstance(before, Figure) and before.provenance != "assumed":
        known = units.find(before.unit, question.dimension)
        if known is not None and known.symbol == before.unit and question.dimension != "latitude":
            return before.unit
    return question.unit(system)


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
    figure = Figure.read(
        numbers.as_kept(text),
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
