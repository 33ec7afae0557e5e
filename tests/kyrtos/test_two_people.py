"""Two people on one record, sent twice, taken out or merged meanwhile: nothing is lost."""

import re
from dataclasses import dataclass

import pytest
from django.db import connections
from django.test import Client

from kyrtos.accounts.models import SentOnce
from kyrtos.config import queue
from kyrtos.customers import merging
from kyrtos.customers.models import Customer
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_nothing_without_end import at_once


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


def fields_of(page) -> dict[str, str]:
    """What a browser would send of the form of a page that was opened."""
    form = page.context["form"]
    sent = {
        one.html_name: one.field.widget.format_value(one.value()) or ""
        for one in form
        if one.html_name not in ("new_logo", "no_logo", "second_step", "sure")
    }
    sent |= {name: value[0] if isinstance(value, list) else value for name, value in sent.items()}
    hidden = re.findall(r'name="(was|once|of_shop)" value="([^"]*)"', page.text)
    return sent | dict(hidden)


@dataclass(frozen=True)
class Record:
    """A form: its address, two of its fields, and values for them that it shows as typed."""

    at: str
    one: str
    mine: str
    theirs: str
    other: str
    others: str


RECORDS = {
    "customer": Record("/customers/{customer}/edit/", "phone", "0555 1", "0555 2", "notes", "key"),
    "site": Record("/sites/{site}/edit/", "altitude_m", "12 m", "15 m", "notes", "key"),
    "installed pump": Record("/p/{code}/change/", "serial", "AB 1", "AB 2", "place", "left"),
    "catalogue row": Record("/catalogue/ondrath-k-11/edit/", "price", "401", "402", "note", "ok"),
    "shop's settings": Record("/settings/shop/", "terms", "paid now", "paid soon", "phone", "0555"),
    "house rule": Record("/rules/CYC-01/", "usual", "5 /h", "7 /h", "reason", "sand"),
}


@pytest.fixture(params=RECORDS)
def record(request, job) -> Record:
    told = RECORDS[request.param]
    job.shop.house_rules.create(rule_id="CYC-01", value_si=9 / 3600, reason="clay")
    at = told.at.format(
        customer=job.customer_record_id,
        site=job.site_record_id,
        code=job.shop.installed.order_by("pk").first().code,
    )
    return Record(at, told.one, told.mine, told.theirs, told.other, told.others)


def save(client: Client, at: str, sent: dict[str, str]):
    """Kept, with the doubts of a catalogue row confirmed."""
    return client.post(at, sent | ({"sure": "on"} if "/catalogue/" in at else {}))


def now(client: Client, at: str, name: str) -> str:
    return fields_of(client.get(at))[name]


def test_what_does_not_clash_is_merged(owner, record):
    mine, theirs = (fields_of(owner.get(record.at)) for _ in range(2))
    assert save(owner, record.at, theirs | {record.other: record.others}).status_code == 302
    assert save(owner, record.at, mine | {record.one: record.mine}).status_code == 302
    assert now(owner, record.at, record.other) == record.others  # not written over
    assert now(owner, record.at, record.one).startswith(record.mine.split()[0])


def test_what_clashes_is_shown_field_by_field_and_nothing_is_written(owner, record):
    mine, theirs = (fields_of(owner.get(record.at)) for _ in range(2))
    save(owner, record.at, theirs | {record.one: record.theirs})
    kept = now(owner, record.at, record.one)
    sent = mine | {record.one: record.mine, record.other: record.others}
    answer = save(owner, record.at, sent)
    assert answer.status_code == 409
    assert f"it is “{kept}” now" in text_of(answer)
    assert f'value="{record.mine}"' in answer.text or record.mine in answer.text
    assert now(owner, record.at, record.one) == kept
    assert now(owner, record.at, record.other) != record.others
    again = fields_of(answer)
    assert save(owner, record.at, again).status_code == 302  # sent again, it is meant
    assert now(owner, record.at, record.one) != kept
    assert now(owner, record.at, record.other) == record.others


def test_theirs_is_taken_at_one_click(owner, record):
    mine, theirs = (fields_of(owner.get(record.at)) for _ in range(2))
    save(owner, record.at, theirs | {record.one: record.theirs})
    kept = now(owner, record.at, record.one)
    answer = save(owner, record.at, mine | {record.one: record.mine})
    assert f'name="take" value="{record.one}"' in answer.text
    assert save(owner, record.at, fields_of(answer) | {"take": record.one}).status_code == 302
    assert now(owner, record.at, record.one) == kept


def test_a_rule_that_another_changed_is_not_cleared_unseen(owner, shop):
    shop.house_rules.create(rule_id="CYC-01", value_si=9 / 3600, reason="clay")
    at = "/rules/CYC-01/"
    mine, theirs = (fields_of(owner.get(at)) for _ in range(2))
    save(owner, at, theirs | {"usual": "7 /h"})
    answer = save(owner, at, mine | {"clear": "1"})
    assert answer.status_code == 422
    assert "Somebody else changed this rule" in text_of(answer)
    assert shop.house_rules.filter(rule_id="CYC-01").exists()
    assert save(owner, at, fields_of(owner.get(at)) | {"clear": "1"}).status_code == 302


