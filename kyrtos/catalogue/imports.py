"""Importing pumps.

A file is shown before it is taken, goes in whole or without its bad rows by choice, and can be
undone.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from typing import Any

from django.db import InterfaceError, OperationalError, transaction
from procrastinate.contrib.django import app

from kyrtos.accounts.models import User
from kyrtos.catalogue import prices, publishing, services, supplier_file
from kyrtos.catalogue.import_preview import preview, preview_of
from kyrtos.catalogue.models import CatalogueEntry, Import
from kyrtos.catalogue.publishing import CATALOGUE_LOCK
from kyrtos.config.queue import AGAIN, enqueue
from kyrtos.shops.models import Shop
from sizing.pump.catalogue_file import CatalogueFileError, FileRow, Progress
from sizing.pump.identity import identity

# Bytes of some five hundred rows, read in a few tenths of a second.
_SMALL_TEXT, _SMALL_WORKBOOK = 256_000, 60_000
_BESIDE = ("aside", "identity", "archived", "merged_into")  # of a row, besides the pump itself
_MOST_NAMED = 8
_AT_ONCE = 1000  # rows taken or given back within a request


class CannotImport(CatalogueFileError):
    """What was asked of an import cannot be done now."""


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
    rows: list[FileRow] = []
    told, wanted = "", None
    if small:
        try:
            rows, told = supplier_file.rows_of(shop, content)
        except supplier_file.ColumnsWanted as asked:
            wanted = asked
    with transaction.atomic():
        Import.objects.filter(
            shop=shop, state__in=(Import.State.SHOWN, Import.State.FAILED, Import.State.COLUMNS)
        ).delete()  # one file in hand at a time
        found = Import.objects.create(
            shop=shop,
            user=user,
            name=name[:200],
            content=content,
            state=Import.State.READING,
            total=_lines(content),
            told=told,
        )
        if wanted:
            _ask(found, wanted)
        elif small:
            _show(found, rows)
        else:
            enqueue(read_import, lock=CATALOGUE_LOCK, whose=shop.pk, import_id=found.pk)
    return found


def _lines(content: bytes) -> int:
    """About how many rows there are to read; zero for a workbook, which does not say."""
    return 0 if content[:2] == b"PK" else max(content.count(b"\n") - 1, 1)


class CalledOff(CatalogueFileError):
    """Somebody called it off while a worker had it in hand."""


def _progress(found: Import) -> Progress:
    """Tells the page how far the worker is; raises :class:`CalledOff` once it is called off."""

    def tell(rows: int) -> None:
        if not Import.objects.filter(pk=found.pk, state=found.state).update(done=rows):
            raise CalledOff("called off")

    return tell


def call_off(found: Import) -> bool:
    """Stop a file that is being read or taken; whether there was anything to stop.

    What is being taken is shown again; nothing of it was changed.
    """
    ours = Import.objects.filter(pk=found.pk)
    return bool(
        ours.filter(state=Import.State.READING).update(
            state=Import.State.FAILED, problem="it was called off; nothing was changed"
        )
        or ours.filter(state=Import.State.TAKING).update(state=Import.State.SHOWN)
    )


def read(found: Import) -> None:
    """Read a kept file and note what it would do; one that cannot be read is noted as that."""
    if found.state != Import.State.READING:
        return  # called off before it began
    try:
        tell = _progress(found)
        rows, found.told = _rows(found, tell)
        tell(len(rows))
        found.save(update_fields=["told"])
        _show(found, rows)
    except supplier_file.ColumnsWanted as wanted:
        _ask(found, wanted)
    except CalledOff:
        return
    except CatalogueFileError as problem:
        found.state, found.problem = Import.State.FAILED, str(problem)[:500]
        found.save(update_fields=["state", "problem"])


def _rows(found: Import, progress: Progress | None = None) -> tuple[list[FileRow], str]:
    chosen = supplier_file.Chosen(**found.chosen) if found.chosen else None
    return supplier_file.rows_of(found.shop, bytes(found.content), chosen, progress)


def _ask(found: Import, wanted: supplier_file.ColumnsWanted) -> None:
    found.asked, found.state = wanted.asked(), Import.State.COLUMNS
    found.save(update_fields=["asked", "state"])


def choose_columns(
    found: Import, *, by_hand: dict[str, str], fixed: dict[str, str], supplier: str
) -> Import:
    """Match the headings of a supplier's file; it is read again, and the match is kept.

    Raises
    ------
    CannotImport
        It is not waiting for that.
    """
    if found.state != Import.State.COLUMNS:
        raise CannotImport("this file does not wait for its headings")
    chosen = supplier_file.Chosen(by_hand, fixed)
    supplier_file.remember(found.shop, found, chosen, supplier)
    found.chosen, found.state = {"by_hand": by_hand, "fixed": fixed}, Import.State.READING
    found.save(update_fields=["chosen", "state"])
    read(found)
    return found


def _show(found: Import, rows: Sequence[FileRow]) -> None:
    found.report, found.state, found.total = (
        asdict(preview_of(found.shop, rows)),
        Import.State.SHOWN,
        len(rows),
    )
    found.save(update_fields=["report", "state", "total"])


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
            enqueue(
                take_import,
                lock=CATALOGUE_LOCK,
                whose=found.shop_id,
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
    try:
        read_rows, _ = _rows(found, _progress(found) if found.total > _AT_ONCE else None)
    except CalledOff:
        return found
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
        before = CatalogueEntry.objects.filter(shop=found.shop, identity__in=known)
        found.before = list(before.values(*services.COLUMNS, *_BESIDE))
        stored = services.store(found.shop, good, aside=aside, source=found.name)
        found.added, found.changed, found.ids = stored.added, stored.changed, list(stored.pump_ids)
        found.kept_aside, found.left_out, found.state = (
            len(aside),
            len(rows) - len(good),
            Import.State.TAKEN,
        )
        found.after = _digests(found.shop, found.ids)
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
        It was never taken or is undone already; or a pump of it was changed since.
    """
    with transaction.atomic():
        found = Import.objects.select_for_update().get(pk=found.pk)
        shop = Shop.objects.select_for_update().get(pk=found.shop_id)
        if found.state != Import.State.TAKEN:
            raise CannotImport(
                "this import cannot be undone: it was not taken, or is undone already"
            )
        if shop.catalogue_revision != found.revision:
            changed = _changed_since(found)
            if changed:
                raise CannotImport(_in_the_way(changed))
        found.state, found.done = Import.State.UNDOING, 0
        found.save(update_fields=["state", "done"])
        if len(found.ids) > _AT_ONCE:
            enqueue(undo_import, lock=CATALOGUE_LOCK, whose=shop.pk, import_id=found.pk)
            return found
        return undo_now(found)


