"""A basin designed from a blank sewage job, dragged, run through a wet night, and printed."""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.conftest import on_worksheet, open_cellar, sign_in, type_in
from tests.browser.test_run import saved, settled
from tests.browser.test_slice import words

pytestmark = pytest.mark.browser

BLANK_SEWAGE = {
    "answers.stated_flow": "9 m3/h",
    "answers.people": "30",
    "answers.pit_diameter": "1.2 m",
    "answers.inlet_level": "1.1 m",
    "answers.pit_depth": "2 m",
    "legs.a.length": "2 m",
    "legs.a.ends_at": "1.8 m",
    "legs.b.length": "30 m",
    "legs.b.ends_at": "2.5 m",
}


def open_by_key(page, key, inside):
    page.locator(".verdict").first.click()
    page.keyboard.press(key)
    page.wait_for_selector(f"#dialog[open] {inside}")


def start_level(page):
    return page.input_value('[data-path="answers.start_level"]')


def test_from_a_blank_sewage_job_to_basin_wet_night_and_paper(page):
    sign_in(page)
    page.goto("/jobs/new/")
    page.fill("#title", "A new changing room")
    page.locator('input[name="kind"][value="sewage"], select[name="kind"]').first.evaluate(
        "e => { if (e.tagName === 'SELECT') e.value = 'sewage'; else e.checked = true; }"
    )
    page.keyboard.press("Enter")
    on_worksheet(page)
    for path, text in BLANK_SEWAGE.items():
        type_in(page, path, text)
    settled(page)
    page.wait_for_selector("#tape tfoot")

    open_by_key(page, "b", "svg.basin")
    expect(page.locator("#dialog")).to_contain_text("The pit that is there bears pumps up to")
    page.fill("#dialog-hatch", "600 mm")
    page.click("#dialog button[type=submit]")
    expect(page.locator("#dialog")).to_contain_text("passes the hatch")
    before = start_level(page)
    handle = page.locator('#dialog [data-drag="answers.start_level"]')
    handle.scroll_into_view_if_needed()
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def drag():
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y - 12, steps=4)
        page.mouse.up()

    saved(page, drag)
    expect(page.locator('[data-path="answers.start_level"]')).not_to_have_value(before)
    expect(handle).not_to_have_attribute("aria-valuetext", before)  # the dialog follows
    assert page.input_value("#dialog-hatch") == "600 mm"  # and loses nothing
    with page.expect_download() as download:
        page.click("#dialog a:has-text('SVG')")
    assert download.value.suggested_filename.endswith("basin.svg")
    page.keyboard.press("Escape")

    open_by_key(page, "t", "svg.over-time")
    page.select_option("#dialog-day", "wet_night")
    expect(page.locator("#dialog option[value=wet_night]")).to_have_attribute("selected", "")
    page.focus("[data-scrub]")
    page.keyboard.press("End")
    expect(page.locator("[data-moment]")).to_contain_text("24:00")
    saved(page, lambda: page.click("#dialog button:has-text('keep it on the job')"))
    expect(page.locator("#stages, .results").last).to_contain_text("A wet night")
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    with page.expect_navigation(url=re.compile(r"/paper/1/")):
        page.click("#issue")
    text = words(page.request.get(page.url).body())
    assert "Over time: a wet night" in text


def test_a_hand_on_the_chart_shows_the_water_of_that_moment(page):
    sign_in(page)
    open_cellar(page)
    open_by_key(page, "t", "svg.over-time")
    page.select_option("#dialog-day", "out")
    expect(page.locator("#dialog-out")).to_be_visible()
    water, told = page.locator("[data-water]"), page.locator("[data-moment]")
    page.focus("[data-scrub]")
    page.keyboard.press("Home")
    first = float(water.get_attribute("height"))
    for _ in range(3):
        page.keyboard.press("PageUp")
    expect(told).not_to_contain_text("00:00")
    chart = page.locator("svg.over-time").bounding_box()
    page.mouse.click(chart["x"] + chart["width"] * 0.24, chart["y"] + chart["height"] * 0.4)
    expect(told).to_contain_text("1.25 m")  # it stands at the rim while the power is away
    assert float(water.get_attribute("height")) > first
    page.click("[data-play]")
    expect(page.locator("[data-play]")).to_have_attribute("aria-pressed", "true")
    page.click("[data-play]")
    expect(page.locator("[data-play]")).to_have_text("play")


def test_with_less_motion_asked_for_it_plays_in_steps(page):
    page.emulate_media(reduced_motion="reduce")
    sign_in(page)
    open_cellar(page)
    open_by_key(page, "t", "svg.over-time")
    page.click("[data-play]")
    expect(page.locator("[data-moment]")).not_to_contain_text("00:00 ")
    page.click("[data-play]")


@pytest.mark.parametrize(("key", "inside"), [("t", "svg.over-time"), ("b", "svg.basin")])
def test_the_dialogs_keep_to_a_phone_and_to_the_rules_of_access(phone, key, inside):
    sign_in(phone)
    open_cellar(phone)
    open_by_key(phone, key, inside)
    assert phone.evaluate("document.getElementById('dialog').scrollWidth <= innerWidth")
    found = Axe().run(phone, context="#dialog")
    assert found.violations_count == 0, found.generate_report()
