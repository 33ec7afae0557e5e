"""A shop with one of everything, its fields emptied and at their full length, leaves and comes back
row by row as it was.
"""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from django.db import models

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.catalogue.models import CatalogueEntry, PriceNote, SupplierColumns
from kyrtos.customers.models import Customer, Site, SiteFile
from kyrtos.house_rules.models import HouseRule
from kyrtos.installations.models import Event, InstalledPump, ReadingSet, Reminder
from kyrtos.jobs.models import Job, JobNote, Recording, Revision
from kyrtos.operations import plain_rows, shop_data
from kyrtos.shops.models import Shop

# how a model's rows of a shop are found, in an order that stays
ROWS: dict[type[models.Model], tuple[str, str]] = {
    HouseRule: ("shop", "rule_id"),
    CatalogueEntry: ("shop", "pump_id"),
    PriceNote: ("shop", "pk"),
    SupplierColumns: ("shop", "signature"),
    Customer: ("shop", "pk"),
    Site: ("shop", "pk"),
    Job: ("shop", "created"),
    JobNote: ("job__shop", "job__created pk"),
    Revision: ("job__shop", "job__created pk"),
    Recording: ("job__shop", "job__created pk"),
    InstalledPump: ("shop", "pk"),
    Event: ("pump__shop", "pump__pk pk"),
    ReadingSet: ("pump__shop", "pump__pk pk"),
    Reminder: ("pump__shop", "pump__pk pk"),
}
# what says what a row is, or is counted anew where it comes in
FIXED = {
    "kind",
    "state",
    "verdict",
    "pump_id",
    "identity",
    "record",
    "promised",
    "document",
    "code",
    "maker",
    "model",
    "family",
    "rule_id",
    "reason",
    "signature",
    "known_as",
    "name",
    "title",
    "customer",
    "site",
    "number",
    "parent",
    "edit_group",
    "current_revision",
    "issued_revision",
    "on",
    "due",
    "digest",
    "aside",
    "flows_m3s",
    "heads_m",
    "by_hand",
    "fixed",
    "typed",
    "shape",
    "old_ids",
    "variant",
    "source",
}
ANEW = {"sized_revision", "token", "user_id", "code", "stored", "drawn_here"}


def rows_of(model: type[models.Model], shop: Shop) -> list[dict[str, Any]]:
    by, order = ROWS[model]
    found = model._default_manager.filter(**{by: shop}).order_by(*order.split())
    return [
        {key: value for key, value in plain_rows.plain(row).items() if key not in ANEW}
        for row in found
    ]


def emptied(field: models.Field) -> Any:
    """Nothing, as the field may hold it; None for a field that must hold something."""
    if field.null:
        return None
    if isinstance(field, models.CharField | models.TextField) and field.blank:
        return ""
    if isinstance(field, models.JSONField) and field.blank:
        return {} if field.default is dict else []
    return ...


def filled(field: models.Field) -> Any:
    """As much as the field may hold."""
    if field.choices or not isinstance(field, models.CharField | models.TextField):
        return ...
    if isinstance(field, models.EmailField) or field.name == "mail":
        return "a" * 60 + "@farshore.example"
    return ("wéïr =1+1 \"';<b>\\ " * 200)[: min(field.max_length or 900, 900)].strip()


def push(shop: Shop) -> int:
    """The first row of each model emptied, the second filled; how many fields were pushed."""
    count = 0
    for model, (by, order) in ROWS.items():
        found = list(model._default_manager.filter(**{by: shop}).order_by(*order.split())[:2])
        for row, edge in zip(found, (emptied, filled)):
            changes = {}
            for field in model._meta.concrete_fields:
                is_log = model is Recording and field.name == "text"  # read as what it is
                if field.is_relation or field.primary_key or field.name in FIXED or is_log:
                    continue
                value = edge(field)
                if value is not ...:
                    changes[field.name] = value
            count += len(changes)
            model._default_manager.filter(pk=row.pk).update(**changes)
    return count


