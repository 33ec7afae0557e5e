"""Changing a shop's catalogue."""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, replace

from django.db import transaction

from kyrtos.catalogue import prices, publishing
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import CURVE, PLAIN, to_pump
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_file import (
    CatalogueFileError,
    FileRow,
    Progress,
    completed,
    read_csv,
    read_xlsx,
)
from sizing.pump.identity import told_apart

LARGEST_FILE_BYTES = 64 * 1024 * 1024
COLUMNS = (*PLAIN, *CURVE)


@dataclass(frozen=True)
class ImportReport:
    """What an import did: nothing at all when any row had a problem."""

    rows: tuple[FileRow, ...]
    added: int
    changed: int

    @property
    def done(self) -> bool:
        return bool(self.rows) and not self.problems

    @property
    def problems(self) -> tuple[FileRow, ...]:
        return tuple(row for row in self.rows if row.problems)


@dataclass(frozen=True)
class Stored:
    """How many pumps were added and replaced, and the ids that they have now."""

    added: int
    changed: int
    pump_ids: tuple[str, ...]


def _to_row(shop: Shop, pump: Pump, aside: str) -> CatalogueEntry:
    curve = {
        name: None if getattr(pump.curve, name) is None else list(getattr(pump.curve, name))
        for name in CURVE
    }
    return CatalogueEntry(
        shop=shop,
        identity=pump.identity,
        aside=aside,
        **{name: getattr(pump, name) for name in PLAIN},
        **curve,
    )


def read_file(content: bytes, progress: Progress | None = None) -> list[FileRow]:
    """The rows of a CSV file or of an XLSX workbook, told apart by what they hold.

    ``progress`` is told how many are read.

    Raises
    ------
    CatalogueFileError
        When it cannot be read as a catalogue at all.
    """
    if len(content) > LARGEST_FILE_BYTES:
        raise CatalogueFileError(
            f"the file is larger than {LARGEST_FILE_BYTES // 1024 // 1024} MB; split it"
        )
    if content[:2] == b"PK":
        rows = read_xlsx(content, progress)
    else:
        try:
            rows = read_csv(content.decode("utf-8"), progress)
        except UnicodeDecodeError:
            raise CatalogueFileError(
                "the file is neither a workbook nor text in UTF-8; save it as XLSX or as 'CSV"
                " UTF-8'"
            ) from None
    if not rows:
        raise CatalogueFileError("the file has a header and no pump below it")
    return rows


def import_file(shop: Shop, content: bytes) -> ImportReport:
    """Put the pumps of a CSV file into the catalogue.

    All of them, or none when any row has a problem.

    Pumps that are there already (same maker, model and variant) are replaced, but for what the file
    says nothing about.

    Raises
    ------
    CatalogueFileError
        When the file cannot be read as a catalogue at all.
    """
    rows = tuple(completed_rows(shop, read_file(content)))
    if any(row.problems for row in rows):
        return ImportReport(rows, 0, 0)
    stored = store(shop, (row.pump for row in rows if row.pump), source="a file")
    return ImportReport(rows, stored.added, stored.changed)


@transaction.atomic
def store(
    shop: Shop,
    pumps: Iterable[Pump],
    aside: Mapping[str, str] | None = None,
    source: str = "typed in",
) -> Stored:
    """Add or replace pumps, told apart by their identity.

    ``aside`` says by id why some are not chosen from yet; ``source`` goes into the history of the
    prices that change. An archived pump stays archived.
    """
    made = [_to_row(shop, pump, (aside or {}).get(pump.pump_id, "")) for pump in pumps]
    before = {
        identity: (pump_id, price)
        for identity, pump_id, price in CatalogueEntry.objects.filter(shop=shop).values_list(
            "identity", "pump_id", "price"
        )
    }
    new = len({row.identity for row in made} - set(before))
    quota.check("pumps", len(before), new)
    taken, changed = {pump_id for pump_id, _ in before.values()}, 0
    for row in made:
        changed += row.identity in before
        row.pump_id = before[row.identity][0] if row.identity in before else _own_id(row, taken)
        taken.add(row.pump_id)
    CatalogueEntry.objects.bulk_create(
        made,
        batch_size=2000,
        update_conflicts=True,
        unique_fields=["shop", "identity"],
        update_fields=[name for name in (*COLUMNS, "aside") if name != "pump_id"],
    )
    prices.note(
        shop,
        dict(before.values()),
        {row.pump_id: row.price for row in made},
        source,
    )
    publishing.changed(shop)
    return Stored(len(made) - changed, changed, tuple(row.pump_id for row in made))


def _own_id(row: CatalogueEntry, taken: Container[str]) -> str:
    """An id that no other pump of the shop has; what was put in first keeps the plain one."""
    return told_apart(row.pump_id, row.identity) if row.pump_id in taken else row.pump_id


def completed_rows(
    shop: Shop, rows: Iterable[FileRow], *, blank_missing: bool = False
) -> list[FileRow]:
    """Rows with the ids that the shop's pumps have, and with what the file says nothing about as it
    was (or blank, by choice); those of a merged pump under the name of the one that stands for it.
    """
    rows = _under_one_name(shop, list(rows))
    known = known_pumps(shop, [row.pump.identity for row in rows if row.pump])
    return [
        _completed(row, row.pump and known.get(row.pump.identity), blank_missing) for row in rows
    ]


def _under_one_name(shop: Shop, rows: list[FileRow]) -> list[FileRow]:
    """Rows of merged pumps as rows of the one that stands for them, unless that has one itself."""
    merged = dict(
        CatalogueEntry.objects.filter(shop=shop)
        .exclude(merged_into="")
        .values_list("identity", "merged_into")
    )
    if not merged:
        return rows
    standing = known_by_id(shop, set(merged.values()))
    named = {row.pump.identity for row in rows if row.pump}
    found = []
    for row in rows:
        other = standing.get(merged.get(row.pump.identity, "")) if row.pump else None
        if other is None or row.pump is None:
            found.append(row)
        elif other.identity not in named:
            named.add(other.identity)
            names = {name: getattr(other, name) for name in ("maker", "model", "variant")}
            found.append(replace(row, pump=replace(row.pump, **names)))
    return found


def _completed(row: FileRow, before: Pump | None, blank_missing: bool) -> FileRow:
    if row.pump is None or before is None:
        return row
    return (
        replace(row, pump=replace(row.pump, pump_id=before.pump_id))
        if blank_missing
        else completed(row, before)
    )


def known_by_id(shop: Shop, pump_ids: Iterable[str]) -> dict[str, Pump]:
    """Pumps of the shop by id."""
    rows = CatalogueEntry.objects.filter(shop=shop, pump_id__in=list(pump_ids)).values(*COLUMNS)
    return {row["pump_id"]: to_pump(row) for row in rows.iterator(chunk_size=5000)}


def known_pumps(shop: Shop, identities: Iterable[str]) -> dict[str, Pump]:
    """Pumps of the shop by identity."""
    rows = CatalogueEntry.objects.filter(shop=shop, identity__in=list(identities)).values(
        "identity", *COLUMNS
    )
    return {row["identity"]: to_pump(row) for row in rows.iterator(chunk_size=5000)}
