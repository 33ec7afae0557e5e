"""Importing pumps: a file is shown before it is taken, goes in whole or without its bad rows by choice, and can be undone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

from django.db import transaction
from django.db.models import F

from kyrtos.catalogue import services
from kyrtos.catalogue.models import Import
from kyrtos.catalogue.models import Pump as PumpRow
from kyrtos.shop.models import Shop, User
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_file import CatalogueFileError, Row

_MOST_LISTED = 200
_NAMES = tuple(field.name for field in fields(Pump) if field.name not in ("curve", "together"))


class CannotImport(CatalogueFileError):
    """What was asked of an import cannot be done now."""


@dataclass(frozen=True)
class Line:
    """One row of a preview: 'new', 'changed', 'same', 'doubtful' or 'refused', with what is to be said of it."""

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
    def refused(self) -> int:
        """Rows that cannot go in."""
        return self.counts["refused"]

    @property
    def doubtful(self) -> int:
        """Rows that are kept aside."""
        return self.counts["doubtful"]


def begin(shop: Shop, user: User | None, name: str, content: bytes) -> Import:
    """Keep a file for looking at.

    Raises
    ------
    CatalogueFileError
        When it cannot be read as a catalogue at all.
    """
    services.read_file(content)
    Import.objects.filter(shop=shop, state="shown").delete()  # one file in hand at a time
    return Import.objects.create(shop=shop, user=user, name=name[:200], content=content)


def preview(found: Import) -> Preview:
    """The rows of a kept file against the catalogue as it is now; those worth a look first."""
    known = {pump.pump_id: pump for pump in _all(found.shop)}
    lines = [_line(row, known.get(row.pump.pump_id) if row.pump else None) for row in services.read_file(bytes(found.content))]
    counts = {state: sum(line.state == state for line in lines) for state in ("new", "changed", "same", "doubtful", "refused")}
    order = ("refused", "doubtful", "changed", "new", "same")
    lines.sort(key=lambda line: (order.index(line.state), line.line))
    return Preview(tuple(lines[:_MOST_LISTED]), counts, max(len(lines) - _MOST_LISTED, 0))


def _all(shop: Shop) -> list[Pump]:
    return [services.to_pump(row) for row in PumpRow.objects.filter(shop=shop).values(*services.COLUMNS)]


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
        for name in _NAMES
        if not _alike(getattr(before, name), getattr(after, name))
    ]
    if any(not _alike(getattr(before.curve, field.name), getattr(after.curve, field.name)) for field in fields(before.curve)):
        found.append("curve: other points")
    return tuple(found)


def _alike(one: Any, other: Any) -> bool:
    if isinstance(one, float) and isinstance(other, float):
        return abs(one - other) <= 1e-9 * max(abs(one), abs(other))
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(_alike(a, b) for a, b in zip(one, other, strict=True))
    return bool(one == other)


def _shown(value: Any) -> str:
    return "not stated" if value in (None, "") else f"{value:g}" if isinstance(value, float) else str(value)


@transaction.atomic
def take(found: Import, *, without_refused: bool, take_doubtful: bool) -> Import:
    """Put the rows of a kept file into the catalogue, remembering what was there before.

    Raises
    ------
    CannotImport
        It was taken already; or rows are refused and nobody said to leave them out.
    """
    found = Import.objects.select_for_update().get(pk=found.pk)
    if found.state != "shown":
        raise CannotImport("this import was taken already")
    rows = services.read_file(bytes(found.content))
    refused = sum(row.pump is None for row in rows)
    if refused and not without_refused:
        raise CannotImport(f"{refused} of {len(rows)} rows are refused: mend them, or say that they are left out")
    good = [row for row in rows if row.pump is not None]
    if not good:
        raise CannotImport("no row of the file can go in")
    ids = [row.pump.pump_id for row in good if row.pump]
    before = list(PumpRow.objects.filter(shop=found.shop, pump_id__in=ids).values(*services.COLUMNS, "aside"))
    aside = {row.pump.pump_id: "; ".join(row.doubts)[:500] for row in good if row.pump and row.doubts and not take_doubtful}
    found.added, found.changed = services.store(found.shop, [row.pump for row in good if row.pump], aside=aside)
    found.kept_aside, found.left_out, found.state = len(aside), refused, "taken"
    found.before, found.ids, found.revision = before, ids, found.shop.catalogue_revision
    found.save()
    return found


@transaction.atomic
def undo(found: Import) -> Import:
    """Put the catalogue back as it was before an import.

    Raises
    ------
    CannotImport
        It was never taken or is undone already; or the catalogue has changed since.
    """
    found = Import.objects.select_for_update().get(pk=found.pk)
    shop = Shop.objects.select_for_update().get(pk=found.shop_id)
    if found.state != "taken":
        raise CannotImport("this import cannot be undone: it was not taken, or is undone already")
    if shop.catalogue_revision != found.revision:
        raise CannotImport("the catalogue has changed since this import: undo the later change first, or import the old file again")
    PumpRow.objects.filter(shop=shop, pump_id__in=found.ids).delete()
    PumpRow.objects.bulk_create([PumpRow(shop=shop, **row) for row in found.before], batch_size=2000)
    Shop.objects.filter(pk=shop.pk).update(catalogue_revision=F("catalogue_revision") + 1)
    found.state = "undone"
    found.save()
    return found


def accept(shop: Shop, pump_ids: Sequence[str]) -> int:
    """Choose from pumps that were kept aside from now on; returns how many there were."""
    count = PumpRow.objects.filter(shop=shop, pump_id__in=pump_ids).exclude(aside="").update(aside="")
    if count:
        Shop.objects.filter(pk=shop.pk).update(catalogue_revision=F("catalogue_revision") + 1)
    return count
