"""Changing a job one field at a time, by path.

What cannot be read is kept as typed, and the last good value stays.

Paths: ``title``, ``answers.pit_diameter``, ``answers.pit_diameter.standing``, ``legs.a.length``,
``legs.a.fittings``, ``legs.a.pipe``, ``lists.jets.r1.count``, ``units``, ``pump``, ...
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, get_args

from pydantic import ValidationError

from sizing.base import numbers, units
from sizing.base.errors import EditError, GoneError, SizingError, UnknownName
from sizing.base.plain_text import one_line
from sizing.base.rules import SHIPPED, Rules
from sizing.base.units import SYSTEMS, System
from sizing.document import build_route, items
from sizing.document.answers import List, Question, rows_of
from sizing.document.job import (
    MOST_PUMPS,
    PROVENANCES,
    Figure,
    FittingEntry,
    FittingMethod,
    JobDocument,
    LegEntry,
    ListRow,
)
from sizing.document.read_figure import check_bounds, read_figure
from sizing.editing import edit_scenarios
from sizing.hydraulics import fitting_words, pipe_words, pipes
from sizing.hydraulics.fittings import Counted
from sizing.hydraulics.system_curve import FrictionMethod
from sizing.kinds import kind
from sizing.pump.curve import Arrangement

MOST_PARALLEL = 20
FITTING_METHODS: dict[FittingMethod, str] = {
    "k": "K by size",
    "hooper": "K by size and Reynolds (2-K)",
    "darby": "K by size and Reynolds (3-K)",
    "equivalent_length": "equivalent length",
    "percent": "so much of the pipe",
}
_LONGEST_PATH = 120
_TEXTS = {"title": 200, "customer": 200, "site": 200, "note": 5000}
_CHOICES: dict[str, tuple[str, ...]] = {
    "units": SYSTEMS,
    "friction": get_args(FrictionMethod),
    "fitting_method": tuple(FITTING_METHODS),
    "filters": ("dirty", "clean"),
    "arrangement": get_args(Arrangement),
}
# Bounds of a leg's figures [m]: (lowest, highest, dimension of its unit).
LEG_FIGURES = {
    "length": (0.0, build_route.LONGEST_LEG_M, "length"),
    "ends_at": (-build_route.HIGHEST_LEVEL_M, build_route.HIGHEST_LEVEL_M, "length"),
    "bore": (0.002, 3.0, "bore"),
    "share": (0.0, 1.0, "ratio"),
    "rated": (1e4, 1e8, "pressure"),
}


_LEG_LABELS = {
    "length": "the length of a leg",
    "ends_at": "the level a leg ends at",
    "bore": "the bore of a leg",
    "share": "the share of the flow in a leg",
    "rated": "what the weakest fitting of a leg is rated for",
}
_ALLOWANCE = (0.0, 3.0)
_AS_BUILT = (0.2, 5.0)
# How many pumps: the path of the field, the name in the document, and the least.
COUNTS = {"pumps": ("running_pumps", 2), "standby": ("standby", 0)}


@dataclass(frozen=True)
class Edited:
    """The job after an edit; ``problem`` says why the typed text was kept aside instead."""

    job: JobDocument
    problem: str | None = None


def edit(job: JobDocument, path: str, text: str, rules: Rules = SHIPPED) -> Edited:
    """Apply one edit.

    Returns
    -------
    Edited
        With the change made; or, when the text cannot be read, with the text kept in
        ``job.pending`` and the last good value left standing.

    Raises
    ------
    GoneError
        A path of a leg or a row that was taken out meanwhile.
    EditError
        A path that no job has, or text longer than any field takes.
    """
    if len(text) > max(_TEXTS.values()):
        raise EditError("that is longer than this field takes")
    if len(path) > _LONGEST_PATH:
        raise EditError(f"no job has a field '{path[:40]}…'")
    change = _changer(job, path, rules)
    pending = {key: value for key, value in job.pending.items() if key != path}
    try:
        changed = change(text)
    except (EditError, GoneError):
        raise
    except (SizingError, ValidationError) as problem:
        kept = job.model_copy(update={"pending": pending | {path: text}})
        return Edited(
            kept, str(problem) if isinstance(problem, SizingError) else problem.errors()[0]["msg"]
        )
    return Edited(changed.model_copy(update={"pending": pending}))


def problem(job: JobDocument, path: str) -> str | None:
    """Why the pending text of a path cannot be read; None when nothing is pending there."""
    if path not in job.pending:
        return None
    return edit(job, path, job.pending[path]).problem


def text_at(job: JobDocument, path: str) -> str:
    """What the field of a path shows now; '' for what is not there (any more)."""
    head, _, rest = path.partition(".")
    key, _, part = rest.partition(".")
    if head == "answers":
        return _shown(job.answers.get(key), part)
    if head == "lists":
        return _cell_text(job, key, part)
    if head == "scenarios":
        return edit_scenarios.text_at(job, rest)
    if head == "run":
        return "; ".join(f"{leg.id}: {build_route.pipe_label(leg)}" for leg in job.legs)
    if head != "legs":
        name = COUNTS[head][0] if head in COUNTS else head
        value = getattr(job, name, None)
        return str(value) if isinstance(value, int) else _shown(value, "")
    entry = next((leg for leg in job.legs if leg.id == key), None)
    name, _, part = part.partition(".")
    if entry is None:
        return ""
    if name == "pipe":
        return build_route.pipe_label(entry)
    if name == "fittings":
        return fitting_words.write([Counted(one.fitting, one.count) for one in entry.fittings])
    if name == "items":
        return numbers.as_read(items.write(entry.items))
    if name == "wall":
        return pipes.wall(entry.wall).label if entry.wall else pipes.USUAL_WALL
    return str(entry.parallel) if name == "abreast" else _shown(getattr(entry, name, None), part)


def _cell_text(job: JobDocument, key: str, rest: str) -> str:
    row_id, _, column = rest.partition(".")
    column, _, part = column.partition(".")
    row = next((row for row in rows_of(job, declared_list(job, key)) if row.id == row_id), None)
    return "" if row is None else _shown(row.cells.get(column), part)


def _shown(value: Figure | str | None, part: str) -> str:
    if isinstance(value, Figure):
        return value.provenance if part == "standing" else numbers.as_read(value.shown())
    return value or ""


def _changer(job: JobDocument, path: str, rules: Rules) -> Callable[[str], JobDocument]:
    head, _, rest = path.partition(".")
    if head in _TEXTS and not rest:
        return lambda text: job.model_copy(update={head: _short(_line(head, text), _TEXTS[head])})
    if head in _CHOICES and not rest:
        return lambda text: job.model_copy(update={head: _one_of(text, _CHOICES[head])})
    if head in COUNTS and not rest:
        name, least = COUNTS[head]
        return lambda text: job.model_copy(update={name: _whole(text, least, MOST_PUMPS)})
    if head == "allowance" and not rest:
        return lambda text: job.model_copy(update={"allowance": _allowance(text)})
    if head == "as_built" and not rest:
        return lambda text: job.model_copy(update={"as_built": _as_built(text)})
    if head == "run" and not rest:
        return lambda text: _pipes_of_legs(job, text)
    if head == "pump" and not rest:
        return lambda text: job.model_copy(update={"pump": _short(text, 200) or None})
    if head == "scenarios" and rest:
        return lambda text: job.model_copy(
            update={"scenarios": edit_scenarios.kept(job, rest, text)}
        )
    if head == "answers" and rest:
        key, _, part = rest.partition(".")
        question = _question(kind(job.kind).questions, key)
        if part not in ("", "standing"):
            raise EditError(f"no job has a field '{path}'")
        return lambda text: job.model_copy(
            update={"answers": _answered(job, job.answers, question, part, text, rules)}
        )
    if head == "lists" and rest.count(".") in (2, 3):
        return _cell_changer(job, rest, rules)
    if head == "legs" and rest.count(".") in (1, 2):
        leg_id, _, field = rest.partition(".")
        entry = job.leg(leg_id)
        return lambda text: job.with_leg(
            entry.model_copy(update=_leg_change(job, entry, field, text))
        )
    raise EditError(f"no job has a field '{path}'")


def _allowance(text: str) -> Figure | None:
    if not text.strip():
        return None
    figure = Figure.typed(text, "ratio", "%")
    check_bounds(figure, *_ALLOWANCE, "the allowance for fittings", "ratio")
    return figure


def _as_built(text: str) -> Figure | None:
    if not text.strip():
        return None
    figure = Figure.typed(text, "ratio", "%", "measured")
    check_bounds(figure, *_AS_BUILT, "losses as built over those reckoned", "ratio")
    return figure


def _question(questions: tuple[Question, ...], key: str) -> Question:
    for question in questions:
        if question.key == key:
            return question
    raise EditError(f"there is no question '{key}'")


def declared_list(job: JobDocument, key: str) -> List:
    """The list of a job's kind with that key; raises :class:`EditError` when it has none."""
    for declared in kind(job.kind).lists:
        if declared.key == key:
            return declared
    raise EditError(f"a {job.kind} job has no list '{key}'")


