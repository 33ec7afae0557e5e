"""Three kinds that differ most, from a blank sheet to a pump, through the real interface."""

import pytest

from tests.browser.conftest import on_worksheet, sign_in, type_in

pytestmark = pytest.mark.browser


def start(page, kind: str, title: str) -> None:
    sign_in(page)
    page.click("text=New job")
    page.fill("#title", title)
    (
        page.check(f'input[value="{kind}"]')
        if page.locator(f'input[value="{kind}"]').count()
        else page.select_option("#kind", kind)
    )
    page.click("text=Open the worksheet")
    on_worksheet(page)
    assert "Still needed" in page.inner_text("#verdict .main")


def choose(page, path: str, code: str) -> None:
    revision = page.get_attribute("#worksheet", "data-revision")
    page.select_option(f'[data-path="{path}"]', code)
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=revision
    )


def fill(page, answers: dict[str, str]) -> None:
    for path, text in answers.items():
        type_in(page, path, text)


def test_a_booster_from_its_fixtures(page):
    start(page, "booster", "Guest house on the quay")
    fill(
        page,
        {
            f"lists.fixtures.r{row}.count": count
            for row, count in enumerate(("8", "9", "9", "1"), 1)
        },
    )
    assert page.locator(".flow-methods tr").count() >= 7  # the schools stand side by side
    assert "stand-in" in page.inner_text(".flow-methods")
    choose(page, "answers.flow_from", "din1988")
    fill(
        page,
        {
            "answers.supply_pressure": "1.5 bar",
            "legs.a.length": "3 m",
            "legs.a.ends_at": "0.4 m",
            "legs.b.length": "12 m",
            "legs.b.ends_at": "8.5 m",
            "legs.c.length": "6 m",
            "legs.c.ends_at": "9.5 m",
        },
    )
    choose(page, "answers.upgrade", "jets")
    assert "Needs" in page.inner_text("#verdict .main")
    assert "rain heads with three body jets" in page.inner_text("#proof")
    page.click('[data-row-action="add"][data-list="fixtures"]')
    page.wait_for_selector("#row-fixtures-r5")
    page.click("#row-fixtures-r5 [data-row-action='remove']")
    page.wait_for_selector("#row-fixtures-r5", state="detached")


def test_a_hot_tub_in_a_closed_loop(page):
    start(page, "spa", "Tub on the terrace")
    assert "levels do not count" in page.inner_text("#stage-run")
    assert page.locator('[data-path$=".ends_at"]').count() == 0
    fill(
        page,
        {
            "lists.jets.r1.count": "10",
            "lists.jets.r1.flow": "40 l/min",
            "legs.a.length": "4 m",
            "legs.a.pipe": "PVC-U PN10 90 mm",
            "legs.b.length": "5 m",
            "legs.b.pipe": "PVC-U PN10 75 mm",
        },
    )
    assert "Needs 24.00 m³/h" in page.inner_text("#verdict .main").replace("\u00a0", " ")
    assert "back in the tub" in page.locator("svg.wide[role='img']").text_content()
    assert "Suction outlets" in page.inner_text("#proof")


def test_a_pond_with_a_timed_bucket(page):
    start(page, "pond", "Rill behind the mill")
    fill(page, {"answers.weir_width": "300 mm", "legs.a.length": "6 m", "legs.a.ends_at": "0.9 m"})
    assert "Needs 4.46 m³/h" in page.inner_text("#verdict .main").replace(
        "\u00a0", " "
    )  # 0.3 m x 248 l/min for each metre
    box = page.locator("#box-f-answers-stated_flow")
    box.locator("summary").click()
    box.locator('[data-bucket="volume"]').fill("9")
    box.locator('[data-bucket="time"]').fill("6 s")
    revision = page.get_attribute("#worksheet", "data-revision")
    box.locator("[data-bucket-put]").click()
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=revision
    )
    assert page.input_value("#f-answers-stated_flow") == "9 l in 6 s"
    assert "Needs 5.40 m³/h" in page.inner_text("#verdict .main").replace("\u00a0", " ")
    type_in(page, "answers.weir_width", "wide")
    assert "holds no number" in page.inner_text("#say-f-answers-weir_width")
    assert page.input_value("#f-answers-weir_width") == "wide"
    page.click("#stage-water summary")
    assert "caged pond pump" in page.inner_text("#stage-water .family")
