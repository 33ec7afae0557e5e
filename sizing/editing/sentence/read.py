"""A job told in a sentence: its kind, and each fact at its place.

Rules and the fields' own readers alone: ``data/sentence_kinds.csv`` says which words speak for
which kind, ``data/sentence_facts.csv`` which words beside a figure name which field. What a field
would refuse is asked, what no rule knows is told as not read; nothing is guessed.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from sizing.base import quantity, tables
from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.document.job import JobDocument
from sizing.editing.edit_structure import add_row
from sizing.editing.sentence.reading import CLAUSE, READ, Reading, ToldFact
from sizing.editing.sentence.runs import read_length_alone, read_level, read_pipe_alone, read_runs
from sizing.editing.sentence.tokens import MARK, Marked, mark
from sizing.kinds import kind as find_kind
from sizing.kinds.start import Terms, first_document

LONGEST = 4000  # letters
_BATHS = {  # the answers to that question, by how many there are
    "1": "WEL-02",
    "1.5": "WEL-03",
    "2": "WEL-04",
    "2.5": "WEL-04",
    "3": "WEL-05",
    "4": "WEL-05",
}


@dataclass(frozen=True)
class ReadSentence:
    """What a sentence said. ``kind`` is '' where no word of it names one; then nothing is read."""

    kind: str
    facts: tuple[ToldFact, ...]
    asked: tuple[str, ...]
    not_read: tuple[str, ...]
    job: JobDocument | None = None


def read_sentence(sentence: str, terms: Terms, rules: Rules = SHIPPED) -> ReadSentence:
    """Read a job from a sentence, a pasted mail or what a phone took down.

    Parameters
    ----------
    sentence : in the words of the trade.
    terms : what the shop begins its jobs with, its units among them.
    rules : house rules in force.

    Returns
    -------
    ReadSentence
        Each fact as its own field read it; a field that refuses is asked with its own message.

    Raises
    ------
    SizingError
        Longer than any mail about a pump.
    """
    if len(sentence) > LONGEST:
        raise SizingError(f"that is too long to read: at most {LONGEST} letters")
    marked = mark(sentence)
    code = _kind(marked)
    if not code:
        return ReadSentence("", (), ("what kind of pump it is for",), (sentence.strip(),))
    job = first_document(code, terms, rules)
    reading = Reading(marked, marked.line, job, rules, {}, [])
    read_runs(reading)
    _read_facts(reading, code)
    read_pipe_alone(reading)
    read_length_alone(reading)
    read_level(reading)
    return ReadSentence(
        code,
        tuple(reading.facts.values()),
        tuple(reading.asked),
        _left(reading),
        reading.job,
    )


@lru_cache
def _kinds() -> tuple[tuple[str, int, re.Pattern[str]], ...]:
    rows = tables.rows("sentence_kinds")
    return tuple((one["kind"], int(one["weight"]), re.compile(one["pattern"])) for one in rows)


def _kind(marked: Marked) -> str:
    """The kind that most words speak for; '' for none."""
    plain = marked.text(marked.line)
    scores: dict[str, int] = {}
    for code, weight, pattern in _kinds():
        said = len({found.group() for found in pattern.finditer(plain)})
        if said:
            scores[code] = weight + said
    return max(scores, key=lambda code: scores[code]) if scores else ""


@lru_cache
def _patterns() -> tuple[tuple[frozenset[str], tuple[str, ...], re.Pattern[str]], ...]:
    found = []
    for row in tables.rows("sentence_facts"):
        pattern = re.sub(r"\{([A-Z])\}", r"(⟦\1\\d+⟧)", row["pattern"])
        kinds = frozenset(row["kinds"].split()) - {"*"}
        found.append((kinds, tuple(row["facts"].split()), re.compile(pattern)))
    return tuple(found)


def _read_facts(reading: Reading, code: str) -> None:
    asked = {f"answers.{one.key}" for one in find_kind(code).questions}
    for kinds, paths, pattern in _patterns():
        if kinds and code not in kinds:
            continue
        names = [path.partition("=")[0] for path in paths]
        if any(name in reading.facts for name in names):
            continue
        if any(name.startswith("answers.") and name not in asked for name in names):
            continue
        words_alone = not pattern.groups  # a word may say its kind, a figure and a choice at once
        found = pattern.search(reading.marked.line if words_alone else reading.line)
        if found:  # what its field refuses is asked, and goes into no other
            _set_all(reading, paths, found)
            if not words_alone:
                reading.take(found.start(), found.end())


def _set_all(reading: Reading, paths: tuple[str, ...], found: re.Match[str]) -> None:
    figures = [reading.marked.text(one) for one in found.groups() if one]
    row = ""
    for path in paths:
        name, given, template = path.partition("=")
        text = template.replace("_", " ")
        if not given or "{}" in template:
            if not figures:
                return
            try:
                text = _filled(name, text or "{}", figures.pop(0))
            except SizingError as problem:
                reading.asked.append(str(problem))
                continue
        if name.startswith("lists."):
            _, key, cell = name.split(".")
            row = row or _new_row(reading, key)
            name = f"lists.{key}.{row}.{cell}"
        reading.set(name, text)


def _new_row(reading: Reading, key: str) -> str:
    before = {one.id for one in reading.job.lists.get(key, ())}
    reading.job = add_row(reading.job, key)
    return next(one.id for one in reading.job.lists[key] if one.id not in before)


def _filled(name: str, template: str, figure: str) -> str:
    if name == "answers.baths":
        return _BATHS.get(figure, figure)
    if name == "answers.margin":  # '25 % margin' is 1.25 times the flow
        return f"{1 + quantity.typed(figure, 'ratio').si:g} ×"
    return template.replace("{}", figure)


def _left(reading: Reading) -> tuple[str, ...]:
    """The clauses that hold a figure, or all of whose words, nobody read."""
    left = []
    for clause in CLAUSE.split(reading.line):
        words = clause.strip()
        if MARK.search(words):
            left.append(reading.marked.text(words).replace(READ, "…").strip())
    return tuple(left)