def _cell_changer(job: JobDocument, rest: str, rules: Rules) -> Callable[[str], JobDocument]:
    key, row_id, column = rest.split(".", 2)
    column, _, part = column.partition(".")
    declared = declared_list(job, key)
    question, rows = _question(declared.columns, column), rows_of(job, declared)
    row = find_row(rows, row_id)

    def change(text: str) -> JobDocument:
        changed = row.model_copy(
            update={"cells": _answered(job, row.cells, question, part, text, rules)}
        )
        return with_rows(job, key, tuple(changed if one.id == row_id else one for one in rows))

    return change


def find_row(rows: tuple[ListRow, ...], row_id: str) -> ListRow:
    """The row with that id; raises :class:`GoneError` when it was taken out."""
    for row in rows:
        if row.id == row_id:
            return row
    raise GoneError("this row was taken out of its list meanwhile")


def with_rows(job: JobDocument, key: str, rows: tuple[ListRow, ...]) -> JobDocument:
    """The job with the rows of a list exchanged."""
    return job.model_copy(update={"lists": {**job.lists, key: rows}})


def _line(head: str, text: str) -> str:
    return text if head == "note" else one_line(text)


def _short(text: str, most: int) -> str:
    """Plain text with single blanks.

    Raises :class:`SizingError` when it is longer than its field takes.
    """
    plain = " ".join(text.split())
    if len(plain) > most:
        raise SizingError(f"this is {len(plain)} characters long; at most {most} go in here")
    return plain


