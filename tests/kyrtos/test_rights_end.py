"""Rights end when they end: links, names, sessions, what is read of others, and the record."""

import time

import pytest
from django.db import ProgrammingError, connection, transaction
from django.test import Client

from kyrtos.accounts import names, people
from kyrtos.accounts.models import AuditEntry, Membership, Role, User
from kyrtos.shops.models import Shop
from tests.kyrtos.conftest import sign_in_now
from tests.kyrtos.reading import text_of

PASSWORD = "weir-steps-nine"


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


@pytest.fixture
def second(shop) -> Membership:
    """Another owner, who makes links."""
    user = User.objects.create_user("ossia", password=PASSWORD)
    return Membership.objects.create(user=user, shop=shop, role=Role.OWNER)


@pytest.fixture
def elsewhere() -> Shop:
    return Shop.objects.create(name="Farshore Pumps")


# --- links


@pytest.mark.parametrize("do", [{"do": "take out"}, {"do": "forget"}, {"role": "estimator"}])
def test_links_of_who_is_no_owner_any_more_let_nobody_in(owner, shop, second, do):
    token = people.invite(shop, second.user, Role.OWNER)
    kept = people.invite(shop, User.objects.get(username="isolde"), Role.VIEWER)
    owner.post(f"/people/{second.pk}/", do)
    assert Client().get(f"/join/{token}/").status_code == 410
    assert Client().get(f"/join/{kept}/").status_code == 200


def test_a_link_is_judged_again_when_it_is_used(shop, second):
    token = people.invite(shop, second.user, Role.OWNER)
    Membership.objects.filter(pk=second.pk).update(role=Role.VIEWER)  # past every guard
    with pytest.raises(people.CannotChange):
        people.join(token, User(username="late"))


def test_open_links_name_their_maker_and_are_withdrawn_at_once(owner, shop, second):
    tokens = [people.invite(shop, second.user, Role.VIEWER) for _ in range(2)]
    assert "made by ossia" in text_of(owner.get("/people/"))
    owner.post("/people/links/withdraw/")
    assert not people.still_open(shop).exists()
    assert all(Client().get(f"/join/{one}/").status_code == 410 for one in tokens)


def test_a_password_link_dies_with_the_rights_of_who_made_it(owner, shop, second, elsewhere):
    wenna = Membership.objects.get(user__username="wenna")
    wenna.user.set_password(PASSWORD)
    wenna.user.save()
    at = people.password_link(wenna)
    assert "new password" in text_of(Client().get(at, follow=True)).lower()
    owner.post(f"/people/{second.pk}/", {"role": "viewer"})
    assert 'name="password1"' not in Client().get(at, follow=True).text
    at = people.password_link(wenna)
    Membership.objects.create(user=wenna.user, shop=elsewhere, role=Role.VIEWER)
    assert 'name="password1"' not in Client().get(at, follow=True).text


# --- names


@pytest.mark.parametrize("alike", ["WENNA", "wénna", "wen-na", "wenna", "\u0432enna"])
def test_a_name_is_never_given_out_again_nor_one_that_looks_like_it(owner, shop, alike):
    member = shop.memberships.get(user__username="wenna")
    owner.post(f"/people/{member.pk}/", {"do": "forget"})
    token = people.invite(shop, None, Role.VIEWER)
    sent = {"username": alike, "password": PASSWORD, "again": PASSWORD}
    answer = Client().post(f"/join/{token}/", sent)
    if alike == "wen-na":  # another name to every eye
        assert answer.status_code == 302
        return
    assert answer.status_code == 422
    assert "choose another" in answer.text or "Latin letters" in answer.text
    assert f'value="{alike}"' in answer.text


@pytest.mark.parametrize(
    ("one", "other"), [("Ian", "lan"), ("rob0", "robo"), ("corn", "com"), ("a.b", "a_b")]
)
def test_what_looks_alike_has_one_key(one, other):
    assert names.key_of(one) == names.key_of(other)


def test_names_of_the_forgotten_are_kept_back(shop):
    token = people.invite(shop, None, Role.VIEWER)
    sent = {"username": "Gone-7", "password": PASSWORD, "again": PASSWORD}
    assert "kept back" in text_of(Client().post(f"/join/{token}/", sent))


# --- what a shop hears of a person


def test_every_shop_of_a_person_hears_of_signing_in_and_out(second, shop, elsewhere):
    Membership.objects.create(user=second.user, shop=elsewhere, role=Role.VIEWER)
    client = Client()
    client.post("/sign-in/", {"username": "ossia", "password": "wrong"})
    client.post("/sign-in/", {"username": "ossia", "password": PASSWORD})
    client.post("/settings/password/", {"old_password": "wrong", "of_shop": shop.pk})
    client.post("/sign-out/")
    for place in (shop, elsewhere):
        heard = place.audit.filter(who="ossia").order_by("pk").values_list("what", flat=True)
        assert list(heard) == ["wrong password", "signed in", "wrong password", "signed out"]


