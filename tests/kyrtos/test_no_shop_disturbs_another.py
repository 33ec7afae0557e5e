"""No shop disturbs another: one line, one mail, one share of the server, one address."""

import io
from datetime import date

import psycopg
import pytest
from allauth.account.models import EmailAddress
from django.core import mail as sent_mail
from django.core.exceptions import ImproperlyConfigured
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, RequestFactory
from pypdf import PdfReader

from kyrtos.accounts import mail, people, share
from kyrtos.accounts.login_throttle import address_of
from kyrtos.accounts.models import Membership, Role, User
from kyrtos.config import environment, queue
from kyrtos.config.middleware import AddressMiddleware
from kyrtos.customers import cards
from kyrtos.installations import labels, reminders
from kyrtos.operations import background
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_hostile_files import picture
from tests.snapshot import address

BREAK = "Guild\r\nBcc: trap@elsewhere.example"


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


@pytest.fixture
def mails(settings, shop):
    settings.SENDS_MAIL = True
    isolde = User.objects.get(username="isolde")
    EmailAddress.objects.create(user=isolde, email="i@farshore.example", verified=True)


@pytest.fixture
def due(shop, job):
    """A shop beside ours, with something due at a pump and an owner to tell."""
    other = Shop.objects.create(name="Farshore Pumps")
    for one in (shop, other):
        site = one.sites.first() or one.sites.create(name="mill")
        pump = one.installed.create(site=site, maker="Ondrath", model="K 11")
        pump.reminders.create(text="look at it", due=date(2020, 1, 1))
    user = User.objects.create(username="farshore")
    EmailAddress.objects.create(user=user, email="f@farshore.example", verified=True)
    Membership.objects.create(user=user, shop=other, role=Role.OWNER)
    return other


# --- one line


@pytest.mark.parametrize(
    ("place", "field"),
    [
        ("/customers/new/", "name"),
        ("/customers/{customer}/edit/", "name"),
        ("/customers/{customer}/sites/new/", "name"),
        ("/p/{code}/change/", "serial"),
        ("/p/{code}/reminders/", "text"),
        ("/settings/shop/", "name"),
        ("/catalogue/new/", "maker"),
        ("/jobs/new/", "title"),
    ],
)
@pytest.mark.parametrize("text", [BREAK, "a\u2028b", "a\u202eb"])
def test_a_form_refuses_more_than_one_line_beside_the_field(owner, shop, job, place, field, text):
    code = shop.installed.first().code
    at = place.format(customer=job.customer_record_id, code=code)
    answer = owner.post(at, {field: text, "model": "K 1"})
    assert answer.status_code == 422
    assert "This is one line" in text_of(answer)


def test_by_any_other_door_a_break_becomes_a_space(shop, estimator, job):
    cards.take_in(shop, b'name,phone\n"Gui\nld",0555\n')
    assert shop.customers.filter(name="Gui ld").exists()
    change(estimator, job, "title", BREAK)
    job.refresh_from_db()
    assert job.title == "Guild Bcc: trap@elsewhere.example"
    shop.customers.filter(name="Gui ld").update(phone="1\u20282\r\n3")  # one to a line
    assert shop.customers.get(name="Gui ld").phone == "1 2\n3"


def test_a_name_of_before_with_a_break_in_it_ends_nobodys_mails(shop, due, mails):
    with connection.cursor() as ask:
        ask.execute("update shop_shop set name = %s where id = %s", [BREAK, shop.pk])
    assert reminders.tell_all() == 2
    subjects = [one.subject for one in sent_mail.outbox]
    assert all("\n" not in one and "\r" not in one for one in subjects)
    assert {one.to[0] for one in sent_mail.outbox} == {"i@farshore.example", "f@farshore.example"}


@pytest.mark.fails_alone
def test_the_fault_of_one_shop_is_noted_there_and_the_others_are_told(
    shop, due, mails, monkeypatch
):
    told = reminders.tell

    def breaks(one: Shop, today: date) -> bool:
        return told(one, today) if one == due else bool(1 / 0)

    monkeypatch.setattr(reminders, "tell", breaks)
    assert reminders.tell_all() == 1
    assert sent_mail.outbox[0].to == ["f@farshore.example"]
    assert "the mail of what is due" in shop.troubles.get().about
    assert not due.troubles.exists()


# --- mails


