"""Fields as the worksheet prints them: what was typed, what is wrong with it, where it is from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from kyrtos.worksheet.glyphs import Drawn, drawn
from sizing.base import units
from sizing.document import edit, items
from sizing.document.answers import Answers, Choice, Facts, List, MissingFact, Question, rows_of
from sizing.document.build_route import length_label, pipe_label
from sizing.document.job import PROVENANCES, Figure, JobDocument, LegEntry, Provenance
from sizing.hydraulics import fittings
from sizing.hydraulics.fittings import Counted


@dataclass(frozen=True)
class Field:
    """One field. ``widget`` is 'figure', 'choice' or 'line' (plain text)."""

    path: str
    label: str
    widget: str
    value: str
    problem: str = ""
    hint: str = ""
    odd: bool = False
    provenance: str = ""
    choices: tuple[Choice, ...] = ()
    help: str = ""
    placeholder: str = ""
    needed: bool = False
    bucket: bool = False  # a flow, which may be timed with a bucket

    @property
    def id(self) -> str:
        """The id of the input, fit for HTML."""
        return "f-" + self.path.replace(".", "-")

    @property
    def provenances(self) -> tuple[Provenance, ...]:
        """Where a figure may be from."""
        return PROVENANCES


_ITEMS_LIKE = "filter 0.2 to 0.5 bar at 10 m³/h; meter 3 m at 5 m³/h"


@dataclass(frozen=True)
class LegRow:
    """One leg as the table of the run prints it."""

    leg_id: str
    number: int
    name: Field
    pipe: Field
    length: Field
    ends_at: Field
    fittings: Field
    drawn: tuple[Drawn, ...]
    side: Field
    wall: Field
    share: Field
    parallel: Field
    items: Field
    more: bool  # whether any of the fields that most legs never need is filled
    survey: str
    speed: str
    loss: str

    @property
    def problems(self) -> tuple[str, ...]:
        """What is wrong in any of its fields, in their order."""
        shown = (self.name, self.pipe, self.length, self.ends_at, self.fittings, self.wall)
        every = (*shown, self.share, self.parallel, self.items)
        return tuple(field.problem for field in every if field.problem)


@dataclass(frozen=True)
class ListRowView:
    """One row of a list: what it is called, if its rows are given, and its fields."""

    row_id: str
    name: str
    fields: tuple[Field, ...]


@dataclass(frozen=True)
class ListView:
    """A list of the job as the stage prints it."""

    key: str
    label: str
    help: str
    fixed: bool
    rows: tuple[ListRowView, ...]


def pending(job: JobDocument, path: str) -> tuple[str | None, str]:
    """What was typed and could not be read, and why."""
    problem = edit.problem(job, path)
    return (job.pending[path], problem) if problem else (None, "")


def of_question(job: JobDocument, answers: Answers, question: Question, missing: set[str]) -> Field:
    """The field of one question, of the job itself or of a row of a list."""
    path, answer = answers.path(question.key), answers.answer(question.key)
    typed, problem = pending(job, path)
    if question.choices:
        return Field(
            path=path,
            label=question.label,
            widget="choice",
            value=answers.choice(question.key),
            problem=problem,
            choices=question.choices,
            help=question.help,
            hint=question.help,
        )
    if question.is_words:
        return Field(
            path,
            question.label,
            "line",
            answers.words(question.key) if typed is None else typed,
            problem,
        )
    figure = answers.figure(question.key)
    value = typed if typed is not None else figure.shown() if figure else ""
    odd = edit.remark(question, figure, job.units, answers.rules) if figure else ""
    source = (
        f"assumed: {question.source}"
        if figure and not isinstance(answer, Figure) and question.source
        else ""
    )
    hint = odd or _other_unit(figure, question.dimension, job) or source or question.help
    return Field(
        path=path,
        label=question.label,
        widget="figure",
        value=value,
        problem=problem,
        hint=hint,
        odd=bool(odd),
        provenance=figure.provenance if figure else "",
        help=question.help,
        placeholder=question.unit(job.units),
        needed=path in missing,
        bucket=question.dimension == "flow",
    )


def of_list(job: JobDocument, facts: Facts, declared: List, missing: set[str]) -> ListView:
    """A list with all its rows."""
    rows = tuple(
        ListRowView(
            row.id,
            declared.names[number] if declared.names else "",
            tuple(of_question(job, answers, question, missing) for question in declared.columns),
        )
        for number, (row, answers) in enumerate(
            zip(rows_of(job, declared), facts.rows(declared.key), strict=True)
        )
    )
    return ListView(declared.key, declared.label, declared.help, declared.fixed, rows)


_SAME_EVERYWHERE = (
    "ratio",
    "price",
    "time",
    "voltage",
    "factor",
    "count",
    "angle",
    "turnover",
    "power",
    "people",
    "drainage",
)


def _other_unit(figure: Figure | None, dimension: str, job: JobDocument) -> str:
    """The figure in the shown unit, when it was typed in another system's."""
    if figure is None or dimension in _SAME_EVERYWHERE:
        return ""
    shown = units.SHOWN[dimension][job.units].unit
    typed, wanted = units.find(figure.unit, dimension), units.unit(shown, dimension)
    metric = {
        "mm",
        "cm",
        "m",
        "km",
        "l/s",
        "l/min",
        "l/h",
        "l/day",
        "m³/h",
        "m³/s",
        "m³/day",
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
    }
    if typed is None or (typed.symbol in metric) == (wanted.symbol in metric):
        return ""
    return "= " + units.show(figure.si(dimension), dimension, job.units)