def _one_of(text: str, codes: tuple[str, ...]) -> str:
    if text not in codes:
        raise UnknownName("choice", text, codes)
    return text


Cells = Mapping[str, Figure | str]


def _answered(
    job: JobDocument, before: Cells, question: Question, part: str, text: str, rules: Rules
) -> dict[str, Figure | str]:
    """The answers with one changed: its standing, its choice, its words or its figure."""
    answers = dict(before)
    if part == "standing":
        figure = answers.get(question.key, question.default_by(rules))
        if not isinstance(figure, Figure):
            raise SizingError("give the figure first, then say where it is from")
        answers[question.key] = figure.model_copy(update={"provenance": _one_of(text, PROVENANCES)})
    elif not text.strip() and (
        question.default or question.optional or question.is_words or question.key not in answers
    ):
        answers.pop(question.key, None)  # a blank goes back to the default, or to not answered
    elif question.choices:
        answers[question.key] = _one_of(text, tuple(choice.code for choice in question.choices))
    elif question.is_words:
        answers[question.key] = _short(text, 60)
    else:
        answers[question.key] = read_figure(job, question, answers.get(question.key), text)
    return answers


def _leg_change(job: JobDocument, entry: LegEntry, field: str, text: str) -> dict[str, Any]:
    name, _, part = field.partition(".")
    if name in LEG_FIGURES:
        return {
            name: (
                _leg_provenance(entry, name, text)
                if part == "standing"
                else _leg_figure(job, entry, name, text)
            )
        }
    if name == "name":
        return {"name": _short(text, 60)}
    if name == "side":
        return {"side": _one_of(text, ("suction", "delivery"))}
    if name == "fittings":
        return {
            "fittings": tuple(
                FittingEntry(fitting=one.fitting_id, count=one.count)
                for one in fitting_words.read(text)
            )
        }
    if name == "pipe":
        return _pipe(job, entry, text)
    if name == "wall":
        return {"wall": pipes.read_wall(text)}
    if name == "abreast":
        return {"parallel": _whole(text, 1, MOST_PARALLEL)}
    if name == "items":
        return {"items": items.read(numbers.as_kept(text), job.units)}
    raise EditError(f"a leg has no field '{field}'")


