"""The head tape as text, CSV and XLSX."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font

from sizing.base import units
from sizing.base.spreadsheet import harmless
from sizing.base.units import System
from sizing.head_breakdown import table
from sizing.over_time.scenarios.base import SimulationResult
from sizing.size import Sizing

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def as_csv(sizing: Sizing) -> str:
    """The tape as CSV: plain numbers with a point, the units in the heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in table(sizing.head_breakdown, sizing.job.units) if sizing.head_breakdown else ():
        writer.writerow([harmless(cell) if isinstance(cell, str) else cell for cell in row])
    return out.getvalue()


def rows_as_csv(rows: Iterable[tuple[str, str]]) -> str:
    """Labels and texts as CSV."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(
        [harmless(label), harmless(text)] for label, text in rows
    )
    return out.getvalue()


def run_csv(ran: SimulationResult, system: System) -> str:
    """A run over time as CSV: every point of its line, and what happened, in the order of time.

    Plain numbers with a point, the unit in the heading; times in seconds from the beginning.
    """
    unit = units.shown_unit(ran.line.dimension, system)
    rows = [(time, value, "") for time, value in ran.line.points]
    rows += [(one.time_s, one.value, one.words) for one in ran.events]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time [s]", f"{ran.line.label} [{unit.symbol}]", "what happens"])
    for time, value, words in sorted(rows, key=lambda row: row[0]):
        writer.writerow([f"{time:.1f}", f"{unit.from_si(value):.4f}", harmless(words)])
    return out.getvalue()


def as_xlsx(sizing: Sizing) -> bytes:
    """The tape as a workbook, its figures as numbers."""
    book = Workbook()
    page = book.active
    assert page is not None  # a new workbook has one page
    page.title = "Head tape"
    for row in table(sizing.head_breakdown, sizing.job.units) if sizing.head_breakdown else ():
        page.append([harmless(cell) if isinstance(cell, str) else cell for cell in row])
    for cell in (*page[1], *page[page.max_row]):
        cell.font = Font(bold=True)
    for column, width in zip("ABCDE", (34, 52, 12, 12, 14), strict=True):
        page.column_dimensions[column].width = width
    for cells in page.iter_rows(min_row=2, min_col=3, max_col=4):
        for cell in cells:
            cell.number_format, cell.alignment = "0.00", Alignment(horizontal="right")
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
