"""Writing a catalogue as the files that are read again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from openpyxl import Workbook

from sizing.base import numbers, units
from sizing.base.spreadsheet import harmless
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_columns import COLUMNS, Column


def write_csv(pumps: Iterable[Pump]) -> str:
    """Pumps as a catalogue file in SI-near units (m³/h, m).

    :func:`read_csv` gives the same pumps back to nine digits.
    """
    stream = io.StringIO(newline="")
    writer = csv.DictWriter(stream, [column.name for column in COLUMNS], lineterminator="\n")
    writer.writeheader()
    for pump in pumps:
        writer.writerow({name: harmless(text) for name, text in cells_of(pump).items()})
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


def _surely(number: str) -> str:
    """Three decimals may be read as thousands: a nought behind them says that they are none."""
    return number if numbers.other_reading(number) is None else f"{number}0"


def _written(column: Column, value: Any) -> str:
    if value is None or value == "":
        return ""
    if column.reads == "yes/no":
        return "yes" if value else "no"
    if column.reads in ("text", "number"):
        return str(value) if isinstance(value, str) else _surely(f"{value:.10g}")
    unit = units.unit(column.default_unit, column.reads)
    return f"{unit.from_si(value):.10g} {unit.symbol}"
