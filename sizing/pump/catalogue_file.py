"""The catalogue as an open file: one CSV row a pump, cells with units, a report row by row."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from openpyxl import Workbook, load_workbook

from sizing import quantity, tables, units
from sizing.errors import SizingError
from sizing.pump.catalogue import Pump, id_of, told_apart
from sizing.pump.curve import PumpCurve
from sizing.water import GRAVITY_M_S2

FEWEST_POINTS = 4  # with fewer, nobody can tell a curve from a guess
MOST_POINTS = 60
MOST_ROWS = 100_000
_MOST_UNPACKED_BYTES = (
    500_000_000  # of a workbook: its parts are packed, and may be packed to do harm
)
_TELL_EVERY = 250  # rows
_COLD_WATER_KG_M3 = 998.2
_LEAST_EFFICIENCY, _MOST_EFFICIENCY = (
    0.02,
    0.85,
)  # wire to water of anything from an aquarium pump to a large set
_HIGHEST_HEAD_M, _MOST_FLOW_M3S = 600.0, 0.5


@dataclass(frozen=True)
class Column:
    """A column of the file: what it fills in, how a cell is read, whether it must be there."""

    name: str
    field: str
    reads: str  # a dimension, or 'text', 'number', 'yes/no', 'list'
    default_unit: str = ""
    required: bool = False
    help: str = ""


COLUMNS = (
    Column("maker", "maker", "text", required=True, help="who makes it"),
    Column(
        "model",
        "model",
        "text",
        required=True,
        help="the maker's name for it; maker and model together name the pump",
    ),
    Column("family", "family", "text", required=True, help="one of the family codes below"),
    Column(
        "flow_unit", "", "text", required=True, help="unit of the flows, such as m3/h, l/min, gpm"
    ),
    Column(
        "head_unit",
        "",
        "text",
        required=True,
        help="unit of the heads, such as m, ft; or a pressure such as psi, of cold water",
    ),
    Column(
        "flows",
        "",
        "list",
        required=True,
        help="flows of the curve's points, rising, parted by semicolons",
    ),
    Column("heads", "", "list", required=True, help="heads at those flows"),
    Column("powers_w", "", "list", help="electrical input in W at those flows"),
    Column("npsh", "", "list", help="NPSH required at those flows, in the head unit"),
    Column("solids", "solids_m", "size", "mm", help="largest ball that passes"),
    Column("width", "width_m", "size", "mm", help="widest measure with its float at rest"),
    Column("height", "height_m", "size", "mm", help="height without the pipe"),
    Column(
        "lowest_stop", "lowest_stop_m", "size", "mm", help="lowest water level at which it may stop"
    ),
    Column("discharge", "discharge", "text", help="outlet, such as 1-1/2 in or DN40"),
    Column("voltage", "voltage_v", "voltage", "V", help="rated voltage"),
    Column("phases", "phases", "number", help="1 or 3"),
    Column("current", "current_a", "current", "A", help="rated current"),
    Column("motor_power", "motor_power_w", "power", "W", help="rated shaft power of the motor"),
    Column("hottest", "hottest_c", "temperature", "°C", help="hottest water it may pump"),
    Column("float", "float_type", "text", help="tethered, vertical, none"),
    Column(
        "drinking_water", "drinking_water", "yes/no", help="listed for drinking water: yes or no"
    ),
    Column("noise_db", "noise_db", "number", help="dB(A) at 1 m"),
    Column("price", "price", "number", help="in the shop's currency"),
    Column("warranty_years", "warranty_years", "number", help=""),
    Column("note", "note", "text", help=""),
    Column("suction", "suction", "text", help="inlet, such as 1-1/4 in or DN32"),
    Column("length", "length_m", "size", "mm", help="length, to fit a chamber or a hatch"),
    Column(
        "slowest_speed",
        "slowest_speed",
        "ratio",
        "%",
        help="share of full speed down to which it may be slowed; empty: fixed speed",
    ),
    Column("control", "control", "text", help="such as float, pressure switch, drive"),
    Column("materials", "materials", "text", help="casing, impeller, shaft"),
    Column("seal", "seal", "text", help="shaft seal"),
    Column("bearings", "bearings", "text", help="such as ball, ceramic sleeve"),
    Column("elastomers", "elastomers", "text", help="such as NBR, EPDM, FKM"),
    Column("stock", "stock", "number", help="how many lie on the shelf"),
    Column("lead_days", "lead_days", "number", help="days until more come"),
    Column("discontinued", "discontinued", "yes/no", help="no longer made: yes or no"),
    Column("successor", "successor", "text", help="maker and model that took its place"),
    Column(
        "variant",
        "variant",
        "text",
        help="which impeller or speed this curve is of, such as 'speed 2'; a row for each",
    ),
    Column("impeller", "impeller_m", "size", "mm", help="impeller diameter of this curve"),
    Column("speed_rpm", "speed_rpm", "number", help="speed of this curve, turns a minute"),
)
_BY_NAME = {column.name: column for column in COLUMNS}
_READ_OFF = {
    "powers_w": "powers_w",
    "npsh": "npsh_required_m",
}  # lists beside the curve's own, by column
_EVERYTHING = frozenset(
    {column.field for column in COLUMNS if column.field} | set(_READ_OFF.values())
)


class CatalogueFileError(SizingError):
    """A file that cannot be read as a catalogue at all."""


@dataclass(frozen=True)
class Row:
    """What came of one row: a pump, or the reasons why not; ``doubts`` do not stop it."""

    line: int
    name: str
    pump: Pump | None
    problems: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()
    held: frozenset[str] = _EVERYTHING  # fields of the pump that the file says something about


Progress = Callable[[int], object]


def families() -> dict[str, str]:
    """Pump families by code, with their labels."""
    return {row["family"]: row["label"] for row in tables.rows("families")}


def read_csv(text: str, progress: Progress | None = None) -> list[Row]:
    """Read a catalogue file; ``progress`` is told every few hundred rows how many are read.

    Returns
    -------
    list of Row
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