def test_a_state_that_somebody_made_up_is_none(owner, job):
    at = f"/customers/{job.customer_record_id}/edit/"
    sent = fields_of(owner.get(at)) | {"was": "eyJhIjoxfQ:1:abc", "phone": "0555 9"}
    assert save(owner, at, sent).status_code == 302
    assert now(owner, at, "phone") == "0555 9"


def test_every_form_of_a_record_says_what_it_was_opened_with(owner, record):
    assert 'name="was"' in owner.get(record.at).text


# --- taken out or merged meanwhile


def test_a_form_of_who_was_taken_out_brings_nobody_back(owner, job):
    customer, site = job.customer_record, job.site_record
    opened = {
        at: fields_of(owner.get(at))
        for at in (f"/customers/{customer.pk}/edit/", f"/sites/{site.pk}/edit/")
    }
    owner.post(f"/customers/{customer.pk}/forget/", {"sure": "on"})
    queue.run_held()
    for at, sent in opened.items():
        answer = owner.post(at, sent | {"notes": "half an hour of typing"})
        assert answer.status_code == 409
        assert "taken out on request" in text_of(answer)
        assert "half an hour of typing" in answer.text
    customer.refresh_from_db()
    assert (customer.phone, customer.notes) == ("", "")
    assert "taken out" in customer.name


def test_a_form_of_what_was_merged_says_so_and_old_links_lead_on(owner, shop, job):
    first, second, third = (shop.customers.create(name=f"Guild {one}") for one in "abc")
    number = first.pk
    sent = fields_of(owner.get(f"/customers/{number}/edit/"))
    merging.merge_customers(second, first)
    merging.merge_customers(third, second)  # and on
    answer = owner.post(f"/customers/{number}/edit/", sent | {"notes": "typed meanwhile"})
    assert answer.status_code == 409
    assert "typed meanwhile" in answer.text
    assert f"/customers/{third.pk}/" in answer.text
    assert owner.get(f"/customers/{number}/").url == f"/customers/{third.pk}/"
    sites = [third.sites.create(shop=shop, name=one) for one in ("mill", "weir")]
    gone = sites[1].pk
    merging.merge_sites(sites[0], sites[1])
    assert owner.get(f"/sites/{gone}/").url == f"/sites/{sites[0].pk}/"


def test_what_never_was_is_not_there(owner, as_role, shop):
    one, other = (shop.customers.create(name=name) for name in ("Guild a", "Guild b"))
    number = one.pk
    merging.merge_customers(other, one)
    assert owner.get("/customers/999999/").status_code == 404
    assert as_role("stranger").get(f"/customers/{number}/").status_code == 404


# --- sent twice


def twice(client: Client, at: str, sent: dict[str, str]) -> list[str]:
    answers = [client.post(at, sent) for _ in range(2)]
    assert [one.status_code for one in answers] == [302, 302]
    assert answers[0].url == answers[1].url
    return [one.url for one in answers]


def hidden_of(page, name: str = "once") -> str:
    return re.search(rf'name="{name}" value="([^"]+)"', page.text)[1]


def test_a_new_record_is_made_once(owner, shop, job):
    for at, name, rows in (
        ("/customers/new/", "Guild", shop.customers),
        (f"/customers/{job.customer_record_id}/sites/new/", "mill", shop.sites),
    ):
        sent = fields_of(owner.get(at)) | {"name": name}
        before = rows.count()
        twice(owner, at, sent)
        assert rows.count() == before + 1
    page = owner.get("/jobs/new/")
    before = shop.jobs.count()
    twice(owner, "/jobs/new/", {"title": "x", "kind": "sump", "once": hidden_of(page)})
    assert shop.jobs.count() == before + 1


def test_a_form_that_was_refused_may_be_sent_again(owner, shop):
    sent = fields_of(owner.get("/customers/new/"))
    assert owner.post("/customers/new/", sent).status_code == 422  # no name
    assert owner.post("/customers/new/", sent | {"name": "Guild"}).status_code == 302
    assert SentOnce.objects.count() == 1


def test_put_in_and_in_the_place_of_are_done_once(owner, shop, job):
    old = shop.installed.filter(state="running").order_by("pk").first()
    for at in (f"/jobs/{job.pk}/put-in/", f"/sites/{old.site_id}/pumps/new/?instead={old.code}"):
        sent = fields_of(owner.get(at)) | {"maker": "Ondrath", "model": "K 11"}
        before = shop.installed.count()
        twice(owner, at, sent)
        assert shop.installed.count() == before + 1
    old.refresh_from_db()
    assert old.events.filter(kind="replaced").count() == 1


