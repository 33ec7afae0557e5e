"""Customers as a CSV table and as vCards, out and in."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import vobject
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from kyrtos.customers import records
from kyrtos.customers.models import LONGEST_NAME, Customer, Site, folded
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.base.spreadsheet import harmless
from sizing.pump.foreign_file import read_sheet

_MOST_ROWS = 20_000
_MOST_CARDS, _LONGEST_CARD, _MOST_CARD_LINES = 5000, 100_000, 300
# heading: the words by which a table from elsewhere calls it
_HEADINGS = {
    "name": ("name", "customer", "company", "client", "firm"),
    "people": ("people", "contact", "contact person", "contact name"),
    "address": ("address", "billing address", "street"),
    "mail": ("mail", "email", "e-mail", "email address"),
    "phone": ("phone", "telephone", "tel", "mobile"),
    "notes": ("notes", "note", "remarks", "comment"),
    "units": ("units",),
    "site": ("site", "site name", "job site", "property"),
    "site_address": ("site address", "property address"),
    "plus_code": ("plus code",),
}
_OUT = tuple(_HEADINGS)
_LONGEST = {"name": LONGEST_NAME, "site": LONGEST_NAME, "phone": 60, "mail": 254, "plus_code": 40}
_OF_A_SITE = ("site", "site_address", "plus_code")


class CannotRead(SizingError):
    """A list that cannot be read at all."""


@dataclass(frozen=True)
class Taken:
    """What came of a list: new customers, those that gained something, rows that were left."""

    new: int
    filled: int
    left: tuple[str, ...]


def as_csv(customers: Iterable[Customer]) -> str:
    """A row a site, and one for a customer without any."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow([one.replace("_", " ") for one in _OUT])
    for customer in customers:
        own = [getattr(customer, name) for name in _OUT if name not in _OF_A_SITE]
        for site in list(customer.sites.all()) or [Site()]:
            cells = [*own, site.name, site.address, site.plus_code]
            writer.writerow([harmless(cell) for cell in cells])
    return stream.getvalue()


def as_vcards(customers: Iterable[Customer]) -> str:
    """A card each, in version 3."""
    return "".join(_card(customer).serialize() for customer in customers)


def _card(customer: Customer) -> vobject.base.Component:
    card = vobject.vCard()
    card.add("fn").value = customer.name
    card.add("n").value = vobject.vcard.Name(family=customer.name)
    for name, value in (("tel", customer.phone), ("email", customer.mail)):
        if value:
            card.add(name).value = value
    if customer.address:
        lines = [line.strip() for line in customer.address.splitlines()]
        card.add("adr").value = vobject.vcard.Address(street=", ".join(lines))
    note = "\n".join(filter(None, (customer.people, customer.notes)))
    if note:
        card.add("note").value = note
    return card


def read(content: bytes) -> list[dict[str, str]]:
    """Rows by our own headings, from a table (CSV, XLSX) or vCards.

    Raises
    ------
    CannotRead
        It is neither, or holds no name.
    """
    if content[:1000].lstrip()[:11].upper() == b"BEGIN:VCARD":
        text = content.decode("utf-8", errors="replace").replace("\0", "\ufffd")
        return list(_of_cards(text))
    return list(_of_table(content))


def _judge_cards(text: str) -> None:
    """Raise for what would take the reader of cards long, looked at before it reads.

    Raises
    ------
    CannotRead
    """
    cards = re.split(r"(?im)^BEGIN:VCARD", text, maxsplit=_MOST_CARDS + 1)[1:]
    if len(cards) > _MOST_CARDS:
        raise CannotRead(f"this list has more than {_MOST_CARDS:,} cards: send it in parts")
    for number, card in enumerate(cards, 1):
        if len(card) > _LONGEST_CARD or card.count("\n") > _MOST_CARD_LINES:
            raise CannotRead(
                f"card {number} has more than {_MOST_CARD_LINES} lines or {_LONGEST_CARD // 1000}"
                " kB: leave out its picture, or take it out of the list"
            )


