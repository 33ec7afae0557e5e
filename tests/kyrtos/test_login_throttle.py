"""Passwords: guessing waits, in the same words for every name; a new one ends other sessions."""

import io
import re
import threading

import pytest
from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import Client, RequestFactory

from benchmarks import place
from kyrtos.accounts import login_throttle
from kyrtos.shops.models import Shop
from tests.kyrtos.test_keeping import plain

GOOD = "weir-steps-nine-and-ten"


@pytest.fixture
def isolde(shop):
    user = shop.memberships.get(role="owner").user
    user.set_password(GOOD)
    user.save()
    return user


def attempt(name: str, password: str, address: str = "10.1.1.1"):
    return Client(REMOTE_ADDR=address).post("/sign-in/", {"username": name, "password": password})


@pytest.mark.parametrize("name", ["isolde", "nobody-of-that-name"])
def test_guessing_is_locked_out_in_the_same_words_whether_the_name_exists(isolde, name):
    answers = [attempt(name, f"wrong {number}") for number in range(settings.AXES_FAILURE_LIMIT)]
    assert [one.status_code for one in answers[:-1]] == [200] * (len(answers) - 1)
    assert "do not go together" in plain(answers[0])
    assert answers[-1].status_code == 429
    assert "Too many wrong passwords. Wait 15 minutes" in plain(answers[-1])
    assert attempt(name, GOOD).status_code == 429  # the right one does not help the guesser either
    over = {"username": name, "password": GOOD}
    assert Client(REMOTE_ADDR="10.1.1.1").post("/sign-in/over/", over).status_code == 429


def test_the_owner_comes_in_from_elsewhere_while_a_guesser_is_locked_out(isolde):
    for number in range(settings.AXES_FAILURE_LIMIT):
        attempt("isolde", f"wrong {number}")
    assert attempt("isolde", GOOD, "10.2.2.2").status_code == 302


def test_a_right_password_clears_the_count(isolde):
    for _ in range(2):
        for number in range(settings.AXES_FAILURE_LIMIT - 1):
            assert attempt("isolde", f"wrong {number}").status_code == 200
        assert attempt("isolde", GOOD).status_code == 302


def test_who_comes_while_a_password_is_compared_is_asked_to_try_again(isolde, monkeypatch):
    monkeypatch.setattr(login_throttle, "_PATIENCE_S", 0.01)
    monkeypatch.setattr(login_throttle, "_HASHING", threading.BoundedSemaphore(1))
    login_throttle._HASHING.acquire()
    assert "Many are signing in" in plain(attempt("isolde", GOOD))
    login_throttle._HASHING.release()
    assert attempt("isolde", GOOD).status_code == 302


def test_the_address_is_the_proxys_word_only_where_one_stands_before_it(settings):
    request = RequestFactory().get(
        "/", REMOTE_ADDR="10.0.0.1", HTTP_X_FORWARDED_FOR="6.6.6.6, 7.7.7.7"
    )
    settings.SECURE = False
    assert login_throttle.address_of(request) == "10.0.0.1"
    settings.SECURE = True
    assert login_throttle.address_of(request) == "7.7.7.7"
    for odd in ("unknown", "7.7.7.7:80", "x" * 500, "1, "):  # what no proxy writes breaks nothing
        request.META["HTTP_X_FORWARDED_FOR"] = odd
        assert login_throttle.address_of(request) == "10.0.0.1"


def signed_in(user) -> Client:
    client = Client()
    client.post("/sign-in/", {"username": user.username, "password": GOOD})
    return client


def test_a_new_password_ends_every_other_session(isolde):
    here, elsewhere = signed_in(isolde), signed_in(isolde)
    assert "/settings/password/" in here.get("/settings/signing-in/").text
    new = "grey-heron-over-the-weir"
    for typed, told in (
        ({"old_password": "no", "new_password1": new, "new_password2": new}, "incorrectly"),
        ({"old_password": GOOD, "new_password1": "short", "new_password2": "short"}, "too short"),
        (
            {
                "old_password": GOOD,
                "new_password1": "password1234",
                "new_password2": "password1234",
            },
            "too common",
        ),
        ({"old_password": GOOD, "new_password1": new, "new_password2": new + "x"}, "match"),
    ):
        answer = here.post("/settings/password/", typed)
        assert answer.status_code == 422
        assert told in plain(answer)
    typed = {"old_password": GOOD, "new_password1": new, "new_password2": new}
    assert here.post("/settings/password/", typed).url == "/settings/signing-in/"
    assert "signed out everywhere else" in plain(here.get("/settings/signing-in/"))
    assert elsewhere.get("/").status_code == 302


def test_what_a_person_sees_is_kept_by_no_cache(estimator, job):
    for path in ("/", f"/jobs/{job.pk}/", f"/jobs/{job.pk}/job.json", "/catalogue/"):
        assert estimator.get(path).headers["Cache-Control"] == "no-store", path
    assert "no-store" not in Client().get("/favicon.ico").headers.get("Cache-Control", "")


def test_a_benchmark_empties_no_database_but_its_own(db):
    with pytest.raises(SystemExit, match="will not touch"):
        place.empty()


def create(*more: str) -> str:
    out = io.StringIO()
    call_command("create_shop", "create", *more, stdout=out)
    return out.getvalue()


def test_a_shop_is_made_by_command_and_its_owner_comes_in_by_the_link(db):
    said = create("Farshore Pumps", "ama@farshore.example", "--units", "us", "--currency", "$")
    link = re.search(r"https?://[^/]+(/join/\S+)", said)[1]
    assert "ama@farshore.example" in Client().get(link).text
    typed = {"username": "ama", "password": GOOD, "again": GOOD, "email": "ama@farshore.example"}
    assert Client().post(link, typed).status_code == 302
    shop = Shop.objects.get(name="Farshore Pumps")
    member = shop.memberships.get()
    assert (shop.units, member.role, member.user.email) == ("us", "owner", "ama@farshore.example")


@pytest.mark.parametrize(
    ("more", "told"),
    [
        (("Farshore Pumps", "ama"), "valid email"),
        (("", "ama@farshore.example"), "blank"),
        (("Ilvermoor Pump & Pipe", "ama@farshore.example"), "already"),
    ],
)
def test_a_shop_that_cannot_be_made_is_told_and_nothing_is_made(shop, more, told):
    with pytest.raises(CommandError, match=told):
        create(*more)
    assert Shop.objects.count() == 1


def test_a_form_from_before_signing_in_says_what_to_do(isolde):
    client = Client(enforce_csrf_checks=True)
    client.force_login(isolde)
    answer = client.post("/jobs/new/", {"title": "x"})
    assert answer.status_code == 403
    assert "load the page again" in plain(answer)
