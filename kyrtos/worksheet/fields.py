"""Fields as the worksheet prints them: what was typed, what is wrong with it, where it is from."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

from kyrtos.worksheet.glyphs import Drawn, drawn
from sizing.base import numbers, units
from sizing.document import items
from sizing.document.answers import Answers, Choice, Facts, List, MissingFact, Question, rows_of
from sizing.document.build_route import length_label, likely_ends, pipe_label
from sizing.document.job import PROVENANCES, Figure, JobDocument, LegEntry, Provenance
from sizing.document.read_figure import as_shown, bare_unit, converted
from sizing.editing import edit
from sizing.hydraulics import fitting_words, pipe_words
from sizing.hydraulics.fittings import Counted
from sizing.kinds import kind


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
    other: str = ""  # what the same text would mean with the other decimal mark
    bucket: str = ""  # of a flow, which may be timed with a bucket: such as '10 l'

    @property
    def id(self) -> str:
        """The id of the input, fit for HTML."""
        return "f-" + self.path.replace(".", "-")

    @property
    def has_a_value(self) -> bool:
        """Whether a value stands behind what cannot be read: an earlier one, or a default."""
        return self.widget != "figure" or bool(self.provenance)

    @property
    def provenances(self) -> tuple[Provenance, ...]:
        """Where a figure may be from."""
        return PROVENANCES


_ITEMS_LIKE = {
    "metric": "filter 0.2 to 0.5 bar at 10 m³/h; meter 3 m at 5 m³/h",
    "us": "filter 3 to 7 psi at 45 gpm; meter 10 ft at 22 gpm",
    "uk": "filter 0.2 to 0.5 bar at 160 l/min; meter 3 m at 80 l/min",
}
_BUCKET_LIKE = {"metric": "10 l", "us": "5 gal", "uk": "10 l"}


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
    rated: Field
    items: Field
    more: bool  # whether any of the fields that most legs never need is filled
    survey: str
    speed: str
    loss: str

    @property
    def problems(self) -> tuple[str, ...]:
        """What is wrong in any of its fields, in their order."""
        shown = (self.name, self.pipe, self.length, self.ends_at, self.fittings, self.wall)
        every = (*shown, self.share, self.parallel, self.rated, self.items)
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
    help_text = units.in_one_system(question.help, job.units)
    if question.choices:
        return Field(
            path=path,
            label=question.label,
            widget="choice",
            value=answers.choice(question.key),
            problem=problem,
            choices=tuple(
                Choice(one.code, units.in_one_system(one.label, job.units))
                for one in question.choices
            ),
            help=help_text,
            hint=help_text,
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
    value = typed if typed is not None else as_shown(answers, question, job.units)
    odd = edit.remark(question, figure, job.units, answers.rules) if figure else ""
    other = (numbers.other_reading(figure.text) or "") if figure else ""
    other = numbers.as_read(other)
    if problem:
        other = _meant(job, path)
    source = (
        units.in_one_system(f"assumed: {question.source}", job.units)
        if figure and not isinstance(answer, Figure) and question.source
        else ""
    )
    hint = odd or _read_as(figure, other) or converted(figure, question, job.units)
    hint = hint or source or help_text
    return Field(
        path=path,
        label=question.label,
        widget="figure",
        value=value,
        problem=problem,
        hint=hint,
        odd=bool(odd),
        provenance=figure.provenance if figure else "",
        help=help_text,
        placeholder=bare_unit(question, answer, job.units),
        needed=path in missing,
        other=other,
        bucket=_BUCKET_LIKE[job.units] if question.dimension == "flow" else "",
    )


def _meant(job: JobDocument, path: str) -> str:
    """What was typed with the decimal mark of other countries, if it can be read so; else ''."""
    swapped = numbers.with_other_mark(job.pending[path])
    return swapped if swapped and edit.edit(job, path, swapped).problem is None else ""


def _read_as(figure: Figure | None, other: str) -> str:
    """How a figure was read, where it may be read in two ways."""
    if figure is None or not other:
        return ""
    return f"read as {units.number_text(figure.value, 6).rstrip('0').rstrip('.,')} {figure.unit}"


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
    told = units.in_one_system(declared.help, job.units)
    return ListView(declared.key, declared.label, told, declared.fixed, rows)


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
        pipe=_pipe_field(job, entry, missing),
        length=figure("length", "length"),
        ends_at=replace(
            figure("ends_at", "ends at"),
            choices=tuple(
                Choice(numbers.as_read(one.shown()), words_for_it)
                for words_for_it, one in likely_ends(job, entry)
            ),
        ),
        fittings=words("fittings", "fittings", fitting_words.write(counted)),
        drawn=drawn(entry.fittings),
        side=Field(f"legs.{entry.id}.side", "side", "choice", entry.side, choices=_SIDES),
        wall=words("wall", "wall", edit.text_at(job, f"legs.{entry.id}.wall")),
        share=figure("share", "carries"),
        parallel=words("abreast", "side by side", str(entry.parallel)),
        rated=figure("rated", "weakest fitting rated"),
        items=words(
            "items",
            "items with a loss of their own",
            numbers.as_read(items.write(entry.items)),
            _ITEMS_LIKE[job.units],
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
    value = typed if typed is not None else numbers.as_read(has.shown()) if has else ""
    unit = units.shown("length", job.units).unit
    if name in ("share", "rated"):
        return Field(
            path=path,
            label=label,
            widget="figure",
            value=value,
            problem=problem,
            placeholder="100 %" if name == "share" else "as the pipe",
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
        other=_meant(job, path) if problem else "",
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


def _pipe_field(job: JobDocument, entry: LegEntry, missing: set[str]) -> Field:
    """The pipe, with the families to choose from where several fit what was typed."""
    field = _leg_words(job, entry, "pipe", "pipe", pipe_label(entry), "1-1/2 in PVC Sch 40")
    fits = pipe_words.find(field.value) if field.problem else ()
    return replace(
        field,
        needed=field.path in missing,
        choices=tuple(Choice(one.label, one.label) for one in fits),
    )


def _is_unusual(job: JobDocument, entry: LegEntry) -> bool:
    """Whether anything stands in the fields that are folded away."""
    return bool(
        entry.wall
        or entry.share
        or entry.rated
        or entry.parallel > 1
        or entry.items
        or entry.survey
        or any(
            path.startswith(f"legs.{entry.id}.{name}")
            for path in job.pending
            for name in ("wall", "share", "abreast", "rated", "items")
        )
    )


def missing_paths(missing: tuple[MissingFact, ...]) -> set[str]:
    """The paths that are still needed."""
    return {one.path for one in missing}


def last_good(job: JobDocument) -> list[str]:
    """Labels of the fields whose typed text could not be read, so that their last good value still
    counts.
    """
    asked = {f"answers.{question.key}": question for question in kind(job.kind).questions}
    labels = {path: question.label for path, question in asked.items()}
    found = []
    for path in job.pending:
        parts = path.split(".")
        if path in asked and not asked[path].default and parts[-1] not in job.answers:
            continue  # there never was one
        if parts[0] == "legs" and parts[-1] == "pipe":
            continue  # no other pipe takes its place: it counts as missing
        found.append(
            labels.get(path)
            or (
                f"{parts[-1].replace('_', ' ')} of a {'leg' if parts[0] == 'legs' else 'row'}"
                if len(parts) > 2
                else path
            )
        )
    return found
