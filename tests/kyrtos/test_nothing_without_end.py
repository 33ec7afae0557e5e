"""Nothing loops for ever, nothing is 500: tasks, lists, packed files, forms sent twice at once."""

import io
import json
import threading
import time
import uuid
import zipfile

import pytest
from asgiref.sync import async_to_sync
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection, connections
from django.test import Client
from procrastinate.contrib.django import app
from procrastinate.jobs import Job as QueuedJob

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.catalogue import publishing
from kyrtos.config import queue
from kyrtos.customers import cards
from kyrtos.installations.models import Event, ReadingSet
from kyrtos.jobs import tasks
from kyrtos.operations import background, shop_data, unpacking
from kyrtos.shops.models import Shop, TaskNote
from sizing.base.errors import SizingError
from sizing.pump.foreign_file import read_sheet
from tests.kyrtos.conftest import sign_in_now
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_hostile import queued, states

# --- background tasks


def job_of(task: int, attempts: int) -> QueuedJob:
    return QueuedJob(
        id=task, queue="default", lock="", queueing_lock=None, task_name="t", attempts=attempts
    )


@pytest.mark.django_db(transaction=True)
def test_a_task_is_tried_three_times_with_growing_waits_and_says_why():
    away = OperationalError("server closed the connection")
    decisions = [
        queue.AGAIN.get_retry_decision(exception=away, job=job_of(7, tried)) for tried in range(3)
    ]
    assert decisions[2] is None
    assert decisions[0].retry_at < decisions[1].retry_at
    assert TaskNote.objects.get(task=7).reason == ("OperationalError: server closed the connection")


@pytest.mark.django_db(transaction=True)
def test_what_would_break_again_is_set_aside_at_once():
    assert queue.AGAIN.get_retry_decision(exception=ValueError("no"), job=job_of(8, 0)) is None
    assert TaskNote.objects.get(task=8).reason == "ValueError: no"


@pytest.mark.django_db(transaction=True)
def test_a_task_that_ended_two_workers_is_set_aside(empty_queue):
    task = queued("kyrtos.operations.tasks.make_file", "doing", "shop-1/file")
    async_to_sync(tasks.take_up_what_was_left.func)(None, 0)
    assert states()[task] == "todo"  # once may be bad luck
    with connection.cursor() as ask:
        ask.execute("update procrastinate_jobs set status = 'doing' where id = %s", [task])
    async_to_sync(tasks.take_up_what_was_left.func)(None, 0)
    assert states()[task] == "failed"
    assert "ended 2 times over it" in TaskNote.objects.get(task=task).reason


@pytest.mark.django_db(transaction=True)
def test_the_owner_sees_what_was_set_aside_why_and_tries_again(empty_queue, shop, as_role):
    task = queued("kyrtos.operations.tasks.make_file", "failed", f"shop-{shop.pk}/file")
    theirs = queued("kyrtos.catalogue.tasks.publish", "failed", "shop-999/catalogue")
    TaskNote.objects.create(task=task, reason="ValueError: no", killed=2)
    owner = as_role("owner")
    text = text_of(owner.get("/running/"))
    assert "ValueError: no" in text
    assert "packing the catalogue" not in text.lower()  # of another shop
    assert owner.post(f"/running/{theirs}/again/").status_code == 404
    assert owner.post(f"/running/{task}/again/").status_code == 302
    assert states() == {task: "todo", theirs: "failed"}
    assert TaskNote.objects.get(task=task).killed == 0


@pytest.mark.django_db(transaction=True)
def test_one_shop_waits_behind_the_first_of_another_not_behind_all(empty_queue, settings, shop):
    settings.BACKGROUND = "queue"
    other = Shop.objects.create(name="Farshore Pumps")
    for at in range(5):
        queue.enqueue(publishing.publish_task, lock=f"a{at}", whose=shop.pk, shop_id=shop.pk)
    queue.enqueue(publishing.publish_task, lock="b", whose=other.pk, shop_id=other.pk)
    with connection.cursor() as ask:
        ask.execute("select lock from procrastinate_jobs order by priority desc, id")
        order = [queue.shop_of(lock) for (lock,) in ask.fetchall()]
    assert order == [shop.pk, other.pk, *[shop.pk] * 4]


