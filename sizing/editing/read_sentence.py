"""A job told in a sentence: its kind, and each fact at its place.

Rules and the fields' own readers alone: ``data/sentence_kinds.csv`` says which words speak for
which kind, ``data/sentence_facts.csv`` which words beside a figure name which field. What a field
would refuse is asked, what no rule knows is told as not read; nothing is guessed.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.document.job import Figure, JobDocument, LegEntry
from sizing.editing.edit import edit, text_at
from sizing.editing.edit_structure import add_row
from sizing.editing.sentence_tokens import MARK, Marked, mark
from sizing.hydraulics import fitting_words, pipe_words
from sizing.kinds import kind as find_kind
from sizing.kinds.start import Terms, first_document

LONGEST = 4000
_READ = "·"  # stands where a piece of the sentence was read
_CLAUSE = re.compile(r"[,;.]|\band\b|\bwith\b|\bplus\b")
_UNTIL = r"(?:(?!\bwith\b|\band then\b|\bto the\b|\bfrom\b|\bup\b)[^,;·])"
# a length of pipe: '40 ft of 1-1/2 in pvc', or '63 mm PE100, 25 m'
_RUNS = tuple(
    re.compile(pattern)
    for pattern in (
        rf"(?P<length>⟦L\d+⟧)(?: long)?(?: run)?(?: of| in)(?: the)? (?P<pipe>{_UNTIL}{{2,60}})",
        rf"(?P<pipe>⟦L\d+⟧ {_UNTIL}{{2,40}}?)(?: pipe| line| hose| main)?,? (?P<length>⟦L\d+⟧)"
        r"(?: long| of it| run)?",
        rf"(?P<length>⟦L\d+⟧) (?P<pipe>(?:dn ?\d+|⟦L\d+⟧) {_UNTIL}{{2,40}})",
    )
)
_LENGTH = re.compile(
    r"(?P<length>⟦L\d+⟧) (?:long|of pipe|run|of line|of hose|away|horizontal|to the (?:street|house"
    r"|sewer))"
)
_PIPE_ALONE = re.compile(rf"(?P<pipe>⟦L\d+⟧ {_UNTIL}{{2,40}})")
_BATHS = {
    "1": "WEL-02",
    "1.5": "WEL-03",
    "2": "WEL-04",
    "2.5": "WEL-04",
    "3": "WEL-05",
    "4": "WEL-05",
}
_FAR = 2.0  # widths of the usual range: a figure that far out of it is asked about
_UP = tuple(
    re.compile(pattern)
    for pattern in (
        r"(?:delivery|discharge) (?:head|lift|height)(?: of| is|:)* (?P<level>⟦L\d+⟧)",
        r"(?P<level>⟦L\d+⟧)(?: of)?(?: total| vertical| static)?"
        r" (?:up\b|lift|rise\b|vertical|higher|uphill|elevation|above|high\b|head\b|of lift"
        r"|(?:above|over) (?:the )?(?:pit|floor|pond|water|tank|pump|ground|well|sump|surface))",
        r"(?:lifts?|rises?|climbs?|vertical(?: lift)?|static (?:head|lift)|total lift"
        r"|elevation(?: gain| difference| rise)?"
        r"|outlet|discharges?|ends)(?: of| is| at| by| to|:)* (?P<level>⟦L\d+⟧)",
    )
)


@dataclass(frozen=True)
class ToldFact:
    """A fact at its path: its SI value (or a word), and the text that it was read from."""

    path: str
    value: float | str
    text: str


@dataclass(frozen=True)
class ReadSentence:
    """What a sentence said. ``kind`` is '' where no word of it names one; then nothing is read."""

    kind: str
    facts: tuple[ToldFact, ...]
    asked: tuple[str, ...]
    not_read: tuple[str, ...]
    job: JobDocument | None = None


@dataclass
class _Reading:
    """The sentence as far as it is read, and the job that comes of it."""

    marked: Marked
    line: str
    job: JobDocument
    rules: Rules
    facts: dict[str, ToldFact]
    asked: list[str]

    def take(self, found: re.Match[str]) -> None:
        """Put a mark over what was read."""
        self.line = self.line[: found.start()] + _READ + self.line[found.end() :]

    def set(self, path: str, text: str) -> None:
        """Give a text to the field of a path; what it refuses is asked."""
        edited = edit(self.job, path, text, self.rules)
        if edited.problem is not None:
            self.asked.append(edited.problem)
            return
        self.job = edited.job
        value = value_at(self.job, path)
        self.facts[path] = ToldFact(path, value, text)
        if isinstance(value, float) and path.startswith("answers."):
            question = next(
                one for one in find_kind(self.job.kind).questions if f"answers.{one.key}" == path
            )
            usual = question.usual_by(self.rules)
            far = _FAR * (usual[1] - usual[0]) if usual else 0.0
            if usual and not usual[0] - far <= value <= usual[1] + far:
                self.asked.append(f"{question.label}: {text} is far from what is usual")


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
    reading = _Reading(marked, marked.line, job, rules, {}, [])
    _read_runs(reading)
    _read_facts(reading, code)
    _read_pipe_alone(reading)
    _read_length_alone(reading)
    _read_level(reading)
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


def _read_facts(reading: _Reading, code: str) -> None:
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
                reading.take(found)


def _set_all(reading: _Reading, paths: tuple[str, ...], found: re.Match[str]) -> None:
    figures = [reading.marked.text(one) for one in found.groups() if one]
    row = ""
    for path in paths:
        name, given, template = path.partition("=")
        text = template.replace("_", " ")
        if not given or "{}" in template:
            if not figures:
                return
            text = _filled(name, text or "{}", figures.pop(0))
        if name.startswith("lists."):
            _, key, cell = name.split(".")
            row = row or _new_row(reading, key)
            name = f"lists.{key}.{row}.{cell}"
        reading.set(name, text)


def _new_row(reading: _Reading, key: str) -> str:
    before = {one.id for one in reading.job.lists.get(key, ())}
    reading.job = add_row(reading.job, key)
    return next(one.id for one in reading.job.lists[key] if one.id not in before)


def _filled(name: str, template: str, figure: str) -> str:
    if name == "answers.baths":
        return _BATHS.get(figure, figure)
    if name == "answers.margin":  # '25 % margin' is 125 % of the flow
        return f"{100 + float(figure.split()[0].rstrip('%')):g} %"
    return template.replace("{}", figure)


def _read_runs(reading: _Reading) -> None:
    """Lengths of pipe, in the order in which they are told, to the legs in theirs."""
    told: list[tuple[str, str, str, str]] = []  # side, length, pipe, fittings
    for pattern in _RUNS:
        at = 0
        while found := pattern.search(reading.line, at):
            name = _pipe_in(reading, found["pipe"])
            if name is None:
                at = found.start() + 1
                continue
            words, label = name
            end = found.start("pipe") + len(words)
            end = found.end() if found.end("length") > end else end
            before = reading.line[: found.start()].split(",")[-1]
            side = "suction" if "suction" in before + reading.line[end : end + 12] else "delivery"
            length = reading.marked.text(found["length"])
            reading.line = reading.line[: found.start()] + _READ + reading.line[end:]
            fittings = _fittings_after(reading, found.start() + 1)
            told.append((side, length, label, fittings))
            at = found.start() + 1
    for side in ("suction", "delivery"):
        legs = [leg for leg in reading.job.legs if leg.side == side]
        runs = [one for one in told if one[0] == side]
        for leg, (_, length, label, fittings) in zip(legs, runs, strict=False):
            _set_leg(reading, leg, length, label, fittings)
        if side == "delivery" and runs:
            _keep_only(reading, legs[: len(runs)])


def _pipe_in(reading: _Reading, words: str) -> tuple[str, str] | None:
    """The longest beginning of some words that names one pipe: it, and the pipe's label."""
    pieces = re.split(r"(?<= )", words)
    for upto in range(len(pieces), 0, -1):
        part = "".join(pieces[:upto]).rstrip()
        fits = pipe_words.find(reading.marked.text(part))
        if not fits:
            continue
        usual = {leg.series for leg in reading.job.legs}
        own = [one for one in fits if one.series in usual]
        if len(fits) > 1 and len(own) != 1:
            reading.asked.append(
                f"which pipe '{reading.marked.text(part)}' is: "
                + ", ".join(one.label for one in fits[:4])
            )
        return part, (own or fits)[0].label
    return None


