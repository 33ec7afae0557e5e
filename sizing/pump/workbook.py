"""The cells of a workbook, unpacked by a process of its own under limits of time and memory.

A packed file of some kilobytes may unpack to what holds a server up for minutes. As a program it
takes four limits (seconds, rows, columns, blank rows), reads the file from its standard input and
writes one line of JSON: a text (what is wrong) or the list of rows.
"""

from __future__ import annotations

import io
import json
import resource
import subprocess
import sys
import zipfile
from pathlib import Path

from sizing.base.errors import SizingError

_MOST_UNPACKED_BYTES = 500_000_000
_SMALL_BYTES = 100_000  # somebody waits for it: a table of that size is read in a second
_MOST_CPU_S, _MOST_CPU_OF_SMALL_S, _MOST_WAIT_S = 90, 10, 300
_ROOT = Path(__file__).resolve().parents[2]
_MOST_MEMORY_BYTES = 3 * 1024**3
_MOST_OUT_BYTES = 300_000_000
_UNREADABLE = "this is not an XLSX workbook that can be read"
_TOO_MUCH = "this workbook unpacks to far more than a catalogue"


class WorkbookError(SizingError):
    """A workbook that cannot be read, or that is too much to unpack."""


def rows_of_workbook(
    content: bytes, *, most_rows: int, most_columns: int, most_blank: int
) -> list[list[str]]:
    """The cells of the first sheet as text, row by row, without the blank ones at the end.

    Parameters
    ----------
    most_rows, most_columns : what is read at most.
    most_blank : after so many blank rows the table is over.

    Raises
    ------
    WorkbookError
        When it is no workbook, or takes too much time, memory or room.
    """
    most_s = _MOST_CPU_OF_SMALL_S if len(content) < _SMALL_BYTES else _MOST_CPU_S
    limits = [str(one) for one in (most_s, most_rows, most_columns, most_blank)]
    command = [sys.executable, "-m", "sizing.pump.workbook", *limits]
    try:
        run = subprocess.run(
            command,
            input=content,
            capture_output=True,
            timeout=_MOST_WAIT_S,
            check=False,
            cwd=_ROOT,
        )
    except subprocess.TimeoutExpired:
        raise WorkbookError(_TOO_MUCH) from None
    if run.returncode or len(run.stdout) > _MOST_OUT_BYTES:
        raise WorkbookError(_TOO_MUCH)
    found: str | list[list[str]] = json.loads(run.stdout)
    if isinstance(found, str):
        raise WorkbookError(found)
    return found


def main() -> None:
    """Read standard input, write standard output."""
    most_s, most_rows, most_columns, most_blank = (int(one) for one in sys.argv[1:5])
    resource.setrlimit(resource.RLIMIT_CPU, (most_s, most_s))
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    found = _unpacked(sys.stdin.buffer.read(), most_rows, most_columns, most_blank)
    sys.stdout.write(json.dumps(found))


def _unpacked(
    content: bytes, most_rows: int, most_columns: int, most_blank: int
) -> str | list[list[str]]:
    from openpyxl import load_workbook

    try:
        parts = zipfile.ZipFile(io.BytesIO(content)).infolist()
        if sum(part.file_size for part in parts) > _MOST_UNPACKED_BYTES:
            return _TOO_MUCH
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        rows: list[list[str]] = []
        blank = 0
        for row in book.worksheets[0].iter_rows(
            values_only=True, max_row=most_rows, max_col=most_columns
        ):
            rows.append([] if not any(row) else [_as_text(cell) for cell in row])
            blank = 0 if rows[-1] else blank + 1
            if blank > most_blank:  # a cell far below is no row of the table
                break
        book.close()
    except MemoryError:
        return _TOO_MUCH
    except Exception:  # openpyxl raises whatever the broken part inside raises
        return _UNREADABLE
    del rows[len(rows) - blank :]
    wide = max((at for at, cell in enumerate(rows[0] if rows else (), 1) if cell), default=0)
    return [row[:wide] for row in rows]  # a sheet may be wider than its table


def _as_text(cell: object) -> str:
    return "" if cell is None else f"{cell:.10g}" if isinstance(cell, float) else str(cell)


if __name__ == "__main__":
    main()
