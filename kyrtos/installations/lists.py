"""Installed pumps as a table, out and in: CSV and XLSX."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from datetime import date, datetime

from django.db import models, transaction
from django.db.models import Q
from openpyxl import Workbook

from kyrtos.customers import records
from kyrtos.customers.models import folded
from kyrtos.installations import days, pump_records
from kyrtos.installations.forms import MOST_HOURS_A_YEAR, MOST_MONEY
from kyrtos.installations.models import InstalledPump
from kyrtos.shops.brought_in import Taken
from kyrtos.shops.models import Shop
from sizing.base import numbers
from sizing.base.errors import SizingError
from sizing.base.reader import current
from sizing.base.spreadsheet import harmless
from sizing.kinds import kinds
from sizing.pump.catalogue_columns import families
from sizing.pump.foreign_file import read_sheet

HEADINGS = (
    "customer",
    "site",
    "place",
    "maker",
    "model",
    "family",
    "serial",
    "installed",
    "installer",
    "kind",
    "warranty_until",
    "price",
    "hours_per_year",
    "settings",
    "parts",
    "state",
    "ended",
    "cause",
    "known_since",
)
_DAYS = {"installed", "warranty_until", "ended", "known_since"}
_MOST = {"price": MOST_MONEY, "hours_per_year": MOST_HOURS_A_YEAR}
_WAYS = ("%Y-%m-%d", "%Y-%m-%d %H:%M:%S", "%d.%m.%Y", "%d %b %Y")
_MOST_ROWS = 5000
_LONGEST = {
    "customer": 200,
    "site": 200,
    "serial": 80,
    "place": 120,
    "maker": 80,
    "model": 120,
    "installer": 120,
    "cause": 80,
}


class CannotRead(SizingError):
    """A table that cannot be read at all."""


def cells_of(pump: InstalledPump) -> list[str]:
    """A pump as a row."""
    held = {
        "customer": str(pump.site.customer or ""),
        "site": pump.site.name,
    }
    cells = []
    for name in HEADINGS:
        value = held[name] if name in held else getattr(pump, name)
        text = numbers.exactly(value, current().style) if isinstance(value, float) else value
        cells.append("" if text is None else harmless(str(text)))
    return cells


def as_csv(pumps: Iterable[InstalledPump]) -> str:
    """All as CSV."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(HEADINGS)
    writer.writerows(cells_of(one) for one in pumps)
    return stream.getvalue()


def as_xlsx(pumps: Iterable[InstalledPump]) -> bytes:
    """All as a workbook."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet("installed pumps")
    sheet.append(list(HEADINGS))
    for one in pumps:
        sheet.append(cells_of(one))
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def read(content: bytes) -> list[tuple[int, dict[str, str]]]:
    """Rows with their lines, by our headings.

    Raises
    ------
    CannotRead
        No table, or one without site and model.
    """
    try:
        sheet = read_sheet(content)
    except SizingError as problem:
        raise CannotRead(str(problem)) from None
    heads = [folded(cell).replace(" ", "_") for cell in sheet.header]
    missing = [name for name in ("site", "model") if name not in heads]
    if missing:
        raise CannotRead(
            f"the table has no column called {missing[0]}; its first line must hold it"
        )
    return [
        (line, {head: cells[at].strip() for at, head in enumerate(heads) if at < len(cells)})
        for line, cells in sheet.rows
    ]


@transaction.atomic
def take_in(shop: Shop, content: bytes, doubtful: bool = False) -> Taken:
    """Put pumps in that are not there; one of the same site and serial number is there already.

    Raises
    ------
    CannotRead
        No table, or one without site and model, or too long a one.
    NoMoreRoom
        The shop keeps as many as it may.
    """
    rows, taken = read(content), Taken()
    if len(rows) > _MOST_ROWS:
        raise CannotRead(f"this list has more than {_MOST_ROWS:,} rows: send it in parts")
    for line, row in rows:
        try:
            with transaction.atomic():  # a row that is left makes no site either
                draft, made = _draft(shop, row)
                same = shop.installed.filter(site=draft.site, model=draft.model)
                if same.filter(serial=draft.serial, installed=draft.installed).exists():
                    taken.known += 1
                    continue
                alike = same.filter(_perhaps(draft)).first()
                if alike is not None and not doubtful:
                    taken.doubtful.append(
                        f"line {line}: {draft.name} may be the one that stands at {draft.site}"
                        f" already ({alike.serial or 'no serial number'}, since"
                        f" {alike.installed or 'a day unknown'})"
                    )
                    continue
                pump = pump_records.put_in(draft)
        except SizingError as problem:
            taken.left.append(f"line {line}: {problem}")
            continue
        taken.new += 1
        taken.made += [*made, pump, *pump.events.all(), *pump.reminders.all()]
    return taken


def _perhaps(draft: InstalledPump) -> Q:
    """Pumps of a site and model that may be this one: the serial number or the day is alike."""
    same = Q(serial=draft.serial) | Q(serial="")
    return same if draft.serial else Q()


def _draft(shop: Shop, row: dict[str, str]) -> tuple[InstalledPump, list[models.Model]]:
    """A pump of a row, and the customer and site that were made for it."""
    for name, most in _LONGEST.items():
        if len(row.get(name, "")) > most:
            raise SizingError(f"its {name} is longer than {most} letters")
    if not folded(row.get("site", "")) or not row.get("model"):
        raise SizingError("site and model are needed")
    draft = InstalledPump(shop=shop)
    for name in HEADINGS[2:]:
        text = row.get(name, "")
        if text and name in _DAYS:
            ahead = days.PLANNED if name == "warranty_until" else days.TOMORROW
            setattr(draft, name, days.sensible(_day(text, name), ahead=ahead))
        elif text and name in _MOST:
            setattr(draft, name, _figure(text, name))
        elif text:
            setattr(draft, name, text)
    if draft.state not in InstalledPump.State.values:
        raise SizingError(
            f"state '{draft.state}' is none of {', '.join(InstalledPump.State.values)}"
        )
    if draft.family and draft.family not in families():
        raise SizingError(f"family '{draft.family}' is none of ours")
    if draft.kind and draft.kind not in kinds():
        raise SizingError(f"kind of job '{draft.kind}' is none of ours")
    if draft.state != InstalledPump.State.RUNNING and not draft.ended:
        raise SizingError(f"it is {draft.get_state_display()}: since when? 'ended' is needed")
    if draft.ended and draft.installed and draft.ended < draft.installed:
        raise SizingError("it ended before it went in")
    if draft.known_since and draft.ended and draft.ended < draft.known_since:
        raise SizingError("it ended before its record began: leave known_since empty")
    customer, site = (row.get(name, "") for name in ("customer", "site"))
    who = records.customer_named(shop, customer)
    where = records.site_named(shop, who, site)
    found = records.linked(shop, customer, site)
    assert found.site is not None  # a site has a name here
    draft.site = found.site
    made = [one for was, one in ((who, found.customer), (where, found.site)) if was is None and one]
    return draft, list[models.Model](made)


def _day(text: str, name: str) -> date:
    for way in _WAYS:
        try:
            return datetime.strptime(text, way).date()
        except ValueError:
            continue
    raise SizingError(f"{name.replace('_', ' ')} '{text[:30]}' is no day: write 2026-11-27")


def _figure(text: str, name: str) -> float:
    """As the sheet reads it: by the decimal mark of who brings it in; a doubtful one is asked."""
    try:
        return numbers.sure_number(text, 0.0, _MOST[name], current().style)
    except SizingError as problem:
        raise SizingError(f"{name.replace('_', ' ')}: {problem}") from None
