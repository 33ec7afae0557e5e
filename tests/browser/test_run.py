"""The run through the real browser.

Seven legs by keyboard, handles in the picture, dialogs, surveys, on desk and phone.
"""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe

from tests.browser.conftest import on_worksheet, open_cellar, sign_in, type_in
from tests.thin import some

pytestmark = pytest.mark.browser

LEGS = [
    ("lift pipe", "PVC-U PN10 63 mm", "3 m", "2.4 m", "check, gate, 2 elbow"),
    ("cellar", "PVC-U PN10 63 mm", "6.5 m", "2.6 m", "2 elbow"),
    ("wall", "PVC-U PN10 50 mm", "0.8 m", "2.6 m", "union"),
    ("yard", "PE100 SDR 11 63 mm", "31 m", "4.1 m", "2 45"),
    ("bank", "bore 55 mm", "12 m", "6 m", "45"),
    ("verge", "PE100 SDR 11 63 mm", "18 m", "5.7 m", ""),
    ("ditch", "PVC-U PN10 50 mm", "4 m", "5.2 m", "exit"),
]


def saved(page, act):
    """Do something that changes the job, and wait until the server has it."""
    before = page.get_attribute("#worksheet", "data-revision")
    act()
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=before
    )


def plain(text):
    return text.replace("\u00a0", " ").replace("\u202f", " ")


def new_sump(page):
    sign_in(page)
    page.goto("/jobs/new/")
    page.locator("#title").focus()
    page.keyboard.type("Seven legs")
    page.keyboard.press("Enter")
    on_worksheet(page)
    page.keyboard.press("Escape")  # out of the first field that is needed, to the keys


def to_field(page, path):
    """Press Tab until the field of a path has the focus: no mouse, no script."""
    for _ in range(120):
        if page.evaluate("document.activeElement.dataset?.path ?? ''").endswith(path):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"Tab never came to {path}")


def write(page, text):
    page.keyboard.press("Control+a")
    page.keyboard.type(text)
    page.keyboard.press("Escape")  # closes a list of words, if one is open
    page.keyboard.press("Enter")


def settled(page):
    page.wait_for_function("() => !kyrtos.isBusy()")


def build_seven_legs(page):
    page.keyboard.press("3")
    page.keyboard.press("Escape")
    for _ in range(5):
        saved(page, lambda: page.keyboard.press("l"))
    ids = page.eval_on_selector_all("#legs .leg", "legs => legs.map((leg) => leg.dataset.leg)")
    assert len(ids) == 7
    page.keyboard.press("3")
    for leg_id, texts in zip(ids, LEGS, strict=True):
        for field, text in zip(
            ("name", "pipe", "length", "ends_at", "fittings"), texts, strict=True
        ):
            to_field(page, f"legs.{leg_id}.{field}")
            page.keyboard.press("Control+a")
            page.keyboard.type(text or " ")
            if field == "fittings":
                page.keyboard.press("Escape")
    page.keyboard.press("Tab")
    settled(page)
    return ids


def test_the_keyboard_alone_builds_a_route_of_seven_legs(page):
    new_sump(page)
    ids = build_seven_legs(page)
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    for path, text in (("pit_diameter", "1 m"), ("stated_flow", "6 m3/h")):
        to_field(page, f"answers.{path}")
        page.keyboard.press("Control+a")
        page.keyboard.type(text)
    page.keyboard.press("Tab")
    page.wait_for_selector("#tape tfoot")
    settled(page)
    rows = page.locator("#tape tbody tr[data-leg]")
    assert [
        name
        for name in plain(page.inner_text("#tape")).splitlines()
        if name.startswith("Lift pipe")
    ]
    assert {rows.nth(at).get_attribute("data-leg") for at in range(rows.count())} == set(ids)
    assert "12 m of bore 55 mm" in plain(page.inner_text("#tape"))
    assert page.locator("svg.wide .p-leg").count() == 7
    assert page.locator("#legs [aria-invalid]").count() == 0


