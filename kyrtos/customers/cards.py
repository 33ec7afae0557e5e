"""Customers as a CSV table and as vCards, out and in."""

from __future__ import annotations

import copy
import csv
import io
import json
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, TypeVar

import vobject
from django.core.exceptions import ValidationError
from django.db.models import Q

from kyrtos.customers.models import Customer, Site, folded
from kyrtos.shops import quota
from kyrtos.shops.brought_in import Taken
from kyrtos.shops.merges import state_of
from kyrtos.shops.models import Shop
from kyrtos.shops.one_line import lines_of
from sizing.base import numbers
from sizing.base.errors import SizingError
from sizing.base.plain_text import one_line
from sizing.base.reader import current
from sizing.base.spreadsheet import harmless
from sizing.pump.foreign_file import read_sheet

Record = TypeVar("Record", Customer, Site)

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
# a site's columns: heading out, and the field that it fills
_SITE = {
    "site": "name",
    "site_address": "address",
    "site_people": "people",
    "site_phone": "phone",
    "site_mail": "mail",
    "plus_code": "plus_code",
    "latitude": "latitude",
    "longitude": "longitude",
    "altitude_m": "altitude_m",
    "frost_depth_m": "frost_depth_m",
    "voltage_v": "voltage_v",
    "phases": "phases",
    "frequency_hz": "frequency_hz",
    "water": "water",
    "site_notes": "notes",
}
_SITE_FIGURES = (
    "latitude",
    "longitude",
    "altitude_m",
    "frost_depth_m",
    "voltage_v",
    "phases",
    "frequency_hz",
)
_CUSTOMER = ("name", "people", "address", "mail", "phone", "notes", "units")
_LINES = ("people", "address", "mail", "phone")
_HEADINGS |= {name: (name.replace("_", " "),) for name in _SITE if name not in _HEADINGS}
_OUT = (*_CUSTOMER, *_SITE)
# what a vCard has no property for
_PERSON, _UNITS, _PLACE = "x-person", "x-units", "x-site"


class CannotRead(SizingError):
    """A list that cannot be read at all."""


def _of_site(site: Site) -> dict[str, str]:
    """A site's cells, by heading."""
    held = {}
    for heading, name in _SITE.items():
        value = getattr(site, name)
        if isinstance(value, float):
            value = numbers.exactly(value, current().style)
        held[heading] = "" if value is None else str(value)
    return held