def test_a_reminder_is_made_and_done_once(owner, shop):
    pump = shop.installed.filter(state="running").order_by("pk").first()
    at = f"/p/{pump.code}/"
    sent = {"text": "oil", "due": "2026-01-01", "every_months": "12"}
    sent["once"] = hidden_of(owner.get(at))
    before = pump.reminders.count()
    twice(owner, f"{at}reminders/", sent)
    assert pump.reminders.count() == before + 1
    made = pump.reminders.get(text="oil")
    twice(owner, f"{at}reminders/{made.pk}/", {"do": "done"})
    assert pump.reminders.filter(text="oil").count() == 2  # done, and the one that comes round


def test_a_paper_of_an_unchanged_job_is_the_one_that_is_there(owner, shop, job):
    assert twice(owner, f"/jobs/{job.pk}/paper/issue/", {})[0].endswith("/1/")
    change(owner, job, "answers.rise", "105 mm")
    assert owner.post(f"/jobs/{job.pk}/paper/issue/").url.endswith("/2/")
    sent = fields_of(owner.get("/settings/shop/"))
    owner.post("/settings/shop/", sent | {"terms": "paid at once"})
    assert owner.post(f"/jobs/{job.pk}/paper/issue/").url.endswith("/3/")  # another letterhead


@pytest.mark.django_db(transaction=True)
def test_four_at_once_make_one(shop, owner, job):
    sent = fields_of(owner.get("/customers/new/")) | {"name": "Guild"}

    def post() -> int:
        client = Client()
        client.cookies = owner.cookies
        try:
            return client.post("/customers/new/", sent).status_code
        finally:
            connections.close_all()

    assert at_once(post, 4) == [302] * 4
    assert Customer.objects.filter(shop=shop, name="Guild").count() == 1


# --- undo counts as a change


def test_an_undo_of_the_same_field_counts_as_a_change(estimator, job):
    change(estimator, job, "answers.rise", "105 mm", page="page-1")
    job.refresh_from_db()
    seen = job.current_revision
    estimator.post(
        f"/jobs/{job.pk}/undo/",
        {"revision": seen, "page": "page-1"},
        headers={"HX-Request": "true"},
    )
    answer = change(estimator, job, "answers.rise", "107 mm", revision=seen, page="page-2")
    job = Job.objects.get(pk=job.pk)
    assert services.current(job).answers["rise"].text == "102 mm"  # nothing is written
    assert "107 mm" in text_of(answer)


# --- a merge loses nothing


def test_a_merge_keeps_second_phones_mails_figures_and_measured_runs(owner, shop):
    one, other = (shop.customers.create(name=name) for name in ("Guild a", "Guild b"))
    Customer.objects.filter(pk=one.pk).update(phone="0555 1", mail="a@x.example", notes="first")
    Customer.objects.filter(pk=other.pk).update(phone="0555 2", mail="b@x.example", notes="second")
    sites = [who.sites.create(shop=shop, name="mill") for who in (one, other)]
    type(sites[0]).objects.filter(pk=sites[0].pk).update(altitude_m=12.0, as_built={"sump": 1})
    type(sites[1]).objects.filter(pk=sites[1].pk).update(
        altitude_m=15.0, as_built={"sump": 2, "well": 3}, plus_code="9C2X"
    )
    sent = {"stays": str(one.pk)}
    assert owner.post(f"/customers/{other.pk}/merge/", sent).status_code == 302
    one.refresh_from_db()
    assert (one.phone, one.mail) == ("0555 1\n0555 2", "a@x.example\nb@x.example")
    assert one.notes.split("\n")[:2] == ["first", "second"]
    (site,) = one.sites.all()
    assert (site.altitude_m, site.plus_code) == (12.0, "9C2X")
    assert "Altitude [m] of mill: 15" in site.notes
    assert "Measured run (sump) of mill: 2" in site.notes
    assert site.as_built == {"sump": 1, "well": 3}


def test_a_merge_that_would_cut_a_text_is_not_made(owner, shop):
    one, other = (shop.customers.create(name=name, notes=name * 500) for name in ("abcde", "fghij"))
    answer = owner.post(f"/customers/{other.pk}/merge/", {"stays": str(one.pk)})
    assert answer.status_code == 422
    assert "longer than 4,000 letters" in text_of(answer)
    assert shop.customers.filter(pk=other.pk).exists()


def test_a_pump_is_not_taken_out_over_somebodys_change(owner, shop):
    pump = shop.pumps.filter(archived=False).first()
    at = f"/catalogue/{pump.pump_id}/edit/"
    mine, theirs = (fields_of(owner.get(at)) for _ in range(2))
    save(owner, at, theirs | {"price": "123"})
    answer = owner.post(at, mine | {"do": "take out"})
    assert answer.status_code == 409
    assert "somebody else changed it meanwhile" in text_of(answer)
    assert shop.pumps.filter(pk=pump.pk).exists()
    assert owner.post(at, fields_of(answer) | {"do": "take out"}).status_code == 302
    gone = owner.post(at, mine | {"note": "typed meanwhile"})
    assert gone.status_code == 409
    assert "typed meanwhile" in gone.text
    assert "taken out of the catalogue" in text_of(gone)
