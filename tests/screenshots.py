"""Pictures of the main views from the demo data, for docs/screenshots: ./run screenshots."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.browser.conftest import (
    _orm_beside_playwright,
    browser,
    open_cellar,
    open_page,
    page,
    phone,
    sign_in,
    type_in,
)
from tests.browser.test_tracing import trace_leaflet
from tests.charts import CHARTS
from tests.snapshot import _nobody_left_in_the_database

SHOTS = Path(__file__).parents[1] / "docs" / "screenshots"
pytestmark = pytest.mark.browser


def take(view, name: str, *, full: bool = False) -> None:
    view.wait_for_timeout(350)
    view.screenshot(path=SHOTS / f"{name}.png", full_page=full)
    assert (SHOTS / f"{name}.png").stat().st_size > 5000


def test_desk_views(page):
    sign_in(page)
    take(page, "bench")
    open_cellar(page)
    page.dispatch_event('svg.wide .p-leg[data-leg="b"]', "pointerover")
    take(page, "worksheet")
    page.goto("/catalogue/")
    take(page, "catalogue")
    page.goto("/catalogue/ondrath-k-11/")
    take(page, "pump")


def test_the_run_and_its_questions(page):
    sign_in(page)
    page.click("text=Six cabins over the ridge")
    page.wait_for_selector("#worksheet svg.wide", state="attached")
    page.click("#leg-l1 summary") if not page.locator("#leg-l1 details[open]").count() else None
    page.locator('[data-path="legs.l1.length"]').focus()
    page.wait_for_timeout(300)
    page.evaluate("document.getElementById('leg-a').scrollIntoView()")
    take(page, "worksheet-run")
    open_cellar(page)
    page.keyboard.press("t")
    page.wait_for_selector("#dialog[open] svg.over-time")
    page.select_option("#dialog-day", "wet_night")
    page.wait_for_selector("#dialog option[value=wet_night][selected]", state="attached")
    page.locator("[data-scrub]").fill("75")
    take(page, "wet-night")


def test_over_time(page):
    sign_in(page)
    page.click("text=Observatory visitor taps")
    page.wait_for_selector("#worksheet svg.wide", state="attached")
    page.keyboard.press("t")
    page.wait_for_selector("#dialog[open] svg.over-time")
    page.select_option("#dialog-day", "solar_year")
    page.wait_for_selector("#dialog option[value=solar_year][selected]", state="attached")
    page.fill("#dialog-need", "2.5")
    page.press("#dialog-need", "Enter")
    page.wait_for_selector("#dialog-need[value='2.5']", state="attached")
    page.locator("[data-scrub]").fill("300")
    take(page, "solar-year")
    page.goto("/")
    page.click("text=Rowing club changing rooms")
    page.wait_for_selector("#worksheet svg.wide", state="attached")
    page.keyboard.press("b")
    page.wait_for_selector("#dialog[open] svg.basin")
    for field, text in (("hatch", "600 mm"), ("water", "1.2 m"), ("frost", "0.8 m")):
        page.fill(f"#dialog-{field}", text)
    page.click("#dialog button[type=submit]")
    page.wait_for_selector("#dialog-hatch[value='600 mm']", state="attached")
    take(page, "basin-designer")


def test_choosing(page):
    open_cellar(page)
    page.keyboard.press("c")
    page.wait_for_selector("#dialog[open] table")
    take(page, "compare")


def test_tracing(page):
    sign_in(page)
    trace_leaflet(page, CHARTS[5])
    box = page.locator("#trace-image").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.6)
    take(page, "tracing")


def test_blank_sheet(page):
    sign_in(page)
    page.click("text=New job")
    page.fill("#title", "Vestry pit")
    page.click("text=Open the worksheet")
    take(page, "blank-sheet")


def test_phone_views(phone):
    open_cellar(phone)
    take(phone, "worksheet-phone")


def test_settings(page):
    sign_in(page)
    page.get_by_role("button", name="sign out").click()
    page.locator('[name=who][value="isolde"]').click()
    page.wait_for_selector("h1:has-text('Bench')")
    page.goto("/settings/shop/")
    take(page, "settings", full=True)


def test_after_the_sale(page):
    sign_in(page)
    page.goto(
        "/counter/?model=K+11&volts=230&amps=3.1&power=1+hp&lift=4+m&length=12+m&bore=40+mm"
        "&age=2021&outlet=1-1/2+in&float=yes"
    )
    take(page, "counter")
    page.goto("/pumps/?q=VE220841")
    page.click("table.list a >> nth=0")
    page.wait_for_selector("h2:has-text('What was read')")
    take(page, "installed-pump")
    page.click("h2:has-text('What was read') + table a >> nth=0")
    page.wait_for_selector("svg polygon.h-ellipse")
    take(page, "commissioning")
    page.goto("/pumps/life/?group=Ondrath+K+11")
    take(page, "reliability")
    page.goto(
        "/calculation-review/?flow=38+l/min&lift=6+m&length=24+m&fittings=8+m&bore=27.2+mm"
        "&pump_efficiency=45+%25&motor_efficiency=70+%25&got_shaft_power=0.51+hp&family=transfer"
    )
    take(page, "calculation-review")


def test_paper(page, tmp_path):
    import subprocess

    open_cellar(page)
    page.keyboard.press("p")
    page.click("#issue")
    page.wait_for_url("**/paper/1/")
    (tmp_path / "paper.pdf").write_bytes(page.request.get(page.url).body())
    subprocess.run(
        [
            "pdftoppm",
            "-r",
            "70",
            "-f",
            "1",
            "-l",
            "1",
            "-png",
            "-singlefile",
            str(tmp_path / "paper.pdf"),
            str(SHOTS / "paper"),
        ],
        check=True,
    )
