"""What a job says of its customer and site, and the records that those texts mean."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, cast

from django.db.models import RestrictedError
from django.dispatch import receiver

from kyrtos.customers import merging, records
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.forgetting import Done, customer_forgotten
from kyrtos.customers.models import Customer, Site
from kyrtos.jobs.models import Job, JobNote, Revision
from kyrtos.shops.merges import Moved, repoint
from kyrtos.shops.models import Shop
from sizing.base.units import System

_LEFT = "_left_records"
_OUT = "crossed out"


@dataclass(frozen=True)
class Known:
    """What is known already of a customer and a site before a job begins there."""

    system: System | None
    facts: Mapping[str, str]
    as_built: Mapping[str, str]  # what was measured of runs there, by kind of job


def known(shop: Shop, customer: str, site: str) -> Known:
    """What the records tell of these two names; nothing is made."""
    who = records.customer_named(shop, customer)
    where = records.site_named(shop, who, site)
    system = cast(System, who.units) if who is not None and who.units else None
    if where is None:
        return Known(system, {}, {})
    return Known(system, records.facts_of(where), where.as_built)


def link(job: Job) -> None:
    """Point a job at the records of its customer and site; it is saved by whoever asks."""
    left = (job.customer_record, job.site_record)
    found = records.linked(job.shop, job.customer, job.site, records.Linked(*left))
    job.customer_record, job.site_record = found.customer, found.site
    gone = [one for one in left if one is not None and one not in (found.customer, found.site)]
    setattr(job, _LEFT, gone)


def tidy(job: Job) -> None:
    """Take away records that the job has just left and that hold nothing: names half typed."""
    for record in reversed(getattr(job, _LEFT, [])):
        kept = record.jobs.exists() or not records.is_bare(record)
        if kept or (isinstance(record, Customer) and record.sites.exists()):
            continue
        try:
            record.delete()
        except RestrictedError:  # a pump stands there
            continue
    setattr(job, _LEFT, [])


@receiver(merging.customers_merged)
def _customers_merged(stays: Customer, goes: Customer, **_: Any) -> list[Moved]:
    return [repoint(Job.objects.filter(customer_record=goes), "customer_record_id", stays.pk)]


@receiver(merging.sites_merged)
def _sites_merged(stays: Site, goes: Site, **_: Any) -> list[Moved]:
    return [repoint(Job.objects.filter(site_record=goes), "site_record_id", stays.pk)]


@receiver(merging.merge_undone)
def _merge_undone(stays: Customer | Site, goes: Customer | Site, **_: Any) -> None:
    """Jobs begun since under the name that went are that one's again."""
    is_customer = isinstance(stays, Customer)
    column = "customer_record" if is_customer else "site_record"
    for job in Job.objects.filter(**{column: stays}):
        text = job.customer if is_customer else job.site
        if goes.goes_by(text) and not stays.goes_by(text):
            Job.objects.filter(pk=job.pk).update(**{column: goes})


@receiver(customer_forgotten)
def _forgotten(customer: Customer, names: Names, instead: str, **_: Any) -> list[Done]:
    """No revision, note or column of a job names who asked to be taken out."""
    revisions = 0
    jobs = list(customer.jobs.all())
    for job in jobs:
        for revision in job.revisions.all():
            held = without(revision.document, names, instead)
            Revision.objects.filter(pk=revision.pk).update(document=held)
            revisions += 1
        Job.objects.filter(pk=job.pk).update(
            customer=instead, site="", title=names.crossed_out(job.title)
        )
    of_shop = Revision.objects.filter(job__shop=customer.shop_id)
    others = names.cross_out(of_shop, "document")
    titles = names.cross_out(Job.objects.filter(shop=customer.shop_id), "title", "customer", "site")
    notes = names.cross_out(JobNote.objects.filter(job__shop=customer.shop_id), "text")
    return [
        Done("jobs of theirs", len(jobs), "called by their number, without site; the sizing stays"),
        Done("revisions of those jobs", revisions, "without the name, in history and undo too"),
        Done("revisions of other jobs that name them, as of when they were theirs", others, _OUT),
        Done("titles and names of other jobs", titles, _OUT),
        Done("notes on jobs", notes, _OUT),
    ]


def without(document: Mapping[str, Any], names: Names, instead: str) -> dict[str, Any]:
    """A job's document as JSON, without the customer's name and place."""
    return {**names.out_of(document), "customer": instead, "site": ""}