def _fittings_after(reading: _Reading, start: int) -> str:
    """Fittings told right behind a pipe, comma by comma, as far as each is one."""
    rest = reading.line[start:]
    opening = re.match(r"\s*(?:,? ?with|,|and|plus)\s+", rest)
    if opening is None:
        return ""
    found, end = [], 0
    for piece in re.finditer(r"(.+?)(?:,\s*(?:and )?|\band\b|\bplus\b|;|$)", rest[opening.end() :]):
        words = re.sub(r"^(?:an?|the)\s+", "1 ", reading.marked.text(piece[1]).strip())
        try:
            fitting_words.read(words)
        except SizingError:
            break
        found.append(words)
        end = opening.end() + piece.start() + len(piece[1].rstrip())
    if found:
        reading.line = reading.line[:start] + _READ + rest[end:]
    return ", ".join(found)


def _set_leg(reading: _Reading, leg: LegEntry, length: str, label: str, fittings: str) -> None:
    reading.set(f"legs.{leg.id}.length", length)
    reading.set(f"legs.{leg.id}.pipe", label)
    if fittings:
        reading.set(f"legs.{leg.id}.fittings", fittings)


def _keep_only(reading: _Reading, told: list[LegEntry]) -> None:
    """Where fewer runs are told than the kind begins with, there are no more."""
    ids = {leg.id for leg in told}
    legs = tuple(leg for leg in reading.job.legs if leg.side != "delivery" or leg.id in ids)
    if len(legs) < len(reading.job.legs):
        reading.job = reading.job.model_copy(update={"legs": legs})


