"""Taking in a job file from outside: readable is not enough, it must make sense to its kind."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sizing import job as document
from sizing.edit import LEG_FIGURES, check_bounds, edit
from sizing.errors import SizingError
from sizing.facts import List, Question
from sizing.job import Figure, Job, JobFileError, Row
from sizing.kinds import kind
from sizing.pipework import pipe


def loads(text: str | bytes) -> Job:
    """A job from the text of a job file whose every answer, unit, pipe and fitting is known.

    Raises
    ------
    JobFileError
        Naming what is wrong and where.
    """
    job = document.loads(text)
    if "\\u0000" in job.model_dump_json():
        raise JobFileError("it holds the character U+0000, which is no text: open it in an editor and take that out")
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
    for leg in job.legs:
        with _told(f"legs.{leg.id}"):
            pipe.pipe(leg.series, leg.nominal)
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


def _check_rows(lists: dict[str, List], key: str, rows: tuple[Row, ...]) -> None:
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
        raise JobFileError("a figure is wanted here" if question.dimension else "one of the choices is wanted here")
    if isinstance(answer, Figure):
        check_bounds(answer, question.low, question.high, question.label.lower(), question.dimension)
    elif question.choices and answer not in {choice.code for choice in question.choices}:
        raise JobFileError(f"'{answer}' is none of the choices")