def read_xlsx(content: bytes, progress: Progress | None = None) -> list[Row]:
    """Read the first sheet of a workbook as a catalogue file, its rows as :func:`read_csv` reads
    them.

    Raises
    ------
    CatalogueFileError
        When it is no workbook, or its first row does not name the columns.
    """
    try:
        if (
            sum(part.file_size for part in zipfile.ZipFile(io.BytesIO(content)).infolist())
            > _MOST_UNPACKED_BYTES
        ):
            raise CatalogueFileError("this workbook unpacks to far more than a catalogue")
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        rows = [
            [_as_text(cell) for cell in row]
            for row in book.worksheets[0].iter_rows(
                values_only=True, max_row=MOST_ROWS + 2, max_col=200
            )
        ]
        book.close()
    except CatalogueFileError:
        raise
    except Exception as problem:  # openpyxl raises whatever the broken part inside raises
        raise CatalogueFileError("this is not an XLSX workbook that can be read") from problem
    while rows and rows[0] and not rows[0][-1]:  # a sheet may be wider than its table
        rows = [row[:-1] for row in rows]
    header = _header(rows[0] if rows else [])
    return list(
        _numbered(
            header, ((line, row) for line, row in enumerate(rows[1:], 2) if any(row)), progress
        )
    )


def _as_text(cell: object) -> str:
    return "" if cell is None else f"{cell:.10g}" if isinstance(cell, float) else str(cell)


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
) -> Iterator[Row]:
    held, above = _held(header), _Above()
    for number, (line, cells) in enumerate(rows, 1):
        if number > MOST_ROWS:
            raise CatalogueFileError(f"more than {MOST_ROWS} rows: split it")
        if progress and number % _TELL_EVERY == 0:
            progress(number)
        row = replace(read_row(dict(zip(header, cells, strict=False)), line), held=held)
        if len(cells) > len(header):
            row = Row(row.line, row.name, None, ("it has more cells than the header has columns",))
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

    def told_apart_from(self, row: Row, pump: Pump) -> Row:
        """The row with an id of its own.

        With a problem or a doubt where one above is the same or much the same.
        """
        known = pump.identity
        if known in self._lines:
            return Row(
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


def read_row(cells: Mapping[str, str], line: int = 0) -> Row:
    """Read one row of cells by column name; never raises, every problem is told."""
    cells = {
        key: text.replace("\0", "\ufffd") for key, text in cells.items()
    }  # no database takes it as text
    name = " ".join(
        filter(None, (cells.get(key, "").strip() for key in ("maker", "model", "variant")))
    )
    made, problems = read_cells(cells)
    if made is None:
        return Row(
            line,
            name,
            None,
            tuple(
                text if column in text else f"{column}: {text}" for column, text in problems.items()
            ),
        )
    return Row(line, name, made, (), (*_doubts(made.curve), *_doubts_of_motor(made)))


def read_cells(cells: Mapping[str, str]) -> tuple[Pump | None, dict[str, str]]:
    """The pump of a row's cells, or what is wrong by column name ('curve' where its lists do not go
    together).
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


def completed(row: Row, before: Pump) -> Row:
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
    if column.reads == "number":
        value = quantity.read(text + " x", "ratio").si
        if column.field == "phases" and value not in (1, 3):
            raise SizingError("1 or 3")
        return int(value) if column.field == "phases" else _sensible(column, value)
    return _sensible(column, quantity.read(text, column.reads, column.default_unit).si)


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


def _head_scale(text: str) -> float:
    """Metres for one of a head unit; heads printed as a pressure are taken of cold water."""
    pressure = units.find(text, "pressure")
    return (
        pressure.scale / (_COLD_WATER_KG_M3 * GRAVITY_M_S2)
        if pressure
        else _unit_scale(text, "length")
    )


def _unit_scale(text: str, dimension: str) -> float:
    found = units.find(text, dimension)
    if found is None:
        raise SizingError(f"'{text}' is not a unit of {dimension}")
    return found.scale


def _curve(cells: Mapping[str, str]) -> PumpCurve:
    flow, head = _unit_scale(cells["flow_unit"], "flow"), _head_scale(cells["head_unit"])
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
    _check_power(made)
    return made


def _water_powers_w(curve: PumpCurve) -> list[float]:
    return [
        _COLD_WATER_KG_M3 * GRAVITY_M_S2 * flow * head
        for flow, head in zip(curve.flows_m3s, curve.heads_m, strict=True)
    ]


def _check_power(curve: PumpCurve) -> None:
    for water_power, power in zip(_water_powers_w(curve), curve.powers_w or (), strict=False):
        if water_power > power:
            raise SizingError(
                f"at one point the water takes up {water_power:.0f} W and the motor takes in only"
                f" {power:.0f} W: wrong unit?"
            )


def _doubts(curve: PumpCurve) -> Iterator[str]:
    if curve.flows_m3s[0] > 0:
        yield "the curve does not begin at no flow, so its shut-off head is not known"
    if any(
        later > earlier for earlier, later in zip(curve.heads_m, curve.heads_m[1:], strict=False)
    ):
        yield "the head rises somewhere along the curve"
    best = max(
        (
            water_power / power
            for water_power, power in zip(
                _water_powers_w(curve), curve.powers_w or (), strict=False
            )
            if power
        ),
        default=0.0,
    )
    if curve.powers_w and not _LEAST_EFFICIENCY <= best <= _MOST_EFFICIENCY:
        yield f"at best {best:.0%} of the power it takes in reaches the water: wrong unit?"
    if max(curve.heads_m) > _HIGHEST_HEAD_M or curve.last_flow_m3s > _MOST_FLOW_M3S:
        yield (
            f"up to {max(curve.heads_m):.0f} m or {curve.last_flow_m3s * 3600:.0f} m³/h is far from"
            " what is sold here: wrong unit?"
        )


def _doubts_of_motor(pump: Pump) -> Iterator[str]:
    """A curve in the wrong unit shows in the water's power beside that of the motor."""
    most = max(_water_powers_w(pump.curve))
    if pump.motor_power_w and most > pump.motor_power_w:
        yield (
            f"the water takes up {most:.0f} W and the motor is rated at {pump.motor_power_w:.0f} W:"
            " wrong unit?"
        )
    elif pump.motor_power_w and most < _LEAST_EFFICIENCY * pump.motor_power_w:
        yield (
            f"of a motor of {pump.motor_power_w:.0f} W only {most:.2g} W reach the water: wrong"
            " unit?"
        )


def write_csv(pumps: Iterable[Pump]) -> str:
    """Pumps as a catalogue file in SI-near units (m³/h, m).

    :func:`read_csv` gives the same pumps back to nine digits.
    """
    stream = io.StringIO(newline="")
    writer = csv.DictWriter(stream, [column.name for column in COLUMNS], lineterminator="\n")
    writer.writeheader()
    for pump in pumps:
        writer.writerow(cells_of(pump))
    return stream.getvalue()


def write_xlsx(pumps: Iterable[Pump]) -> bytes:
    """The same as a workbook; :func:`read_xlsx` gives the same pumps back."""
    book = Workbook(write_only=True)
    page = book.create_sheet("pumps")
    page.append([column.name for column in COLUMNS])
    for pump in pumps:
        cells = cells_of(pump)
        page.append([harmless(cells.get(column.name, "")) for column in COLUMNS])
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def harmless(text: str) -> str:
    """Text that a spreadsheet does not take for a formula."""
    return f" {text}" if text[:1] in ("=", "+", "@") else text


def cells_of(pump: Pump) -> dict[str, str]:
    """A pump as the cells of a row, by column name."""
    per_hour, curve = units.unit("m³/h", "flow"), pump.curve
    cells = {
        column.name: _written(column, getattr(pump, column.field))
        for column in COLUMNS
        if column.field
    }
    cells |= {"flow_unit": "m3/h", "head_unit": "m"}
    cells["flows"] = _joined(per_hour.from_si(flow) for flow in curve.flows_m3s)
    cells["heads"] = _joined(curve.heads_m)
    cells["powers_w"], cells["npsh"] = (
        _joined(curve.powers_w or ()),
        _joined(curve.npsh_required_m or ()),
    )
    return cells


def _joined(values: Iterable[float]) -> str:
    return "; ".join(f"{value:.10g}" for value in values)


def _written(column: Column, value: Any) -> str:
    if value is None or value == "":
        return ""
    if column.reads == "yes/no":
        return "yes" if value else "no"
    if column.reads in ("text", "number"):
        return str(value) if isinstance(value, str) else f"{value:.10g}"
    unit = units.unit(column.default_unit, column.reads)
    return f"{unit.from_si(value):.10g} {unit.symbol}"