def _read_pipe_alone(reading: _Reading) -> None:
    """A pipe without its length, and fittings that stand by themselves: of the first leg."""
    first = next(leg for leg in reading.job.legs if leg.side == "delivery")
    for found in _PIPE_ALONE.finditer(reading.line):
        name = _pipe_in(reading, found["pipe"])
        if name is not None and f"legs.{first.id}.pipe" not in reading.facts:
            reading.set(f"legs.{first.id}.pipe", name[1])
            end = found.start() + len(name[0])
            reading.line = reading.line[: found.start()] + _READ + reading.line[end:]
            break
    if f"legs.{first.id}.fittings" in reading.facts:
        return
    fittings = []
    for clause in _CLAUSE.split(reading.line):
        text = reading.marked.text(clause.strip())
        try:
            fitting_words.read(text)
        except SizingError:
            continue
        if text:
            fittings.append(text)
            reading.line = reading.line.replace(clause.strip(), _READ, 1)
    if fittings:
        reading.set(f"legs.{first.id}.fittings", ", ".join(fittings))


def _read_length_alone(reading: _Reading) -> None:
    """A length without its pipe: that of the last leg."""
    last = [leg for leg in reading.job.legs if leg.side == "delivery"][-1]
    path = f"legs.{last.id}.length"
    found = _LENGTH.search(reading.line)
    if found and path not in reading.facts:
        reading.set(path, reading.marked.text(found["length"]))
        reading.take(found)


def _read_level(reading: _Reading) -> None:
    """How high the water goes: the end of the last leg."""
    last = [leg for leg in reading.job.legs if leg.side == "delivery"][-1]
    found = next((one for one in (up.search(reading.line) for up in _UP) if one), None)
    if found:
        reading.set(f"legs.{last.id}.ends_at", reading.marked.text(found["level"]))
        reading.take(found)


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
    kind = find_kind(job.kind)
    if head == "legs":
        return "length"
    if head == "lists":
        declared = next(one for one in kind.lists if one.key == key)
        return next(one.dimension for one in declared.columns if one.key == rest[1])
    return next(one.dimension for one in kind.questions if one.key == key)


def _left(reading: _Reading) -> tuple[str, ...]:
    """The clauses that hold a figure, or all of whose words, nobody read."""
    left = []
    for clause in _CLAUSE.split(reading.line):
        words = clause.strip()
        if MARK.search(words):
            left.append(reading.marked.text(words).replace(_READ, "…").strip())
    return tuple(left)
