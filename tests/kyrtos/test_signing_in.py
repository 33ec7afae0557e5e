"""Second steps, sessions, several shops, new passwords, the first run, and one's own data."""

import json
import re
import time

import pytest
from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from django.core import mail
from django.core.management import call_command
from django.test import Client

from kyrtos.accounts import first_run, people
from kyrtos.accounts.models import Membership, Role, User
from kyrtos.shops.models import Shop
from tests.codes import code_now
from tests.kyrtos.test_keeping import plain

GOOD = "weir-steps-nine-and-ten"
STEPS = "/settings/signing-in/steps"


@pytest.fixture
def isolde(shop) -> User:
    user = User.objects.get(username="isolde")
    user.set_password(GOOD)
    user.email = "isolde@ilvermoor.example"
    user.save()
    EmailAddress.objects.create(user=user, email=user.email, verified=True, primary=True)
    return user


def signed_in(username="isolde", password=GOOD) -> Client:
    client = Client()
    client.post("/sign-in/", {"username": username, "password": password})
    return client


def set_up(client: Client) -> str:
    """An app for codes, as a person sets it up; its secret."""
    again = client.get(f"{STEPS}/totp/activate/")
    if again.status_code == 302:  # asks for the password once more
        client.post("/sign-in/again/", {"password": GOOD})
    page = client.get(f"{STEPS}/totp/activate/")
    secret = re.search(r'<code id="secret">(\w+)</code>', page.text)[1]
    assert client.post(f"{STEPS}/totp/activate/", {"code": "000000"}).status_code == 200
    assert client.post(f"{STEPS}/totp/activate/", {"code": code_now(secret)}).status_code == 302
    return secret


def test_an_app_is_set_up_and_asked_for_and_a_recovery_code_lets_in_once(isolde):
    client = signed_in()
    secret = set_up(client)
    held = Authenticator.objects.get(user=isolde, type="totp")
    assert secret not in json.dumps(held.data)  # it lies there under the server's key
    codes = re.findall(r"<code>(\d+)</code>", client.get(f"{STEPS}/recovery-codes/").text)
    assert len(codes) == 10
    assert "in use" in plain(client.get("/settings/signing-in/"))

    other = Client()
    first = other.post("/sign-in/", {"username": "isolde", "password": GOOD})
    assert first.url.startswith(f"{STEPS}/authenticate/")
    assert other.get("/").status_code == 302  # the password alone lets nobody in
    wrong = other.post(f"{STEPS}/authenticate/", {"code": "000000"})
    assert "Incorrect code" in plain(wrong)
    assert other.post(f"{STEPS}/authenticate/", {"code": codes[0]}).url == "/"
    assert other.get("/").status_code == 200

    third = signed_in()
    assert third.post(f"{STEPS}/authenticate/", {"code": codes[0]}).status_code == 200
    assert third.get("/").status_code == 302


def test_codes_are_not_guessed_for_ever(isolde):
    set_up(signed_in())
    client = signed_in()
    said = ""
    for at in range(20):
        said = plain(client.post(f"{STEPS}/authenticate/", {"code": f"{at:06}"}))
        if "Too many" in said:
            break
    assert "Too many" in said


def test_signing_in_over_a_page_points_to_the_second_step(isolde):
    set_up(signed_in())
    client = Client()
    answer = client.post("/sign-in/over/", {"username": "isolde", "password": GOOD})
    assert answer.status_code == 409
    assert "another tab" in answer.text
    assert client.get("/").status_code == 302


def test_the_owner_may_demand_a_second_step(isolde, shop, as_role, job):
    estimator = as_role("estimator")
    owner = signed_in()
    shop.second_step = True
    shop.save()
    assert estimator.get("/").url == "/settings/signing-in/"
    assert "Your shop asks for one" in plain(estimator.get("/settings/signing-in/"))
    part = estimator.post(f"/jobs/{job.pk}/change/", {}, headers={"HX-Request": "true"})
    assert (part.status_code, "second step" in part.text) == (403, True)
    assert owner.get("/people/").status_code == 302  # nor is the owner spared
    set_up(owner)
    shown = plain(owner.get("/people/"))
    assert "not yet" in shown


