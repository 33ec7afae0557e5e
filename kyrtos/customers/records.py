"""Customers and sites: found by what a job says, merged when double, taken out on request."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.dispatch import Signal

from kyrtos.customers.crossing_out import Names
from kyrtos.customers.models import Customer, Gone, Site, SiteFile, folded
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from sizing.base import units
from sizing.base.errors import SizingError

Record = TypeVar("Record", Customer, Site)

# Whoever points at customers and sites listens: jobs, installed pumps.
customers_merged = Signal()  # stays, goes
sites_merged = Signal()  # stays, goes
customer_forgotten = Signal()  # customer, names: what is crossed out, instead: its name now

_CUSTOMER_TEXTS = ("people", "address", "mail", "phone", "notes", "units")
_SITE_TEXTS = ("address", "plus_code", "notes", "water")
_SITE_FIGURES = (
    "latitude",
    "longitude",
    "altitude_m",
    "frost_depth_m",
    "voltage_v",
    "phases",
    "frequency_hz",
)
_BY_LINES = {"people", "address", "notes", "water"}


class CannotMerge(SizingError):
    """Two records that are not to become one; the text says why."""


def _of_name(rows: QuerySet[Record], name: str) -> Record | None:
    """The record of a name: by its own first, then by one that it also goes by."""
    key = folded(name)
    if not key:
        return None
    return rows.filter(known_as=key).first() or rows.filter(also__contains=[key]).first()


def customer_named(shop: Shop, name: str) -> Customer | None:
    """The customer whom this name means; None where there is none yet."""
    return _of_name(shop.customers.all(), name)


def site_named(shop: Shop, customer: Customer | None, name: str) -> Site | None:
    """The site that this name means at a customer; None where there is none yet."""
    return _of_name(shop.sites.filter(customer=customer), name)


@dataclass(frozen=True)
class Linked:
    """The records that a job's two texts mean."""

    customer: Customer | None
    site: Site | None


@transaction.atomic
def linked(shop: Shop, customer: str, site: str) -> Linked:
    """The records of a job's customer and site, made where they are new.

    Raises
    ------
    NoMoreRoom
        The shop keeps as many as it may.
    """
    who = customer_named(shop, customer)
    if who is None and folded(customer):
        quota.check("customers", shop.customers.count())
        who = Customer.objects.create(shop=shop, name=" ".join(customer.split()))
    where = site_named(shop, who, site)
    if where is None and folded(site):
        quota.check("sites", shop.sites.count())
        where = Site.objects.create(shop=shop, customer=who, name=" ".join(site.split()))
    return Linked(who, where)


def is_bare(record: Customer | Site) -> bool:
    """Whether it holds no more than its name: nobody told anything of it."""
    names = _CUSTOMER_TEXTS if isinstance(record, Customer) else _SITE_TEXTS + _SITE_FIGURES
    return not any(getattr(record, name) for name in names) and not record.also


def found(shop: Shop, words: str) -> QuerySet[Customer]:
    """Customers by anything that is written of them or of their sites, with how many sites."""
    rows = shop.customers.annotate(site_count=Count("sites", distinct=True))
    for word in words.split():
        key = word.casefold()
        rows = rows.filter(
            Q(known_as__contains=key)
            | Q(people__icontains=word)
            | Q(address__icontains=word)
            | Q(mail__icontains=word)
            | Q(phone__icontains=word)
            | Q(notes__icontains=word)
            | Q(sites__known_as__contains=key)
            | Q(sites__address__icontains=word)
        )
    return rows.distinct().order_by("known_as", "pk")


def alike(customer: Customer) -> list[Customer]:
    """Customers who may be the same one: the same phone or mail, or a word of the name."""
    rows = Customer.objects.filter(shop=customer.shop_id).exclude(pk=customer.pk)
    same = Q(pk=None)
    if customer.mail:
        same |= Q(mail__iexact=customer.mail)
    if customer.phone:
        same |= Q(phone=customer.phone)
    for word in customer.known_as.split():
        if len(word) > 3:
            same |= Q(known_as__contains=word)
    return list(rows.filter(same)[:20])


def _fill_from(stays: Record, goes: Record, names: tuple[str, ...]) -> None:
    """What the one that stays lacks comes from the other; nothing that it had is lost.

    Lines are put together. A second phone, mail or figure becomes a line of the notes.

    Raises
    ------
    CannotMerge
        Together a text is longer than it may be.
    """
    besides: list[str] = []
    for name in names:
        here, there = getattr(stays, name), getattr(goes, name)
        if here in ("", None):
            setattr(stays, name, there)
        elif name in _BY_LINES:
            if there and there.strip() not in here:
                setattr(stays, name, f"{here.strip()}\n{there.strip()}")
        elif name != "units" and there not in ("", None) and there != here:
            label = getattr(stays._meta.get_field(name), "verbose_name", name)
            besides.append(f"{label} of {goes.name}: {there}")
    stays.notes = "\n".join(filter(None, [stays.notes.strip(), *besides]))
    for name in _BY_LINES & set(names):
        most = getattr(stays._meta.get_field(name), "max_length", None)
        if most and len(getattr(stays, name)) > most:
            raise CannotMerge(
                f"together their {name} are longer than {most:,} letters: shorten one of them first"
            )
    also = dict.fromkeys([*stays.also, goes.known_as, *goes.also])
    stays.also = [one for one in also if one != stays.known_as]
    stays.save()


