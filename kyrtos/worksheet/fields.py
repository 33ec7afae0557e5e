"""Fields as the worksheet prints them: what was typed, what is wrong with it, where it is from."""

from __future__ import annotations

from dataclasses import dataclass

from sizing import edit, units
from sizing.facts import Choice, Facts, MissingFact, Question
from sizing.job import Figure, Job, LegEntry
from sizing.pipework import fitting
from sizing.pipework.fitting import Counted
from sizing.run import pipe_label


@dataclass(frozen=True)
class Field:
    """One field. ``kind`` is 'figure', 'choice' or 'line' (plain text)."""

    path: str
    label: str
    kind: str
    value: str
    problem: str = ""
    hint: str = ""
    odd: bool = False
    standing: str = ""
    choices: tuple[Choice, ...] = ()
    help: str = ""
    placeholder: str = ""
    needed: bool = False

    @property
    def id(self) -> str:
        """The id of the input, fit for HTML."""
        return "f-" + self.path.replace(".", "-")


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
    speed: str
    loss: str


def pending(job: Job, path: str) -> tuple[str | None, str]:
    """What was typed and could not be read, and why."""
    problem = edit.problem(job, path)
    return (job.pending[path], problem) if problem else (None, "")


def of_question(job: Job, facts: Facts, question: Question, missing: set[str]) -> Field:
    """The field of one question."""
    path = f"answers.{question.key}"
    typed, problem = pending(job, path)
    if question.choices:
        return Field(path, question.label, "choice", facts.choice(question.key), problem, choices=question.choices, help=question.help)
    answer = job.answers.get(question.key)
    figure = answer if isinstance(answer, Figure) else question.default_figure
    value = typed if typed is not None else figure.shown() if figure else ""
    odd = edit.remark(question, figure, job.units) if figure else ""
    source = f"assumed: {question.source}" if figure and not isinstance(answer, Figure) and question.source else ""
    hint = odd or _other_unit(figure, question.dimension, job) or source or question.help
    return Field(
        path, question.label, "figure", value, problem, hint, bool(odd), figure.standing if figure else "",
        help=question.help, placeholder=question.unit(job.units), needed=path in missing,
    )  # fmt: skip


def _other_unit(figure: Figure | None, dimension: str, job: Job) -> str:
    """The figure in the shown unit, when it was typed in another system's."""
    if figure is None or dimension in ("ratio", "price", "time", "voltage", "factor"):
        return ""
    shown = units.SHOWN[dimension][job.units].unit
    typed, wanted = units.find(figure.unit, dimension), units.unit(shown, dimension)
    metric = {"mm", "cm", "m", "km", "l/s", "l/min", "l/h", "m³/h", "m³/s", "m²", "°C", "mm/h"}
    if typed is None or (typed.symbol in metric) == (wanted.symbol in metric):
        return ""
    return "= " + units.show(figure.si(dimension), dimension, job.units)


def of_leg(job: Job, entry: LegEntry, number: int, missing: set[str], speed: str, loss: str) -> LegRow:
    """The row of one leg."""

    def figure(name: str, label: str) -> Field:
        path, has = f"legs.{entry.id}.{name}", getattr(entry, name)
        typed, problem = pending(job, path)
        value = typed if typed is not None else has.shown() if has else ""
        unit = units.SHOWN["length"][job.units].unit
        return Field(path, label, "figure", value, problem, standing=has.standing if has else "", placeholder=unit, needed=path in missing)

    def words(name: str, label: str, now: str) -> Field:
        path = f"legs.{entry.id}.{name}"
        typed, problem = pending(job, path)
        return Field(path, label, "line", now if typed is None else typed, problem)

    counted = [Counted(one.fitting, one.count) for one in entry.fittings]
    return LegRow(
        entry.id, number, words("name", "leg", entry.name), words("pipe", "pipe", pipe_label(entry)),
        figure("length", "length"), figure("ends_at", "ends at"), words("fittings", "fittings", fitting.write(counted)), speed, loss,
    )  # fmt: skip


def missing_paths(missing: tuple[MissingFact, ...]) -> set[str]:
    """The paths that are still needed."""
    return {one.path for one in missing}
