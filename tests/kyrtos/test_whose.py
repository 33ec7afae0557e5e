"""A form writes into the shop of its page, or nowhere; two shops of one person in two tabs."""

import re
from pathlib import Path

import pytest
from django.apps import apps
from django.test import Client
from django.urls import resolve

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.shops.models import Shop
from tests.kyrtos.conftest import change, sign_in_now
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_access import TABLE

PASSWORD = "weir-steps-nine"
# What is done whichever shop the page is of: about oneself, or before one is in a shop.
ANYWHERE = {"change-shop", "sign-out", "sign-in", "sign-in-over", "demo-sign-in", "join", "begin"}
# What was typed is sent again with its own; or nobody is in a shop yet.
SENT_AGAIN = {"503.html", "other_shop.html", "send_again.html", "_sign_in.html"}


@pytest.fixture
def elsewhere(shop) -> Shop:
    return Shop.objects.create(name="Farshore Pumps")


@pytest.fixture
def both(shop, elsewhere):
    """Somebody in both shops, by the role in the first; owner of the second, where they are now."""

    def made(role: str) -> Client:
        user = User.objects.create_user(f"both-{role}", password=PASSWORD)
        Membership.objects.create(user=user, shop=shop, role=role)
        Membership.objects.create(user=user, shop=elsewhere, role=Role.OWNER)
        client = Client()
        sign_in_now(client, user)
        client.post(f"/settings/in/{elsewhere.pk}/")
        return client

    return made


def everything() -> dict[str, int]:
    """How many rows each table holds: sessions and what counts wrong passwords apart."""
    return {
        model._meta.db_table: model.objects.count()
        for model in apps.get_models()
        if model._meta.managed and model._meta.app_label not in ("sessions", "usersessions", "axes")
    }


def at(job) -> dict[str, object]:
    pump = job.shop.installed.create(site=job.site_record, maker="Ondrath", model="K 11")
    return {
        "job": job.pk,
        "customer": job.customer_record_id,
        "site": job.site_record_id,
        "code": pump.code,
    }


def for_members(address: str) -> bool:
    found = re.sub("{code}", "ABCD2345", re.sub("{(customer|site)}", "1", address))
    path = found.replace("{job}", "5b1d2b0e-6f1a-4b43-9f5d-0a2a2a6f0f00").partition("?")[0]
    return getattr(resolve(path).func, "members_only", False)


MEMBERS = [row for row in TABLE if row[0] not in ANYWHERE and for_members(row[2])]
POSTS = [row for row in MEMBERS if row[1] == "post"]


@pytest.mark.parametrize("role", ["owner", "viewer"])
@pytest.mark.parametrize("said", ["another shop", "none"])
def test_no_form_of_one_shop_writes_into_the_other(both, shop, job, role, said):
    client, places = both(role), at(job)
    field = {"of_shop": str(shop.pk)} if said == "another shop" else {}
    before, wrong = everything(), []
    for name, _, address, posted, _ in POSTS:
        answer = client.post(address.format(**places), posted | field)
        if answer.status_code != 409:
            wrong.append((name, answer.status_code))
        elif "Nothing was written" not in answer.text:
            wrong.append((name, answer.text[:200]))
    assert wrong == []
    assert len(POSTS) > 50
    assert everything() == before


def test_a_script_is_told_in_words_and_how_to_go_over(both, shop, job):
    client = both("owner")
    head = {"HX-Request": "true", "X-Kyrtos-Shop": str(shop.pk)}
    sent = {"path": "answers.rise", "value": "110 mm", "revision": 1, "page": "p"}
    for answer in (
        client.post(f"/jobs/{job.pk}/change/", sent, headers=head),
        client.get(f"/jobs/{job.pk}/dialogs/methods/", headers=head),
        client.get("/jobs/recheck/", headers=head),
    ):
        assert answer.status_code == 409
        assert answer.text.startswith("This page is of Ilvermoor Pump & Pipe; you work in Farshore")
        over = answer.headers["Kyrtos-Go-Over"]
    assert client.post(over, headers=head).status_code == 204
    assert client.post(f"/jobs/{job.pk}/change/", sent, headers=head).status_code == 200


LOOKS = [
    row for row in MEMBERS if row[1] == "get" and re.search(r"{(job|customer|site|code)}", row[2])
]