def _pipe(job: JobDocument, entry: LegEntry, text: str) -> dict[str, Any]:
    """A pipe by its label, or 'bore 52 mm' for one that no table has.

    Its wall stays like that of the pipe before.
    """
    if text.strip().lower().startswith("bore"):
        return {"bore": _leg_figure(job, entry, "bore", text.strip()[4:])}
    found = pipe_words.read(text)
    return {"series": found.series, "nominal": found.nominal, "bore": None}


def _pipes_of_legs(job: JobDocument, text: str) -> JobDocument:
    """Several legs get their pipes at once: 'b: PE100 SDR11 63 mm; c: PE100 SDR11 50 mm'."""
    for part in text.split(";"):
        leg_id, _, pipe = part.partition(":")
        entry = job.leg(leg_id.strip())
        job = job.with_leg(entry.model_copy(update=_pipe(job, entry, pipe)))
    return job


def _whole(text: str, least: int, most: int) -> int:
    plain = text.strip().removesuffix("×").removesuffix("x").strip() or str(least)
    if (
        not plain.isascii()
        or not plain.isdigit()
        or len(plain) > 4
        or not least <= int(plain) <= most
    ):
        raise SizingError(f"'{text.strip()}' must be a whole number from {least} to {most}")
    return int(plain)


def _leg_figure(job: JobDocument, entry: LegEntry, name: str, text: str) -> Figure | None:
    low, high, dimension = LEG_FIGURES[name]
    before = getattr(entry, name)
    if not text.strip() and (before is None or name in ("bore", "share", "rated") or entry.survey):
        return None
    figure = Figure.typed(
        text,
        dimension,
        "%" if name == "share" else units.shown(dimension, job.units).unit,
        before.provenance if before else "told",
    )
    check_bounds(figure, low, high, _LEG_LABELS[name], dimension)
    return figure


def _leg_provenance(entry: LegEntry, name: str, text: str) -> Figure:
    figure = getattr(entry, name)
    if figure is None:
        raise SizingError("give the figure first, then say where it is from")
    changed: Figure = figure.model_copy(update={"provenance": _one_of(text, PROVENANCES)})
    return changed


# The units that are written for one another by a slip, the likeliest first.
_SLIPS = {
    "gpm": ("gph", "gpd", "l/min"),
    "gph": ("gpm", "gpd", "l/h"),
    "gpd": ("gpm", "gph"),
    "l/s": ("l/min", "l/h", "m³/h"),
    "l/min": ("l/h", "l/s", "gpm"),
    "l/h": ("l/min", "l/day", "gph", "m³/h"),
    "m³/h": ("l/min", "l/h", "m³/day"),
    "m": ("cm", "mm", "ft"),
    "cm": ("mm", "m", "in"),
    "mm": ("cm", "m", "in"),
    "ft": ("in", "m"),
    "in": ("ft", "cm", "mm"),
    "bar": ("psi", "mbar", "kPa"),
    "psi": ("bar", "kPa"),
    "kPa": ("bar", "mbar", "psi"),
    "mbar": ("bar", "kPa"),
    "W": ("kW",),
    "kW": ("W", "hp"),
    "hp": ("kW", "W"),
    "°C": ("°F",),
    "°F": ("°C",),
    "s": ("min", "h"),
    "min": ("s", "h"),
    "h": ("min", "s"),
    "l": ("m³", "gal"),
    "m³": ("l",),
    "gal": ("l",),
}


def remark(question: Question, figure: Figure, system: System, rules: Rules) -> str:
    """A word about a figure outside its usual range, with the unit that may have been meant.

    '' when usual.
    """
    usual = question.usual_by(rules)
    if usual is None:
        return ""
    low, high = usual
    if low * 0.999 <= figure.si(question.dimension) <= high * 1.001:
        return ""
    shown = (
        f"unusual: {units.show(low, question.dimension, system)} to"
        f" {units.show(high, question.dimension, system)} is usual"
    )
    meant = [
        symbol
        for symbol in _SLIPS.get(figure.unit, ())
        if low <= units.unit(symbol, question.dimension).to_si(figure.value) <= high
    ]
    return shown + (f"; did you mean {figure.value:g} {meant[0]}?" if meant else "")
