"""The real server, killed without mercy in the middle of editing."""

from __future__ import annotations

from contextlib import contextmanager

import pytest

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from tests.browser.conftest import WAIT_MS, on_worksheet, type_in
from tests.snapshot import address, demo_shop
from trials.standing import collect, environment, free_port, kill, running, said, until, web

pytestmark = pytest.mark.browser


@contextmanager
def server(port: int, env: dict[str, str]):
    with running(web(), env | {"KYRTOS_BIND": f"127.0.0.1:{port}"}) as process:
        until(lambda: "ok" in said(port), "the server")
        yield process


def test_what_was_saved_survives_and_what_was_typed_is_sent_again(
    browser, transactional_db, tmp_path
):
    if not Shop.objects.exists():
        demo_shop()
    env, port = environment(tmp_path, address()), free_port()
    collect(env)
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