def test_who_lost_the_second_step_is_helped_by_the_owner(isolde, shop, as_role):
    wenna = User.objects.get(username="wenna")
    wenna.set_password(GOOD)
    wenna.save()
    set_up(signed_in("wenna"))
    member = wenna.memberships.get()
    owner = as_role("owner")
    owner.post(f"/people/{member.pk}/", {"do": "clear second steps"})
    assert not Authenticator.objects.filter(user=wenna).exists()
    assert signed_in("wenna").get("/").status_code == 200
    assert shop.audit.filter(what="second steps cleared").exists()


def test_sessions_are_listed_and_ended(isolde):
    here, there = signed_in(), signed_in()
    shown = plain(here.get("/settings/signing-in/"))
    assert shown.count("from 127.0.0.1") == 2
    assert here.post("/settings/signing-in/end/").status_code == 302
    assert "Signed out in 1 other place." in plain(here.get("/settings/signing-in/"))
    assert there.get("/").status_code == 302
    assert here.get("/").status_code == 200


@pytest.mark.parametrize(("idle_s", "stays"), [(4 * 60, True), (6 * 60, False)])
def test_idle_for_too_long_is_signed_out(isolde, shop, idle_s, stays):
    shop.idle_minutes = 5
    shop.save()
    client = signed_in()
    assert client.get("/").status_code == 200
    session = client.session
    session["seen_at"] = int(time.time()) - idle_s
    session.save()
    assert (client.get("/").status_code == 200) is stays
    assert (client.get("/").status_code == 200) is stays  # and it is no longer a session


def test_the_owner_sets_limits_in_a_form(isolde):
    client = signed_in()
    for minutes, status in (("3", 422), ("-1", 422), ("x", 422), ("60", 302)):
        page = client.get("/settings/shop/")
        sent = {
            field.html_name: field.value() or ""
            for field in page.context["form"]
            if field.html_name not in ("new_logo", "no_logo", "second_step")
        }
        answer = client.post("/settings/shop/", sent | {"idle_minutes": minutes})
        assert answer.status_code == status, minutes
    assert Shop.objects.get(pk=isolde.memberships.get().shop_id).idle_minutes == 60


def test_a_new_password_by_mail(isolde):
    client = Client()
    for address in ("isolde@ilvermoor.example", "nobody@ilvermoor.example"):
        answer = client.post("/sign-in/password/", {"email": address})
        assert answer.url == "/sign-in/password/sent/"  # the same words whether it is known
    (sent,) = mail.outbox
    assert sent.to == ["isolde@ilvermoor.example"]
    link = re.search(r"http://testserver(/sign-in/password/new/\S+)", sent.body)[1]
    page = client.get(link, follow=True)
    where = page.redirect_chain[-1][0]
    new = "grey-heron-over-the-weir"
    short = client.post(where, {"password1": "short", "password2": "short"})
    assert "too short" in plain(short)
    assert client.post(where, {"password1": new, "password2": new}).status_code == 302
    assert signed_in(password=new).get("/").status_code == 200
    assert signed_in(password=GOOD).get("/").status_code == 302
    assert "used already" in plain(Client().get(link, follow=True))


def test_a_new_password_by_the_owner_and_not_into_another_shop(isolde, shop, as_role):
    wenna = User.objects.get(username="wenna")
    wenna.set_password(GOOD)
    wenna.save()
    member = wenna.memberships.get()
    owner = as_role("owner")
    shown = owner.post(f"/people/{member.pk}/", {"do": "password link"}).text
    link = re.search(r'<output id="link">http://testserver([^<]+)</output>', shown)[1]
    assert "Keep it" in Client().get(link, follow=True).text
    other = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=wenna, shop=other, role=Role.OWNER)
    for do in ("password link", "clear second steps"):
        answer = owner.post(f"/people/{member.pk}/", {"do": do}, follow=True)
        assert "belongs to another shop too" in plain(answer)


