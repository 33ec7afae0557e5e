"""The first minutes as people have them: typed as on a paper pad, from the picture, from a box."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from kyrtos.accounts.models import Membership
from tests.browser.conftest import on_worksheet, open_cellar, sign_in, type_in
from tests.browser.test_kinds import start

pytestmark = pytest.mark.browser
PLAIN = re.compile(r"[\u00a0\u202f]")


def verdict(page) -> str:
    return PLAIN.sub(" ", page.inner_text("#verdict .main"))


def test_a_us_sump_from_a_blank_sheet_in_natural_typing(page):
    sign_in(page)
    Membership.objects.update(units="us")
    start(page, "sump", "Crawl space on Heron Lane")
    assert page.input_value('[data-path="answers.stop_level"]') == "6 in"
    assert page.input_value('[data-path="legs.a.pipe"]').startswith("PVC Sch 40")
    page.locator("#stage-pump").evaluate("stage => { stage.open = true; }")
    for path, text in (
        ("answers.pit_diameter", "24"),
        ("answers.rise", "~ 4 1/2 in"),
        ("answers.rise_time", "1 min 30 s"),
        ("answers.pit_depth", "3'"),
        ("legs.a.pipe", '2" sch40 pvc'),
        ("legs.a.length", "9 ft"),
        ("legs.a.ends_at", "8'6\""),
        ("answers.voltage", "230"),
        ("answers.supply_frequency", "50 Hz"),
    ):
        type_in(page, path, text)
    assert page.input_value('[data-path="answers.pit_diameter"]') == "24 in"
    assert page.locator("#stages [aria-invalid=true]").count() == 0
    assert re.search(r"Needs [\d.]+ gpm at [\d.]+ ft", verdict(page))
    assert page.locator("#candidates li[data-pump]").count() > 0


def test_a_solar_farmer_writes_his_latitude_as_on_a_map(page):
    start(page, "solar_well", "Terraces above the ford")
    for text in ("22 S", "22° 30' S", "S 22.5"):
        type_in(page, "answers.latitude", text)
        field = page.locator('[data-path="answers.latitude"]').first
        expect(field).to_have_value(text)
        expect(field).not_to_have_attribute("aria-invalid", "true")
    type_in(page, "answers.daily_need", "4500 litres")
    assert "latitude" not in verdict(page).lower()


def test_a_pump_from_its_box_is_taken_in_and_compared(page):
    open_cellar(page)
    page.get_by_role("button", name="a pump I have here").click()
    page.fill("#own-name", "Grey one")
    page.fill("#own-points", "8 m 10 m3/h; 12 m 2")
    page.fill("#own-open_flow", "lots")
    page.get_by_role("button", name="take it in").click()
    expect(page.locator("#own-say-open_flow")).to_contain_text("no number")
    expect(page.locator("#own-name")).to_have_value("Grey one")
    page.fill("#own-open_flow", "16 m3/h")
    page.get_by_role("button", name="take it in").click()
    own = page.locator('#candidates li[data-pump="own-p1"]')
    expect(own).to_contain_text("rough")
    own.locator("[data-compare]").check()
    page.locator("#candidates li[data-pump] [data-compare]").first.check()
    page.locator("button[data-dialog=compare]").click()
    expect(page.locator("#dialog")).to_contain_text("Grey one")
    expect(page.locator("#dialog .p-band")).to_have_count(1)


def test_a_semicolon_price_list_is_read_shown_and_taken(page):
    sign_in(page)
    page.goto("/catalogue/ondrath-k-11/")
    maker, model = "Ondrath", "K 11"
    page.goto("/catalogue/import/")
    listed = f"Hersteller;Modell;Preis;Bestand\n{maker};{model};1.234,50;7\n"
    page.set_input_files(
        "#file", {"name": "prices.csv", "mimeType": "text/csv", "buffer": listed.encode("cp1252")}
    )
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator("#import")).to_contain_text("decimal comma")
    expect(page.locator("#import")).to_contain_text("price:")
    page.get_by_role("button", name="Take it in").click()
    expect(page.locator("#import")).to_contain_text("1 replaced")
    page.goto("/catalogue/ondrath-k-11/")
    assert "1 234.50" in PLAIN.sub(" ", page.inner_text("main"))


def test_the_blank_picture_leads_to_the_fields_and_to_the_site_sheet(page):
    start(page, "sump", "Under the chapel")
    marks = page.locator("#picture svg.wide a:has(circle)")
    assert marks.count() == 5
    page.locator('#picture svg.wide a[data-to="f-legs-a-length"]:has(circle)').click()
    assert page.evaluate("document.activeElement.id") == "f-legs-a-length"
    page.keyboard.type("3 m")
    page.keyboard.press("Enter")
    expect(page.locator('#picture svg.wide a[data-to="f-legs-a-length"]')).to_have_count(0)
    address = page.get_by_role("link", name="site sheet (PDF)").get_attribute("href")
    sheet = page.request.get(address)
    assert sheet.headers["content-type"] == "application/pdf"
    assert sheet.body()[:5] == b"%PDF-"
    on_worksheet(page)


def test_a_new_job_begins_in_the_first_field_that_is_needed(page):
    sign_in(page)
    start(page, "well", "Orchard at Highcleave")
    focused = page.locator(":focus")
    expect(focused).to_have_attribute("data-path", re.compile(r"."))
    first = page.locator(".field:has(label .watch) [data-path]:visible").first
    assert focused.get_attribute("data-path") == first.get_attribute("data-path")
    expect(page.locator("h1")).to_have_text("Orchard at Highcleave")


@pytest.mark.parametrize(
    ("status", "body", "says"),
    [
        (404, "<main><p>There is no such page.</p></main>", "There is no such page."),
        (403, "A viewer may not ask this.", "A viewer may not ask this."),
        (409, "<main></main>", "The server refused this (409)."),
    ],
)
def test_a_dialog_that_is_refused_says_what_the_server_said(page, status, body, says):
    sign_in(page)
    open_cellar(page)
    page.route("**/dialogs/methods/**", lambda route: route.fulfill(status=status, body=body))
    page.click('[data-dialog="methods"]')
    expect(page.locator("#dialog-body")).to_have_text(f"{says} Close this and ask again.")
