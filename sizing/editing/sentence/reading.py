"""A sentence as far as it is read, and the job that comes of it."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sizing.base.rules import Rules
from sizing.document.answers import Question
from sizing.document.job import Figure, JobDocument
from sizing.editing.edit import edit, text_at
from sizing.editing.sentence.tokens import Marked
from sizing.kinds import kind as find_kind

READ = "·"  # stands where a piece of the sentence was read
CLAUSE = re.compile(r"[,;.]|\band\b|\bwith\b|\bplus\b")
_FAR = 2.0  # widths of the usual range: a figure that far out of it is asked about


@dataclass(frozen=True)
class ToldFact:
    """A fact at its path: its SI value (or a word), and the text that it was read from."""

    path: str
    value: float | str
    text: str


@dataclass
class Reading:
    """The marked sentence, what of it is not read yet, and what was read."""

    marked: Marked
    line: str
    job: JobDocument
    rules: Rules
    facts: dict[str, ToldFact]
    asked: list[str]

    def take(self, start: int, end: int) -> None:
        """Mark a piece of the line as read."""
        self.line = self.line[:start] + READ + self.line[end:]

    def set(self, path: str, text: str) -> None:
        """Give a text to the field of a path; what it refuses is asked and stays there as typed."""
        edited = edit(self.job, path, text, self.rules)
        self.job = edited.job
        if edited.problem is not None:
            self.asked.append(edited.problem)
            return
        value = value_at(self.job, path)
        self.facts[path] = ToldFact(path, value, text)
        if isinstance(value, float) and path.startswith("answers."):
            self._ask_if_far(path, value, text)

    def _ask_if_far(self, path: str, value_si: float, text: str) -> None:
        question = _question(self.job, path)
        usual = question.usual_by(self.rules)
        if usual is None:
            return
        far = _FAR * (usual[1] - usual[0])
        if not usual[0] - far <= value_si <= usual[1] + far:
            self.asked.append(f"{question.label}: {text} is far from what is usual")


def value_at(job: JobDocument, path: str) -> float | str:
    """What now stands at a path, in SI; a word where it is no figure."""
    head, key, *rest = path.split(".")
    figure: Figure | str | None
    if head == "legs":
        figure = getattr(job.leg(key), rest[0], None)
    elif head == "lists":
        row = next(one for one in job.lists[key] if one.id == rest[0])
        figure = row.cells.get(rest[1])
    else:
        figure = job.answers.get(key)
    if not isinstance(figure, Figure):
        return text_at(job, path)
    return figure.si(_dimension(job, path))


def _dimension(job: JobDocument, path: str) -> str:
    head, key, *rest = path.split(".")
    if head == "legs":  # lengths and levels are all that a sentence tells of one
        return "length"
    if head == "lists":
        declared = next(one for one in find_kind(job.kind).lists if one.key == key)
        return next(one.dimension for one in declared.columns if one.key == rest[1])
    return _question(job, path).dimension


def _question(job: JobDocument, path: str) -> Question:
    key = path.removeprefix("answers.")
    return next(one for one in find_kind(job.kind).questions if one.key == key)
