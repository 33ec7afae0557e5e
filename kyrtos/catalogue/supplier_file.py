"""A supplier's file with headings of its own: matched to our columns by hand once, then known."""

from __future__ import annotations

import csv
import hashlib
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from kyrtos.catalogue import services
from kyrtos.catalogue.models import Import, SupplierColumns
from kyrtos.shops.models import Shop
from sizing.base import quantity
from sizing.base.errors import SizingError
from sizing.pump.catalogue_file import (
    CatalogueFileError,
    FileRow,
    Progress,
    is_ours,
    read_rows,
    sure_price,
)
from sizing.pump.foreign_file import Sheet, Understood, in_our_columns, read_sheet, understand
from sizing.pump.identity import identity

FIXABLE = ("maker", "family", "flow_unit", "head_unit")  # what may be one for every row
_PRICED = ("price", "stock", "lead_days")


@dataclass(frozen=True)
class Chosen:
    """What a person said of a file's headings: a column by heading, and what holds for all rows."""

    by_hand: dict[str, str] = field(default_factory=dict)
    fixed: dict[str, str] = field(default_factory=dict)


class ColumnsWanted(CatalogueFileError):
    """Headings that somebody has to match, or columns that nothing gives."""

    def __init__(self, sheet: Sheet, understood: Understood, chosen: Chosen) -> None:
        self.sheet, self.understood, self.chosen = sheet, understood, chosen
        super().__init__("its headings are to be matched to ours first")

    def asked(self) -> dict[str, Any]:
        """What the page asks, as plain JSON."""
        return {
            "unknown": [
                {"text": text, "sample": self._sample(text)} for text in self.understood.unknown
            ],
            "missing": list(self.understood.missing),
            "known": [
                [one.text, one.column if not one.head else f"flow at {one.head}"]
                for one in self.understood.headings
                if one.column
            ],
            "told": told(self.sheet, self.understood),
            "fixed": self.chosen.fixed,
        }

    def _sample(self, text: str) -> str:
        at = self.sheet.header.index(text)
        cells = (row[at].strip() for _, row in self.sheet.rows[:20] if len(row) > at)
        return next(filter(None, cells), "")[:40]


_SIGNS = {";": "semicolons", ",": "commas", "\t": "tabs", "|": "bars", "": ""}
_SHAPES = {"wide": "one row a pump", "long": "one row a point", "prices": "a price list"}


def told(sheet: Sheet, understood: Understood) -> str:
    """How a file was read, in a few words."""
    parted = f"parted by {_SIGNS[sheet.delimiter]}" if sheet.delimiter else "a workbook"
    return f"{parted}, decimal {sheet.decimal}, {sheet.encoding}, {_SHAPES[understood.shape]}"


def signature(header: Sequence[str]) -> str:
    """What tells one supplier's headings from another's."""
    plain = "\n".join(sorted(name.strip().lower() for name in header))
    return hashlib.sha256(plain.encode()).hexdigest()[:32]


def rows_of(
    shop: Shop, content: bytes, chosen: Chosen | None = None, progress: Progress | None = None
) -> tuple[list[FileRow], str]:
    """The rows of a file, ours or a supplier's, and how it was read ('' for ours).

    Raises
    ------
    ColumnsWanted
        Some heading is not known, or a column that must be there is given by none.
    CatalogueFileError
        When it cannot be read as a table at all.
    """
    if content[:2] != b"PK" and _first_line_is_ours(content):
        return services.read_file(content, progress), ""
    sheet = read_sheet(content)
    if is_ours(sheet.header) and sheet.decimal == "point":
        return _not_empty(read_rows(sheet.header, sheet.rows, progress)), ""
    chosen = chosen or remembered(shop, sheet.header)
    found = understand(sheet, chosen.by_hand, chosen.fixed)
    if not any(one.column for one in found.headings):
        raise CatalogueFileError(
            "none of its headings names a column of a catalogue; the first row must name the"
            " columns, such as maker, model, flow, head"
        )
    lost = [name for name in found.missing if name not in FIXABLE]
    if lost and not found.unknown:  # nothing is left that could be matched to them
        raise CatalogueFileError(
            f"the first row must name the columns; missing: {', '.join(found.missing)}"
        )
    if found.unknown or found.missing:
        raise ColumnsWanted(sheet, found, chosen)
    header, rows = in_our_columns(sheet, found, chosen.fixed)
    if found.shape == "prices":
        return _not_empty(_priced(shop, header, rows)), told(sheet, found)
    return _not_empty(read_rows(header, rows, progress)), told(sheet, found)


def _first_line_is_ours(content: bytes) -> bool:
    # a line may end in a carriage return alone, as very old programs write it
    line = re.split(rb"[\r\n]", content[:20_000])[0].decode("utf-8-sig", errors="replace")
    return is_ours(next(csv.reader(io.StringIO(line)), []))


def _not_empty(rows: list[FileRow]) -> list[FileRow]:
    if not rows:
        raise CatalogueFileError("the file has a header and no pump below it")
    return rows


def remembered(shop: Shop, header: Sequence[str]) -> Chosen:
    """What was chosen for headings like these before."""
    known = SupplierColumns.objects.filter(shop=shop, signature=signature(header)).first()
    return Chosen(known.by_hand, known.fixed) if known else Chosen()


def remember(shop: Shop, found: Import, chosen: Chosen, supplier: str) -> None:
    """Keep what was chosen for the headings of a file, for the next one of that supplier."""
    header = read_sheet(bytes(found.content)).header
    SupplierColumns.objects.update_or_create(
        shop=shop,
        signature=signature(header),
        defaults={
            "supplier": supplier.strip()[:120],
            "by_hand": chosen.by_hand,
            "fixed": chosen.fixed,
        },
    )


def _priced(
    shop: Shop, header: Sequence[str], rows: Sequence[tuple[int, Sequence[str]]]
) -> list[FileRow]:
    """The rows of a price list: pumps that are there, with another price, stock or delivery."""
    named = [(line, dict(zip(header, cells, strict=True))) for line, cells in rows]
    known = services.known_pumps(shop, [_identity(cells) for _, cells in named])
    ids = [cells.get("pump_id", "").strip() for _, cells in named]
    by_id = services.known_by_id(shop, filter(None, ids))
    return [_priced_row(line, cells, known, by_id) for line, cells in named]


def _identity(cells: dict[str, str]) -> str:
    return identity(*(cells.get(name, "").strip() for name in ("maker", "model", "variant")))


def _priced_row(
    line: int, cells: dict[str, str], known: dict[str, Any], by_id: dict[str, Any]
) -> FileRow:
    key = cells.get("pump_id", "").strip()
    name = " ".join(filter(None, (cells.get(one, "").strip() for one in ("maker", "model"))))
    pump = by_id.get(key) or known.get(_identity(cells))
    if pump is None:
        return FileRow(line, name or key, None, ("no such pump is in the catalogue",))
    changed: dict[str, float] = {}
    for column in _PRICED:
        text = cells.get(column, "").strip()
        if not text:
            continue
        try:
            plain = sure_price(text) if column == "price" else text
            changed[column] = quantity.read(f"{plain} x", "ratio").si
        except SizingError as problem:
            return FileRow(line, pump.name, None, (f"{column}: {problem}",))
        if changed[column] < 0:
            return FileRow(line, pump.name, None, (f"{column}: it cannot be negative",))
    return FileRow(line, pump.name, replace(pump, **changed), held=frozenset(changed))