def _of_cards(text: str) -> Iterator[dict[str, str]]:
    _judge_cards(text)
    try:
        for card in vobject.readComponents(text, ignoreUnreadable=True):
            yield _of_card(card)
    except (vobject.base.ParseError, ValueError, AttributeError) as problem:
        raise CannotRead(f"these vCards cannot be read: {problem}") from None


def _of_card(card: vobject.base.Component) -> dict[str, str]:
    def first(name: str) -> str:
        held = card.contents.get(name)
        value = held[0].value if held else ""
        return ", ".join(map(str, value)) if isinstance(value, list) else str(value)

    company, person = first("org"), first("fn")
    address = ", ".join(line.strip() for line in first("adr").splitlines() if line.strip(" ,"))
    return {
        "name": company or person,
        "people": person if company and person != company else "",
        "address": address,
        "mail": first("email"),
        "phone": first("tel"),
        "notes": first("note"),
    }


def _of_table(content: bytes) -> Iterator[dict[str, str]]:
    try:
        sheet = read_sheet(content, _MOST_ROWS)
    except SizingError as problem:
        raise CannotRead(str(problem)) from None
    heads = [folded(cell) for cell in sheet.header]
    at = {
        ours: heads.index(word)
        for ours, words in _HEADINGS.items()
        for word in reversed(words)
        if word in heads
    }
    if "name" not in at:
        raise CannotRead(
            "this table has no column called name, customer or company: its first line must hold"
            " the headings"
        )
    for _, cells in sheet.rows:
        yield {
            ours: cells[column].strip() if column < len(cells) else ""
            for ours, column in at.items()
        }


@transaction.atomic
def take_in(shop: Shop, rows: list[dict[str, str]]) -> Taken:
    """Make customers and sites of a list; what is there already is filled up, never written over.

    Raises
    ------
    NoMoreRoom
        The shop keeps as many as it may.
    """
    quota.check("customers", shop.customers.count(), len(rows))
    new, filled, left = set(), set(), []
    for number, row in enumerate(rows, 2):
        problem = _problem(row)
        if problem:
            left.append(f"row {number}: {problem}")
            continue
        known = records.customer_named(shop, row["name"])
        customer = known or Customer(shop=shop, name=" ".join(row["name"].split()))
        changed = _fill(customer, row, ("people", "address", "mail", "phone", "notes"))
        if not customer.units and row.get("units") in ("metric", "us", "uk"):
            customer.units, changed = row["units"], True
        customer.save()
        changed |= _take_site(shop, customer, row)
        if known is None:
            new.add(customer.pk)
        elif changed and customer.pk not in new:
            filled.add(customer.pk)
    return Taken(len(new), len(filled), tuple(left))


def _problem(row: dict[str, str]) -> str:
    if not folded(row["name"]):
        return "no name"
    for name, value in row.items():
        if len(value) > _LONGEST.get(name, 1000):
            return f"its {name.replace('_', ' ')} is too long"
    if row.get("mail"):
        try:
            validate_email(row["mail"])
        except ValidationError:
            return f"'{row['mail'][:60]}' is no mail address"
    return ""


def _fill(record: Customer | Site, row: dict[str, str], names: Iterable[str]) -> bool:
    changed = False
    for name in names:
        if row.get(name) and not getattr(record, name):
            setattr(record, name, row[name])
            changed = True
    return changed


def _take_site(shop: Shop, customer: Customer, row: dict[str, str]) -> bool:
    name = row.get("site", "")
    if not folded(name):
        return False
    known = records.site_named(shop, customer, name)
    site = known or Site(shop=shop, customer=customer, name=" ".join(name.split()))
    told = {"address": row.get("site_address", ""), "plus_code": row.get("plus_code", "")}
    changed = _fill(site, told, told)
    site.save()
    return changed or known is None