def test_a_phone_builds_the_same_route(phone):
    new_sump(phone)
    build_seven_legs(phone)
    assert phone.locator("#legs .leg").count() == 7
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert phone.locator("#legs [aria-invalid]").count() == 0
    type_in(phone, "answers.pit_diameter", "1 m")
    type_in(phone, "answers.stated_flow", "6 m3/h")
    phone.wait_for_selector("svg.narrow .p-leg", state="attached")
    assert phone.locator("svg.narrow .p-leg").count() == 7


def test_the_leg_in_hand_lights_up_in_picture_tape_and_table(page):
    open_cellar(page)
    page.locator('[data-path="legs.b.length"]').focus()
    assert set(page.eval_on_selector_all(".lit", "all => all.map((one) => one.dataset.leg)")) == {
        "b"
    }
    for place in ("#legs", "#tape", "svg.wide"):
        assert page.locator(f"{place} .lit").count() >= 1, place
    pipe = page.locator("svg.wide .p-leg[data-leg='l1'] .p-touch")
    pipe.scroll_into_view_if_needed()
    pipe.element_handle().wait_for_element_state("stable")  # which a forced hover does not do
    box = pipe.bounding_box()
    place = {"x": box["width"] * 0.3, "y": box["height"] * 0.3}
    pipe.hover(position=place, force=True)  # its own line lies over the place to touch
    page.wait_for_function("() => document.querySelector('#tape tr.lit')?.dataset.leg === 'l1'")


def test_a_level_is_dragged_in_the_picture_and_the_sheet_follows(page):
    open_cellar(page)
    handle = page.locator("#h-legs-l1-ends_at-wide")
    box = handle.bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] + 30, steps=5)
    told = plain(handle.locator("text").text_content())
    saved(page, page.mouse.up)
    value = plain(page.input_value('[data-path="legs.l1.ends_at"]'))
    assert value == told
    assert float(value.split()[0]) < 6.6
    # what the pointer let go of is where the outlet is drawn, to the next 5 cm
    after = page.locator("#h-legs-l1-ends_at-wide").bounding_box()
    assert after is not None
    saved(page, lambda: (page.keyboard.press("Escape"), page.keyboard.press("z")))
    assert page.input_value('[data-path="legs.l1.ends_at"]') == "6.6 m"


def test_a_length_is_pulled_to_the_side(page):
    open_cellar(page)
    box = page.locator("#h-legs-b-length-wide").bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 60, middle[1], steps=4)
    saved(page, page.mouse.up)
    assert float(page.input_value('[data-path="legs.b.length"]').split()[0]) > 30


def test_the_arrows_move_what_the_handle_stands_for(page):
    open_cellar(page)
    page.keyboard.press("g")
    assert page.evaluate("document.activeElement.getAttribute('role')") == "slider"
    page.locator("#h-legs-l1-ends_at-wide").focus()
    saved(page, lambda: [page.keyboard.press("ArrowUp") for _ in range(4)])
    assert page.input_value('[data-path="legs.l1.ends_at"]') == "6.80 m"
    assert page.evaluate("document.activeElement.id") == "h-legs-l1-ends_at-wide"
    saved(page, lambda: page.keyboard.press("Shift+ArrowDown"))
    assert page.input_value('[data-path="legs.l1.ends_at"]') == "6.30 m"
    assert "static" not in page.inner_text("#unsaved") or page.is_hidden("#unsaved")


def test_a_size_is_taken_by_its_number(page):
    open_cellar(page)
    page.locator('[data-path="legs.b.length"]').focus()
    page.keyboard.press("Escape")
    page.keyboard.press("s")
    page.wait_for_selector("#dialog[open] h2:has-text('the yard')")
    row = page.locator("#dialog tr:has-text('63 mm')")
    promised = plain(row.inner_text())
    saved(
        page, lambda: page.keyboard.press(row.locator("[data-digit]").get_attribute("data-digit"))
    )
    assert page.is_hidden("#dialog")
    assert page.input_value('[data-path="legs.b.pipe"]') == "PVC-U PN10 63 mm"
    real = re.search(r"at ([\d.]+ m³/h)", plain(page.inner_text("#tape h2")))[1]
    assert real in promised


