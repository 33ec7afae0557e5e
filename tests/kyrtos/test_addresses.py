"""A mail address counts once its person has confirmed it; what hangs on it opens no other shop."""

import re

import pytest
from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from django.core import mail
from django.test import Client

from kyrtos.accounts import addresses, people
from kyrtos.accounts.models import AuditEntry, Membership, Role, User
from kyrtos.installations import reminders
from kyrtos.shops.models import Shop
from tests.kyrtos import test_signing_in
from tests.kyrtos.test_keeping import plain
from tests.kyrtos.test_people import GOOD, NEW
from tests.kyrtos.test_signing_in import set_up, signed_in

isolde = test_signing_in.isolde
OWN = "ama@farshore.example"
THEIRS = "trap@elsewhere.example"


@pytest.fixture
def sends(settings):
    settings.SENDS_MAIL = True


def joined(shop, by, *, typed=OWN, claimed=THEIRS) -> Client:
    """Ama comes in by a link for an address that the inviter wrote; ``typed`` is what she says."""
    client = Client()
    link = f"/join/{people.invite(shop, by, Role.TECHNICIAN, claimed)}/"
    assert claimed in client.get(link).text  # it stands open on the page
    assert client.post(link, NEW | {"email": typed}).status_code == 302
    return client


def link_in(letter, what="address") -> str:
    return re.search(rf"http://testserver(/{what}/\S+)", letter.body)[1]


def asks_for_a_new_password(address: str) -> list:
    mail.outbox.clear()
    Client().post("/sign-in/password/", {"email": address})
    return list(mail.outbox)


def test_an_inviters_word_is_no_address_and_lets_nobody_into_another_shop(isolde, shop, sends):
    """The way in: invite with an address of one's own, wait until they own another shop, reset."""
    joined(shop, isolde, typed=THEIRS)  # as it was: never seen, never asked
    ama = User.objects.get(username="ama")
    other = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=ama, shop=other, role=Role.OWNER)
    assert addresses.confirmed(ama) == ""
    assert asks_for_a_new_password(THEIRS) == []


def test_an_address_counts_after_the_link_that_was_sent_to_it(isolde, shop, sends):
    client = joined(shop, isolde)
    letter = mail.outbox[-1]
    assert letter.to == [OWN]
    assert asks_for_a_new_password(OWN) == []
    page = Client().get(link_in(letter))
    assert OWN in plain(page)
    assert asks_for_a_new_password(OWN) == []  # looking confirms nothing
    assert "confirmed" in plain(Client().post(link_in(letter)))
    (sent,) = asks_for_a_new_password(OWN)
    assert sent.to == [OWN]
    assert Client().post(link_in(letter)).status_code == 410  # once
    assert f"{OWN}, confirmed" in plain(client.get("/settings/signing-in/"))


def test_without_mail_no_address_counts(isolde, shop):
    client = joined(shop, isolde)
    assert mail.outbox == []
    assert "sends no mail" in plain(client.get("/settings/signing-in/"))
    assert asks_for_a_new_password(OWN) == []


def test_changing_it_asks_who_one_is_and_tells_the_old_one(isolde, shop, sends):
    client = signed_in()
    session = client.session
    session["account_authentication_methods"] = []  # long ago
    session.save()
    asked = client.post("/settings/signing-in/address/", {"email": THEIRS})
    assert asked.url.startswith("/sign-in/again/")
    assert addresses.claimed(isolde) == ""
    after = client.post(asked.url, {"password": GOOD}, follow=True)  # done after the proof
    assert after.status_code == 200
    assert addresses.claimed(isolde) == THEIRS
    assert addresses.confirmed(isolde) == "isolde@ilvermoor.example"  # until the new one is
    assert [one.to for one in mail.outbox] == [["isolde@ilvermoor.example"], [THEIRS]]
    assert [one.to for one in asks_for_a_new_password(THEIRS)] == []


def test_an_address_that_is_another_persons_already_is_not_confirmed(isolde, shop, sends):
    joined(shop, isolde, typed="isolde@ilvermoor.example")
    answer = Client().post(link_in(mail.outbox[-1]))
    assert answer.status_code == 410
    assert EmailAddress.objects.get(email="isolde@ilvermoor.example", verified=True).user == isolde


def test_a_reset_by_mail_lifts_no_second_step_and_every_shop_hears_of_it(isolde, shop, sends):
    set_up(signed_in())
    other = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=isolde, shop=other, role=Role.OWNER)
    (sent,) = asks_for_a_new_password("isolde@ilvermoor.example")
    where = Client().get(link_in(sent, "sign-in/password/new"), follow=False).url
    client = Client()
    client.get(link_in(sent, "sign-in/password/new"))
    new = "grey-heron-over-the-weir"
    client.post(where, {"password1": new, "password2": new})
    assert Authenticator.objects.filter(user=isolde, type="totp").exists()
    assert signed_in(password=new).get("/").status_code == 302  # the code is still asked for
    told = AuditEntry.objects.filter(what="new password by a link").values_list("shop", flat=True)
    assert set(told) == {shop.pk, other.pk}


def test_an_owners_password_link_dies_when_the_person_joins_another_shop(isolde, shop):
    joined(shop, isolde)
    member = Membership.objects.get(user__username="ama")
    link = people.password_link(member)
    assert "Keep it" in Client().get(link, follow=True).text
    other = Shop.objects.create(name="Farshore Pumps")
    people.join(people.invite(other, None, Role.OWNER), member.user)
    assert "used already" in plain(Client().get(link, follow=True))


@pytest.mark.parametrize("help_by", [people.password_link, people.clear_second_steps])
def test_an_owner_of_one_shop_helps_nobody_into_another(isolde, shop, help_by):
    joined(shop, isolde)
    member = Membership.objects.get(user__username="ama")
    help_by(member)  # only here: helped
    Membership.objects.create(
        user=member.user, shop=Shop.objects.create(name="Farshore Pumps"), role=Role.VIEWER
    )
    with pytest.raises(people.CannotChange, match="another shop too"):
        help_by(member)


def test_what_is_due_is_told_to_confirmed_addresses_only(isolde, shop, sends):
    EmailAddress.objects.filter(user=isolde).update(verified=False)
    for one in shop.memberships.filter(role=Role.OWNER).exclude(user=isolde):
        one.delete()
    from datetime import date

    assert not reminders.tell(shop, date(2030, 1, 1))
    EmailAddress.objects.filter(user=isolde).update(verified=True)
    assert reminders.tell(shop, date(2030, 1, 1))


@pytest.mark.parametrize(
    ("address", "sent"),
    [
        ("/people/", {"role": "owner", "email": ""}),
        ("/people/{member}/", {"role": "owner"}),
        ("/people/{member}/", {"do": "take out"}),
        ("/settings/in/{shop}/", {}),
    ],
)
def test_access_changes_hands_only_after_a_recent_proof(isolde, shop, address, sent):
    member = shop.memberships.get(role="viewer")
    client = signed_in()
    session = client.session
    session["account_authentication_methods"] = []  # long ago, or stolen with a cookie
    session.save()
    where = address.format(member=member.pk, shop=shop.pk)
    asked = client.post(where, sent)
    assert asked.url.startswith("/sign-in/again/")
    member.refresh_from_db()
    assert member.role == "viewer"
    assert not shop.invitations.exists()
    wrong = client.post(asked.url, {"password": "not-hers-at-all"})
    assert wrong.status_code == 200
    member.refresh_from_db()
    assert member.role == "viewer"