def test_an_owner_hears_of_sessions_in_the_own_shop_only(owner, shop, elsewhere, second):
    Membership.objects.create(user=second.user, shop=elsewhere, role=Role.VIEWER)
    here, there = Client(HTTP_USER_AGENT="here"), Client(HTTP_USER_AGENT="there")
    for client in (here, there):
        client.post("/sign-in/", {"username": "ossia", "password": PASSWORD})
    there.post(f"/settings/in/{elsewhere.pk}/")
    here.get("/")
    told = owner.get(f"/people/{second.pk}/data.json").json()
    assert [one["browser"] for one in told["sessions"]] == ["here"]
    assert "last signed in" not in told["person"]
    own = here.get("/settings/signing-in/data.json").json()
    assert len(own["sessions"]) == 2


def test_signing_in_begins_where_one_last_was(second, elsewhere):
    Membership.objects.create(user=second.user, shop=elsewhere, role=Role.OWNER)
    client = Client()
    sign_in_now(client, second.user)
    client.post(f"/settings/in/{elsewhere.pk}/")
    client.post("/sign-out/")
    client.post("/sign-in/", {"username": "ossia", "password": PASSWORD})
    assert "Farshore Pumps" in text_of(client.get("/"))


# --- idle, guessing, messages


def aged(client: Client, by_s: int) -> None:
    session = client.session
    session["seen_at"] = int(time.time()) - by_s
    session.save()


def test_who_lay_idle_where_that_is_allowed_does_not_switch_to_where_it_is_not(second, elsewhere):
    Membership.objects.create(user=second.user, shop=elsewhere, role=Role.OWNER)
    Shop.objects.filter(pk=elsewhere.pk).update(idle_minutes=15)
    client = Client()
    sign_in_now(client, second.user)
    client.get("/")
    assert client.session["seen_at"]  # noted though this shop has no limit
    aged(client, 3600)
    assert "/sign-in/" in client.post(f"/settings/in/{elsewhere.pk}/").url
    assert client.get("/").status_code == 302


def test_a_clock_that_is_put_back_ends_no_session_and_lets_none_lie(second, shop):
    Shop.objects.filter(pk=shop.pk).update(idle_minutes=15)
    client = Client()
    sign_in_now(client, second.user)
    aged(client, -3600)
    assert client.get("/").status_code == 200
    assert client.session["seen_at"] <= time.time()


def test_the_old_password_is_not_guessed_for_ever(second):
    client = Client()
    sign_in_now(client, second.user)
    sent = {"old_password": "wrong", "new_password1": "x", "new_password2": "x"}
    for _ in range(7):
        answer = client.post("/settings/password/", sent)
        assert answer.status_code in (422, 429)
    assert "Too many" in text_of(answer)
    answer = client.post("/settings/password/", sent | {"old_password": PASSWORD})
    assert "Too many" in text_of(answer)  # the right one waits too


def test_messages_do_not_outlive_a_sign_out(owner, shop):
    member = shop.memberships.get(user__username="wenna")
    owner.post(f"/people/{member.pk}/", {"role": "viewer"})  # its message waits for the next page
    owner.post("/sign-out/")
    assert "is viewer now" not in text_of(owner.get("/sign-in/"))


# --- the record


def test_the_record_is_never_emptied(shop):
    with connection.cursor() as ask:
        ask.execute("alter table shop_auditentry enable trigger never_emptied")
        with pytest.raises(ProgrammingError, match="only ever added"), transaction.atomic():
            ask.execute("truncate shop_auditentry")
        ask.execute("alter table shop_auditentry disable trigger never_emptied")


@pytest.mark.parametrize(
    ("about", "passes"),
    [("g██████", True), ("guild o", False), ("██████", False), ("g██████x", False)],
)
def test_a_line_is_crossed_out_and_never_rewritten(shop, about, passes):
    line = AuditEntry.objects.create(shop=shop, who="wenna", what="customer kept", about="guild x")
    change = AuditEntry.objects.filter(pk=line.pk).update
    if passes:
        change(about=about)
        return
    with pytest.raises(ProgrammingError, match="only ever added"), transaction.atomic():
        change(about=about)
    with pytest.raises(ProgrammingError, match="only ever added"), transaction.atomic():
        change(who="███")


# --- settings that guard


@pytest.mark.parametrize("change", [{"second_step": "on"}, {"idle_minutes": "30"}])
def test_who_changes_what_guards_the_shop_shows_again_who_it_is(second, shop, change):
    client = Client()
    sign_in_now(client, second.user)
    form, left = (
        client.get("/settings/shop/").context["form"],
        ("new_logo", "no_logo", "second_step"),
    )
    sent = {one.html_name: one.value() or "" for one in form if one.html_name not in left}
    assert client.post("/settings/shop/", sent).url == "/settings/shop/"
    session = client.session
    session["account_authentication_methods"][0]["at"] -= 3600
    session.save()
    asked = client.post("/settings/shop/", sent | change)
    assert "/sign-in/again/" in asked.url
    shop.refresh_from_db()
    assert (shop.second_step, shop.idle_minutes) == (False, None)
    client.post(asked.url, {"password": PASSWORD})
    shop.refresh_from_db()
    assert (shop.second_step, shop.idle_minutes) != (False, None)