_SIDES = (Choice("suction", "before the pump"), Choice("delivery", "behind the pump"))


def _surveyed(entry: LegEntry) -> str:
    """What is known of the ground along a leg."""
    return f"{len(entry.survey)} points over {length_label(entry)}" if entry.survey else ""


def of_leg(
    job: JobDocument, entry: LegEntry, number: int, missing: set[str], speed: str, loss: str
) -> LegRow:
    """The row of one leg."""
    figure = partial(_leg_figure, job, entry, missing)
    words = partial(_leg_words, job, entry)
    counted = [Counted(one.fitting, one.count) for one in entry.fittings]
    return LegRow(
        leg_id=entry.id,
        number=number,
        name=words("name", f"leg {number}", entry.name),
        pipe=words("pipe", "pipe", pipe_label(entry)),
        length=figure("length", "length"),
        ends_at=figure("ends_at", "ends at"),
        fittings=words("fittings", "fittings", fittings.write(counted)),
        drawn=drawn(entry.fittings),
        side=Field(f"legs.{entry.id}.side", "side", "choice", entry.side, choices=_SIDES),
        wall=words("wall", "wall", edit.text_at(job, f"legs.{entry.id}.wall")),
        share=figure("share", "carries"),
        parallel=words("abreast", "side by side", str(entry.parallel)),
        items=words(
            "items", "items with a loss of their own", items.write(entry.items), _ITEMS_LIKE
        ),
        more=_is_unusual(job, entry),
        survey=_surveyed(entry),
        speed=speed,
        loss=loss,
    )


def _leg_figure(
    job: JobDocument, entry: LegEntry, missing: set[str], name: str, label: str
) -> Field:
    path, has = f"legs.{entry.id}.{name}", getattr(entry, name)
    typed, problem = pending(job, path)
    value = typed if typed is not None else has.shown() if has else ""
    unit = units.SHOWN["length"][job.units].unit
    if name == "share":
        return Field(
            path=path,
            label=label,
            widget="figure",
            value=value,
            problem=problem,
            placeholder="100 %",
        )
    surveyed = length_label(entry) if name == "length" else "as surveyed"
    return Field(
        path=path,
        label=label,
        widget="figure",
        value=value,
        problem=problem,
        provenance=has.provenance if has else "",
        placeholder=surveyed if entry.survey else unit,
        needed=path in missing,
    )


def _leg_words(
    job: JobDocument, entry: LegEntry, name: str, label: str, now: str, placeholder: str = ""
) -> Field:
    path = f"legs.{entry.id}.{name}"
    typed, problem = pending(job, path)
    value = now if typed is None else typed
    return Field(
        path=path,
        label=label,
        widget="line",
        value=value,
        problem=problem,
        placeholder=placeholder,
    )


def _is_unusual(job: JobDocument, entry: LegEntry) -> bool:
    """Whether anything stands in the fields that are folded away."""
    return bool(
        entry.wall
        or entry.share
        or entry.parallel > 1
        or entry.items
        or entry.survey
        or any(
            path.startswith(f"legs.{entry.id}.{name}")
            for path in job.pending
            for name in ("wall", "share", "abreast", "items")
        )
    )


def missing_paths(missing: tuple[MissingFact, ...]) -> set[str]:
    """The paths that are still needed."""
    return {one.path for one in missing}
