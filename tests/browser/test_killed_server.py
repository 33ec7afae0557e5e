"""The real server, killed without mercy in the middle of editing."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from contextlib import contextmanager

import pytest
from django.db import connection

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from tests.browser.conftest import WAIT_MS, on_worksheet, type_in
from tests.snapshot import demo_shop

pytestmark = pytest.mark.browser


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def environment(static_root) -> dict[str, str]:
    held = connection.settings_dict
    place = f"{held['HOST']}:{held['PORT']}/{held['NAME']}"
    url = f"postgresql://{held['USER']}:{held['PASSWORD']}@{place}"
    own = {
        "DATABASE_URL": url,
        "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        "KYRTOS_STATIC_ROOT": str(static_root),
    }
    return (
        os.environ
        | own
        | {"KYRTOS_DEMO": "1", "KYRTOS_HTTPS": "0", "KYRTOS_SECRET_KEY": "only-for-this-test"}
    )


@contextmanager
def server(port: int, env: dict[str, str]):
    command = [
        sys.executable,
        "-m",
        "gunicorn",
        "kyrtos.config.wsgi:application",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        "2",
        "--log-level",
        "error",
    ]
    process = subprocess.Popen(command, env=env, start_new_session=True)
    try:
        wait_for(port)
        yield process
    finally:
        kill(process)


def wait_for(port: int) -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=2)
        except (urllib.error.URLError, ConnectionError, TimeoutError):
            time.sleep(0.2)
        else:
            return
    raise AssertionError("the server did not come up")


def kill(process: subprocess.Popen) -> None:
    if process.poll() is None:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def test_what_was_saved_survives_and_what_was_typed_is_sent_again(
    browser, transactional_db, tmp_path
):
    if not Shop.objects.exists():
        demo_shop()
    env, port = environment(tmp_path), free_port()
    subprocess.run(
        [sys.executable, "manage.py", "collectstatic", "--noinput", "-v", "0"], env=env, check=True
    )
    context = browser.new_context(base_url=f"http://127.0.0.1:{port}")
    page = context.new_page()
    page.set_default_timeout(WAIT_MS)
    with server(port, env) as process:
        page.goto("/")
        page.click("#demo")  # this server knows no session that the test could make
        page.click("text=Bookbinder's cellar")
        on_worksheet(page)
        type_in(page, "answers.rise", "108 mm")
        kill(process)
        page.fill("#f-answers-margin", "1.7")
        page.press("#f-answers-margin", "Tab")
        page.wait_for_selector("#unsaved:not([hidden])")
        assert page.input_value("#f-answers-margin") == "1.7"
    held = services.current(Job.objects.get(title__startswith="Bookbinder")).answers
    assert held["rise"].text == "108 mm"
    assert "margin" not in held
    with server(port, env):
        page.wait_for_selector("#unsaved", state="hidden")
        held = services.current(Job.objects.get(title__startswith="Bookbinder")).answers
        assert (held["rise"].text, held["margin"].text) == ("108 mm", "1.7 ×")
        page.reload()
        assert page.input_value("#f-answers-margin") == "1.7 ×"
    context.close()