def as_csv(customers: Iterable[Customer]) -> str:
    """A row a site, one for a customer without any; several phones are lines of one cell."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow([one.replace("_", " ") for one in _OUT])
    for customer in customers:
        own = [getattr(customer, name) for name in _CUSTOMER]
        for site in list(customer.sites.all()) or [Site()]:
            writer.writerow([harmless(cell) for cell in (*own, *_of_site(site).values())])
    return stream.getvalue()


def as_vcards(customers: Iterable[Customer]) -> str:
    """A card each, in version 3."""
    return "".join(_card(customer).serialize() for customer in customers)


def _card(customer: Customer) -> vobject.base.Component:
    card = vobject.vCard()
    card.add("fn").value = customer.name
    card.add("n").value = vobject.vcard.Name(family=customer.name)
    for name, text in (("tel", customer.phone), ("email", customer.mail)):
        for line in lines_of(text):
            card.add(name).value = line
    for line in lines_of(customer.address):
        card.add("adr").value = vobject.vcard.Address(street=line)
    for line in lines_of(customer.people):
        card.add(_PERSON).value = line
    if customer.notes:
        card.add("note").value = customer.notes
    if customer.units:
        card.add(_UNITS).value = customer.units
    for site in customer.sites.all():
        told = {name: text for name, text in _of_site(site).items() if text}
        card.add(_PLACE).value = json.dumps(told, ensure_ascii=False)
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
            yield from _of_card(card)
    except (vobject.base.ParseError, ValueError, AttributeError) as problem:
        raise CannotRead(f"these vCards cannot be read: {problem}") from None


def _of_card(card: vobject.base.Component) -> Iterator[dict[str, str]]:
    """A row a site of it, and one for a card without any."""

    def texts(name: str) -> list[str]:
        held = [one.value for one in card.contents.get(name, [])]
        return [", ".join(map(str, one)) if isinstance(one, list) else str(one) for one in held]

    def first(name: str) -> str:
        return next(iter(texts(name)), "")

    company, person = first("org"), first("fn")
    addresses = [
        ", ".join(line.strip() for line in one.splitlines() if line.strip(" ,"))
        for one in texts("adr")
    ]
    people = [person] if company and person != company else []
    row = {
        "name": company or person,
        "people": "\n".join([*people, *texts(_PERSON)]),
        "address": "\n".join(addresses),
        "mail": "\n".join(texts("email")),
        "phone": "\n".join(texts("tel")),
        "notes": first("note"),
        "units": first(_UNITS),
    }
    for place in texts(_PLACE) or ["{}"]:
        yield row | _of_place(place)


def _of_place(text: str) -> dict[str, str]:
    """A site as our own cards write it; nothing where it is not one of ours."""
    try:
        told = json.loads(text)
    except (ValueError, RecursionError):
        return {}
    if not isinstance(told, dict):
        return {}
    return {name: value for name, value in told.items() if name in _SITE and isinstance(value, str)}


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


def take_in(shop: Shop, content: bytes, doubtful: bool = False) -> Taken:
    """Make customers and sites of a list; what is there gets what it lacks, never written over.

    Raises
    ------
    CannotRead
        It is no table and no cards.
    NoMoreRoom
        The shop keeps as many as it may.
    """
    rows = read(content)
    quota.check("customers", shop.customers.count(), len(rows))
    quota.check("sites", shop.sites.count(), sum(1 for row in rows if row.get("site")))
    known, taken = _Known(shop, rows), Taken()
    for number, row in enumerate(rows, 2):
        try:
            known.take(row, taken, f"row {number}", doubtful=doubtful)
        except ValidationError as problem:
            taken.left.append(f"row {number}: {_told(problem)}")
    known.keep(taken)
    return taken


def _told(problem: ValidationError) -> str:
    """The first thing that was wrong, with the column it is about."""
    held = getattr(problem, "error_dict", None)
    if not held:
        return "; ".join(problem.messages)
    name, errors = next(iter(held.items()))
    return f"{name.replace('_', ' ')}: {errors[0].messages[0]}"


class _Known:
    """Customers and sites that the rows of a list may mean, as they will be after it."""

    def __init__(self, shop: Shop, rows: Iterable[dict[str, str]]) -> None:
        self.shop = shop
        names = {folded(one_line(row["name"])) for row in rows}
        by_name = Q(known_as__in=names) | Q(also__has_any_keys=sorted(names))
        mine = list(shop.customers.filter(by_name).prefetch_related("sites"))  # one of each
        self.by_name: dict[str, Customer] = {}
        for one in mine:
            for name in one.also:
                self.by_name.setdefault(name, one)
        self.by_name |= {one.known_as: one for one in mine}
        self.sites: dict[tuple[str, str], Site] = {}
        for one in mine:
            for site in one.sites.all():
                for name in (*site.also, site.known_as):
                    self.sites[one.known_as, name] = site
        self.spelt = {
            _letters(name): name for name in shop.customers.values_list("known_as", flat=True)
        }
        self.before: dict[int, Any] = {}  # states of what was there, by id() of the row
        self.made: dict[int, Customer | Site] = {}
        self.touched: dict[int, Customer | Site] = {}

    def take(self, row: dict[str, str], taken: Taken, where: str, *, doubtful: bool) -> None:
        """Put a row in: both of its records, or neither.

        Raises
        ------
        ValidationError
            Something in it is refused where it is typed, too.
        """
        name = " ".join(one_line(row["name"]).split())
        if not folded(name):
            raise ValidationError("no name")
        found = self.by_name.get(folded(name))
        alike = self.spelt.get(_letters(name), "")
        if found is None and alike and not doubtful:
            taken.doubtful.append(f"{where}: {name} may be {alike}, who is there already")
            return
        customer = copy.copy(found) if found else Customer(shop=self.shop, name=name)
        customer.known_as = customer.known_as or folded(name)
        changed = _fill(customer, {one: row.get(one, "") for one in _CUSTOMER if one != "name"})
        customer.full_clean(exclude=_OF_THE_DATABASE, validate_unique=False)
        site, known_site, changed_site = None, None, False
        site_name = " ".join(one_line(row.get("site", "")).split())
        if folded(site_name):
            known_site = self.sites.get((customer.known_as, folded(site_name)))
            site = copy.copy(known_site) if known_site else Site(shop=self.shop, name=site_name)
            site.known_as = site.known_as or folded(site_name)
            changed_site = _fill(site, _site_values(row))
            site.full_clean(exclude=_OF_THE_DATABASE, validate_unique=False)
        # nothing of the row is refused: now both are as it says
        kept = self._put(found, customer, changed)
        self.by_name[folded(name)] = kept
        self.spelt.setdefault(_letters(name), name)
        if site is not None:
            put = self._put(known_site, site, changed_site)
            if known_site is None:
                put.customer = kept
            self.sites[kept.known_as, folded(site_name)] = put
        if found is None:
            taken.new += 1
        elif id(found) not in self.made:
            news = changed or changed_site or (site is not None and known_site is None)
            taken.filled += news
            taken.known += not news

    def _put(self, known: Record | None, draft: Record, changed: bool) -> Record:
        if known is None:
            self.made[id(draft)] = draft
            return draft
        if changed:
            if id(known) not in self.made:
                self.before.setdefault(id(known), state_of(known))
                self.touched[id(known)] = known
            known.__dict__.update(draft.__dict__)
        return known

    def keep(self, taken: Taken) -> None:
        """Write all of it."""
        customers = [one for one in self.made.values() if isinstance(one, Customer)]
        taken.made += Customer.objects.bulk_create(customers, batch_size=500)
        sites = [one for one in self.made.values() if isinstance(one, Site)]
        for site in sites:
            site.customer = site.customer  # it has its number by now
        taken.made += Site.objects.bulk_create(sites, batch_size=500)
        for key, row in self.touched.items():
            row.save()
            taken.changed.append((self.before[key], row))
        for new in taken.made:
            new.refresh_from_db()


_OF_THE_DATABASE = {"shop", "customer", "known_as", "also", "as_built"}


def _letters(name: str) -> str:
    """A name but for signs and the small words between: two spellings of one customer."""
    words = re.findall(r"\w+", folded(name))
    return "".join(word for word in words if word not in ("and", "the", "und"))


def _site_values(row: dict[str, str]) -> dict[str, Any]:
    """A site's fields as a row says; figures by the decimal mark of whoever brings it in.

    Raises
    ------
    ValidationError
        A figure that is none, or may be meant in two ways.
    """
    values: dict[str, Any] = {}
    for heading, name in _SITE.items():
        text = row.get(heading, "").strip()
        if not text or name == "name":
            continue
        values[name] = text
        if name in _SITE_FIGURES:
            try:
                figure = numbers.sure_number(text, -1e9, 1e9, current().style)
            except SizingError as problem:
                raise ValidationError(f"{heading.replace('_', ' ')}: {problem}") from None
            values[name] = int(figure) if name == "phases" else figure
    return values


def _fill(record: Customer | Site, told: Mapping[str, Any]) -> bool:
    """Give a record what it lacks; entries of lines are added. Whether anything is new."""
    changed = False
    for name, value in told.items():
        held = getattr(record, name)
        if value in ("", None):
            continue
        if name in _LINES:
            value = "\n".join(lines_of(f"{held}\n{value}"))
            value, is_new = value, value != "\n".join(lines_of(held))
        elif name in ("notes", "water"):
            is_new = value.strip() not in held
            value = f"{held.strip()}\n{value.strip()}".strip()
        else:
            value = one_line(value) if isinstance(value, str) else value
            is_new = held in ("", None)
        if is_new:
            setattr(record, name, value)
            changed = True
    return changed