@pytest.mark.parametrize("problem", [ValueError("header"), OSError("no server")])
def test_a_link_whose_mail_fails_is_shown_all_the_same(owner, shop, mails, monkeypatch, problem):
    def fails(*_: object, **__: object) -> None:
        raise problem

    monkeypatch.setattr(mail, "send_mail", fails)
    answer = owner.post("/people/", {"role": "viewer", "email": "new@farshore.example"})
    assert answer.status_code == 200
    assert "/join/" in answer.text
    assert "It was sent" not in text_of(answer)
    assert people.still_open(shop).count() == 1


def test_a_shop_sends_so_many_mails_a_day_and_another_its_own(shop, due, mails, monkeypatch):
    monkeypatch.setattr(mail, "MOST_A_DAY", 3)
    sent = [mail.send("x", "y", ["a@b.example"], whose=shop.pk) for _ in range(5)]
    assert sent == [True, True, True, False, False]
    assert mail.send("x", "y", ["a@b.example"], whose=due.pk)


# --- one address


def test_links_labels_and_mails_say_the_public_address(owner, shop, mails, settings):
    settings.PUBLIC_URL = "https://pumps.example"
    page = owner.post("/people/", {"role": "viewer"}, HTTP_HOST="trap.example")
    assert "https://pumps.example/join/" in page.text
    shown: list[str] = []
    labels_of = labels.sheet

    def seen(of: Shop, pumps, where) -> bytes:
        shown.extend(where(one) for one in pumps)
        return labels_of(of, pumps, where)

    pump = shop.installed.first()
    with pytest.MonkeyPatch.context() as watched:
        watched.setattr(labels, "sheet", seen)
        owner.get(f"/p/{pump.code}/label.pdf", HTTP_HOST="trap.example")
    assert shown == [f"https://pumps.example/p/{pump.code}/"]
    isolde = User.objects.get(username="isolde")
    isolde.set_password("weir-steps-nine")
    isolde.save()
    Client().post("/sign-in/password/", {"email": "i@farshore.example"}, HTTP_HOST="trap.example")
    assert "https://pumps.example/sign-in/password/new/" in sent_mail.outbox[-1].body
    assert "trap.example" not in sent_mail.outbox[-1].body


@pytest.mark.parametrize(
    ("host", "status"), [("testserver", 200), ("testserver:80", 200), ("testserver:8443", 400)]
)
def test_a_host_with_a_foreign_port_is_refused(db, host, status):
    assert Client().get("/health/web", HTTP_HOST=host).status_code == status


@pytest.mark.parametrize(("peer", "counts"), [("127.0.0.1", True), ("10.0.0.9", False), ("", True)])
def test_who_is_no_proxy_of_ours_speaks_for_nobody(settings, peer, counts):
    settings.SECURE, settings.PUBLIC_URL = True, "https://testserver"
    seen = {}

    def view(request):
        seen.update(address=address_of(request), secure=request.is_secure())

    settings.SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    request = RequestFactory().get(
        "/", REMOTE_ADDR=peer, HTTP_X_FORWARDED_FOR="192.0.2.7", HTTP_X_FORWARDED_PROTO="https"
    )
    AddressMiddleware(view)(request)
    assert seen == {"address": "192.0.2.7" if counts else peer, "secure": counts}


@pytest.mark.parametrize(
    ("place", "starts"),
    [
        ("127.0.0.1", True),
        ("localhost:8000", True),
        ("[::1]", True),
        ("unix:/run/web.sock", True),
        ("pumps.example", False),
        ("0.0.0.0:8000", False),
        ("192.168.1.4", False),
        ("[2001:db8::1]:80", False),
    ],
)
def test_the_demonstration_starts_for_this_machine_alone(place, starts):
    if starts:
        environment.only_here("KYRTOS_DEMO", [place])
        return
    with pytest.raises(ImproperlyConfigured, match="this machine alone"):
        environment.only_here("KYRTOS_DEMO", [place])


# --- room, background work


def test_photos_of_all_sites_of_a_shop_have_one_sum(shop, job, estimator, monkeypatch):
    monkeypatch.setattr(quota, "MOST_BYTES", 10)
    sent = {"file": SimpleUploadedFile("pit.jpg", picture(), "image/jpeg"), "place": "pump"}
    answer = estimator.post(f"/sites/{job.site_record_id}/files/", sent)
    assert answer.status_code == 422
    assert "GB of photos and files" in text_of(answer)


