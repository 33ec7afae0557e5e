"""A customer taken out on request: planned, done as one task, whole or not at all, and told."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial
from typing import Any, NamedTuple

from django.core.files.storage import default_storage
from django.db import transaction
from django.dispatch import Signal
from procrastinate.contrib.django import app

from kyrtos.accounts.audit import note
from kyrtos.accounts.models import User
from kyrtos.config.queue import AGAIN, enqueue
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.models import Customer, Forgetting, Site, SiteFile, folded
from kyrtos.shops.one_line import lines_of

# Whoever holds what was written of a customer listens, crosses it out and gives what it did, as
# Done. With ``dry`` nothing is done that a rollback would not take back.
customer_forgotten = Signal()  # customer, names, instead: its name now, dry

_CUSTOMER_TEXTS = ("people", "address", "mail", "phone", "notes", "units")
_SITE_TEXTS = ("people", "phone", "mail", "address", "plus_code", "notes", "water")
_LEAST_PART = 4  # letters of a word of a name that is looked for by itself
_MOST_PLACES = 200


class Done(NamedTuple):
    """What holds the person: how much of it, and what becomes of it."""

    label: str
    many: int
    becomes: str


@dataclass(frozen=True)
class Part:
    """A part of a name, an address: in how many places it stands in what others wrote, and how."""

    text: str
    count: int
    places: tuple[str, ...]
    is_sure: bool  # an address as written, not a word that may mean another


@dataclass(frozen=True)
class Plan:
    """What a request to be forgotten would do."""

    done: tuple[Done, ...]
    parts: tuple[Part, ...]


@transaction.atomic
def forget(customer: Customer, parts: Iterable[str] = (), *, dry: bool = False) -> Plan:
    """Take a customer out: name, addresses, photos; ``dry`` says what it would do, and does not.

    What the law asks to keep (papers, what stood where) stays under a name that says nothing. What
    others wrote of the customer, in jobs, papers, notes and the record, is crossed out letter by
    letter, so that no text is shortened: each place does that itself on hearing of it. ``parts``
    are what is struck out besides names, phones and mails.
    """
    candidates = _candidates(customer) if dry else {}
    names = Names({*_names_of(customer), *parts})
    instead = f"customer {customer.pk}, taken out on request"
    told: list[Any] = customer_forgotten.send(
        Customer, customer=customer, names=names, instead=instead, dry=dry
    )
    done = [Done("the customer's record", 1, "name, people, phones, mails, addresses, notes empty")]
    done += _empty_sites(customer, dry)
    done += _others(customer, names)
    for _, found in told:
        done += found
    Customer.objects.filter(pk=customer.pk).update(
        name=instead,
        known_as=folded(instead),
        also=[],
        taken_out=True,
        **dict.fromkeys(_CUSTOMER_TEXTS, ""),
    )
    found = tuple(_found(names, text, is_sure) for text, is_sure in candidates.items())
    if dry:
        transaction.set_rollback(True)
    return Plan(tuple(one for one in done if one.many), tuple(part for part in found if part.count))


def _empty_sites(customer: Customer, dry: bool) -> list[Done]:
    photos = 0
    sites = list(customer.sites.all())
    for number, site in enumerate(sites, 1):
        for file in site.files.all():
            photos += 1
            if not dry:
                transaction.on_commit(partial(default_storage.delete, file.stored))
        site.files.all().delete()
        Site.objects.filter(pk=site.pk).update(
            name=f"site {number} of it",
            known_as=folded(f"site {number} of it"),
            also=[],
            latitude=None,
            longitude=None,
            **dict.fromkeys(_SITE_TEXTS, ""),
        )
    return [
        Done("sites", len(sites), "called by a number, without address, people, position, notes"),
        Done("photos and files", photos, "taken away"),
    ]


def _others(customer: Customer, names: Names) -> list[Done]:
    """What is written of them at other customers and sites."""
    of_shop = Customer.objects.filter(shop=customer.shop_id).exclude(pk=customer.pk)
    count = names.cross_out(of_shop, "notes", "people", "address")
    sites = Site.objects.filter(shop=customer.shop_id)
    count += names.cross_out(sites, "notes", "water", "address", "people")
    count += names.cross_out(SiteFile.objects.filter(site__shop=customer.shop_id), "name")
    return [Done("other customers, sites and files that name them", count, "crossed out")]


def _names_of(customer: Customer) -> set[str]:
    """By what the customer was called and can be found."""
    names = {customer.name, *customer.also}
    for one in (customer, *customer.sites.all()):
        names |= {line for text in (one.people, one.phone, one.mail) for line in lines_of(text)}
    for job in customer.jobs.all():
        names |= {job.customer}
        names |= {str(one.document.get("customer") or "") for one in job.revisions.all()}
        names |= {str(one.document.get("customer") or "") for one in job.papers.all()}
    return {one for one in names if len(one.strip()) > 2}  # a number or a letter names nobody


def _candidates(customer: Customer) -> dict[str, bool]:
    """What may name them besides, and whether it can mean nothing else."""
    sites = list(customer.sites.all())
    sure = [line for one in (customer, *sites) for line in lines_of(one.address)]
    words = re.findall(r"[^\W\d_]+", " ".join([customer.name, customer.people]))
    parts = [word for word in words if len(word) >= _LEAST_PART]
    parts += [site.name for site in sites if len(site.name) >= _LEAST_PART]
    return dict.fromkeys(sure, True) | dict.fromkeys(
        (one for one in parts if one not in sure), False
    )


def _found(names: Names, text: str, is_sure: bool) -> Part:
    """Where a part stands yet, in the columns that names were crossed out of."""
    part, places = Names([text]), []
    for rows, columns in names.looked_at:
        for row in part.holding(rows, *columns).only("pk", *columns)[:_MOST_PLACES]:
            places += [one for name in columns for one in part.found_in(getattr(row, name))]
    return Part(text, len(places), tuple(dict.fromkeys(places))[:3], is_sure)


# --- as a task


def ask(customer: Customer, user: User, parts: list[str]) -> Forgetting:
    """Have a customer forgotten, soon; asked twice it is done once."""
    asked, is_new = Forgetting.objects.get_or_create(
        customer=customer,
        state=Forgetting.State.WAITING,
        defaults={"shop": customer.shop, "user": user, "parts": parts},
    )
    if is_new:
        enqueue(forget_customer, lock="forgetting", whose=customer.shop_id, asked_id=asked.pk)
    return asked


@app.task(retry=AGAIN, name="kyrtos.customers.tasks.forget_customer")
def forget_customer(asked_id: int) -> None:
    """Do what was asked, whole or not at all; what broke it is told on the customer's page."""
    asked = Forgetting.objects.select_related("customer", "user").get(pk=asked_id)
    if asked.state != Forgetting.State.WAITING:
        return  # it came twice
    try:
        with transaction.atomic():
            plan = forget(asked.customer, asked.parts)
            told: list[Any] = [list(one) for one in plan.done]
            Forgetting.objects.filter(pk=asked.pk).update(
                state=Forgetting.State.DONE, parts=[], told=told
            )
            who = asked.user.username if asked.user else "somebody"
            note(asked.shop, who, "customer taken out", f"customer {asked.customer_id}")
    except Exception as problem:
        Forgetting.objects.filter(pk=asked.pk).update(
            state=Forgetting.State.FAILED,
            problem=f"{type(problem).__name__}: nothing was taken out"[:200],
        )
        raise
