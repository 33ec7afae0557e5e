"""Importing pumps.

A file is shown before it is taken, goes in whole or without its bad rows by choice, and can be
undone.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from typing import Any

from django.db import transaction

from kyrtos.background import later
from kyrtos.catalogue import publishing, services
from kyrtos.catalogue.models import Import
from kyrtos.catalogue.models import Pump as PumpRow
from kyrtos.catalogue.publishing import PLAIN
from kyrtos.shop.models import Shop, User
from sizing.pump.catalogue import Pump, identity
from sizing.pump.catalogue_file import CatalogueFileError, Progress, Row
from sizing.pump.catalogue_write import harmless

_MOST_KEPT, MOST_LISTED = (
    5000,
    200,
)  # rows of a report that are kept for its file, and shown on its page
_STATES = ("refused", "doubtful", "changed", "new", "same")  # the first are worth a look first
_SMALL_TEXT, _SMALL_WORKBOOK = (
    256_000,
    60_000,
)  # bytes: some five hundred rows, read in a few tenths of a second
_AT_ONCE = 1000  # rows taken or given back within a request


class CannotImport(CatalogueFileError):
    """What was asked of an import cannot be done now."""


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


def begin(shop: Shop, user: User | None, name: str, content: bytes) -> Import:
    """Keep a file for looking at; a small one is read at once, a large one by a worker.

    Raises
    ------
    CatalogueFileError
        When it is small, and cannot be read as a catalogue at all; or is larger than any catalogue.
    """
    if len(content) > services.LARGEST_FILE_BYTES:
        raise CatalogueFileError(
            f"the file is larger than {services.LARGEST_FILE_BYTES // 1024 // 1024} MB; split it"
        )
    small = len(content) <= (_SMALL_WORKBOOK if content[:2] == b"PK" else _SMALL_TEXT)
    rows = services.read_file(content) if small else []
    with transaction.atomic():
        Import.objects.filter(
            shop=shop, state__in=(Import.State.SHOWN, Import.State.FAILED)
        ).delete()  # one file in hand at a time
        found = Import.objects.create(
            shop=shop,
            user=user,
            name=name[:200],
            content=content,
            state=Import.State.READING,
            total=_lines(content),
        )
        if small:
            _show(found, rows)
        else:
            later("kyrtos.catalogue.tasks.read_import", lock=_lock(shop), import_id=found.pk)
    return found


def _lines(content: bytes) -> int:
    """About how many rows there are to read; nought for a workbook, which does not say."""
    return 0 if content[:2] == b"PK" else max(content.count(b"\n") - 1, 1)


def _lock(shop: Shop) -> str:
    return f"catalogue-{shop.pk}"


def _progress(found: Import) -> Progress:
    """Tells the page how far the worker is."""
    return lambda rows: Import.objects.filter(pk=found.pk).update(done=rows)


def read(found: Import) -> None:
    """Read a kept file and note what it would do; one that cannot be read is noted as that."""
    try:
        _show(found, services.read_file(bytes(found.content), _progress(found)))
    except CatalogueFileError as problem:
        found.state, found.problem = Import.State.FAILED, str(problem)[:500]
        found.save(update_fields=["state", "problem"])


def _show(found: Import, rows: Sequence[Row]) -> None:
    found.report, found.state, found.total = (
        asdict(_preview(found.shop, rows)),
        Import.State.SHOWN,
        len(rows),
    )
    found.save(update_fields=["report", "state", "total"])


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
        (line.line, harmless(line.name), line.state, "; ".join(line.said))
        for line in preview(found).lines
    )
    return stream.getvalue()


def _preview(shop: Shop, rows: Sequence[Row]) -> Preview:
    rows = services.completed_rows(shop, rows)
    known = services.known_pumps(shop, [row.pump.identity for row in rows if row.pump])
    lines = [_line(row, known.get(row.pump.identity) if row.pump else None) for row in rows]
    counts = {state: sum(line.state == state for line in lines) for state in _STATES}
    lines.sort(key=lambda line: (_STATES.index(line.state), line.line))
    return Preview(tuple(lines[:_MOST_KEPT]), counts, max(len(lines) - _MOST_KEPT, 0))


def _line(row: Row, before: Pump | None) -> Line:
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


def take(
    found: Import, *, without_refused: bool, take_doubtful: bool, blank_missing: bool = False
) -> Import:
    """Put the rows of a kept file into the catalogue.

    A small file at once, a large one by a worker.

    What the file says nothing about stays as it is, unless ``blank_missing``.

    Raises
    ------
    CannotImport
        It was taken already; or rows are refused and nobody said to leave them out.
    """
    with transaction.atomic():
        found = Import.objects.select_for_update().get(pk=found.pk)
        if found.state != Import.State.SHOWN:
            raise CannotImport("this import was taken already")
        refused = preview(found).refused
        if refused and not without_refused:
            raise CannotImport(
                f"{refused} of {found.total} rows are refused: mend them, or say that they are"
                " left out"
            )
        if refused == found.total:
            raise CannotImport("no row of the file can go in")
        found.state, found.done = Import.State.TAKING, 0
        found.save(update_fields=["state", "done"])
        if found.total > _AT_ONCE:
            later(
                "kyrtos.catalogue.tasks.take_import",
                lock=_lock(found.shop),
                import_id=found.pk,
                without_refused=without_refused,
                take_doubtful=take_doubtful,
                blank_missing=blank_missing,
            )
            return found
        return take_now(found, take_doubtful=take_doubtful, blank_missing=blank_missing)


def take_now(found: Import, *, take_doubtful: bool, blank_missing: bool = False) -> Import:
    """Put the rows of a file that is being taken into the catalogue, remembering what was there
    before: all of them or none.
    """
    if found.state != Import.State.TAKING:
        return found  # another worker was there first
    read_rows = services.read_file(
        bytes(found.content), _progress(found) if found.total > _AT_ONCE else None
    )
    rows = services.completed_rows(found.shop, read_rows, blank_missing=blank_missing)
    good = [row.pump for row in rows if row.pump]
    known = [pump.identity for pump in good]
    aside = {
        row.pump.pump_id: "; ".join(row.doubts)[:500]
        for row in rows
        if row.pump and row.doubts and not take_doubtful
    }
    with transaction.atomic():
        found = Import.objects.select_for_update().get(pk=found.pk)
        if found.state != Import.State.TAKING:
            return found
        before = PumpRow.objects.filter(shop=found.shop, identity__in=known)
        found.before = list(before.values(*services.COLUMNS, "aside", "identity"))
        stored = services.store(found.shop, good, aside=aside)
        found.added, found.changed, found.ids = stored.added, stored.changed, list(stored.pump_ids)
        found.kept_aside, found.left_out, found.state = (
            len(aside),
            len(rows) - len(good),
            Import.State.TAKEN,
        )
        found.revision, found.done, found.content = (
            found.shop.catalogue_revision,
            len(rows),
            b"",
        )  # the file has done its work
        found.save()
    return found


def undo(found: Import) -> Import:
    """Put the catalogue back as it was before an import.

    At once after a small one, by a worker after a large one.

    Raises
    ------
    CannotImport
        It was never taken or is undone already; or the catalogue has changed since.
    """
    with transaction.atomic():
        found = Import.objects.select_for_update().get(pk=found.pk)
        shop = Shop.objects.select_for_update().get(pk=found.shop_id)
        if found.state != Import.State.TAKEN:
            raise CannotImport(
                "this import cannot be undone: it was not taken, or is undone already"
            )
        if shop.catalogue_revision != found.revision:
            raise CannotImport(
                "the catalogue has changed since this import: undo the later change first, or"
                " import the old file again"
            )
        found.state, found.done = Import.State.UNDOING, 0
        found.save(update_fields=["state", "done"])
        if len(found.ids) > _AT_ONCE:
            later("kyrtos.catalogue.tasks.undo_import", lock=_lock(shop), import_id=found.pk)
            return found
        return undo_now(found)


@transaction.atomic
def undo_now(found: Import) -> Import:
    """Put the rows back that an import replaced, and take away those that it added."""
    found = Import.objects.select_for_update().get(pk=found.pk)
    if found.state == Import.State.UNDOING:
        PumpRow.objects.filter(shop=found.shop, pump_id__in=found.ids).delete()
        PumpRow.objects.bulk_create(
            [_as_before(found.shop, row) for row in found.before], batch_size=2000
        )
        publishing.changed(found.shop)
        found.state = Import.State.UNDONE
        found.save(update_fields=["state"])
    return found


def _as_before(shop: Shop, row: dict[str, Any]) -> PumpRow:
    """A row that was replaced; imports of earlier versions kept no identity with it."""
    return PumpRow(
        shop=shop, **{"identity": identity(row["maker"], row["model"], row["variant"]), **row}
    )


def accept(shop: Shop, pump_ids: Sequence[str]) -> int:
    """Choose from pumps that were kept aside from now on; returns how many there were."""
    count = (
        PumpRow.objects.filter(shop=shop, pump_id__in=pump_ids).exclude(aside="").update(aside="")
    )
    if count:
        publishing.changed(shop)
    return count
