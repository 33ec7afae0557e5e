"""The catalogue as an open file: one CSV row a pump, cells with units, a report row by row."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.water import GRAVITY_M_S2
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_columns import COLUMNS, Column, families
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3, PumpCurve
from sizing.pump.doubts import check_power, doubts_of_curve, doubts_of_motor
from sizing.pump.identity import id_of, told_apart
from sizing.pump.workbook import WorkbookError, rows_of_workbook

FEWEST_POINTS = 4  # with fewer, nobody can tell a curve from a guess
MOST_POINTS = 60
MOST_ROWS = 100_000
_MOST_COLUMNS, _MOST_BLANK_ROWS = 200, 500
_TELL_EVERY = 250  # rows
_BY_NAME = {column.name: column for column in COLUMNS}
# Lists beside the curve's own, by column.
_READ_OFF = {"powers_w": "powers_w", "npsh": "npsh_required_m"}
_EVERYTHING = frozenset(
    {column.field for column in COLUMNS if column.field} | set(_READ_OFF.values())
)


class CatalogueFileError(SizingError):
    """A file that cannot be read as a catalogue at all."""


@dataclass(frozen=True)
class FileRow:
    """What came of one row: a pump, or the reasons why not; ``doubts`` do not stop it."""

    line: int
    name: str
    pump: Pump | None
    problems: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()
    held: frozenset[str] = _EVERYTHING  # fields of the pump that the file says something about


Progress = Callable[[int], object]


def read_csv(text: str, progress: Progress | None = None) -> list[FileRow]:
    """Read a catalogue file; ``progress`` is told every few hundred rows how many are read.

    Returns
    -------
    list of FileRow
        One a data row, in order; duplicates of an earlier row count as problems.

    Raises
    ------
    CatalogueFileError
        When the text has no header row with the required columns.
    """
    try:
        reader = csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""), strict=True)
        header = _header(next(reader, []))
        return list(
            _numbered(header, ((reader.line_num, cells) for cells in reader if cells), progress)
        )
    except csv.Error as problem:
        raise CatalogueFileError(f"this is not a CSV file that can be read: {problem}") from problem


def read_xlsx(content: bytes, progress: Progress | None = None) -> list[FileRow]:
    """Read the first sheet of a workbook as a catalogue file.

    Its rows are read as :func:`read_csv` reads them.

    Raises
    ------
    CatalogueFileError
        When it is no workbook, or its first row does not name the columns.
    """
    rows = workbook_rows(content)
    return read_rows(
        rows[0] if rows else [],
        ((line, row) for line, row in enumerate(rows[1:], 2) if any(row)),
        progress,
    )


def read_rows(
    header: Sequence[str],
    rows: Iterable[tuple[int, Sequence[str]]],
    progress: Progress | None = None,
) -> list[FileRow]:
    """Read rows of cells with their lines, below a header that names our columns."""
    return list(_numbered(_header(header), rows, progress))


def workbook_rows(content: bytes) -> list[list[str]]:
    """The cells of the first sheet of a workbook, row by row.

    Raises
    ------
    CatalogueFileError
        When it is no workbook, or unpacks to far too much.
    """
    try:
        return rows_of_workbook(
            content,
            most_rows=MOST_ROWS + 2,
            most_columns=_MOST_COLUMNS,
            most_blank=_MOST_BLANK_ROWS,
        )
    except WorkbookError as problem:
        raise CatalogueFileError(str(problem)) from None


def is_ours(header: Sequence[str]) -> bool:
    """Whether a header names our columns, so that its file is read as it stands."""
    names = [name.strip() for name in header]
    return all(name in _BY_NAME for name in names) and all(
        column.name in names for column in COLUMNS if column.required
    )


def _header(cells: Sequence[str]) -> list[str]:
    header = [name.strip() for name in cells]
    missing = [column.name for column in COLUMNS if column.required and column.name not in header]
    if missing:
        raise CatalogueFileError(
            f"the first row must name the columns; missing: {', '.join(missing)}"
        )
    unknown = [name for name in header if name not in _BY_NAME]
    if unknown:
        raise CatalogueFileError(
            f"columns that are not known: {', '.join(unknown)}; see the list of columns"
        )
    return header


def _numbered(
    header: Sequence[str], rows: Iterable[tuple[int, Sequence[str]]], progress: Progress | None
) -> Iterator[FileRow]:
    held, above = _held(header), _Above()
    for number, (line, cells) in enumerate(rows, 1):
        if number > MOST_ROWS:
            raise CatalogueFileError(f"more than {MOST_ROWS} rows: split it")
        if progress and number % _TELL_EVERY == 0:
            progress(number)
        row = replace(read_row(dict(zip(header, cells, strict=False)), line), held=held)
        if len(cells) > len(header):
            row = FileRow(
                row.line, row.name, None, ("it has more cells than the header has columns",)
            )
        yield row if row.pump is None else above.told_apart_from(row, row.pump)


def _held(header: Sequence[str]) -> frozenset[str]:
    """Fields of a pump and its curve that a file of these columns says something about."""
    fields = {_BY_NAME[name].field for name in header} | {
        _READ_OFF[name] for name in header if name in _READ_OFF
    }
    return frozenset(fields - {""})


class _Above:
    """The rows above the one that is read: none may be the same pump, and none has the same id."""

    def __init__(self) -> None:
        self._lines: dict[str, int] = {}
        self._ids: set[str] = set()
        self._alike: dict[Pump, tuple[int, str]] = {}

    def told_apart_from(self, row: FileRow, pump: Pump) -> FileRow:
        """The row with an id of its own.

        With a problem or a doubt where one above is the same or much the same.
        """
        known = pump.identity
        if known in self._lines:
            return FileRow(
                row.line,
                row.name,
                None,
                (f"the same maker, model and variant as line {self._lines[known]}",),
            )
        self._lines[known] = row.line
        if pump.pump_id in self._ids:
            row = replace(row, pump=replace(pump, pump_id=told_apart(pump.pump_id, known)))
        self._ids.add(pump.pump_id)
        line, name = self._alike.setdefault(
            replace(pump, pump_id="", model="", variant=""), (row.line, row.name)
        )
        if line == row.line:
            return row
        return replace(
            row,
            doubts=(
                *row.doubts,
                f"the same as {name} in line {line} in all but its name: entered twice?",
            ),
        )


def read_row(cells: Mapping[str, str], line: int = 0) -> FileRow:
    """Read one row of cells by column name; never raises, every problem is told."""
    cells = {
        key: text.replace("\0", "\ufffd") for key, text in cells.items()
    }  # no database takes it as text
    name = " ".join(
        filter(None, (cells.get(key, "").strip() for key in ("maker", "model", "variant")))
    )
    made, problems = read_cells(cells)
    if made is None:
        return FileRow(
            line,
            name,
            None,
            tuple(
                text if column in text else f"{column}: {text}" for column, text in problems.items()
            ),
        )
    return FileRow(line, name, made, (), (*doubts_of_curve(made.curve), *doubts_of_motor(made)))


def read_cells(cells: Mapping[str, str]) -> tuple[Pump | None, dict[str, str]]:
    """The pump of a row's cells, or what is wrong by column name.

    'curve' stands for lists that do not go together.
    """
    problems: dict[str, str] = {}
    fields: dict[str, Any] = {}
    for column in COLUMNS:
        text = cells.get(column.name, "").strip()
        if column.required and not text:
            problems[column.name] = f"{column.name} is empty"
        elif column.field and text:
            _try(problems, column.name, partial(_fill_in, fields, column, text))
    if fields.get("family") and fields["family"] not in families():
        problems["family"] = f"family '{fields['family']}' is not one of {', '.join(families())}"
    curve: list[PumpCurve] = []
    if not problems:
        _try(problems, "curve", lambda: curve.append(_curve(cells)))
    if problems:
        return None, problems
    return (
        Pump(
            id_of(fields["maker"], fields["model"], fields.get("variant", "")),
            curve=curve[0],
            **fields,
        ),
        {},
    )


def completed(row: FileRow, before: Pump) -> FileRow:
    """A row of a pump that is there already, with what its file says nothing about as it was.

    Power and NPSH stand at the points of the curve: they stay while the flows are the same, else
    they go, with a doubt.
    """
    if row.pump is None:
        return row
    kept = {
        name: getattr(before, name) for name in _EVERYTHING - row.held - set(_READ_OFF.values())
    }
    lists = {
        name: getattr(before.curve, name) for name in _READ_OFF.values() if name not in row.held
    }
    curve, lost = row.pump.curve, [name for name, values in lists.items() if values is not None]
    if _same_flows(curve, before.curve):
        curve, lost = replace(curve, **lists), []
    words = " and ".join("input power" if name == "powers_w" else "NPSH" for name in lost)
    doubts = (
        (f"its curve has other points, so the {words} known before no longer goes with it",)
        if lost
        else ()
    )
    return replace(
        row,
        pump=replace(row.pump, pump_id=before.pump_id, curve=curve, **kept),
        doubts=(*row.doubts, *doubts),
    )


def _same_flows(one: PumpCurve, other: PumpCurve) -> bool:
    pairs = zip(one.flows_m3s, other.flows_m3s, strict=False)
    return len(one.flows_m3s) == len(other.flows_m3s) and all(
        abs(a - b) <= 1e-6 * one.last_flow_m3s for a, b in pairs
    )


def _fill_in(fields: dict[str, Any], column: Column, text: str) -> None:
    fields[column.field] = _cell(column, text)


def _try(problems: dict[str, str], name: str, action: Callable[[], object]) -> None:
    try:
        action()
    except (SizingError, ValueError) as problem:
        problems[name] = str(problem)


def _cell(column: Column, text: str) -> Any:
    if column.reads == "text":
        if len(text) > 200:
            raise SizingError("longer than 200 characters")
        return text
    if column.reads == "yes/no":
        if text.lower() not in ("yes", "no", "y", "n", "true", "false", "1", "0"):
            raise SizingError(f"'{text}' is neither yes nor no")
        return text.lower() in ("yes", "y", "true", "1")
    if column.name == "price":
        text = sure_price(text)
    if column.reads == "number":
        value = quantity.read(text + " x", "ratio").si
        if column.field == "phases" and value not in (1, 3):
            raise SizingError("1 or 3")
        return int(value) if column.field == "phases" else _sensible(column, value)
    return _sensible(column, quantity.read(text, column.reads, column.default_unit).si)


def sure_price(text: str) -> str:
    """An amount of money without its sign.

    Raises
    ------
    SizingError
        It is '1,250', which may be a thousand or one and a quarter.
    """
    bare = text.strip("€$£ ")
    other = numbers.other_reading(bare)
    if other is not None:
        raise SizingError(
            f"{bare[:30]} may be read in two ways, also as {other[:30]}: write it without a mark"
            " for thousands"
        )
    return bare


# No pump has more, in SI; what is more is a slip. All else: less than ten million of anything.
_MOST = {"size": 10.0, "temperature": 500.0, "ratio": 1.0, "voltage": 50_000.0}
_MOST_OF_ALL = 1e7


def _sensible(column: Column, value: float) -> float:
    if value < 0:
        raise SizingError("it cannot be negative")
    if value > (200.0 if column.field == "noise_db" else _MOST.get(column.reads, _MOST_OF_ALL)):
        raise SizingError("no pump has so much: a slip of the unit or the hand?")
    return value


def _numbers(text: str, name: str) -> list[float]:
    try:
        found = [
            float(piece)
            for piece in filter(None, (part.strip() for part in re.split(r"[;|\s]+", text)))
        ]
    except ValueError:
        raise SizingError(
            f"{name} must be numbers parted by semicolons, such as 0; 2.5; 5"
        ) from None
    if any(abs(value) > _MOST_OF_ALL for value in found):
        raise SizingError(f"{name} hold a number that no pump has: a slip of the unit or the hand?")
    return found


def head_scale(text: str) -> float:
    """Metres for one of a head unit; heads printed as a pressure are taken of cold water."""
    pressure = units.find(text, "pressure")
    return (
        pressure.scale / (REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2)
        if pressure
        else _unit_scale(text, "length")
    )


def _unit_scale(text: str, dimension: str) -> float:
    found = units.find(text, dimension)
    if found is None:
        raise SizingError(f"'{text}' is not a unit of {dimension}")
    return found.scale


def _curve(cells: Mapping[str, str]) -> PumpCurve:
    flow, head = _unit_scale(cells["flow_unit"], "flow"), head_scale(cells["head_unit"])
    columns = {
        name: _numbers(cells.get(name, ""), name) for name in ("flows", "heads", "powers_w", "npsh")
    }
    if not FEWEST_POINTS <= len(columns["flows"]) <= MOST_POINTS:
        raise SizingError(
            f"{len(columns['flows'])} points; a curve needs {FEWEST_POINTS} to {MOST_POINTS}"
        )
    made = PumpCurve(
        tuple(q * flow for q in columns["flows"]),
        tuple(h * head for h in columns["heads"]),
        tuple(columns["powers_w"]) or None,
        tuple(h * head for h in columns["npsh"]) or None,
    )
    check_power(made)
    return made
