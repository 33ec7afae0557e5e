"""A supplier's file as it comes: its signs, its words and its shape found out, and made ours.

Found out: encoding, delimiter, decimal mark, what each heading means and the unit in it ("Flow
(gpm)", "Head ft", "price_eur"), and whether a row is a pump, a point of a curve, or a price.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, Protocol

from charset_normalizer import from_bytes

from sizing.base import numbers, quantity, tables, units
from sizing.base.errors import UnreadableQuantity
from sizing.pump.catalogue_columns import COLUMNS
from sizing.pump.catalogue_file import MOST_ROWS, CatalogueFileError, workbook_rows

Decimal = Literal["point", "comma"]
Shape = Literal["wide", "long", "prices"]
_DELIMITERS = ";\t,|"
_SAMPLE = 64
_CURRENCIES = {"eur", "usd", "gbp", "chf", "€", "$", "£", "net", "each"}
_BY_NAME = {column.name: column for column in COLUMNS}
_POINTS = {"flow": "flows", "head": "heads", "power": "powers_w", "npsh": "npsh"}
_DIMENSIONS = {"flow": "flow", "flows": "flow", "head": "length", "heads": "length"} | {
    "power": "power",
    "powers_w": "power",
    "npsh": "length",
    "least_flow": "flow",
}
_COMMA = re.compile(r"^\s*-?\d{1,3}(?:\.\d{3})*,\d+\s*\D*$|^\s*-?\d+,\d+\s*\D*$")
_POINT = re.compile(r"^\s*-?\d+\.\d+\s*\D*$")
_NUMBERED = re.compile(r"^(?P<word>[a-zäöüé ]+?)\s*(?P<number>\d{1,2})$")
_IN_BRACKETS = re.compile(r"[(\[](?P<unit>[^)\]]*)[)\]]\s*$")
_MOST_BLANK_LINES, _HEAD = 2000, 200_000
_TOO_MANY = "this list has more than {:,} rows: send it in parts"
_ALTERNATIVES = {"prices": {"price", "stock", "lead_days", "discontinued", "successor"}}


@dataclass(frozen=True)
class Sheet:
    """A file as it lies: the cells of its rows with their lines, and how they were read."""

    header: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    encoding: str
    delimiter: str
    decimal: Decimal


@dataclass(frozen=True)
class Heading:
    """One heading: the column it means ('' for none), a unit in it, and its point of the curve."""

    text: str
    column: str = ""
    unit: str = ""
    point: int = 0
    head: str = ""  # of a column of flows at one head: that head, as written


@dataclass(frozen=True)
class Understood:
    """What the headings mean, which are not known, and what no heading gives."""

    headings: tuple[Heading, ...]
    shape: Shape
    unknown: tuple[str, ...]
    missing: tuple[str, ...]


def read_sheet(content: bytes, most_rows: int = MOST_ROWS) -> Sheet:
    """The cells of a file, whatever its encoding, delimiter and decimal mark.

    Raises
    ------
    CatalogueFileError
        When it is neither a workbook nor a table in text, holds more rows, or blank lines without
        end: reading stops there.
    """
    if content[:2] == b"PK":
        rows, encoding, delimiter = workbook_rows(content), "workbook", ""
        numbered = list(enumerate(rows, 1))
    else:
        text, encoding = _decoded(content)
        delimiter = _delimiter(text)
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
        try:
            numbered = list(_filled(reader, most_rows))
        except csv.Error as problem:
            raise CatalogueFileError(f"this is not a table that can be read: {problem}") from None
    numbered = [(line, cells) for line, cells in numbered if any(cell.strip() for cell in cells)]
    if len(numbered) > most_rows + 1:
        raise CatalogueFileError(_TOO_MANY.format(most_rows))
    if not numbered:
        raise CatalogueFileError("the file is empty")
    header = tuple(cell.strip() for cell in numbered[0][1])
    below = tuple((line, tuple(cells)) for line, cells in numbered[1:])
    return Sheet(header, below, encoding, delimiter, _decimal(delimiter, below))


class _Lines(Protocol):
    """What a reader of tables gives: its rows, and the line that it is at."""

    line_num: int

    def __iter__(self) -> Iterator[list[str]]: ...


def _filled(reader: _Lines, most_rows: int) -> Iterator[tuple[int, list[str]]]:
    """The rows that hold something, with their lines; raises as soon as it is too much."""
    blank = count = 0
    for cells in reader:
        if not any(cells):
            blank += 1
            if blank > _MOST_BLANK_LINES:
                raise CatalogueFileError(
                    f"there are more than {_MOST_BLANK_LINES:,} blank lines, from line"
                    f" {reader.line_num - blank + 1:,} on: take them out"
                )
            continue
        count += 1
        if count > most_rows + 1:
            raise CatalogueFileError(_TOO_MANY.format(most_rows))
        yield reader.line_num, cells


def _decoded(content: bytes) -> tuple[str, str]:
    try:
        return content.decode("utf-8-sig"), "utf-8"
    except UnicodeDecodeError:
        best = from_bytes(content[:200_000]).best()
    if best is None or best.encoding is None:
        raise CatalogueFileError("the file is neither a workbook nor text; save it as XLSX or CSV")
    return content.decode(best.encoding, errors="replace"), best.encoding


def _delimiter(text: str) -> str:
    """The sign that parts the heading into most cells."""
    first = next((line for line in text[:_HEAD].splitlines() if line.strip()), "")
    counts = {sign: first.count(sign) for sign in _DELIMITERS}
    best = max(counts, key=lambda sign: counts[sign])
    return best if counts[best] else ","


def _decimal(delimiter: str, rows: Sequence[tuple[int, Sequence[str]]]) -> Decimal:
    """A comma where more cells are numbers with a comma in them than with a point."""
    if delimiter == ",":
        return "point"
    cells = [cell for _, row in rows[:_SAMPLE] for cell in row]
    sure = [cell for cell in cells if numbers.other_reading(cell) is None]
    for some in (sure, cells):  # what can be read in one way only has the first word
        commas = sum(bool(_COMMA.match(cell)) for cell in some)
        points = sum(bool(_POINT.match(cell)) for cell in some)
        if commas != points:
            return "comma" if commas > points else "point"
    return "point"


@lru_cache
def _words() -> dict[str, str]:
    found = {}
    for row in tables.rows("catalogue_words"):
        for word in row["words"].split(";"):
            found[word] = row["column"]
    return found | {name: name for name in _BY_NAME}


def understand(sheet: Sheet, by_hand: Mapping[str, str], fixed: Mapping[str, str]) -> Understood:
    """What each heading means.

    Parameters
    ----------
    by_hand : a column by heading, chosen by a person; '' leaves that heading out.
    fixed : what is the same for every row, by column.
    """
    headings = tuple(
        Heading(text, by_hand[text], _unit_in(text)) if text in by_hand else heading(text)
        for text in sheet.header
    )
    known = {one.column for one in headings} | {key for key, value in fixed.items() if value}
    if any(one.point or one.head for one in headings):
        known |= {"flows", "heads"}
    shape = _shape(known)
    unknown = tuple(
        one.text for one in headings if not one.column and one.text and one.text not in by_hand
    )
    return Understood(headings, shape, unknown, tuple(_missing(headings, known, shape)))


def _shape(known: set[str]) -> Shape:
    if "flows" in known and "heads" in known:
        return "wide"
    if "flow" in known and "head" in known:
        return "long"
    named = "pump_id" in known or {"maker", "model"} <= known
    return "prices" if named and known & _ALTERNATIVES["prices"] else "wide"


def _missing(headings: Sequence[Heading], known: set[str], shape: Shape) -> Iterator[str]:
    """The columns that must be there and that nothing gives."""
    if shape == "prices":
        return
    for column in COLUMNS:
        if not column.required or column.name in known:
            continue
        if column.name in ("flows", "heads") and shape == "long":
            continue
        way = {"flow_unit": "flow", "head_unit": "head"}.get(column.name)
        gives = {way, f"{way}s"} if way else set()
        if any(
            (one.column in gives and one.unit) or (way == "head" and one.head) for one in headings
        ):
            continue
        yield column.name


def heading(text: str) -> Heading:
    """What one heading means, by its words; a unit in brackets or at its end is split off."""
    plain = " ".join(text.lower().replace("_", " ").split())
    if plain in _words():
        return Heading(text, _words()[plain])
    unit = _unit_in(text)
    bare = _IN_BRACKETS.sub("", plain).strip()
    if bare == plain and unit:
        bare = plain[: len(plain) - len(unit)].strip()
    bare = " ".join(word for word in bare.split() if word not in _CURRENCIES)
    if bare in _words():
        return Heading(text, _words()[bare], unit)
    numbered = _NUMBERED.match(bare)
    if numbered and _words().get(numbered["word"].strip()) in ("flow", "head", "power"):
        column = _words()[numbered["word"].strip()]
        return Heading(text, column, unit, point=int(numbered["number"]))
    at = re.sub(r"^(?:flow)?\s*(?:@|at)?\s*", "", plain)
    try:
        head = quantity.read(at, "length")
        return Heading(text, "flow", "", head=f"{head.value:g} {head.unit.symbol}")
    except UnreadableQuantity:
        return Heading(text)


def _unit_in(text: str) -> str:
    """A unit at the end of a heading; '' for none."""
    bracketed = _IN_BRACKETS.search(text)
    if bracketed:
        found = bracketed["unit"].strip()
        return "" if found.lower() in _CURRENCIES else found
    last = re.split(r"[\s_]+", text.strip())[-1]
    return last if len(last) < len(text.strip()) and units.dimensions_of(last) else ""


def in_our_columns(
    sheet: Sheet, found: Understood, fixed: Mapping[str, str]
) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """Header and rows as our catalogue file has them; a pump of a long file becomes one row.

    Rows of a price list keep what they have.
    """
    pumps: dict[object, tuple[int, dict[str, list[str]]]] = {}
    sure = {
        one
        for at, one in enumerate(found.headings)
        if one.column == "price" and _shows_mark(sheet, at)
    }
    for line, cells in sheet.rows:
        row = _row(sheet, found, cells, fixed, sure)
        key: object = line
        if found.shape == "long":
            key = tuple(" ".join(row.get(name, [])) for name in ("maker", "model", "variant"))
        _, gathered = pumps.setdefault(key, (line, {}))
        for name, texts in row.items():
            if name in _POINTS.values():
                gathered.setdefault(name, []).extend(texts)
            elif not gathered.get(name):
                gathered[name] = texts
    names = list(dict.fromkeys(name for _, row in pumps.values() for name in row))
    return names, [
        (line, ["; ".join(row.get(name, [])) for name in names])
        for line, row in (_by_flow(line, row) for line, row in pumps.values())
    ]


def _row(
    sheet: Sheet,
    found: Understood,
    cells: Sequence[str],
    fixed: Mapping[str, str],
    sure: Set[Heading],
) -> dict[str, list[str]]:
    """The cells of a row by our columns, figures with decimal points and their units.

    ``sure`` are headings of prices whose marks can be read in one way only.
    """
    row: dict[str, list[str]] = {name: [text] for name, text in fixed.items() if text}
    for one, cell in zip(found.headings, cells, strict=False):
        text = cell.strip()
        if not one.column or not text:
            continue
        if one.column not in ("maker", "model", "variant", "family", "note", "pump_id"):
            text = _pointed(text, sheet.decimal)
        if one in sure:
            text = _settled(text)
        name = _POINTS.get(one.column, one.column)
        if one.head:
            amount, _, unit = one.head.partition(" ")
            row.setdefault("heads", []).append(amount)
            row["head_unit"] = [unit]
        if one.unit and name == "flows":
            row["flow_unit"] = [one.unit]
        elif one.unit and name == "heads":
            row["head_unit"] = [one.unit]
        elif one.unit and name == "powers_w":
            text = _in_watts(text, one.unit)
        elif one.unit and re.fullmatch(r"[\d.,\s/-]+", text) and name in _BY_NAME:
            text = f"{text} {one.unit}" if _BY_NAME[name].reads not in ("text", "number") else text
        row.setdefault(name, []).append(text)
    return row


def _shows_mark(sheet: Sheet, at: int) -> bool:
    """Whether a cell of a column can be read in one way only, so that all of them can."""
    for _, cells in sheet.rows:
        text = cells[at].strip("€$£ ") if at < len(cells) else ""
        marked = "." in text or "," in text
        if marked and numbers.other_reading(text) is None:
            return numbers.plain_number(text, sheet.decimal) is not None
    return False


def _settled(text: str) -> str:
    """A price without a mark for thousands, where the column says what the marks mean."""
    bare = text.strip("€$£ ")
    value = None if numbers.other_reading(bare) is None else numbers.plain_number(bare)
    return text if value is None else numbers.exactly(value)


def _pointed(text: str, decimal: Decimal) -> str:
    return text if decimal == "point" else text.translate(str.maketrans(".,", ",."))


def _in_watts(text: str, unit: str) -> str:
    """Powers of a list in watts, as our file has them."""
    found = units.find(unit, "power")
    if found is None:
        return text
    try:
        return "; ".join(f"{found.to_si(float(one)):g}" for one in re.split(r"[;|\s]+", text))
    except ValueError:
        return text  # what is wrong with it is told where it is read


def _by_flow(line: int, row: dict[str, list[str]]) -> tuple[int, dict[str, list[str]]]:
    """The points of a curve in the order of their flows, as they seldom lie in a printed table."""
    try:
        flows = [float(one.replace(",", "")) for one in row.get("flows", [])]
    except ValueError:
        return line, row
    order = sorted(range(len(flows)), key=flows.__getitem__)
    sorted_lists = {
        name: [texts[at] for at in order]
        for name, texts in row.items()
        if name in _POINTS.values() and len(texts) == len(flows) > 1
    }
    return line, row | sorted_lists