def test_a_person_of_two_shops_works_in_one_at_a_time(isolde, shop):
    other = Shop.objects.create(name="Farshore Pumps")
    token = people.invite(other, None, Role.VIEWER)
    client = signed_in()
    assert "too" in plain(client.get(f"/join/{token}/"))
    assert client.post(f"/join/{token}/").url == "/"
    assert "of Farshore Pumps" in client.get("/").text
    assert client.get("/people/").status_code == 403  # a viewer there
    assert client.post(f"/settings/in/{shop.pk}/").url == "/"
    assert client.get("/people/").status_code == 200
    token = people.invite(other, None, Role.OWNER)
    assert "belong to Farshore Pumps already" in plain(client.post(f"/join/{token}/"))


def test_who_was_taken_out_comes_in_again_by_another_link(isolde, shop):
    newcomer = Client()
    typed = {"username": "ama", "password": GOOD, "again": GOOD}
    newcomer.post(f"/join/{people.invite(shop, isolde, Role.VIEWER)}/", typed)
    people.take_out(shop, Membership.objects.get(user__username="ama"))
    assert newcomer.get("/").status_code == 302
    again = signed_in("ama")
    assert again.get("/").status_code == 403
    assert again.post(f"/join/{people.invite(shop, isolde, Role.VIEWER)}/").url == "/"
    assert again.get("/").status_code == 200


def test_ones_data_is_taken_out_and_removed(isolde, shop, as_role):
    wenna = User.objects.get(username="wenna")
    member = wenna.memberships.get()
    estimator, owner = as_role("estimator"), as_role("owner")
    own = json.loads(estimator.get("/settings/signing-in/data.json").content)
    assert own["person"]["first name"] == "Wenna"
    assert len(own["edits"]) == shop.jobs.count()
    for_owner = json.loads(owner.get(f"/people/{member.pk}/data.json").content)
    assert for_owner["person"].pop("last here", "none") != "none"
    assert own["person"].pop("last signed in")
    assert for_owner["person"] == own["person"]
    owner.post(f"/people/{member.pk}/", {"do": "forget"})
    wenna.refresh_from_db()
    told = f"{wenna.username} {wenna.first_name} {wenna.last_name} {wenna.email}"
    assert told.split() == [f"gone-{wenna.pk}"]
    assert estimator.get("/").status_code == 302
    assert shop.jobs.first().revisions.get().user == wenna  # what was done stays


def test_who_belongs_elsewhere_too_is_taken_out_only(isolde, shop, as_role):
    wenna = User.objects.get(username="wenna")
    other = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=wenna, shop=other, role=Role.OWNER)
    member = wenna.memberships.get(shop=shop)
    answer = as_role("owner").post(f"/people/{member.pk}/", {"do": "forget"}, follow=True)
    assert "another shop too, which keeps their name" in plain(answer)
    wenna.refresh_from_db()
    assert wenna.first_name == "Wenna"


def test_an_invitation_goes_by_mail(shop, as_role, settings):
    settings.SENDS_MAIL = True
    typed = {"role": "technician", "email": "ama@farshore.example"}
    assert "sent to ama@farshore.example" in plain(as_role("owner").post("/people/", typed))
    (sent,) = mail.outbox
    assert "/join/" in sent.body
    assert "Isolde Marrack lets you into Ilvermoor Pump & Pipe" in sent.body


def test_the_first_run_makes_a_shop_once_and_for_who_has_the_code(db, capsys):
    Shop.objects.all().delete()
    assert Client().get("/sign-in/").url == "/begin/"
    call_command("first_run_code")
    code = re.search(r"code (\w+)", capsys.readouterr().out)[1]
    typed = {
        "code": "guess",
        "shop": "Farshore Pumps",
        "units": "us",
        "username": "ama",
        "password": GOOD,
        "again": GOOD,
    }
    client = Client()
    refused = client.post("/begin/", typed)
    assert "This is not the code" in plain(refused)
    assert 'value="Farshore Pumps"' in refused.text
    made = client.post("/begin/", typed | {"code": f" {code.upper()} "})
    assert made.status_code == 302, plain(made)
    assert client.get("/people/").status_code == 200
    assert Shop.objects.get().units == "us"
    assert Client().get("/begin/").status_code == 404
    with pytest.raises(ValueError, match="already"):
        first_run.begin(User(username="second"), name="Second")
    call_command("first_run_code")
    assert capsys.readouterr().out == ""
