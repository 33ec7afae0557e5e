"""A page of a spreadsheet: the quantities that are known by their label and unit, as typed text."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sizing.aftercare.calculation_review.written import FACTS, GOT, Fact
from sizing.base import numbers, units

_MOST_ROWS = 500
_IN_BRACKETS = re.compile(r"[\(\[]([^)\]]+)[\)\]]")
_NUMBER = re.compile(r"^[+-]?[\d.,]+(?:[eE][+-]?\d+)?(?:\s*-?\d+/\d+)?$")
_WITH_UNIT = re.compile(r"^([+-]?[\d.,]+(?:\s*-?\d+/\d+)?)\s*([^\d\s].*)$")
_WORD = re.compile(r"[a-z]+")


@dataclass(frozen=True)
class Found:
    """One quantity that was found: which fact, its text, and the row's own label."""

    name: str
    text: str
    label: str


@dataclass(frozen=True)
class Sheet:
    """What a page holds: what is known of it, and the labels with a number that nobody knows."""

    found: tuple[Found, ...]
    unknown: tuple[str, ...]

    @property
    def texts(self) -> dict[str, str]:
        """The text of every fact that was found."""
        return {one.name: one.text for one in self.found}


def cells(text: str) -> list[list[str]]:
    """Rows of a page as it is pasted: cells parted by tabs, else by semicolons, '=' or ':'."""
    rows = []
    for line in text.splitlines()[:_MOST_ROWS]:
        for sign in ("\t", ";", "=", ":"):
            if sign in line:
                rows.append([cell.strip() for cell in line.split(sign)])
                break
        else:
            rows.append([line.strip()])
    return rows


def read_sheet(rows: Iterable[Sequence[str]]) -> Sheet:
    """Quantities by their labels: the first cell with words, then the first number behind it.

    The unit stands with the number, in the cell after it, or in brackets in the label.
    """
    found: dict[str, Found] = {}
    unknown = []
    for row in list(rows)[:_MOST_ROWS]:
        label, text, unit = _parts(row)
        if not label or not text:
            continue
        name = _name(label, unit, taken=set(found))
        if name:
            found[name] = Found(name, f"{text} {unit}".strip(), label)
        else:
            unknown.append(label)
    return Sheet(tuple(found.values()), tuple(unknown))


def _parts(row: Sequence[str]) -> tuple[str, str, str]:
    """Label, number and unit of a row; '' for what it lacks."""
    held = [str(cell).strip() for cell in row if str(cell).strip()]
    if not held or not _WORD.search(held[0].casefold()):
        return "", "", ""
    label = held[0]
    bracket = _IN_BRACKETS.search(label)
    unit = bracket[1].strip() if bracket else ""
    for at, cell in enumerate(held[1:], 1):
        if _NUMBER.match(cell):
            behind = held[at + 1] if at + 1 < len(held) else ""
            return label, cell, unit or (behind if _is_unit(behind) else "")
        joined = _WITH_UNIT.match(cell)
        if joined:
            return label, joined[1], joined[2].strip()
    return label, "", ""


def _is_unit(text: str) -> bool:
    return bool(text) and bool(units.dimensions_of(text))


def _plain(text: str) -> str:
    bare = _IN_BRACKETS.sub(" ", text.casefold())
    return " ".join(_WORD.findall(bare))


def _name(label: str, unit: str, taken: set[str]) -> str:
    """The fact or figure that a label means and its unit allows; the longest words that match win.

    A label that names two things means the one whose unit it has; what is there already is not
    written over by a later row.
    """
    plain = f" {_plain(label)} "
    best, longest = "", 0
    ways = {**FACTS, **{f"got_{code}": fact for code, fact in GOT.items()}}
    for name, fact in ways.items():
        if name in taken or not _allowed(fact, unit):
            continue
        for words in fact.words:
            if f" {words} " in plain and len(words) > longest:
                best, longest = name, len(words)
    return best


def _allowed(fact: Fact, unit: str) -> bool:
    if not unit:
        return True
    dimensions = units.dimensions_of(unit)
    return not dimensions or fact.dimension in dimensions or _alike(fact.dimension, dimensions)


def _alike(dimension: str, dimensions: list[str]) -> bool:
    """A bore and a length are written in the same units."""
    lengths = {"bore", "length", "size"}
    return dimension in lengths and bool(lengths & set(dimensions))


def in_the_readers_marks(sheet: Sheet) -> dict[str, str]:
    """The texts with the decimal mark of who reads now, as they would have typed them."""
    return {name: numbers.as_read(text) for name, text in sheet.texts.items()}
