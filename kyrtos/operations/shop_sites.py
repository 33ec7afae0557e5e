"""Customers, sites with their photos, and installed pumps of a shop's data, out and in."""

from __future__ import annotations

import json
import uuid
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.core.files.storage import default_storage

from kyrtos.accounts.models import User
from kyrtos.customers import photos
from kyrtos.customers.models import Customer, Site, SiteFile
from kyrtos.customers.records import Linked
from kyrtos.installations import pump_records
from kyrtos.installations.models import Event, InstalledPump, ReadingSet, Reminder, new_code
from kyrtos.jobs.models import Job
from kyrtos.operations.plain_rows import as_json, fill, judge, keep_moments, plain
from kyrtos.paper.models import Paper
from kyrtos.shops.models import Shop

_OF_A_PUMP = (("events", Event), ("readings", ReadingSet), ("reminders", Reminder))


@dataclass(frozen=True)
class Taken:
    """Customers and sites that came in, in the order of their file, and what came in words."""

    customers: list[Customer]
    sites: list[Site]
    told: list[str]

    def linked(self, row: Mapping[str, Any]) -> Linked | None:
        """The records that a job's row points to by their place in the file.

        None where it does not say, as files of before.

        Raises
        ------
        IndexError, TypeError
            There is none at such a place.
        """
        if "customer_record" not in row or "site_record" not in row:
            return None
        who, where = row["customer_record"], row["site_record"]
        if any(one is not None and one < 0 for one in (who, where)):
            raise IndexError("a record that is not in the file")
        return Linked(
            None if who is None else self.customers[who],
            None if where is None else self.sites[where],
        )


def places(shop: Shop) -> tuple[dict[int, int], dict[int, int]]:
    """At which place of a shop's file each customer and each site stands, by number."""
    return (
        {
            pk: at
            for at, pk in enumerate(shop.customers.order_by("pk").values_list("pk", flat=True))
        },
        {pk: at for at, pk in enumerate(shop.sites.order_by("pk").values_list("pk", flat=True))},
    )


def write(out: zipfile.ZipFile, shop: Shop) -> None:
    """Put them into a shop's ZIP."""
    at, site_at = places(shop)
    customers = [plain(one) for one in shop.customers.order_by("pk")]
    sites = []
    for site in shop.sites.order_by("pk"):
        files = [_write_file(out, one) for one in site.files.order_by("at")]
        sites.append(plain(site) | {"customer": at.get(site.customer_id or 0), "files": files})
    out.writestr("customers.json", as_json({"customers": customers, "sites": sites}))
    pumps = [_pump(one, site_at) for one in shop.installed.order_by("pk")]
    out.writestr("installed.json", as_json(pumps))


def _write_file(out: zipfile.ZipFile, file: SiteFile) -> dict[str, Any]:
    name = f"files/{file.pk}"
    if default_storage.exists(file.stored):
        out.writestr(name, default_storage.open(file.stored).read())
    return plain(file) | {"id": str(file.pk), "job": str(file.job or "")}


def _pump(pump: InstalledPump, site_at: Mapping[int, int]) -> dict[str, Any]:
    held = plain(pump) | {
        "site": site_at[pump.site_id],
        "job": str(pump.job_id or ""),
        "paper": pump.paper.number if pump.paper else None,
        "replaced_by": pump.replaced_by.code if pump.replaced_by else "",
        "plate": str(pump.plate_id or ""),
    }
    for name, _ in _OF_A_PUMP:
        held[name] = [plain(one) for one in getattr(pump, name).order_by("pk")]
    return held


def take_in(shop: Shop, user: User, held: zipfile.ZipFile, jobs: Mapping[str, uuid.UUID]) -> Taken:
    """Take them in; ``jobs`` says what each job is called now.

    A file of a shop of before there were any holds none.

    Raises
    ------
    ValidationError, KeyError, ValueError
        Something of them cannot be.
    """
    if "customers.json" not in held.namelist():
        return Taken([], [], [])
    content = json.loads(held.read("customers.json"))
    customers = [fill(Customer(shop=shop), row) for row in content["customers"]]
    for one in customers:
        judge(one)
        one.save()
        keep_moments(one)
    sites, files = [], {}
    for row in content["sites"]:
        at = row["customer"]
        site = fill(Site(shop=shop, customer=None if at is None else customers[at]), row)
        judge(site)
        site.save()
        keep_moments(site)
        sites.append(site)
        for one in row["files"]:
            files[one["id"]] = _take_file(site, user, held, one, jobs)
    pumps = json.loads(held.read("installed.json"))
    made = {row["code"]: _take_pump(shop, user, row, sites, jobs, files) for row in pumps}
    for row in pumps:
        if row["replaced_by"] in made:
            new = made[row["replaced_by"]]
            InstalledPump.objects.filter(pk=made[row["code"]].pk).update(replaced_by=new)
    told = [f"{len(customers)} customers", f"{len(sites)} sites", f"{len(pumps)} installed pumps"]
    return Taken(customers, sites, told)


def _take_file(
    site: Site,
    user: User,
    held: zipfile.ZipFile,
    row: dict[str, Any],
    jobs: Mapping[str, uuid.UUID],
) -> SiteFile:
    """A photo or file, judged like one that is sent up: what the row says it is counts for nothing.

    Raises
    ------
    CannotKeep
        It would be refused there.
    """
    made, part = uuid.uuid4(), f"files/{row['id']}"
    file: SiteFile = fill(SiteFile(site=site, user=user), row)
    file.pk, file.job = made, jobs.get(row["job"])
    file.stored = f"shop-{site.shop_id}/{made}"
    file.media_type = photos.type_by_name(file.name)  # where the store had lost what it held
    file.is_photo = file.media_type == photos.PHOTO_TYPE
    found = None
    if part in held.namelist():
        found = photos.judged(held.read(part), file.name, keep_position=True)
        file.size_bytes = len(found.content)
    judge(file)
    if found is not None:
        file.stored = photos.store(site, made, found)
    file.save(force_insert=True)
    keep_moments(file)
    return file


def _take_pump(
    shop: Shop,
    user: User,
    row: dict[str, Any],
    sites: list[Site],
    jobs: Mapping[str, uuid.UUID],
    files: Mapping[str, SiteFile],
) -> InstalledPump:
    known = jobs.get(row["job"])
    job = None if known is None else Job.objects.filter(pk=known, shop=shop).first()
    pump: InstalledPump = fill(InstalledPump(shop=shop, site=sites[row["site"]], job=job), row)
    if job is not None and row["paper"] is not None:
        pump.paper = Paper.objects.filter(job=job, number=row["paper"]).first()
    pump.plate = files.get(row["plate"])
    if InstalledPump.objects.filter(code=pump.code).exists():
        pump.code = new_code()  # its label is another shop's here: print it anew
    judge(pump)
    pump_records.pump_of_record(pump)  # raises where the record is none
    pump_records.promise_for(pump)
    pump.save()
    keep_moments(pump)
    for name, model in _OF_A_PUMP:
        for one in row[name]:
            each = fill(model(pump=pump), one)
            if hasattr(each, "token"):
                each.user, each.token = user, uuid.uuid4()
            judge(each)
            each.save()
            keep_moments(each)
    return pump
