"""Server, worker and proxy kept alive, ended together, and not held up by who sends slowly."""

from __future__ import annotations

import os
import signal
import socket
import tempfile
from pathlib import Path

import pytest
from django.test import Client

from kyrtos.accounts.models import User
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from tests.browser.conftest import WAIT_MS, on_worksheet, type_in
from tests.snapshot import address, demo_shop
from trials import standing

pytestmark = pytest.mark.browser


@pytest.fixture
def place():
    """A folder with a short name: a socket's address has room for 107 letters."""
    with tempfile.TemporaryDirectory(prefix="ky") as name:
        os.chmod(name, 0o755)
        yield Path(name)


@pytest.fixture
def env(transactional_db, place):
    if not Shop.objects.exists():
        demo_shop()
    made = standing.environment(place, address())
    standing.collect(made)
    return made


def send(port: int, text: bytes, *, then_wait: bool = True) -> socket.socket:
    line = socket.create_connection(("127.0.0.1", port), timeout=60)
    line.sendall(text)
    return line


HALF = b"POST /sign-in/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 900\r\n\r\nusername=a"
LARGE = b"Host: localhost\r\nContent-Length: 300000000\r\n\r\n"


@pytest.mark.nightly
def test_it_stands_the_slow_and_the_large_and_gets_up_again(env, place):
    port = standing.free_port()
    with standing.supervised(place, env, port) as keeper:
        slow = [send(port, b"") for _ in range(30)] + [send(port, HALF) for _ in range(50)]
        assert "Sign in" in standing.said(port, "/sign-in/")
        for address in (b"/nowhere/", b"/", b"/sign-in/"):
            answer = send(port, b"POST %b HTTP/1.1\r\n%b" % (address, LARGE)).recv(400)
            assert answer.startswith(b"HTTP/1.1 413"), address
        # a file's place takes as much, but asks first who sends it
        most = LARGE.replace(b"300000000", b"60000000")
        answer = send(port, b"POST /catalogue/import/ HTTP/1.1\r\n" + most).recv(4000)
        assert answer.startswith(b"HTTP/1.1 303")
        assert b"/sign-in-first?next=/catalogue/import/" in answer
        for line in slow:
            line.close()

        standing.until(lambda: standing.said(port, "/health") == "kyrtos ok\n", "the worker")
        (worker,) = standing.session(keeper.pid, "procrastinate worker")
        os.kill(worker, signal.SIGKILL)
        standing.until(
            lambda: [
                pid for pid in standing.session(keeper.pid, "procrastinate worker") if pid != worker
            ],
            "another worker",
        )
        (master,) = standing.session(keeper.pid, "gunicorn: master")
        os.kill(master, signal.SIGKILL)
        standing.until(
            lambda: standing.session(keeper.pid, "gunicorn: master") not in ([], [master]),
            "a master",
        )
        standing.until(lambda: "ok" in standing.said(port), "the server again")

        keeper.kill()  # and nothing is left on the port
        keeper.wait()
        standing.until(lambda: not standing.session(keeper.pid), "all ended with it")
        assert standing.said(port) == ""


def test_two_web_machines_on_one_database_and_one_is_killed_under_edits(browser, env, place):
    port = standing.free_port()
    socks = [f"unix:{place}/{name}.sock" for name in ("one", "two")]
    front = ["tools/front", str(place / "front"), str(port), *socks]
    both = env | {"KYRTOS_PUBLIC_URL": f"http://127.0.0.1:{port}", "KYRTOS_WORKERS": "1"}
    one, other = both | {"KYRTOS_BIND": socks[0]}, both | {"KYRTOS_BIND": socks[1]}
    client = Client()
    client.force_login(User.objects.get(username="wenna"))
    with (
        standing.running(standing.web(), one) as first,
        standing.running(standing.web(), other),
        standing.running(front, env),
    ):
        standing.until(lambda: (place / "two.sock").exists(), "the second machine")
        standing.until(lambda: "ok" in standing.said(port), "the proxy")
        context = browser.new_context(base_url=f"http://127.0.0.1:{port}")
        page = context.new_page()
        page.set_default_timeout(WAIT_MS)
        page.goto("/")
        page.click("#demo")
        page.click("text=Bookbinder's cellar")
        on_worksheet(page)
        sent = []
        for at in range(12):
            if at == 5:
                standing.kill(first)
            sent.append(f"{100 + at} mm")
            type_in(page, "answers.rise", sent[-1])
        page.wait_for_selector("#unsaved", state="hidden")
        context.close()
    job = Job.objects.get(title__startswith="Bookbinder")
    assert services.current(job).answers["rise"].text == sent[-1]
    texts = [
        one.document["answers"]["rise"]["text"] for one in job.revisions.order_by("number")[1:]
    ]
    assert texts == sent  # each once and in order