def test_health_tells_what_was_set_aside(db, monkeypatch):
    monkeypatch.setattr(background.Background, "problem", "")
    monkeypatch.setattr(background, "set_aside", lambda: 2)
    answer = Client().get("/health")
    assert answer.status_code == 200
    assert answer.text == "kyrtos ok; 2 background tasks set aside since yesterday\n"


def test_every_task_is_found_by_its_shop():
    """Whose a task is stands in its lock: who makes one says so."""
    assert queue.shop_of("shop-12/catalogue") == 12
    assert queue.shop_of("back-up") is None
    assert queue.shop_of("shop-x/y") is None
    assert all(name.count(".") for name in app.tasks)


# --- a shop's file


def zipped(**parts: bytes) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in parts.items():
            made.writestr(name.replace("_", "/").replace("+", "."), content)
    return stream.getvalue()


def shop_json(**more) -> bytes:
    return json.dumps({"format": shop_data.FORMAT, **more}).encode()


@pytest.mark.parametrize(
    ("parts", "says"),
    [
        ({"shop+json": b"[" + b"[]," * 16_000_000 + b"[]]"}, "unpacks to more than 8 MB"),
        ({"shop+json": shop_json(), "pumps+json": b"[" + b"{}," * 7_000_000 + b"{}]"}, "lists"),
        ({"shop+json": b'{"a":' * 100 + b"1" + b"}" * 100}, "deep in itself"),
        ({"shop+json": b"[" * 100_000}, "it is no JSON, or lies too deep"),
        ({"shop+json": shop_json(), "jobs_x+json": b"0" * 61_000_000}, "more than 60 MB"),
    ],
)
def test_a_small_file_that_unpacks_without_end_is_refused_before_it_is_parsed(db, parts, says):
    content = zipped(**parts)
    assert len(content) < 200_000
    begun = time.process_time()
    shop, user = Shop.objects.create(name="Empty"), User.objects.create(username="ama")
    with pytest.raises(shop_data.CannotTakeIn, match=says):
        shop_data.take_in(shop, user, content, lambda *_: None)
    assert time.process_time() - begun < 1.0  # it was a process of its own that looked


def test_a_damaged_stream_is_told():
    content = bytearray(zipped(**{"shop+json": shop_json(notes="weir " * 9000)}))
    content[len(content) // 3] ^= 0xFF
    assert "the ZIP is damaged" in unpacking.problem_of(bytes(content))


# --- lists

CARD = b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:%d\r\nTEL:1\r\nEND:VCARD\r\n"
ONE = b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:a\r\n%sEND:VCARD\r\n"


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"name\n" + b"\n" * 3_000_000, "blank lines"),
        (b"name\r" * 600_000, "more than 20,000 rows"),
        (b"".join(CARD % at for at in range(30_000)), "more than 5,000 cards"),
        (ONE % (b"NOTE:" + b"x\r\n " * 2_000_000 + b"\r\n"), "card 1 has more than"),
        (ONE % (b"TEL:1\r\n" * 50_000), "card 1 has more than"),
    ],
    ids=["blank", "returns", "cards", "folded", "phones"],
)
def test_lists_without_end_are_refused_while_they_are_read(content, says):
    begun = time.process_time()
    with pytest.raises(SizingError, match=says):
        cards.read(content)
    assert time.process_time() - begun < 1.5


def test_pump_lists_stop_at_blank_lines_too():
    with pytest.raises(SizingError, match="blank lines"):
        read_sheet(b"maker,model\n" + b"\n" * 3_000_000)


def test_a_card_with_a_null_in_it_comes_in(as_role, shop):
    sent = {"file": SimpleUploadedFile("a.vcf", ONE % b"NOTE:b\0c\r\n")}
    answer = as_role("owner").post("/customers/import/", sent)
    assert answer.status_code < 500


# --- forms


@pytest.fixture
def pump(shop):
    return shop.installed.filter(state="running").exclude(promised={}).first()


READ = {"flow": "10 l in 4 s", "outlet": "0.9 bar"}


