"""The real interface in Debian's Chromium, against Django's live server."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from django.test import Client
from playwright.sync_api import Browser, Page, expect, sync_playwright

from kyrtos.accounts.models import User
from kyrtos.config import queue
from kyrtos.shops.models import Shop
from tests.clock import _one_go_lasts  # noqa: F401
from tests.memo import _sizings_are_kept  # noqa: F401
from tests.snapshot import _nobody_left_in_the_database, demo_shop  # noqa: F401

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-extensions",
    "--force-color-profile=srgb",
    "--font-render-hinting=none",
    "--hide-scrollbars",
]
WAIT_MS = 60_000
expect.set_options(timeout=WAIT_MS)


def pytest_collection_modifyitems(items):
    for item in items:
        if "tests/browser/" in str(item.path):
            item.add_marker(pytest.mark.browser)


@pytest.fixture(scope="session", autouse=True)
def _orm_beside_playwright() -> Iterator[None]:
    """Playwright runs an event loop in this thread, and Django would refuse the ORM beside one."""
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    yield
    del os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"]


@pytest.fixture(autouse=True)
def _nothing_held_from_before():
    """What one test left for later is not done by the next."""
    queue.held.clear()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        yield playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)


@pytest.fixture(autouse=True)
def _links_lead_here(request, settings):
    if "live_server" in request.fixturenames:
        settings.PUBLIC_URL = request.getfixturevalue("live_server").url


@pytest.fixture
def page(browser, live_server, transactional_db) -> Iterator[Page]:
    """A page on the demo shop, at 1280x800; anything in the console fails the test."""
    yield from open_page(browser, live_server.url, 1280, 800)


@pytest.fixture
def phone(browser, live_server, transactional_db) -> Iterator[Page]:
    yield from open_page(browser, live_server.url, 390, 844)


def open_page(browser: Browser, url: str, width: int, height: int) -> Iterator[Page]:
    if not Shop.objects.exists():  # it is emptied after every test
        demo_shop()
    context = browser.new_context(base_url=url, viewport={"width": width, "height": height})
    page = context.new_page()
    page.set_default_timeout(WAIT_MS)
    said: list[str] = []
    page.on(
        "console",
        lambda message: said.append(message.text) if message.type in ("error", "warning") else None,
    )
    page.on("pageerror", lambda error: said.append(str(error)))
    yield page
    context.close()
    assert [
        line
        for line in said
        if not any(
            known in line
            for known in (
                "ERR_FAILED",
                "ERR_INTERNET_DISCONNECTED",
                "Failed to fetch",
                "status of 401",
                "status of 403",
                "status of 404",
                "status of 409",
                "status of 422",
                "status of 429",  # a long question while another is under way: asked again
            )
        )
    ] == []  # a test may cut the line


def sign_in(page: Page) -> None:
    """As the demo's estimator, who is let in without the page for it."""
    client = Client()
    client.force_login(User.objects.get(username="wenna"))
    cookie = {"name": "sessionid", "value": client.cookies["sessionid"].value}
    page.context.add_cookies([cookie | {"domain": "localhost", "path": "/"}])
    page.goto("/")
    page.wait_for_selector("h1:has-text('Bench')")
    painted(page)


def painted(page: Page) -> None:
    """Wait until the page's scripts have run and it is drawn: until then Chromium drops keys."""
    page.wait_for_load_state("load")
    page.wait_for_function(
        "() => performance.getEntriesByName('first-contentful-paint').length > 0"
    )


def on_worksheet(page: Page) -> None:
    """Wait until the worksheet is there and its scripts listen to keys."""
    page.wait_for_selector("#worksheet", state="attached")
    painted(page)


def open_cellar(page: Page) -> None:
    sign_in(page)
    page.click("text=Bookbinder's cellar")
    on_worksheet(page)


def type_in(page: Page, path: str, text: str) -> None:
    """Type into a field and leave it by Tab, then wait until the server has it."""
    field = page.locator(f'[data-path="{path}"]').first
    revision = page.get_attribute("#worksheet", "data-revision")
    field.fill(text)
    field.press("Tab")
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=revision
    )
