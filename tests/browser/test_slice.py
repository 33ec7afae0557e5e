"""The slice end to end: a person, a blank sheet, a pump, a paper."""

from __future__ import annotations

import io
import re

import pytest
from pypdf import PdfReader

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from tests.browser.conftest import open_cellar, sign_in, type_in
from tests.thin import some

pytestmark = pytest.mark.browser


def words(pdf: bytes) -> str:
    return " ".join(
        " ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(pdf)).pages
    )


def plain(text: str) -> str:
    return " ".join(text.split())


def test_from_a_blank_sheet_to_a_paper_with_the_same_numbers(page):
    sign_in(page)
    page.click("text=New job")
    page.fill("#title", "Vestry pit")
    page.fill("#customer", "The sexton of St Orran")
    page.click("text=Open the worksheet")
    assert "Still needed" in page.inner_text("#verdict .main")
    for path, text in {
        "answers.pit_diameter": "36 in",
        "answers.rise": "90 mm",
        "answers.rise_time": "1 min 15 s",
        "answers.pit_depth": "3 ft 8 in",
        "legs.a.length": "9 ft 6 in",
        "legs.a.ends_at": "2.7 m",
        "legs.b.length": "24",
        "legs.b.ends_at": "5.1 m",
    }.items():
        type_in(page, path, text)
    verdict = page.inner_text("#verdict .main")
    found = re.fullmatch(
        r".*Needs (.+ m³/h) at (.+ m)\. The (.+) will run at (.+ m³/h), (.+ m), at .*",
        plain(verdict),
    )
    assert found, verdict
    # pi/4 (36 in)^2 x 90 mm / 75 s x 1.5 = 4.255 m3/h
    assert found[1] == "4.26 m³/h"
    assert plain(page.inner_text("#total-head")) == found[5].removesuffix(" m")
    assert page.locator(".candidates li").count() >= 3
    assert page.locator("svg.wide .p-duty").count() == 1
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    with page.expect_navigation(url=re.compile(r"/paper/1/")):
        page.click("#issue")
    text = words(page.request.get(page.url).body())
    for part in (
        plain(verdict),
        found[3],
        found[5].removesuffix(" m"),
        "36 in",
        "1 min 15 s",
        "3 ft 8 in",
        "9 ft 6 in",
        "The sexton of St Orran",
    ):
        assert part in text, part


def test_an_edit_redraws_everything_and_leaves_the_focus(page):
    open_cellar(page)
    before = {
        part: page.inner_html(part) for part in ("#verdict", "#picture", "#tape", "#candidates")
    }
    field = page.locator("#f-answers-rise")
    field.fill("4.5 in")
    field.press("Enter")
    page.wait_for_function(
        "() => document.querySelector('#say-f-answers-rise').textContent.includes('= 114')"
    )
    assert page.evaluate("document.activeElement.id") == "f-answers-rise"
    assert field.input_value() == "4.5 in"
    assert all(page.inner_html(part) != html for part, html in before.items())


def test_typing_goes_on_undisturbed_while_an_answer_comes_in(page):
    open_cellar(page)
    page.fill("#f-answers-rise", "110 mm")
    page.press("#f-answers-rise", "Enter")
    page.locator("#f-answers-margin").focus()
    page.locator("#f-answers-margin").press("Control+a")
    page.locator("#f-answers-margin").press_sequentially("1.75")
    page.wait_for_function("() => document.getElementById('worksheet').dataset.revision === '2'")
    assert page.input_value("#f-answers-margin") == "1.75"
    page.wait_for_function("() => document.getElementById('worksheet').dataset.revision === '3'")
    assert (
        services.current(Job.objects.get(title__startswith="Bookbinder")).answers["margin"].text
        == "1.75 ×"
    )


@pytest.mark.parametrize("text", some(["abc", "-4 m", "25 psi", "9e99 m", ""], 2))
def test_nonsense_is_told_beside_the_field_and_the_rest_stays(page, text):
    open_cellar(page)
    total = page.inner_text("#total-head")
    type_in(page, "answers.pit_diameter", text)
    assert page.get_attribute("#f-answers-pit_diameter", "aria-invalid") == "true"
    assert "The last good value still counts" in page.inner_text("#say-f-answers-pit_diameter")
    assert "shown with the last good value of: Pit diameter" in page.inner_text("#verdict")
    assert page.inner_text("#total-head") == total
    page.reload()
    assert page.input_value("#f-answers-pit_diameter") == text
    type_in(page, "answers.pit_diameter", "1000 mm")
    assert page.get_attribute("#f-answers-pit_diameter", "aria-invalid") is None


def test_when_the_server_is_away_nothing_typed_is_lost(page):
    open_cellar(page)
    type_in(page, "answers.rise", "105 mm")
    page.route("**/change/", lambda route: route.abort())
    page.evaluate(
        "window.addEventListener('unhandledrejection', (event) => event.preventDefault())"
    )
    page.fill("#f-answers-margin", "1.6")
    page.press("#f-answers-margin", "Tab")
    page.wait_for_selector("#unsaved:not([hidden])")
    page.unroute("**/change/")
    page.wait_for_selector("#unsaved", state="hidden")
    held = services.current(Job.objects.get(title__startswith="Bookbinder")).answers
    assert (held["rise"].text, held["margin"].text) == ("105 mm", "1.6 ×")


def test_the_picture_stays_in_sight_while_the_legs_are_edited(page):
    open_cellar(page)
    page.locator("#f-legs-l1-length").scroll_into_view_if_needed()
    assert page.evaluate("scrollY") > 200
    box = page.locator("svg.wide[role='img']").bounding_box()
    assert box["y"] >= 0
    assert box["y"] + box["height"] <= 800


def test_pointing_at_a_leg_lights_it_up_in_section_tape_and_table(page):
    open_cellar(page)
    page.hover("#leg-b")
    lit = page.eval_on_selector_all(
        "#worksheet .lit",
        "items => items.map(item => item.tagName.toLowerCase() + item.dataset.leg)",
    )
    assert set(lit) == {"divb", "gb", "trb"}
    page.focus("#f-legs-a-length")
    assert page.locator("svg.wide .p-leg.lit").get_attribute("data-leg") == "a"
