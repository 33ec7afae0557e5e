"""Nothing that is sent is read before address, session and size are known; and no database."""

import io
import re
from uuid import uuid4

import pytest
from django.conf import settings
from django.db import OperationalError, connection
from django.test import Client, RequestFactory
from django.urls import get_resolver

from kyrtos.config import views
from kyrtos.jobs import services as jobs
from kyrtos.operations import background
from tests.kyrtos.reading import text_of

MOST = 300_000


class Unread(io.BytesIO):
    """A body of any length that says whether somebody began to read it."""

    begun = False

    def read(self, *_):
        self.begun = True
        return b""

    readline = read


def send(client, address, length, kind="multipart/form-data; boundary=x"):
    body = Unread()
    more = {"wsgi.input": body, "CONTENT_LENGTH": str(length), "CONTENT_TYPE": kind}
    return client.generic("POST", address, **more), body


@pytest.mark.parametrize(
    ("role", "address", "length", "status"),
    [
        ("nobody", "/nowhere/", 300_000_000, 404),
        ("nobody", "/sign-in/", 300_000_000, 413),
        ("nobody", "/catalogue/import/", 60_000_000, 302),
        ("nobody", "/jobs/upload/", 1000, 302),
        ("estimator", "/catalogue/import/", 300_000_000, 413),
        ("estimator", "/jobs/new/", MOST + 1, 413),
        ("estimator", "/jobs/new/", "many", 411),
        ("estimator", "/jobs/new/", "9" * 400, 413),
    ],
)
def test_it_is_refused_unread(as_role, role, address, length, status):
    answer, body = send(as_role(role), address, length)
    assert (answer.status_code, body.begun) == (status, False)


def test_a_file_of_a_size_that_its_place_takes_is_read(estimator):
    answer, body = send(estimator, "/catalogue/import/", 60_000_000)
    assert body.begun
    assert answer.status_code == 422


def test_the_database_is_away_and_what_was_typed_is_offered_again(shop, as_role, monkeypatch):
    client = as_role("estimator")
    client.raise_request_exception = False

    def away(*_, **__):
        raise OperationalError("server closed the connection")

    monkeypatch.setattr(jobs, "create", away)
    answer = client.post("/jobs/new/", {"title": "<Mill> pond", "kind": "sump", "customer": "Ada"})
    assert answer.status_code == 503
    assert "does not answer" in text_of(answer)
    assert "&lt;Mill&gt; pond</textarea>" in answer.content.decode()
    assert 'action="/jobs/new/"' in answer.content.decode()
    monkeypatch.undo()
    assert client.post("/jobs/new/", {"title": "Mill", "kind": "sump"}).status_code == 302


def test_no_password_is_offered_again():
    request = RequestFactory().post("/sign-in/", {"username": "ada", "password": "secret-words"})
    try:
        raise OperationalError
    except OperationalError:
        answer = views.server_error(request)
    assert "ada" in answer.content.decode()
    assert "secret-words" not in answer.content.decode()


def test_another_fault_is_not_called_that():
    try:
        raise ValueError
    except ValueError:
        answer = views.server_error(RequestFactory().get("/"))
    assert answer.status_code == 500


WORKER = "insert into procrastinate_workers (last_heartbeat) values (now() - %s::interval)"
FAILED = """insert into procrastinate_jobs (queue_name, task_name, status, attempts) values
 ('default', 'kyrtos.catalogue.tasks.read_import', 'failed', 2)"""


@pytest.mark.parametrize(
    ("worker", "waits", "says"),
    [
        (None, None, "no background worker runs"),
        ("5 minutes", None, "silent since"),
        ("1 second", None, ""),
        ("1 second", "20 minutes", "has waited since"),
        ("1 second", "1 minute", ""),
    ],
)
def test_health_looks_at_worker_and_queue(db, as_role, worker, waits, says):
    with connection.cursor() as ask:
        for table in ("events", "periodic_defers", "jobs", "workers"):  # what others left
            ask.execute(f"delete from procrastinate_{table}")
        if worker:
            ask.execute(WORKER, [worker])
        if waits:
            ask.execute(
                "insert into procrastinate_jobs (queue_name, task_name) values"
                " ('default', 'kyrtos.jobs.tasks.recheck')"
            )
            ask.execute("update procrastinate_events set at = now() - %s::interval", [waits])
    assert says in background.standing().problem
    assert bool(background.standing().problem) is bool(says)
    answer = Client().get("/health")
    assert answer.status_code == (503 if says else 200)
    assert says in answer.content.decode()
    shown = text_of(as_role("owner").get("/running/"))
    assert ("at work" in shown) is not bool(says)
    assert ("1 waiting" in shown) is bool(waits)


def test_what_failed_is_shown(db, as_role):
    with connection.cursor() as ask:
        ask.execute(FAILED)
    assert "Reading a pump file" in text_of(as_role("owner").get("/running/"))


def places_of_files() -> dict[str, int]:
    """Every address that takes files, and the most bytes that its view lets in."""
    found: dict[str, int] = {}

    def walk(patterns, before):
        for one in patterns:
            if hasattr(one, "url_patterns"):
                walk(one.url_patterns, before + str(one.pattern))
            elif getattr(one.callback, "most_bytes", 0):
                path = re.sub(r"<uuid:\w+>", str(uuid4()), before + str(one.pattern))
                path = re.sub(r"<((int|slug):)?\w+>", "7", path)
                found["/" + path] = one.callback.most_bytes

    walk(get_resolver().url_patterns, "")
    return found


def test_the_proxy_lets_in_what_each_place_of_files_takes():
    config = (settings.BASE_DIR / "deploy" / "nginx" / "server.inc").read_text()
    rules = re.findall(r"location (=|~) (\S+) \{[^}]*client_max_body_size (\d+)m", config)
    places = places_of_files()
    assert len(places) >= 8
    for path, most in places.items():
        sizes = [
            int(size)
            for how, where, size in rules
            if (how == "=" and where == path) or (how == "~" and re.search(where, path))
        ]
        assert sizes, f"the proxy turns files away at {path}"
        assert sizes[0] * 2**20 >= most, path
