"""Changing a shop's catalogue."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from django.db import transaction

from kyrtos.catalogue import publishing
from kyrtos.catalogue.models import Pump as PumpRow
from kyrtos.catalogue.publishing import CURVE, PLAIN
from kyrtos.shop.models import Shop
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_file import CatalogueFileError, Progress, Row, read_csv, read_xlsx

LARGEST_FILE_BYTES = 64 * 1024 * 1024
COLUMNS = (*PLAIN, *CURVE)


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


def _to_row(shop: Shop, pump: Pump) -> PumpRow:
    curve = {name: None if getattr(pump.curve, name) is None else list(getattr(pump.curve, name)) for name in CURVE}
    return PumpRow(shop=shop, **{name: getattr(pump, name) for name in PLAIN}, **curve)


def read_file(content: bytes, progress: Progress | None = None) -> list[Row]:
    """The rows of a CSV file or of an XLSX workbook, told apart by what they hold; ``progress`` is told how many are read.

    Raises
    ------
    CatalogueFileError
        When it cannot be read as a catalogue at all.
    """
    if len(content) > LARGEST_FILE_BYTES:
        raise CatalogueFileError(f"the file is larger than {LARGEST_FILE_BYTES // 1024 // 1024} MB; split it")
    if content[:2] == b"PK":
        rows = read_xlsx(content, progress)
    else:
        try:
            rows = read_csv(content.decode("utf-8"), progress)
        except UnicodeDecodeError:
            raise CatalogueFileError("the file is neither a workbook nor text in UTF-8; save it as XLSX or as 'CSV UTF-8'") from None
    if not rows:
        raise CatalogueFileError("the file has a header and no pump below it")
    return rows


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
    publishing.changed(shop)
    return len(made) - changed, changed
