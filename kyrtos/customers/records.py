"""Customers and sites: found by what a job says, merged when double, taken out on request."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

from django.db import transaction
from django.db.models import Count, Q, QuerySet

from kyrtos.customers.models import Customer, Gone, Site, folded
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from sizing.base import units

Record = TypeVar("Record", Customer, Site)


_CUSTOMER_TEXTS = ("people", "address", "mail", "phone", "notes", "units")
_SITE_TEXTS = ("people", "phone", "mail", "address", "plus_code", "notes", "water")
_SITE_FIGURES = (
    "latitude",
    "longitude",
    "altitude_m",
    "frost_depth_m",
    "voltage_v",
    "phases",
    "frequency_hz",
)


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


_NOBODY = Linked(None, None)


@transaction.atomic
def linked(shop: Shop, customer: str, site: str, was: Linked = _NOBODY) -> Linked:
    """The records of a job's customer and site, made where they are new.

    ``was`` are those it points to: as long as a text goes by one of them, it means that one, though
    there is another by now whose own name it is.

    Raises
    ------
    NoMoreRoom
        The shop keeps as many as it may.
    """
    kept = was.customer is not None and was.customer.goes_by(customer)
    who = was.customer if kept else customer_named(shop, customer)
    if who is None and folded(customer):
        quota.check("customers", shop.customers.count())
        who = Customer.objects.create(shop=shop, name=" ".join(customer.split()))
    stays_there = was.site is not None and was.customer == who and was.site.goes_by(site)
    where = was.site if stays_there else site_named(shop, who, site)
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
            | Q(sites__people__icontains=word)
            | Q(sites__phone__icontains=word)
        )
    return rows.distinct().order_by("known_as", "pk")


def alike(customer: Customer) -> list[Customer]:
    """Customers who may be the same one: the same phone or mail, or a word of the name."""
    rows = Customer.objects.filter(shop=customer.shop_id).exclude(pk=customer.pk)
    same = Q(pk=None)
    for mail in customer.mails:
        same |= Q(mail__icontains=mail)
    for phone, _ in customer.phones:
        same |= Q(phone__contains=phone)
    for word in customer.known_as.split():
        if len(word) > 3:
            same |= Q(known_as__contains=word)
    return list(rows.filter(same)[:20])


def gone_into(shop: Shop, kind: str, number: int) -> int | None:
    """The record that one became part of; None where that never was."""
    rows = Gone.objects.filter(shop=shop, kind=kind, number=number)
    return rows.values_list("into", flat=True).first()


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