def _digests(shop: Shop, ids: Sequence[str]) -> dict[str, str]:
    """What tells a row of the catalogue from itself changed, by its id."""
    rows = CatalogueEntry.objects.filter(shop=shop, pump_id__in=ids)
    return {
        row["pump_id"]: hashlib.md5(
            repr(sorted(row.items())).encode(), usedforsecurity=False
        ).hexdigest()[:16]
        for row in rows.values(*services.COLUMNS, *_BESIDE)
    }


def _changed_since(found: Import) -> list[str]:
    """Pumps of an import that are others now; all of them where it is of before there were digests.

    What else changed in the catalogue is in nobody's way.
    """
    now = _digests(found.shop, found.ids)
    return [one for one in found.ids if now.get(one) != found.after.get(one, "")]


def _in_the_way(changed: Sequence[str]) -> str:
    more = len(changed) - _MOST_NAMED
    named = ", ".join(changed[:_MOST_NAMED]) + (f" and {more} more" if more > 0 else "")
    return (
        f"of its pumps these were changed, merged or taken out since: {named}. Undo the later"
        " change first, or import the old file again"
    )


@transaction.atomic
def undo_now(found: Import) -> Import:
    """Put the rows back that an import replaced, and take away those that it added."""
    found = Import.objects.select_for_update().get(pk=found.pk)
    if found.state == Import.State.UNDOING:
        changed = _changed_since(found) if found.after else []
        if changed:  # while it waited for a worker
            found.state, found.problem = Import.State.TAKEN, _in_the_way(changed)
            found.save(update_fields=["state", "problem"])
            return found
        taken = prices.of(found.shop, found.ids)
        CatalogueEntry.objects.filter(shop=found.shop, pump_id__in=found.ids).delete()
        CatalogueEntry.objects.bulk_create(
            [_as_before(found.shop, row) for row in found.before], batch_size=2000
        )
        before = {row["pump_id"]: row["price"] for row in found.before}
        prices.note(found.shop, taken, before, f"{found.name} undone")
        publishing.changed(found.shop)
        found.state = Import.State.UNDONE
        found.save(update_fields=["state"])
    return found


def _as_before(shop: Shop, row: dict[str, Any]) -> CatalogueEntry:
    """A row that was replaced; imports of earlier versions kept no identity with it."""
    return CatalogueEntry(
        shop=shop, **{"identity": identity(row["maker"], row["model"], row["variant"]), **row}
    )


def accept(shop: Shop, pump_ids: Sequence[str]) -> int:
    """Choose from pumps that were kept aside from now on; returns how many there were."""
    count = (
        CatalogueEntry.objects.filter(shop=shop, pump_id__in=pump_ids)
        .exclude(aside="")
        .update(aside="")
    )
    if count:
        publishing.changed(shop)
    return count


@contextmanager
def _told(import_id: int, then: Import.State, what_to_do: str) -> Iterator[None]:
    """What goes wrong against all expectation is told on the import's page, not only in the
    worker's log.
    """
    try:
        yield
    except (OperationalError, InterfaceError):
        raise  # the database went away: it is done again, and cannot be told now
    except Exception as problem:
        told = (
            f"something went wrong in the background ({type(problem).__name__}); nothing was"
            f" changed. {what_to_do}"
        )
        Import.objects.filter(pk=import_id).update(state=then, problem=told)
        raise


@app.task(retry=AGAIN, name="kyrtos.catalogue.tasks.read_import")
def read_import(import_id: int) -> None:
    """Read a large file and say what it would do."""
    with _told(import_id, Import.State.FAILED, "Send the file again"):
        read(Import.objects.get(pk=import_id))


@app.task(retry=AGAIN, name="kyrtos.catalogue.tasks.take_import")
def take_import(
    import_id: int, without_refused: bool, take_doubtful: bool, blank_missing: bool = False
) -> None:
    """Put the rows of a large file into the catalogue.

    ``without_refused`` was looked at before it was put off.
    """
    with _told(import_id, Import.State.FAILED, "Send the file again"):
        take_now(
            Import.objects.get(pk=import_id),
            take_doubtful=take_doubtful,
            blank_missing=blank_missing,
        )


@app.task(retry=AGAIN, name="kyrtos.catalogue.tasks.undo_import")
def undo_import(import_id: int) -> None:
    """Put the catalogue back as it was before a large import."""
    with _told(import_id, Import.State.TAKEN, "Try once more"):
        undo_now(Import.objects.get(pk=import_id))