def test_dialogs_open_by_key_and_give_the_focus_back(page):
    open_cellar(page)
    button = page.locator('#tape [data-dialog="methods"]')
    button.focus()
    page.keyboard.press("Enter")
    page.wait_for_selector("#dialog[open]")
    page.keyboard.press("Escape")
    assert page.evaluate("document.activeElement.dataset.dialog") == "methods"
    page.keyboard.press("Escape")
    for key, title in (
        ("w", "What to measure first"),
        ("f", "Friction by every school"),
        ("o", "The other way round"),
    ):
        page.keyboard.press(key)
        page.wait_for_selector(f"#dialog[open] h2:has-text('{title}')")
        page.keyboard.press("Escape")
        page.wait_for_selector("#dialog", state="hidden")


def test_the_other_way_round_takes_another_flow(page):
    open_cellar(page)
    page.keyboard.press("o")
    page.wait_for_selector("#dialog-flow")
    before = page.inner_text("#dialog table")
    page.fill("#dialog-flow", "5 m3/h")
    page.keyboard.press("Enter")
    page.wait_for_function(
        "t => document.querySelector('#dialog table').innerText !== t", arg=before
    )
    page.fill("#dialog-flow", "five")
    page.keyboard.press("Enter")
    page.wait_for_selector("#dialog-flow[aria-invalid]")
    assert page.input_value("#dialog-flow") == "five"


def test_the_ground_is_pasted_and_the_picture_follows_it(page):
    open_cellar(page)
    page.locator("#leg-l1 summary").click()
    page.locator('#leg-l1 [data-dialog="survey"]').click()
    page.wait_for_selector("#survey-text")
    page.fill("#survey-text", "0 6.9\n5 nine\n14 6.6")
    page.click("button[value='take']")
    page.wait_for_selector("#survey-text[aria-invalid]")
    assert "point 2" in page.inner_text("#survey-say")
    assert page.input_value("#survey-text") == "0 6.9\n5 nine\n14 6.6"
    page.fill("#survey-text", "0 6.9\n5 9.2\n14 6.6")
    saved(page, lambda: page.click("button[value='take']"))
    assert page.is_hidden("#dialog")
    assert "highest ground of the lane" in page.inner_text("#tape")
    assert len(page.get_attribute("svg.wide .p-leg[data-leg='l1'] .p-pipe", "points").split()) == 3
    assert "Ground along the lane" in page.inner_text("#proof")


def test_the_tape_is_copied_as_text(page):
    open_cellar(page)
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.click("[data-copy]")
    page.wait_for_selector("#copied:has-text('copied')")
    assert page.evaluate("navigator.clipboard.readText()").strip().endswith("8.70 m")


@pytest.mark.parametrize("name", some(["sensitivity", "methods", "sizes", "inverse"], 2))
def test_nothing_serious_in_any_dialog_and_nothing_runs_off_a_phone(phone, name):
    open_cellar(phone)
    phone.locator(f'#tape [data-dialog="{name}"]').click()
    phone.wait_for_selector("#dialog[open] h2")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert phone.evaluate("document.getElementById('dialog').getBoundingClientRect().right") <= 390
    found = Axe().run(phone).response["violations"]
    serious = {
        one["id"]: [node["html"][:140] for node in one["nodes"]][:3]
        for one in found
        if one["impact"] in ("serious", "critical")
    }
    assert serious == {}


@pytest.mark.parametrize(
    ("title", "key"), [("Six cabins over the ridge", "d"), ("Converted mill", "d")]
)
def test_reach_and_floors_open_and_are_fit_for_all(page, title, key):
    sign_in(page)
    page.click(f"text={title}")
    on_worksheet(page)
    page.keyboard.press(key)
    page.wait_for_selector("#dialog[open] table")
    found = Axe().run(page).response["violations"]
    assert {one["id"] for one in found if one["impact"] in ("serious", "critical")} == set()