def test_background_work_of_other_shops_is_not_told(shop, owner, empty_queue):
    other = Shop.objects.create(name="Farshore Pumps")
    with connection.cursor() as ask:
        for of in (shop.pk, other.pk):
            ask.execute(
                "insert into procrastinate_jobs (queue_name, task_name, lock, args, status)"
                " values ('default', 'kyrtos.jobs.tasks.recheck', %s, '{}', 'todo')",
                [f"shop-{of}/recheck"],
            )
    assert queue.shop_of(f"shop-{shop.pk}/recheck") == shop.pk
    assert background.standing(shop.pk).waiting == (("looking through the open jobs", 1),)
    assert background.standing().waiting == ()


# --- the share of a person and a shop


@pytest.fixture
def under_way(shop):
    """A connection beside the test's, as another process that works for somebody."""
    with psycopg.connect(address(), autocommit=True) as held:

        def works(first: int, second: int) -> None:
            held.execute("select pg_advisory_lock(%s, %s)", [first, second])

        works.ends = lambda: held.execute("select pg_advisory_unlock_all()")
        yield works


def user_of(client: Client) -> int:
    return int(client.session["_auth_user_id"])


def test_a_second_long_question_of_one_person_is_asked_again(
    estimator, as_role, job, under_way, monkeypatch
):
    monkeypatch.setattr(share, "_PATIENCE_S", 0.05)
    under_way(share._PERSON, user_of(estimator))
    at = f"/jobs/{job.pk}/dialogs/methods/"
    answer = estimator.get(at, headers={"HX-Request": "true"})
    assert (answer.status_code, answer.text) == (429, share.BUSY)
    page = estimator.get(f"/jobs/{job.pk}/paper/site-sheet.pdf")
    assert (page.status_code, page.headers["Refresh"]) == (429, "1")
    sent = estimator.post(f"/jobs/{job.pk}/paper/issue/", {"revision": "1"})
    assert sent.status_code == 429
    assert 'name="revision"' in sent.text
    assert not job.papers.exists()
    assert as_role("viewer").get(at).status_code == 200
    assert change(estimator, job, "answers.rise", "110 mm").status_code == 200  # edits have a place


def test_a_file_waits_for_the_question_before_it_and_only_one_does(
    estimator, job, under_way, monkeypatch
):
    """A drawing taken while its dialog still answered left the person on "One moment"."""
    at, person = f"/jobs/{job.pk}/paper/site-sheet.pdf", user_of(estimator)
    monkeypatch.setattr(share.time, "sleep", lambda seconds: under_way.ends())
    under_way(share._PERSON, person)
    assert estimator.get(at).status_code == 200
    under_way(share._PERSON, person)
    under_way(share._NEXT, person)  # another file of theirs waits already
    page = estimator.get(at, headers={"Referer": f"http://testserver/jobs/{job.pk}/"})
    assert page.status_code == 429
    assert f'<a href="/jobs/{job.pk}/">' in page.text


def test_a_shop_takes_all_places_but_one(estimator, shop, job, under_way, settings):
    settings.PLACES = 3  # and two at least
    at = f"/jobs/{job.pk}/dialogs/methods/"
    under_way(share._SHOP, shop.pk)
    assert estimator.get(at).status_code == 200
    under_way(share._SHOP + 1, shop.pk)
    assert estimator.get(at).status_code == 429


def test_one_process_works_on_one_at_a_time(estimator, job, monkeypatch):
    monkeypatch.setattr(share, "_PATIENCE_S", 0.05)
    at = f"/jobs/{job.pk}/dialogs/methods/"
    with share._WORKS:
        assert estimator.get(at).status_code == 429
        assert estimator.get(f"/jobs/{job.pk}/").status_code == 200
    assert estimator.get(at).status_code == 200


def test_a_place_is_given_back_when_the_page_breaks(estimator, job, under_way):
    assert estimator.get(f"/jobs/{job.pk}/dialogs/nothing-of-the-kind/").status_code in (404, 200)
    assert estimator.get(f"/jobs/{job.pk}/dialogs/methods/").status_code == 200
    with connection.cursor() as ask:
        ask.execute(
            "select count(*) from pg_locks where locktype = 'advisory' and database ="
            " (select oid from pg_database where datname = current_database())"
        )
        assert ask.fetchone() == (0,)
    assert PdfReader(
        io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/site-sheet.pdf").content)
    ).pages
