"""Keyboard alone, a phone, and people who use neither eyes nor mouse."""

from __future__ import annotations

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from kyrtos.catalogue import imports
from kyrtos.shops.models import Shop
from tests.browser.conftest import on_worksheet, open_cellar, sign_in, type_in
from tests.thin import some

pytestmark = pytest.mark.browser


def revision(page):
    return page.get_attribute("#worksheet", "data-revision")


def press(page, key):
    before = revision(page)
    page.keyboard.press(key)
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=before
    )


def test_keys_do_what_the_list_says(page):
    open_cellar(page)
    page.keyboard.press("?")
    assert page.is_visible("#keys")
    page.keyboard.press("Escape")
    press(page, "m")
    assert "gpm" in page.inner_text("#verdict .main")
    press(page, "z")
    assert "m³/h" in page.inner_text("#verdict .main")
    press(page, "y")
    press(page, "m")
    press(page, "]")
    assert "Vessmar Tarn 80" in page.inner_text("#verdict .main")
    press(page, "[")
    assert "Vessmar Tarn 80" in page.inner_text("#verdict .main")
    press(page, "l")
    assert page.locator("#legs .leg").count() == 4
    page.keyboard.press("1")
    assert page.evaluate("document.activeElement.closest('.stage').id") == "stage-water"
    page.keyboard.press("z")
    assert page.locator("#legs .leg").count() == 4, "a key typed in a field is text, not a command"


def test_fittings_are_completed_from_the_keyboard(page):
    open_cellar(page)
    field = page.locator("#f-legs-l1-fittings")
    field.focus()
    field.press("End")
    field.press_sequentially(", 2 swe")
    assert page.inner_text("#word-list b") == "sweep"
    assert page.locator("#word-list svg use").get_attribute("href").endswith("#elbow90")
    field.press("Enter")
    assert field.input_value() == "1 45, exit, 2 sweep, "
    press(page, "Tab")
    assert "2 × 90° sweep bend" in page.inner_text("#tape")


def test_a_job_from_blank_with_the_keyboard_alone(page):
    sign_in(page)
    page.keyboard.press("Alt+n")
    if "/jobs/new/" not in page.url:
        page.locator("text=New job").focus()
        page.keyboard.press("Enter")
    page.wait_for_selector("#title")
    page.keyboard.type("Crypt sump")
    page.keyboard.press("Enter")
    on_worksheet(page)  # it begins in the first field that is needed
    for text in ("800 mm", None, "80 mm", "60 s"):
        if text:
            page.keyboard.type(text)
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.classList.contains('provenance')"):
            page.keyboard.press("Tab")
    page.wait_for_function(
        "() => document.querySelector('#stage-flow .decided').textContent.includes('m³/h')"
    )


def test_a_phone_shows_the_strip_first_and_nothing_runs_off_sideways(phone):
    open_cellar(phone)
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert phone.is_visible("svg.narrow")
    assert not phone.is_visible("svg.wide")
    top = {
        part: phone.locator(part).bounding_box()["y"]
        for part in ("#verdict", "#picture", "#stages", "#tape")
    }
    assert sorted(top, key=top.get) == ["#verdict", "#picture", "#stages", "#tape"]
    type_in(phone, "answers.rise", "110 mm")
    assert "Needs 6.86 m³/h" in phone.inner_text("#verdict .main").replace("\u00a0", " ")


@pytest.mark.parametrize(
    "address",
    some(
        [
            "/",
            "/jobs/new/",
            "/catalogue/",
            "/catalogue/ondrath-k-11/",
            "/catalogue/import/",
            "/catalogue/harrowick-t-10-impeller-134-mm/edit/",
            "/catalogue/trace/",
            "/jobs/recheck/",
            "/which-pump/?cutter=yes&liquid=sewage&place=pit&feeds=gravity&lift=5",
            "/rules/",
            "/rules/CYC-01/",
            "worksheet",
            "/sign-in/",
        ],
        5,
    ),
)
def test_nothing_serious_for_people_with_other_means(page, address):
    if address == "worksheet":
        open_cellar(page)
        page.evaluate("document.querySelectorAll('details').forEach((one) => { one.open = true; })")
    elif address == "/sign-in/":
        page.goto(address)
    else:
        sign_in(page)
        page.goto(address)
    found = Axe().run(page).response["violations"]
    serious = {
        one["id"]: [node["html"][:140] for node in one["nodes"]][:3]
        for one in found
        if one["impact"] in ("serious", "critical")
    }
    assert serious == {}


def test_dark_mode_keeps_its_contrast(browser, live_server, transactional_db):
    from tests.browser.conftest import open_page

    pages = open_page(browser, live_server.url, 1280, 800)
    page = next(pages)
    page.emulate_media(color_scheme="dark")
    open_cellar(page)
    found = Axe().run(page).response["violations"]
    assert [one["id"] for one in found if one["impact"] in ("serious", "critical")] == []
    next(pages, None)


UNDER = """least => [...document.querySelectorAll('a, button, input, select, summary, textarea')]
  .filter((one) => one.checkVisibility() && !one.closest('.visually-hidden, .skip, svg'))
  .filter((one) => one.type !== 'hidden')
  .map((one) => (/checkbox|radio/.test(one.type) ? one.closest('label') : one))
  .filter((one) => one && one.getBoundingClientRect().height > 0)
  .filter((one) => one.getBoundingClientRect().height < least - 0.5)
  .map((one) => one.outerHTML.slice(0, 90))"""
ON_SITE = "#stages .inside :is(input, select, textarea, button), #stages summary"


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/jobs/new/",
        "/catalogue/",
        "/which-pump/",
        "/rules/",
        "/settings/",
        "/catalogue/import/",
    ],
)
def test_on_a_phone_nothing_is_too_small_to_touch_and_no_page_scrolls_sideways(phone, path):
    sign_in(phone)
    imports.begin(Shop.objects.get(), None, "prices of Ordel, autumn.csv", b"id,price\nx,1\n")
    phone.goto(path)
    assert phone.evaluate(UNDER, 24) == []
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def test_what_is_used_on_site_is_a_finger_wide_and_the_picture_small(phone):
    open_cellar(phone)
    phone.evaluate("document.querySelectorAll('details').forEach((one) => one.open = true)")
    assert phone.evaluate(UNDER, 24) == []
    small = phone.evaluate(
        """which => [...document.querySelectorAll(which)].filter((one) => one.checkVisibility()
          && !/checkbox|radio/.test(one.type) && one.getBoundingClientRect().height < 43.5)
          .map((one) => one.outerHTML.slice(0, 90))""",
        ON_SITE,
    )
    assert small == []
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    box = phone.locator("#picture")
    assert box.locator("svg.narrow").first.bounding_box()["height"] <= 844 / 4
    box.locator("summary").click()
    expect(box.locator("svg.narrow").first).not_to_be_visible()
