"""Questions of a kind of job, and the answers of one job to them as plain SI numbers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from sizing.base import units
from sizing.base.errors import SizingError, UnknownName
from sizing.base.rules import SHIPPED, Rules
from sizing.base.units import System
from sizing.document.job import PROVENANCE_WORDS, Figure, JobDocument, ListRow, Provenance

Stage = Literal["water", "flow", "run", "pump", "proof"]


@dataclass(frozen=True)
class Choice:
    code: str
    label: str


@dataclass(frozen=True)
class Question:
    """One thing to be known.

    A figure has a dimension, a choice has choices, free words have neither.

    ``low`` and ``high`` [SI] bound what is accepted; ``usual`` is the range that raises no eyebrow.
    ``shown_when`` names another question and the choices for which this one applies; for a figure,
    that it is answered at all. ``default`` counts as assumed until somebody says otherwise;
    ``source`` says where it is from. Default and usual range come from the house rules named by id
    (several, parted by '+', add up), times ``rule_factor``. ``is_level`` says that it is measured
    as a level is, ``in_doubt`` that it is a fact of the site that may be off. Questions of a
    ``group`` stand together and folded away.
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
    default_rule: str = ""
    usual_rule: str = ""
    rule_factor: float = 1.0
    is_level: bool = False
    in_doubt: bool = True
    designed: bool = False  # the shop decides it; nobody tells it
    group: str = ""  # asked apart from the others of its stage, under this heading

    def unit(self, system: System) -> str:
        """The symbol of the unit that a bare number takes: the reader's own, the trade's, ours."""
        trade = self.us_unit if system == "us" and self.us_unit else self.metric_unit
        if not self.dimension or not trade:
            return units.shown(self.dimension, system).unit if self.dimension else ""
        small = self.dimension == "length" and trade in ("mm", "in")
        return units.preferred("size" if small else self.dimension, system) or trade

    @property
    def is_words(self) -> bool:
        """Whether the answer is free words, such as the name of a tap."""
        return not self.dimension and not self.choices

    def default_by(self, rules: Rules) -> Figure | None:
        """The default as a figure that is assumed; None for a choice or without default.

        ``default`` is the trade's value in round figures; a house's own value takes its place.
        """
        if not self.default or not self.dimension:
            return None
        ids = [rule_id for rule_id in self.default_rule.split("+") if rule_id]
        if not any(rules.rule(rule_id).overridden for rule_id in ids):
            return _default(self.default, self.dimension, self.unit("metric"))
        value_si = sum(rules.value(rule_id) for rule_id in ids) * self.rule_factor
        unit = units.unit(self.unit("metric"), self.dimension)
        own = float(f"{unit.from_si(value_si):.6g}")
        return Figure(value=own, unit=unit.symbol, provenance="assumed")

    def usual_by(self, rules: Rules) -> tuple[float, float] | None:
        """The range [SI] that raises no eyebrow: a house's own where it has set the rule."""
        if not self.usual_rule or not rules.rule(self.usual_rule).overridden:
            return self.usual
        bounds = rules.low(self.usual_rule), rules.high(self.usual_rule)
        return bounds[0] * self.rule_factor, bounds[1] * self.rule_factor


@lru_cache(maxsize=1024)
def _default(text: str, dimension: str, unit: str) -> Figure:
    """A default as a figure; read once, for a sizing asks for it many times."""
    return Figure.read(text, dimension, unit, "assumed")


@dataclass(frozen=True)
class List:
    """A list of like things (fixtures, jets, animals): each row answers the columns' questions."""

    key: str
    label: str
    stage: Stage
    columns: tuple[Question, ...]
    first: tuple[ListRow, ...] = ()
    help: str = ""
    fixed: bool = False  # its rows are given: none is added or taken away
    names: tuple[str, ...] = ()  # what given rows are called, such as the months
    shown_when: tuple[str, tuple[str, ...]] | None = None


class MissingFact(SizingError):
    """Something that must be known and is not; ``path`` names its field."""

    def __init__(self, path: str, label: str, stage: Stage) -> None:
        self.path, self.label, self.stage = path, label, stage
        super().__init__(f"{label} is still needed")


class WrongFact(SizingError):
    """A figure that cannot be; ``path`` names its field."""

    def __init__(self, path: str, problem: str) -> None:
        self.path = path
        super().__init__(problem)


@dataclass(frozen=True)
class Fact:
    """An answer: its SI value, where it stands, and the question it answers."""

    value_si: float
    provenance: Provenance
    question: Question


def stands_on(facts: Iterable[Fact]) -> tuple[tuple[str, str], ...]:
    """Facts with where they are from, in words, for a working."""
    return tuple((fact.question.label, PROVENANCE_WORDS[fact.provenance]) for fact in facts)


