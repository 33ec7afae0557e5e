"""The pipes of a sentence: lengths, sizes, fittings, and how high the water goes."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sizing.base.errors import SizingError
from sizing.document.job import LegEntry
from sizing.editing.sentence.reading import CLAUSE, READ, Reading
from sizing.hydraulics import fitting_words, pipe_words
from sizing.kinds import kind

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
_TO_THE_END = re.compile(r"\s*(?:and )?(?:up )?(?:in)?to (?:the|a)\b")
_PIPE_ALONE = re.compile(rf"(?P<pipe>⟦L\d+⟧ {_UNTIL}{{2,40}})")
_UP = tuple(
    re.compile(pattern)
    for pattern in (
        r"(?:delivery|discharge) (?:head|lift|height)(?: of| is|:)* (?P<level>⟦L\d+⟧)",
        r"(?P<level>⟦L\d+⟧)(?: of)?(?: total| vertical| static)?"
        r" (?:up\b|lift|rise\b|vertical|higher|uphill|elevation|high\b|head\b|of lift"
        r"|(?:above|over) (?:the )?(?:pit|floor|pond|water|tank|pump|ground|well|sump|surface))",
        r"(?:lifts?|rises?|climbs?|vertical(?: lift)?|static (?:head|lift)|total lift"
        r"|elevation(?: gain| difference| rise)?"
        r"|outlet|discharges?|ends)(?: of| is| at| by| to|:)* (?P<level>⟦L\d+⟧)",
    )
)


@dataclass(frozen=True)
class _Run:
    """A length of pipe as told; ``last``: it leads to where the water goes."""

    suction: bool
    last: bool
    length: str
    pipe: str
    fittings: str


def read_runs(reading: Reading) -> None:
    """Lengths of pipe, in the order in which they are told, to the legs in theirs.

    A run that is told alone is all of the run, but in a well: there it is the riser, or the line
    to the house or tank where it says so.
    """
    told = []
    for pattern in _RUNS:
        at = 0
        while found := pattern.search(reading.line, at):
            at = found.start() + 1
            words = _pipe_in(reading, found["pipe"])
            if words:
                told.append(_run(reading, found, words))
    suctions = [leg for leg in reading.job.legs if leg.side == "suction"]
    for leg, run in zip(suctions, (one for one in told if one.suction), strict=False):
        _set_leg(reading, leg, run)
    runs = [one for one in told if not one.suction]
    legs = [leg for leg in reading.job.legs if leg.side == "delivery"]
    in_a_well = "pump_setting" in {one.key for one in kind(reading.job.kind).questions}
    if in_a_well and len(runs) == 1 and runs[0].last:
        legs = legs[-1:]
    for leg, run in zip(legs, runs, strict=False):
        _set_leg(reading, leg, run)
    if runs and not in_a_well:
        _keep_only(reading, legs[: len(runs)])


def _run(reading: Reading, found: re.Match[str], words: str) -> _Run:
    end = found.start("pipe") + len(words)
    end = found.end() if found.end("length") > end else end
    clause, behind = reading.line[: found.start()].split(",")[-1], reading.line[end : end + 20]
    length, pipe = reading.marked.text(found["length"]), reading.marked.text(words)
    reading.take(found.start(), end)
    return _Run(
        "suction" in clause or behind.lstrip().startswith("suction"),
        _TO_THE_END.match(behind) is not None,
        length,
        _usual_label(reading, pipe),
        _fittings_after(reading, found.start() + len(READ)),
    )


def _pipe_in(reading: Reading, words: str) -> str:
    """The longest beginning of some words that names a pipe; '' for none."""
    pieces = re.split(r"(?<= )", words)
    for upto in range(len(pieces), 0, -1):
        part = "".join(pieces[:upto]).rstrip()
        if pipe_words.find(reading.marked.text(part)):
            return part
    return ""


def _usual_label(reading: Reading, words: str) -> str:
    """The one pipe of the shop's families that words name; else the words, for the field to ask."""
    usual = {leg.series for leg in reading.job.legs}
    own = [one for one in pipe_words.find(words) if one.series in usual]
    return own[0].label if len(own) == 1 else words


def _fittings_after(reading: Reading, start: int) -> str:
    """Fittings told right behind a pipe, comma by comma, as far as each is one."""
    rest = reading.line[start:]
    opening = re.match(r"\s*(?:,? ?with|,|and|plus)\s+", rest)
    if opening is None:
        return ""
    found, end = [], 0
    for piece in re.finditer(r"(.+?)(?:,\s*(?:and )?|\band\b|\bplus\b|;|$)", rest[opening.end() :]):
        words = re.sub(r"^(?:an?|the)\s+", "1 ", reading.marked.text(piece[1]).strip())
        if not _is_fitting(words):
            break
        found.append(words)
        end = opening.end() + piece.start() + len(piece[1].rstrip())
    if found:
        reading.take(start, start + end)
    return ", ".join(found)


def _set_leg(reading: Reading, leg: LegEntry, run: _Run) -> None:
    reading.set(f"legs.{leg.id}.length", run.length)
    reading.set(f"legs.{leg.id}.pipe", run.pipe)
    if run.fittings:
        reading.set(f"legs.{leg.id}.fittings", run.fittings)


def _keep_only(reading: Reading, told: list[LegEntry]) -> None:
    """Where fewer runs are told than the kind begins with, there are no more."""
    ids = {leg.id for leg in told}
    legs = tuple(leg for leg in reading.job.legs if leg.side != "delivery" or leg.id in ids)
    if len(legs) < len(reading.job.legs):
        reading.job = reading.job.model_copy(update={"legs": legs})


def read_pipe_alone(reading: Reading) -> None:
    """A pipe without its length, and fittings that stand by themselves: of the first leg."""
    first = next(leg for leg in reading.job.legs if leg.side == "delivery")
    for found in _PIPE_ALONE.finditer(reading.line):
        words = _pipe_in(reading, found["pipe"])
        if words and f"legs.{first.id}.pipe" not in reading.facts:
            pipe = _usual_label(reading, reading.marked.text(words))
            reading.take(found.start(), found.start() + len(words))
            reading.set(f"legs.{first.id}.pipe", pipe)
            break
    if f"legs.{first.id}.fittings" in reading.facts:
        return
    fittings = []
    for clause in (one.strip() for one in CLAUSE.split(reading.line)):
        text = reading.marked.text(clause)
        if re.search("[a-z]{2}", text) and _is_fitting(text):  # '90' alone may be anything
            fittings.append(text)
            at = reading.line.index(clause)
            reading.take(at, at + len(clause))
    if fittings:
        reading.set(f"legs.{first.id}.fittings", ", ".join(fittings))


def _is_fitting(words: str) -> bool:
    try:
        fitting_words.read(words)
    except SizingError:
        return False
    return True


def read_length_alone(reading: Reading) -> None:
    """A length without its pipe: that of the last leg."""
    last = [leg for leg in reading.job.legs if leg.side == "delivery"][-1]
    path = f"legs.{last.id}.length"
    found = _LENGTH.search(reading.line)
    if found and path not in reading.facts:
        reading.set(path, reading.marked.text(found["length"]))
        reading.take(found.start(), found.end())


def read_level(reading: Reading) -> None:
    """How high the water goes: the end of the last leg."""
    last = [leg for leg in reading.job.legs if leg.side == "delivery"][-1]
    found = next((one for one in (up.search(reading.line) for up in _UP) if one), None)
    if found:
        reading.set(f"legs.{last.id}.ends_at", reading.marked.text(found["level"]))
        reading.take(found.start(), found.end())
