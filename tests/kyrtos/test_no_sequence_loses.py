"""Random sequences of edit, merge, undo, list, forget over a small shop.

Nothing is lost that nobody deleted; nothing is kept that was forgotten.
"""

from __future__ import annotations

import json
import random
import re

import pytest
from django.core import serializers
from django.db import transaction

from kyrtos.accounts.models import Membership
from kyrtos.customers import cards, forgetting, merging, records
from kyrtos.customers.models import Customer, Site
from kyrtos.jobs import services
from kyrtos.jobs.models import Job, JobNote, Revision
from kyrtos.shops import brought_in
from kyrtos.shops.merges import CannotMerge, CannotUndo
from kyrtos.shops.models import BroughtIn, Merge, Shop
from tests.thin import count

STEPS = 14
TOKEN = re.compile(r"0555 \d{6}")


class Small:
    """A small shop, and every phone number that somebody typed in it: each only once."""

    def __init__(self, shop, seed: int) -> None:
        self.user = shop.memberships.get(role="owner").user
        self.shop = Shop.objects.create(name=f"Small {seed}")
        Membership.objects.create(user=self.user, shop=self.shop, role="owner")
        self.dice = random.Random(seed)
        self.alive: set[str] = set()
        self.dead: set[str] = set()
        self.of_list: dict[int, set[str]] = {}
        self.done: list[str] = []
        for letter in "abc":
            self.new(letter)

    def token(self) -> str:
        made = f"0555 {self.dice.randrange(100_000, 999_999)}"
        self.alive.add(made)
        return made

    def new(self, letter: str = "") -> None:
        name = f"Guild {letter or self.dice.choice('abcdefg')}"
        if records.customer_named(self.shop, name):
            return
        who = self.shop.customers.create(name=name, phone=self.token(), notes=self.token())
        who.sites.create(shop=self.shop, name="mill", notes=self.token(), altitude_m=3.0)

    def one(self, rows):
        found = list(rows.order_by("pk"))
        return self.dice.choice(found) if found else None

    def customers(self):
        return self.shop.customers.filter(taken_out=False)

    # what people do

    def edit(self) -> None:
        who = self.one(self.customers())
        if who:
            who.phone = f"{who.phone}\n{self.token()}"
            who.save()

    def rename(self) -> None:
        who = self.one(self.customers())
        if who:
            who.name = f"Guild {self.dice.randrange(1000)}"
            who.save()

    def job(self) -> None:
        who = self.one(self.customers())
        if who:
            job = services.create(
                shop=self.shop,
                user=self.user,
                kind_code="transfer",
                title="A pit",
                customer=who.name,
                site=self.dice.choice(["mill", "weir"]),
            )
            job.notes.create(user=self.user, text=f"as at {who.name}: {self.token()}")
            assert job.customer_record == who

    def merge(self) -> None:
        one, other = self.one(self.customers()), self.one(self.customers())
        try:
            merging.merge_customers(one, other, taken=frozenset({"name"}), user=self.user)
        except (CannotMerge, AttributeError):
            return

    def merge_sites(self) -> None:
        rows = self.shop.sites.filter(customer__taken_out=False)
        one, other = self.one(rows), self.one(rows)
        try:
            merging.merge_sites(one, other, user=self.user)
        except (CannotMerge, AttributeError):
            return

    def undo(self) -> None:
        merge = self.one(self.shop.merges.filter(within=None))
        try:
            if merge:
                merging.undo(merge)
        except CannotUndo:
            return

    def take_list(self) -> None:
        before = set(self.alive)
        rows = [f"Guild {self.dice.choice('abcdefgh')},{self.token()},mill" for _ in range(2)]
        content = ("name,phone,site\n" + "\n".join(rows)).encode()
        shown = brought_in.begin(self.shop, self.user, "customers", "l.csv", content, cards.take_in)
        taken = brought_in.take_now(shown, cards.take_in, doubtful=True)
        assert taken.report["left"] == []
        self.of_list[taken.pk] = self.alive - before

    def undo_list(self) -> None:
        found = self.one(self.shop.brought_in.filter(state=BroughtIn.State.TAKEN))
        try:
            if found:
                brought_in.undo(found)
        except brought_in.CannotTake:
            return
        if found:
            self.alive -= self.of_list.pop(found.pk)

    def forget(self) -> None:
        who = self.one(self.customers())
        if who is None or self.dice.random() < 0.5:
            return
        rows = [who, *who.sites.all()]
        gone = set(TOKEN.findall(json.dumps(serializers.serialize("python", rows), default=str)))
        names = {who.known_as, *who.also}
        forgetting.forget(who)
        self.alive -= gone
        self.dead |= gone
        text = self.everything(Customer, Site, Job, JobNote, Revision, Merge, BroughtIn)
        for name in names:
            still = [one for one in self.shop.customers.all() if one.goes_by(name)]
            found = re.search(rf"(?<!\w){re.escape(name)}(?!\w)", text, re.IGNORECASE)
            assert still or not found, (name, self.done)

    def everything(self, *models) -> str:
        """All of the shop as text."""
        ways = {JobNote: "job__shop", Revision: "job__shop"}
        held = [
            serializers.serialize(
                "python", model.objects.filter(**{ways.get(model, "shop"): self.shop})
            )
            for model in models
        ]
        return json.dumps(held, default=str, ensure_ascii=False)

    def step(self) -> None:
        often = (self.job, self.merge, self.undo)
        once = (self.new, self.edit, self.rename, self.merge_sites, self.take_list)
        what = self.dice.choice([*often, *often, *once, self.undo_list, self.forget])
        self.done.append(what.__name__)
        what()

    def check(self) -> None:
        held = set(TOKEN.findall(self.everything(Customer, Site, JobNote)))
        assert self.alive <= held, ("lost", self.alive - held, self.done)
        kept = set(TOKEN.findall(self.everything(Customer, Site, JobNote, Merge, BroughtIn)))
        assert not self.dead & kept, ("kept", self.dead & kept, self.done)
        for job in self.shop.jobs.select_related("customer_record"):
            assert job.customer_record is not None, self.done
            assert job.customer_record.taken_out or job.customer_record.goes_by(job.customer)


@pytest.mark.parametrize("part", range(2))
def test_nothing_is_lost_that_nobody_deleted_nor_kept_that_was_forgotten(shop, part):
    for seed in range(part, count(10, 300), 2):
        with transaction.atomic():
            small = Small(shop, seed)
            for _ in range(STEPS):
                small.step()
                small.check()
            transaction.set_rollback(True)