class Answers:
    """Answers to some questions, with the defaults behind them.

    ``prefix`` is the path under which they stand in the document.
    """

    def __init__(
        self,
        answers: Mapping[str, Figure | str],
        questions: tuple[Question, ...],
        prefix: str,
        where: str = "",
        noted: list[Fact] | None = None,
        rules: Rules = SHIPPED,
    ) -> None:
        self.rules = rules
        self._answers, self._prefix, self._where = answers, prefix, where
        self._noted: list[Fact] = [] if noted is None else noted
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

    def asks(self, key: str) -> bool:
        """Whether there is a question with that key."""
        return key in self._questions

    def answer(self, key: str) -> Figure | str | None:
        """What was answered, without the default."""
        return self._answers.get(key)

    def words(self, key: str) -> str:
        """Free words answered, or ''."""
        answer = self._answers.get(key)
        return answer if isinstance(answer, str) else ""

    def path(self, key: str) -> str:
        """Where the answer to a question stands in the document."""
        return f"{self._prefix}.{key}"

    def choice(self, key: str) -> str:
        """The code chosen for a question, or its default."""
        question, answer = self.question(key), self._answers.get(key)
        if isinstance(answer, str) and answer in {choice.code for choice in question.choices}:
            return answer
        return question.default

    def chosen(self, key: str) -> str:
        """The label of the choice, for a sentence."""
        question, code = self.question(key), self.choice(key)
        return next(choice.label for choice in question.choices if choice.code == code)

    def fact(self, key: str) -> Fact:
        """The answer to a question that has a figure.

        Raises
        ------
        MissingFact
            Not answered, and no default.
        """
        question, figure = self.question(key), self.figure(key)
        if figure is None:
            raise MissingFact(self.path(key), question.label + self._where, question.stage)
        found = Fact(figure.si(question.dimension), figure.provenance, question)
        self._noted.append(found)
        return found

    def figure(self, key: str) -> Figure | None:
        """The figure that stands for a question: as answered, else its default; None without."""
        answer = self._answers.get(key)
        return answer if isinstance(answer, Figure) else self.question(key).default_by(self.rules)

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
        """Whether a question applies, given the choices made.

        One that hangs on a hidden one is hidden too.
        """
        if question.shown_when is None:
            return True
        key, codes = question.shown_when
        if not self.shown(self.question(key)):
            return False
        if self.question(key).dimension:  # hangs on another figure being answered
            return key in self._answers
        return self.choice(key) in codes


class Facts(Answers):
    """All answers of a job: to single questions, and row by row in its lists; with its legs."""

    def __init__(
        self,
        job: JobDocument,
        questions: tuple[Question, ...],
        lists: tuple[List, ...] = (),
        rules: Rules = SHIPPED,
    ) -> None:
        super().__init__(job.answers, questions, "answers", rules=rules)
        self.legs = job.legs
        self.running_pumps = 1 if job.arrangement == "single" else job.running_pumps
        self.bought_pumps = self.running_pumps + job.standby
        self._lists = {one.key: one for one in lists}
        self._rows = {one.key: rows_of(job, one) for one in lists}

    @property
    def altitude_m(self) -> float:
        """Height over the sea [m]; that of the plains where a kind does not ask for it."""
        return self.si("altitude") if self.asks("altitude") else 0.0

    def rows(self, key: str) -> tuple[Answers, ...]:
        """The rows of a list, each as answers of its own.

        Raises
        ------
        UnknownName
        """
        try:
            declared = self._lists[key]
        except KeyError:
            raise UnknownName("list", key, self._lists) from None
        return tuple(
            Answers(
                row.cells,
                declared.columns,
                f"lists.{key}.{row.id}",
                noted=self._noted,
                rules=self.rules,
                where=f" in row {number} of {declared.label[:1].lower()}{declared.label[1:]}",
            )
            for number, row in enumerate(self._rows[key], 1)
        )

    def noted(self, since: int = 0) -> tuple[Fact, ...]:
        """Facts that were looked up, in order, each once; ``since`` is an earlier :attr:`mark`."""
        return tuple({fact.question.label: fact for fact in self._noted[since:]}.values())

    @property
    def mark(self) -> int:
        """Where the looking up stands now."""
        return len(self._noted)

    def required(self) -> list[MissingFact]:
        """Every single question that applies, must be answered and is not."""
        return [
            MissingFact(self.path(question.key), question.label, question.stage)
            for question in self._questions.values()
            if question.dimension
            and not question.default
            and not question.optional
            and self.shown(question)
            and self.answer(question.key) is None
        ]

    def provenances(self) -> dict[Provenance, list[str]]:
        """Labels of the figures that apply, by standing."""
        found: dict[Provenance, list[str]] = {
            "measured": [],
            "drawing": [],
            "designed": [],
            "told": [],
            "assumed": [],
        }
        for question in self._questions.values():
            if question.dimension and self.shown(question):
                try:
                    found[self.fact(question.key).provenance].append(question.label)
                except MissingFact:
                    continue
        return found


def rows_of(job: JobDocument, declared: List) -> tuple[ListRow, ...]:
    """The rows of a list in a job; those that the kind starts with, while nobody changed it."""
    return job.lists.get(declared.key, declared.first)