def at_once(work, times: int = 3) -> list[int]:
    found: list[int] = []

    def one():
        try:
            found.append(work())
        finally:
            connections.close_all()

    threads = [threading.Thread(target=one) for _ in range(times)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


@pytest.mark.django_db(transaction=True)
def test_what_a_phone_sends_three_times_at_once_is_kept_once(shop, pump):
    user = Membership.objects.get(shop=shop, role=Role.TECHNICIAN).user
    token = str(uuid.uuid4())
    event = {"kind": "serviced", "on": "2026-11-01", "token": token}

    def sent(address, given):
        client = Client()
        sign_in_now(client, user)
        return lambda: client.post(address, given).status_code

    for address, given, model in (
        (f"/p/{pump.code}/commission/", READ | {"token": token}, ReadingSet),
        (f"/p/{pump.code}/events/", event, Event),
    ):
        assert at_once(sent(address, given)) == [302] * 3  # kept already: nothing is wrong
        assert model.objects.filter(token=token).count() == 1


def test_a_token_of_another_pump_is_told_and_keeps_nothing(estimator, shop, pump):
    other = shop.installed.exclude(pk=pump.pk).filter(state="running").first()
    token = str(uuid.uuid4())
    for one in (pump, other):
        answer = estimator.post(f"/p/{one.code}/commission/", READ | {"token": token})
    assert answer.status_code == 422
    assert "another pump" in text_of(answer)
    event = {"kind": "serviced", "on": "2026-11-01", "token": token}
    estimator.post(f"/p/{pump.code}/events/", event)
    answer = estimator.post(f"/p/{other.code}/events/", event)
    assert answer.status_code == 422
    assert other.events.filter(token=token).count() == 0


@pytest.mark.parametrize("flow", ["10 l in 1e-308 s", "1e300 l in 1e-300 s", "10 l in 0 s"])
def test_a_bucket_filled_in_no_time_is_told_beside_its_field(estimator, pump, flow):
    answer = estimator.post(f"/p/{pump.code}/commission/", READ | {"flow": flow})
    assert answer.status_code == 422
    assert flow in text_of(answer)  # what was typed is kept


# --- a database that may only be read


@pytest.mark.django_db(transaction=True)
def test_where_nothing_can_be_saved_that_is_said_and_pages_open(shop, estimator, job):
    def reads_only(on: bool) -> None:
        with connection.cursor() as ask:
            ask.execute(f"set default_transaction_read_only = {'on' if on else 'off'}")

    estimator.raise_request_exception = False
    estimator.get("/")
    session = estimator.session
    session["seen_at"] = 1  # so that it would be noted that they are here
    session.save()
    reads_only(True)
    try:
        assert estimator.get(f"/jobs/{job.pk}/").status_code == 200
        sent = {"path": "answers.budget", "value": "200", "revision": 1, "page": "p"}
        answer = estimator.post(f"/jobs/{job.pk}/change/", sent, headers={"HX-Request": "true"})
        assert answer.status_code == 503
        assert "Nothing can be saved at the moment" in answer.text
        assert "may only be read" in Client().get("/health").text
    finally:
        reads_only(False)
    assert estimator.post(f"/jobs/{job.pk}/change/", sent).status_code == 200


# --- a disk under the database that is full: its own error stands in, raised where it writes

NO_ROOM = "begin raise exception 'No space left on device' using errcode = '53100'; end"


@pytest.mark.django_db
def test_a_full_disk_under_the_database_is_said_and_typing_is_kept(shop, estimator, job):
    with connection.cursor() as ask:
        ask.execute(f"create function no_room() returns trigger language plpgsql as $${NO_ROOM}$$")
        ask.execute(
            "create trigger no_room before insert on jobs_revision"
            " for each row execute function no_room()"
        )
    estimator.raise_request_exception = False
    sent = {"path": "answers.budget", "value": "200", "revision": 1, "page": "p"}
    answer = estimator.post(f"/jobs/{job.pk}/change/", sent, headers={"HX-Request": "true"})
    assert answer.status_code == 503
    assert "the disk under the database is full" in answer.text
    assert "your typing is kept" in answer.text


@pytest.mark.django_db
def test_health_tries_whether_the_database_has_room():
    assert Client().get("/health").text != ""
    with connection.cursor() as ask:
        ask.execute("create schema trap")
        ask.execute(
            "create function trap.repeat(text, integer) returns text"
            f" language plpgsql as $${NO_ROOM}$$"
        )
        ask.execute("set local search_path = trap, pg_catalog, public")
    answer = Client().get("/health")
    assert answer.status_code == 503
    assert "the disk under its database is full" in answer.text
