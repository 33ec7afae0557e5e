"""Taking in a job from outside.

Readable is not enough, it must make sense to its kind and say what it reckons with.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass

from sizing.base.errors import SizingError
from sizing.document import items
from sizing.document import job as document
from sizing.document.answers import List, Question
from sizing.document.job import Figure, ItemPoint, JobDocument, JobFileError, LegEntry, ListRow
from sizing.document.read_figure import check_bounds
from sizing.editing import edit_scenarios
from sizing.editing.edit import LEG_FIGURES, edit
from sizing.hydraulics import pipes
from sizing.kinds import kind


@dataclass(frozen=True)
class TakenIn:
    """A job from outside, and what was put right on the way in, a sentence each."""

    job: JobDocument
    told: tuple[str, ...]


def take_in(text: str | bytes) -> TakenIn:
    """A job from the text of a job file, whose figures say what they are reckoned as.

    It is read as :func:`loads` reads it.

    Raises
    ------
    JobFileError
    """
    return agreeing(_checked(text))


def loads(text: str | bytes) -> JobDocument:
    """The job alone of :func:`take_in`."""
    return take_in(text).job


def agreeing(job: JobDocument) -> TakenIn:
    """The job with no figure whose text says another amount than its value.

    The value stays, with its own text.

    The text is what people read on screen and paper, the value is what the sizing uses.
    """
    told: list[str] = []

    def mend(where: str, figure: Figure, dimension: str) -> Figure:
        if figure.agrees(dimension):
            return figure
        plain = figure.model_copy(update={"text": ""})
        told.append(
            f"{where}: it says '{figure.text}', but is reckoned with {plain.shown()}; that is what"
            " it says now"
        )
        return plain

    found = kind(job.kind)
    answers = _mended(
        job.answers, {question.key: question for question in found.questions}, "", mend
    )
    columns = {one.key: {question.key: question for question in one.columns} for one in found.lists}
    lists = {
        key: tuple(
            row.model_copy(
                update={"cells": _mended(row.cells, columns[key], f"row {number}, ", mend)}
            )
            for number, row in enumerate(rows, 1)
        )
        for key, rows in job.lists.items()
    }
    legs = tuple(_mended_leg(leg, number, mend) for number, leg in enumerate(job.legs, 1))
    allowance = job.allowance and mend("the allowance for fittings", job.allowance, "ratio")
    as_built = job.as_built and mend("losses as built", job.as_built, "ratio")
    asked = job.second_look
    if asked is not None:
        dimension = _ASKED_OF.get(asked.quantity, "power")
        figure = mend("somebody else's figure", asked.figure, dimension)
        asked = asked.model_copy(update={"figure": figure})
    scenarios = {
        code: _mended(given, _asked(code), f"{code}, ", mend)
        for code, given in job.scenarios.items()
    }
    changed = job.model_copy(
        update={
            "answers": answers,
            "lists": lists,
            "legs": legs,
            "allowance": allowance,
            "as_built": as_built,
            "second_look": asked,
            "scenarios": scenarios,
        }
    )
    return TakenIn(changed if told else job, tuple(told))


_ASKED_OF = {"head": "length", "flow": "flow"}
Mend = Callable[[str, Figure, str], Figure]


def _mended(
    cells: Mapping[str, Figure | str], questions: dict[str, Question], where: str, mend: Mend
) -> dict[str, Figure | str]:
    return {
        key: (
            mend(f"{where}{questions[key].label}", one, questions[key].dimension)
            if isinstance(one, Figure)
            else one
        )
        for key, one in cells.items()
    }


def _asked(code: str) -> dict[str, Question]:
    return {question.key: question for question in edit_scenarios.scenario(code).asks}


def _mended_leg(leg: LegEntry, number: int, mend: Mend) -> LegEntry:
    where = leg.name or f"leg {number}"
    figures = {name: getattr(leg, name) for name in LEG_FIGURES if getattr(leg, name) is not None}
    mended: dict[str, object] = {
        name: mend(f"{where}, {name.replace('_', ' ')}", figure, LEG_FIGURES[name][2])
        for name, figure in figures.items()
    }
    mended["items"] = tuple(
        item.model_copy(
            update={
                "points": tuple(
                    _mended_point(f"{where}, {item.name}", point, mend) for point in item.points
                )
            }
        )
        for item in leg.items
    )
    return leg.model_copy(update=mended)


def _mended_point(where: str, point: ItemPoint, mend: Mend) -> ItemPoint:
    losses = {
        name: getattr(point, name) for name in ("loss", "dirty") if getattr(point, name) is not None
    }
    mended = {
        name: mend(f"{where}, loss", figure, items.dimension_of(figure))
        for name, figure in losses.items()
    }
    return point.model_copy(update={"flow": mend(f"{where}, flow", point.flow, "flow"), **mended})


def _checked(text: str | bytes) -> JobDocument:
    """A job from the text of a job file whose every answer, unit, pipe and fitting is known.

    Raises
    ------
    JobFileError
        Naming what is wrong and where.
    """
    job = document.loads(text)
    if "\\u0000" in job.model_dump_json():
        raise JobFileError(
            "it holds the character U+0000, which is no text: open it in an editor and take"
            " that out"
        )
    try:
        questions = {question.key: question for question in kind(job.kind).questions}
    except SizingError as problem:
        raise JobFileError(f"kind: {problem}") from None
    for path, typed in job.pending.items():
        with _told(f"pending.{path}"):
            edit(job, path, typed)
    for key, answer in job.answers.items():
        with _told(f"answers.{key}"):
            _check_answer(questions, key, answer)
    lists = {one.key: one for one in kind(job.kind).lists}
    for key, rows in job.lists.items():
        with _told(f"lists.{key}"):
            _check_rows(lists, key, rows)
    for code, given in job.scenarios.items():
        with _told(f"scenarios.{code}"):
            asked = _asked(code)
            for key, figure in given.items():
                _check_answer(asked, key, figure)
    for leg in job.legs:
        with _told(f"legs.{leg.id}"):
            pipes.pipe(leg.series, leg.nominal)
        for name, (low, high, dimension) in LEG_FIGURES.items():
            figure = getattr(leg, name)
            with _told(f"legs.{leg.id}.{name}"):
                if figure is not None:
                    check_bounds(figure, low, high, name, dimension)
    return job


@contextmanager
def _told(where: str) -> Iterator[None]:
    """Name the place in whatever is wrong within."""
    try:
        yield
    except SizingError as problem:
        raise JobFileError(f"{where}: {problem}") from None


def _check_rows(lists: dict[str, List], key: str, rows: tuple[ListRow, ...]) -> None:
    if key not in lists:
        raise JobFileError(f"no list of this kind is called '{key}'")
    columns = {question.key: question for question in lists[key].columns}
    for row in rows:
        for column, cell in row.cells.items():
            with _told(f"{row.id}.{column}"):
                _check_answer(columns, column, cell)
    given = tuple(row.id for row in lists[key].first)
    if lists[key].fixed and tuple(row.id for row in rows) != given:
        raise JobFileError(f"its rows must be {', '.join(given)}")


def _check_answer(questions: dict[str, Question], key: str, answer: Figure | str) -> None:
    if key not in questions:
        raise JobFileError(f"no question of this kind is called '{key}'")
    question = questions[key]
    if isinstance(answer, Figure) != bool(question.dimension):
        raise JobFileError(
            "a figure is wanted here" if question.dimension else "one of the choices is wanted here"
        )
    if isinstance(answer, Figure):
        check_bounds(
            answer, question.low, question.high, question.label.lower(), question.dimension
        )
    elif question.choices and answer not in {choice.code for choice in question.choices}:
        raise JobFileError(f"'{answer}' is none of the choices")
