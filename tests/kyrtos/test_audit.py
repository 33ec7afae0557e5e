"""The record of who did what: complete, searched, exported, and only ever added to."""

import csv
import io

import pytest
from django.db import ProgrammingError, transaction
from django.test import Client

from kyrtos.accounts.models import AuditEntry
from tests.kyrtos.test_imports import K5, csv_of, send
from tests.kyrtos.test_keeping import plain


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


def lines(shop) -> list[tuple[str, str, str]]:
    return [(one.who, one.what, one.about) for one in shop.audit.order_by("pk")]


def test_what_people_do_is_noted_once_it_succeeded(owner, as_role, shop, job):
    estimator = as_role("estimator")
    before = len(lines(shop))
    estimator.post("/catalogue/ondrath-k-7/archive/", {"do": "archive"})
    estimator.get("/catalogue/pumps.csv")
    address = send(estimator, csv_of(K5), "spring.csv").url
    estimator.post(address, {"do": "take"})
    estimator.post(address, {"do": "undo"})
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    owner.post("/people/", {"role": "viewer", "email": "ama@farshore.example"})
    member = shop.memberships.get(role="viewer")
    owner.post(f"/people/{member.pk}/", {"role": "technician"})
    owner.post("/rules/SMP-05/", {"usual": "1.6", "reason": "the trade here"})
    owner.post(f"/people/{member.pk}/", {"do": "take out"})
    assert lines(shop)[before:] == [
        ("wenna", "pump archived", "ondrath-k-7"),
        ("wenna", "catalogue exported", "CSV"),
        ("wenna", "pump file sent", "spring.csv"),
        ("wenna", "pump file taken", "spring.csv"),
        ("wenna", "pump file undone", "spring.csv"),
        ("wenna", "paper issued", "Bookbinder's cellar, paper 1"),
        ("isolde", "link made", "viewer, ama@farshore.example"),
        ("isolde", "role changed", "lurline: technician"),
        ("isolde", "house rule set", "SMP-05: the trade here"),
        ("isolde", "taken out", "lurline"),
    ]


def test_what_was_refused_is_not_noted(owner, as_role, shop, job):
    """A record that says what did not happen is worse than none."""
    estimator = as_role("estimator")
    before = len(lines(shop))
    estimator.post("/catalogue/ondrath-k-7/merge/", {"stays": "nowhere"})
    estimator.post("/people/", {"role": "owner"})
    estimator.post("/catalogue/new/", {})
    estimator.post("/catalogue/ondrath-k-7/accept/")
    estimator.post(f"/jobs/{job.pk}/paper/issue/", {"revision": "99"})
    unsized = shop.jobs.get(title="Chandler's undercroft")
    estimator.post(f"/jobs/{unsized.pk}/paper/issue/")
    member = shop.memberships.get(role="owner")
    owner.post(f"/people/{member.pk}/", {"role": "viewer"})
    owner.post(f"/people/{member.pk}/", {"do": "take out"})
    owner.post("/people/link/999999/")
    owner.post("/rules/CHO-02/", {"usual": "nonsense", "reason": ""})
    assert lines(shop)[before:] == []


def test_sign_ins_and_wrong_passwords_are_noted_with_their_address_and_no_password(shop):
    user = shop.memberships.get(role="owner").user
    user.set_password("weir-steps-nine-and-ten")
    user.save()
    client = Client(REMOTE_ADDR="10.3.3.3")
    client.post("/sign-in/", {"username": "isolde", "password": "guessed-secret"})
    client.post("/sign-in/", {"username": "isolde", "password": "weir-steps-nine-and-ten"})
    client.post("/sign-out/")
    found = list(shop.audit.order_by("pk"))[-3:]
    assert [one.what for one in found] == ["wrong password", "signed in", "signed out"]
    assert {one.address for one in found} == {"10.3.3.3"}
    assert "secret" not in str(list(AuditEntry.objects.values()))


def test_a_line_is_neither_changed_nor_taken_out(owner, shop):
    line = shop.audit.first()
    for change in (lambda: AuditEntry.objects.update(who="x"), line.delete):
        with pytest.raises(ProgrammingError, match="only ever added"), transaction.atomic():
            change()
    assert shop.audit.filter(pk=line.pk).exists()


def test_the_record_is_searched_exported_and_for_owners_of_the_shop(owner, as_role, shop):
    owner.post("/people/", {"role": "viewer", "email": "ama@farshore.example"})
    assert "ama@farshore.example" in plain(owner.get("/audit/?q=link+ama"))
    assert "Nothing is recorded that holds these words" in plain(owner.get("/audit/?q=zebra"))
    rows = list(csv.DictReader(io.StringIO(owner.get("/audit/?csv=1&q=link").text)))
    assert rows[0]["who"] == "isolde"
    assert as_role("estimator").get("/audit/").status_code == 403
    assert "ama@" not in as_role("stranger").get("/audit/").text