@pytest.fixture
def everything(shop, job) -> Shop:
    """The demo's shop, thinned, with rows of what it lacks."""
    user = User.objects.get(username="isolde")
    for number in range(2):
        JobNote.objects.create(job=job, user=user, text=f"note {number}")
        Recording.objects.create(job=job, user=user, name=f"log {number}", text="")
        HouseRule.objects.create(
            shop=shop, rule_id=("CYC-01", "CHO-07")[number], value_si=6.0 + number, reason="ours"
        )
        SupplierColumns.objects.create(shop=shop, signature=f"s{number}", by_hand={"a": "model"})
    pump = shop.installed.order_by("pk").first()
    for number in range(2):
        pump.events.create(user=user, kind="serviced", on=date(2026, 11, 1 + number))
        pump.reminders.create(text=f"look {number}", due=date(2027, 1, 1))
        ReadingSet.objects.create(pump=pump, user=user, on=now(), typed={})
    keep = [job.pk, *shop.jobs.order_by("created").values_list("pk", flat=True)[:4]]
    shop.jobs.exclude(pk__in=keep).delete()
    few = list(shop.installed.order_by("pk").values_list("pk", flat=True)[:12])
    shop.installed.exclude(pk__in=few).delete()
    return shop


def now():
    from django.utils import timezone

    return timezone.now()


def test_row_by_row_as_it_was(everything):
    pushed = push(everything)
    assert pushed > 90
    before = {model: rows_of(model, everything) for model in ROWS}
    assert all(len(rows) >= 2 for rows in before.values()), {
        model.__name__: len(rows) for model, rows in before.items()
    }
    content = shop_data.write(everything, lambda *_: None)
    into, user = Shop.objects.create(name="Farshore"), User.objects.create(username="ama")
    Membership.objects.create(user=user, shop=into, role=Role.OWNER)
    shop_data.take_in(into, user, content, lambda *_: None)
    for model, rows in before.items():
        came = rows_of(model, into)
        assert len(came) == len(rows), model.__name__
        for one, other in zip(rows, came, strict=True):
            assert other == one, (model.__name__, differing(one, other))


def differing(one: dict[str, Any], other: dict[str, Any]) -> dict[str, tuple[Any, Any]]:
    return {key: (one[key], other[key]) for key in one if one[key] != other.get(key)}


def links_of(shop: Shop) -> list[tuple[object, ...]]:
    """What points to what, by names and places in order instead of numbers."""
    customers = list(shop.customers.order_by("pk"))
    sites = list(shop.sites.order_by("pk"))
    jobs = list(shop.jobs.order_by("created", "title"))

    def at(rows, one):
        return rows.index(one) if one is not None else None

    held = [
        (at(customers, one.customer_record), at(sites, one.site_record), at(jobs, one.follows))
        for one in jobs
    ]
    held += [(at(customers, one.customer),) for one in sites]
    held += [
        (
            at(sites, one.site),
            at(jobs, one.job),
            one.paper.number if one.paper else None,
            one.plate.name if one.plate else None,
            one.replaced_by.serial if one.replaced_by else None,
        )
        for one in shop.installed.order_by("pk")
    ]
    files = SiteFile.objects.filter(site__shop=shop).order_by("at", "name")
    held += [(at(sites, one.site), at([job.pk for job in jobs], one.job)) for one in files]
    return held


def test_every_link_points_where_it_did(everything, job):
    record = job.customer_record
    record.name = "Somebody & Daughter"
    record.save()
    everything.customers.create(name=job.customer)  # a namesake of what the job still says
    SiteFile.objects.create(
        site=job.site_record,
        user=User.objects.get(username="isolde"),
        job=job.pk,
        name="pit.txt",
        stored="x",
        media_type="text/plain",
        size_bytes=1,
    )
    pump = everything.installed.first()
    pump.job, pump.plate = job, SiteFile.objects.get(name="pit.txt")
    pump.save()
    into, user = Shop.objects.create(name="Farshore"), User.objects.create(username="ama")
    Membership.objects.create(user=user, shop=into, role=Role.OWNER)
    shop_data.take_in(into, user, shop_data.write(everything, lambda *_: None), lambda *_: None)
    assert links_of(into) == links_of(everything)
    came = into.jobs.get(title=job.title)
    assert came.customer_record.name == "Somebody & Daughter"
