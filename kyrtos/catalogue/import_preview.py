"""What an import would do, row by row, before it does it."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

from kyrtos.catalogue import services
from kyrtos.catalogue.models import Import
from kyrtos.catalogue.publishing import PLAIN
from kyrtos.shops.models import Shop
from sizing.base.spreadsheet import harmless
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_file import FileRow

# Rows of a report that are kept for its file, and shown on its page.
_MOST_KEPT, MOST_LISTED = 5000, 200
_STATES = ("refused", "doubtful", "changed", "new", "same")  # the first are worth a look first


@dataclass(frozen=True)
class Line:
    """One row of a preview.

    'new', 'changed', 'same', 'doubtful' or 'refused', with what is to be said of it.
    """

    line: int
    name: str
    state: str
    said: tuple[str, ...]


@dataclass(frozen=True)
class Preview:
    """What an import would do."""

    lines: tuple[Line, ...]
    counts: dict[str, int]
    unlisted: int

    @property
    def shown(self) -> tuple[Line, ...]:
        """The rows that its page has room for."""
        return self.lines[:MOST_LISTED]

    @property
    def more(self) -> int:
        """How many rows its page does not show."""
        return len(self.lines) - len(self.shown) + self.unlisted

    @property
    def refused(self) -> int:
        """Rows that cannot go in."""
        return self.counts.get("refused", 0)

    @property
    def doubtful(self) -> int:
        """Rows that are kept aside."""
        return self.counts.get("doubtful", 0)


def preview(found: Import) -> Preview:
    """What a kept file would do, as it was when it was read; rows worth a look first."""
    lines = tuple(Line(**{**one, "said": tuple(one["said"])}) for one in found.report["lines"])
    return Preview(lines, found.report["counts"], found.report["unlisted"])


def report_csv(found: Import) -> str:
    """What was said of every row, as a file."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(("line", "pump", "what", "why"))
    writer.writerows(
        (line.line, harmless(line.name), line.state, harmless("; ".join(line.said)))
        for line in preview(found).lines
    )
    return stream.getvalue()


def preview_of(shop: Shop, rows: Sequence[FileRow]) -> Preview:
    rows = services.completed_rows(shop, rows)
    known = services.known_pumps(shop, [row.pump.identity for row in rows if row.pump])
    lines = [_line(row, known.get(row.pump.identity) if row.pump else None) for row in rows]
    counts = {state: sum(line.state == state for line in lines) for state in _STATES}
    lines.sort(key=lambda line: (_STATES.index(line.state), line.line))
    return Preview(tuple(lines[:_MOST_KEPT]), counts, max(len(lines) - _MOST_KEPT, 0))


def _line(row: FileRow, before: Pump | None) -> Line:
    if row.pump is None:
        return Line(row.line, row.name, "refused", row.problems)
    changes = () if before is None else _changes(before, row.pump)
    if row.doubts:
        return Line(row.line, row.name, "doubtful", row.doubts)
    if before is None:
        return Line(row.line, row.name, "new", ())
    return Line(row.line, row.name, "changed" if changes else "same", changes)


def _changes(before: Pump, after: Pump) -> tuple[str, ...]:
    found = [
        f"{name}: {_shown(getattr(before, name))} → {_shown(getattr(after, name))}"
        for name in PLAIN
        if not _alike(getattr(before, name), getattr(after, name))
    ]
    if any(
        not _alike(getattr(before.curve, field.name), getattr(after.curve, field.name))
        for field in fields(before.curve)
    ):
        found.append("curve: other points")
    return tuple(found)


def _alike(one: Any, other: Any) -> bool:
    if isinstance(one, float) and isinstance(other, float):
        return abs(one - other) <= 1e-9 * max(abs(one), abs(other))
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(_alike(a, b) for a, b in zip(one, other, strict=True))
    return bool(one == other)


def _shown(value: Any) -> str:
    return (
        "not stated"
        if value in (None, "")
        else f"{value:g}"
        if isinstance(value, float)
        else str(value)
    )
