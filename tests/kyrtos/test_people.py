"""People: let in by a link that works once, given a role, taken out at once."""

import re
from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone

from kyrtos.accounts import people
from kyrtos.accounts.models import Invitation, Membership, Role, User
from tests.kyrtos.test_keeping import plain

GOOD = "weir-steps-nine-and-ten"
NEW = {
    "username": "ama",
    "first_name": "Ama",
    "last_name": "Threlk",
    "email": "ama@farshore.example",
    "password": GOOD,
    "again": GOOD,
}


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


def a_link(owner, role="technician", email="") -> str:
    shown = owner.post("/people/", {"role": role, "email": email}).text
    return re.search(r'<output id="link">http://testserver(/join/[^<]+)</output>', shown)[1]


def test_a_link_lets_one_person_in_once(owner, shop):
    link = a_link(owner, email="ama@farshore.example")
    token = link.split("/")[2]
    assert token not in owner.get("/people/").text  # shown once
    assert token not in str(list(Invitation.objects.values()))  # and kept as its digest only
    page = Client().get(link)
    assert "You will be technician of Ilvermoor" in plain(page)
    assert page.headers["Referrer-Policy"] == "same-origin"  # the address lets one in
    assert page.headers["Cache-Control"] == "no-store"
    newcomer = Client()
    assert newcomer.post(link, NEW).url == "/"
    assert "Ama Threlk" in newcomer.get("/").text
    member = Membership.objects.get(user__username="ama")
    assert (member.shop, member.role, member.user.email) == (
        shop,
        "technician",
        "ama@farshore.example",
    )
    again = Client().post(link, NEW | {"username": "second"})
    assert again.status_code == 410
    assert "used already" in plain(again)
    assert Client().post("/sign-in/", {"username": "ama", "password": GOOD}).status_code == 302


@pytest.mark.parametrize(
    ("typed", "told"),
    [
        ({"password": "short", "again": "short"}, "too short"),
        ({"password": "password1234", "again": "password1234"}, "too common"),
        ({"password": "ama-threlkeld", "username": "ama-threlkeld"}, "too similar"),
        ({"again": GOOD + "x"}, "not the same"),
        ({"username": "isolde"}, "choose another"),
        ({"username": ""}, "required"),
    ],
)
def test_what_is_wrong_is_told_and_the_link_stays_good(owner, typed, told):
    link = a_link(owner)
    answer = Client().post(link, NEW | typed)
    assert answer.status_code == 422
    assert told in plain(answer)
    assert 'value="Threlk"' in answer.text  # nothing typed is lost, but for the passwords
    assert GOOD not in answer.text
    assert Client().post(link, NEW).status_code == 302


def test_links_grow_old_and_are_withdrawn(owner, shop):
    old, withdrawn = a_link(owner), a_link(owner, "viewer")
    first = Invitation.objects.order_by("pk").first()
    Invitation.objects.filter(pk=first.pk).update(until=timezone.now() - timedelta(minutes=1))
    second = Invitation.objects.order_by("pk").last()
    owner.post(f"/people/link/{second.pk}/")
    for link in (old, withdrawn, "/join/never-was-one/"):
        assert Client().post(link, NEW).status_code == 410
    assert not User.objects.filter(username="ama").exists()


def test_links_are_bounded(owner, shop, monkeypatch):
    monkeypatch.setattr(people, "MOST_OPEN", 1)
    a_link(owner)
    refused = owner.post("/people/", {"role": "viewer"})
    assert refused.status_code == 422
    assert "withdraw some first" in plain(refused)


def test_a_role_holds_from_the_next_click(owner, as_role, shop, job):
    estimator = as_role("estimator")
    member = shop.memberships.get(role="estimator")
    assert estimator.get("/jobs/new/").status_code == 200
    owner.post(f"/people/{member.pk}/", {"role": "viewer"})
    assert estimator.get("/jobs/new/").status_code == 403
    owner.post(f"/people/{member.pk}/", {"role": "emperor"})
    member.refresh_from_db()
    assert member.role == "viewer"


def test_who_is_taken_out_is_signed_out_at_once_and_what_they_did_stays(owner, as_role, shop, job):
    technician = as_role("technician")
    member = shop.memberships.get(role="technician")
    assert technician.get("/").status_code == 200
    shown = owner.post(f"/people/{member.pk}/", {"do": "take out"}, follow=True)
    assert "is out, and signed out everywhere" in plain(shown)
    assert technician.get("/").status_code == 302  # to the sign-in
    assert User.objects.filter(pk=member.user_id).exists()
    assert shop.jobs.count() > 10


@pytest.mark.parametrize("change", [{"do": "take out"}, {"role": "viewer"}])
def test_a_shop_keeps_an_owner(owner, shop, change):
    member = shop.memberships.get(role="owner")
    shown = owner.post(f"/people/{member.pk}/", change, follow=True)
    assert "a shop needs an owner" in plain(shown)
    assert shop.memberships.get(pk=member.pk).role == Role.OWNER
    other = shop.memberships.get(role="estimator")
    people.set_role(shop, other, Role.OWNER)
    owner.post(f"/people/{member.pk}/", change)
    assert not shop.memberships.filter(pk=member.pk, role=Role.OWNER).exists()


def test_nobody_changes_people_of_another_shop(as_role, shop):
    stranger, member = as_role("stranger"), shop.memberships.get(role="viewer")
    assert stranger.post(f"/people/{member.pk}/", {"role": "owner"}).status_code == 404
    assert "Lurline" not in stranger.get("/people/").text