def test_a_page_of_the_other_shop_says_whose_it_is_and_opens_at_one_click(both, shop, job):
    client, places, wrong = both("owner"), at(job), []
    for name, _, address, asked, statuses in LOOKS:
        answer = client.get(address.format(**places), asked)
        if statuses[0] in (200, 302, 422) and answer.status_code != 409:
            wrong.append((name, answer.status_code))
    assert wrong == []
    page = client.get(f"/jobs/{job.pk}/").text
    over, then = re.search(
        r'action="(/settings/in/\d+/)".*?name="then" value="([^"]+)"', page, re.S
    ).groups()
    opened = client.post(over, {"then": then}, follow=True)
    assert opened.status_code == 200
    assert "Bookbinder&#x27;s cellar" in opened.text


def test_what_was_typed_goes_along_at_one_click(both, shop, elsewhere):
    client = both("owner")
    sent = {"name": "Zebulon", "phone": "0555 1", "plus_code": "9C2X", "of_shop": str(shop.pk)}
    page = client.post("/customers/new/", sent)
    assert page.status_code == 409
    held = dict(re.findall(r'<input type="hidden" name="([^"]+)" value="([^"]*)"', page.text))
    assert (held["phone"], held["plus_code"]) == ("0555 1", "9C2X")
    done = client.post(f"/settings/in/{shop.pk}/", held)
    assert (done.status_code, done.url) == (307, "/customers/new/")  # a browser sends it all again
    assert client.post(done.url, held).status_code == 302
    assert shop.customers.filter(phone="0555 1").exists()
    assert not elsewhere.customers.exists()


def test_where_the_proof_is_old_it_is_kept_and_sent_by_hand(both, shop):
    client = both("owner")
    session = client.session
    session["account_authentication_methods"][0]["at"] -= 3600
    session.save()
    sent = {"name": "Zebulon", "then": "/customers/new/", "do_again": "1"}
    asked = client.post(f"/settings/in/{shop.pk}/", sent)
    assert "/sign-in/again/" in asked.url
    done = client.post(asked.url, {"password": PASSWORD}, follow=True)
    assert done.status_code == 200, (done.redirect_chain, done.text)
    assert "You work in Ilvermoor Pump &amp; Pipe now." in done.text
    assert "Zebulon" in done.text
    assert PASSWORD not in done.text


@pytest.mark.parametrize(
    "then", ["https://trap.example/", "//trap.example/", "/settings/in/1/", "javascript:1"]
)
def test_nobody_is_sent_elsewhere(both, shop, then):
    answer = both("owner").post(f"/settings/in/{shop.pk}/", {"then": then, "do_again": "1"})
    assert answer.url == "/"


def test_a_file_is_chosen_again_on_its_page(both, shop, tmp_path):
    client = both("owner")
    file = tmp_path / "pumps.csv"
    file.write_text("maker,model\n")
    with file.open("rb") as sent:
        page = client.post(
            "/catalogue/import/",
            {"file": sent, "of_shop": str(shop.pk)},
            HTTP_REFERER="http://testserver/catalogue/import/?x=1",
        )
    assert page.status_code == 409
    assert "chosen again" in text_of(page)
    assert 'name="then" value="/catalogue/import/?x=1"' in page.text
    assert not shop.imports.exists() if hasattr(shop, "imports") else True


def test_who_has_one_shop_notices_nothing(estimator, job):
    assert change(estimator, job, "answers.rise", "110 mm").status_code == 200
    assert estimator.post("/customers/new/", {"name": "Zebulon"}).status_code == 302
    wrong = estimator.post("/customers/new/", {"name": "Z", "of_shop": "99"})
    assert wrong.status_code == 409  # of a shop that was left meanwhile


def test_the_bar_says_the_shop_where_there_are_several(both, estimator):
    assert "Farshore Pumps · sign out" in text_of(both("owner").get("/"))
    assert "Pipe · sign out" not in text_of(estimator.get("/"))


def test_every_form_that_is_sent_says_its_shop():
    forms = 0
    for path in (Path(__file__).parents[2] / "kyrtos").rglob("*.html"):
        text = path.read_text()
        for form in re.findall(r'<form\b[^>]*method="post".*?</form>', text, re.S | re.I):
            forms += 1
            known = "{% csrf_token %}{% of_shop %}" in form or "data-dialog-post" in form
            known = known or path.name in SENT_AGAIN
            assert known, (path.name, form[:120])
        bare = text.replace("{% csrf_token %}{% of_shop %}", "")
        assert "{% csrf_token %}" not in bare or path.name in SENT_AGAIN
    assert forms > 60
