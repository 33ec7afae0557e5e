"""Reading and changing a shop's catalogue."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, fields
from functools import lru_cache
from typing import Any

from django.db import transaction
from django.db.models import F

from kyrtos.catalogue.models import Pump as PumpRow
from kyrtos.shop.models import Shop
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_file import CatalogueFileError, Row, read_csv, read_xlsx
from sizing.pump.curve import PumpCurve

_PLAIN = tuple(field.name for field in fields(Pump) if field.name not in ("curve", "together"))
_CURVE = tuple(field.name for field in fields(PumpCurve))
LARGEST_FILE_BYTES = 4 * 1024 * 1024


@dataclass(frozen=True)
class ImportReport:
    """What an import did: nothing at all when any row had a problem."""

    rows: tuple[Row, ...]
    added: int
    changed: int

    @property
    def done(self) -> bool:
        return bool(self.rows) and not self.problems

    @property
    def problems(self) -> tuple[Row, ...]:
        return tuple(row for row in self.rows if row.problems)


def to_pump(row: Mapping[str, Any]) -> Pump:
    """A pump of the core from a row of the database (``values()``)."""
    curve = PumpCurve(*(None if row[name] is None else tuple(row[name]) for name in _CURVE))  # type: ignore[arg-type]
    return Pump(curve=curve, **{name: row[name] for name in _PLAIN})


def _to_row(shop: Shop, pump: Pump) -> PumpRow:
    curve = {name: None if getattr(pump.curve, name) is None else list(getattr(pump.curve, name)) for name in _CURVE}
    return PumpRow(shop=shop, **{name: getattr(pump, name) for name in _PLAIN}, **curve)


COLUMNS = (*_PLAIN, *_CURVE)


def read_file(content: bytes) -> list[Row]:
    """The rows of a CSV file or of an XLSX workbook, told apart by what they hold.

    Raises
    ------
    CatalogueFileError
        When it cannot be read as a catalogue at all.
    """
    if len(content) > LARGEST_FILE_BYTES:
        raise CatalogueFileError(f"the file is larger than {LARGEST_FILE_BYTES // 1024 // 1024} MB; split it")
    if content[:2] == b"PK":
        rows = read_xlsx(content)
    else:
        try:
            rows = read_csv(content.decode("utf-8"))
        except UnicodeDecodeError:
            raise CatalogueFileError("the file is neither a workbook nor text in UTF-8; save it as XLSX or as 'CSV UTF-8'") from None
    if not rows:
        raise CatalogueFileError("the file has a header and no pump below it")
    return rows


def catalogue_of(shop: Shop) -> Catalogue:
    """The shop's catalogue as the core wants it, kept in memory until its revision number changes."""
    return _load(shop.pk, shop.catalogue_revision)


@lru_cache(maxsize=8)
def _load(shop_id: int, revision: int) -> Catalogue:
    rows = PumpRow.objects.filter(shop_id=shop_id, aside="").order_by("pump_id").values(*_PLAIN, *_CURVE)
    return Catalogue([to_pump(row) for row in rows.iterator(chunk_size=5000)])


def import_file(shop: Shop, content: bytes) -> ImportReport:
    """Put the pumps of a CSV file into the catalogue: all of them, or none when any row has a problem.

    Pumps that are there already (same maker and model) are replaced.

    Raises
    ------
    CatalogueFileError
        When the file cannot be read as a catalogue at all.
    """
    rows = tuple(read_file(content))
    if any(row.problems for row in rows):
        return ImportReport(rows, 0, 0)
    added, changed = store(shop, (row.pump for row in rows if row.pump))
    return ImportReport(rows, added, changed)


@transaction.atomic
def store(shop: Shop, pumps: Iterable[Pump], aside: Mapping[str, str] | None = None) -> tuple[int, int]:
    """Add or replace pumps; returns how many were added and how many replaced. ``aside`` says why some are not chosen from yet."""
    made = [_to_row(shop, pump) for pump in pumps]
    for row in made:
        row.aside = (aside or {}).get(row.pump_id, "")
    known = set(PumpRow.objects.filter(shop=shop).values_list("pump_id", flat=True))
    changed = sum(row.pump_id in known for row in made)
    PumpRow.objects.bulk_create(
        made, batch_size=2000, update_conflicts=True, unique_fields=["shop", "pump_id"],
        update_fields=[name for name in (*COLUMNS, "aside") if name != "pump_id"],
    )  # fmt: skip
    Shop.objects.filter(pk=shop.pk).update(catalogue_revision=F("catalogue_revision") + 1)
    shop.refresh_from_db(fields=["catalogue_revision"])
    return len(made) - changed, changed
