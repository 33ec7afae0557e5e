"""Questions of a kind of job, and the answers of one job to them as plain SI numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from sizing import units
from sizing.errors import SizingError, UnknownName
from sizing.job import Figure, Job, Standing
from sizing.units import System

Stage = Literal["water", "flow", "run", "pump", "proof"]


@dataclass(frozen=True)
class Choice:
    code: str
    label: str


@dataclass(frozen=True)
class Question:
    """One thing to be known. A figure has a dimension, a choice has choices.

    ``low`` and ``high`` [SI] bound what is accepted; ``usual`` is the range that raises no eyebrow.
    ``shown_when`` names another question and the choices for which this one applies; for a figure,
    that it is answered at all. ``default`` counts as assumed until somebody says otherwise; ``source`` says where it is from.
    """

    key: str
    label: str
    stage: Stage
    dimension: str = ""
    metric_unit: str = ""
    us_unit: str = ""
    low: float = 0.0
    high: float = 1e9
    usual: tuple[float, float] | None = None
    default: str = ""
    source: str = ""
    help: str = ""
    choices: tuple[Choice, ...] = ()
    shown_when: tuple[str, tuple[str, ...]] | None = None
    optional: bool = False

    def unit(self, system: System) -> str:
        """The symbol of the unit that a bare number takes."""
        if self.dimension and not self.metric_unit:
            return units.SHOWN[self.dimension][system].unit
        return self.metric_unit if system == "metric" or not self.us_unit else self.us_unit

    @property
    def default_figure(self) -> Figure | None:
        """The default as a figure that is assumed; None for a choice or without default."""
        if not self.default or not self.dimension:
            return None
        return Figure.read(self.default, self.dimension, self.unit("metric"), "assumed")


class MissingFact(SizingError):
    """Something that must be known and is not; ``path`` names its field."""

    def __init__(self, path: str, label: str, stage: Stage) -> None:
        self.path, self.label, self.stage = path, label, stage
        super().__init__(f"{label} is still needed")


@dataclass(frozen=True)
class Fact:
    """An answer: its SI value, where it stands, and the question it answers."""

    value_si: float
    standing: Standing
    question: Question


class Facts:
    """The answers of a job, with the defaults of its kind behind them."""

    def __init__(self, job: Job, questions: tuple[Question, ...]) -> None:
        self._answers: Mapping[str, Figure | str] = job.answers
        self.legs = job.legs
        self._questions = {question.key: question for question in questions}

    def question(self, key: str) -> Question:
        """The question with that key.

        Raises
        ------
        UnknownName
        """
        try:
            return self._questions[key]
        except KeyError:
            raise UnknownName("question", key, self._questions) from None

    def choice(self, key: str) -> str:
        """The code chosen for a question, or its default."""
        question, answer = self.question(key), self._answers.get(key)
        if isinstance(answer, str) and answer in {choice.code for choice in question.choices}:
            return answer
        return question.default

    def fact(self, key: str) -> Fact:
        """The answer to a question that has a figure.

        Raises
        ------
        MissingFact
            Not answered, and no default.
        """
        question, answer = self.question(key), self._answers.get(key)
        figure = answer if isinstance(answer, Figure) else question.default_figure
        if figure is None:
            raise MissingFact(f"answers.{key}", question.label, question.stage)
        return Fact(figure.si(question.dimension), figure.standing, question)

    def si(self, key: str) -> float:
        """The SI value of an answer; raises :class:`MissingFact` like :meth:`fact`."""
        return self.fact(key).value_si

    def optional(self, key: str) -> float | None:
        """The SI value, or None when not answered and without default."""
        try:
            return self.si(key)
        except MissingFact:
            return None

    def shown(self, question: Question) -> bool:
        """Whether a question applies, given the choices made."""
        if question.shown_when is None:
            return True
        key, codes = question.shown_when
        if self.question(key).dimension:  # hangs on another figure being answered
            return key in self._answers
        return self.choice(key) in codes

    def standings(self) -> dict[Standing, list[str]]:
        """Labels of the figures that apply, by standing."""
        found: dict[Standing, list[str]] = {"measured": [], "drawing": [], "told": [], "assumed": []}
        for question in self._questions.values():
            if question.dimension and self.shown(question):
                try:
                    found[self.fact(question.key).standing].append(question.label)
                except MissingFact:
                    continue
        return found