@transaction.atomic
def merge_customers(stays: Customer, goes: Customer) -> None:
    """Make two records of one customer one; sites of the same name become one too.

    Raises
    ------
    CannotMerge
        They are the same record, or of two shops.
    """
    if stays.pk == goes.pk or stays.shop_id != goes.shop_id:
        raise CannotMerge("choose another customer of this shop")
    _fill_from(stays, goes, _CUSTOMER_TEXTS)
    for site in list(goes.sites.all()):
        same = site_named(stays.shop, stays, site.name)
        if same is not None:
            merge_sites(same, site)
        else:
            Site.objects.filter(pk=site.pk).update(customer=stays)
    customers_merged.send(Customer, stays=stays, goes=goes)
    _note_gone("customer", stays, goes)
    goes.delete()


@transaction.atomic
def merge_sites(stays: Site, goes: Site) -> None:
    """Make two records of one site one, with the photos of both.

    Raises
    ------
    CannotMerge
        They are the same record, or of two shops.
    """
    if stays.pk == goes.pk or stays.shop_id != goes.shop_id:
        raise CannotMerge("choose another site of this shop")
    stays.as_built = {**goes.as_built, **stays.as_built}  # what was measured of runs there
    _fill_from(stays, goes, (*_SITE_TEXTS, *_SITE_FIGURES))
    goes.files.update(site=stays)
    sites_merged.send(Site, stays=stays, goes=goes)
    _note_gone("site", stays, goes)
    goes.delete()


def _note_gone(kind: str, stays: Customer | Site, goes: Customer | Site) -> None:
    """Old links lead to the one that stays, through any number of merges."""
    Gone.objects.filter(kind=kind, into=goes.pk).update(into=stays.pk)
    Gone.objects.create(shop=stays.shop, kind=kind, number=goes.pk, into=stays.pk)


def gone_into(shop: Shop, kind: str, number: int) -> int | None:
    """The record that one became part of; None where that never was."""
    rows = Gone.objects.filter(shop=shop, kind=kind, number=number)
    return rows.values_list("into", flat=True).first()


@transaction.atomic
def forget(customer: Customer, remove_file: Callable[[str], object]) -> str:
    """Take a customer out on request: name, addresses, photos; and what it is called from now on.

    What the law asks to keep (papers, what stood where) stays under a name that says nothing. What
    others wrote of the customer, in jobs, papers, notes and the record, is crossed out there: each
    place does that itself on hearing of it.
    """
    instead = f"customer {customer.pk}, taken out on request"
    names = Names(_names_of(customer))
    customer_forgotten.send(Customer, customer=customer, names=names, instead=instead)
    for number, site in enumerate(customer.sites.all(), 1):
        for file in site.files.all():
            transaction.on_commit(partial(remove_file, file.stored))
        site.files.all().delete()
        Site.objects.filter(pk=site.pk).update(
            name=f"site {number} of it",
            known_as=folded(f"site {number} of it"),
            also=[],
            latitude=None,
            longitude=None,
            **dict.fromkeys(_SITE_TEXTS, ""),
        )
    others = Customer.objects.filter(shop=customer.shop_id).exclude(pk=customer.pk)
    names.cross_out(others, "notes")
    names.cross_out(Site.objects.filter(shop=customer.shop_id), "notes", "water", "address")
    names.cross_out(SiteFile.objects.filter(site__shop=customer.shop_id), "name")
    Customer.objects.filter(pk=customer.pk).update(
        name=instead,
        known_as=folded(instead),
        also=[],
        taken_out=True,
        **dict.fromkeys(_CUSTOMER_TEXTS, ""),
    )
    return instead


def _names_of(customer: Customer) -> set[str]:
    """By what the customer was called and can be found."""
    names = {customer.name, customer.mail, customer.phone, *customer.also}
    names |= {line.strip() for line in customer.people.splitlines()}
    for job in customer.jobs.all():
        names |= {job.customer}
        names |= {str(one.document.get("customer") or "") for one in job.revisions.all()}
        names |= {str(one.document.get("customer") or "") for one in job.papers.all()}
    return {one for one in names if len(one.strip()) > 2}  # a number or a letter names nobody


def facts_of(site: Site) -> dict[str, str]:
    """What is known of a site, as answers for a new job there."""
    known = {}
    if site.altitude_m is not None:
        known["altitude"] = f"{site.altitude_m:g} m"
    if site.voltage_v:
        known["voltage"] = f"{site.voltage_v:g} V"
    if site.frequency_hz:
        known["supply_frequency"] = f"{site.frequency_hz:g} Hz"
    if site.phases:
        known["phases"] = f"{site.phases}"
    return known


def said(site: Site, system: units.System) -> list[tuple[str, str]]:
    """A site's figures, each with its label."""
    rows = []
    if site.latitude is not None and site.longitude is not None:
        rows.append(("Coordinates", f"{site.latitude:.5f}°, {site.longitude:.5f}°"))
    for label, value in (("Altitude", site.altitude_m), ("Frost down to", site.frost_depth_m)):
        if value is not None:
            rows.append((label, units.show(value, "length", system)))
    supply = [f"{site.voltage_v:g} V" if site.voltage_v else ""]
    supply += [f"{site.get_phases_display()} phase" if site.phases else ""]
    supply += [f"{site.frequency_hz:g} Hz" if site.frequency_hz else ""]
    if any(supply):
        rows.append(("Supply", ", ".join(one for one in supply if one)))
    return rows
