"""Typing in one's own words: what is read, what is asked, and what is never taken in silence."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import open_cellar, type_in

pytestmark = pytest.mark.browser


def pipe_of(page, leg="a"):
    return page.locator(f'[data-path="legs.{leg}.pipe"]').first


def test_a_pipe_in_ones_own_words_is_read(page):
    open_cellar(page)
    type_in(page, "legs.a.pipe", '1.5" sch40 pvc')
    expect(pipe_of(page)).to_have_value("PVC Sch 40 1-1/2 in")


def test_where_several_pipes_fit_one_is_chosen_by_a_click(page):
    open_cellar(page)
    type_in(page, "legs.a.pipe", "40 mm PE")
    expect(page.locator("#verdict .main")).to_contain_text("Still needed: pipe of the riser")
    page.get_by_role("button", name="PE100 SDR 17 40 mm").click()
    expect(pipe_of(page)).to_have_value("PE100 SDR 17 40 mm")
    expect(page.locator("#verdict .main")).to_contain_text("will run at")
    assert page.get_by_role("button", name="PE100 SDR 17 40 mm").count() == 0


def test_pipes_are_suggested_and_taken_by_the_keys_alone(page):
    open_cellar(page)
    pipe_of(page).fill("63 pe")
    options = page.locator("#word-list [role=option]")
    expect(options).to_have_count(3)
    expect(pipe_of(page)).not_to_have_attribute("aria-activedescendant", "word-0")
    pipe_of(page).press("ArrowDown")
    pipe_of(page).press("ArrowDown")
    expect(options.nth(1)).to_have_attribute("aria-selected", "true")
    chosen = options.nth(1).text_content().strip()
    revision = page.get_attribute("#worksheet", "data-revision")
    pipe_of(page).press("Enter")
    page.wait_for_function(
        "r => document.getElementById('worksheet').dataset.revision !== r", arg=revision
    )
    expect(pipe_of(page)).to_have_value(chosen)


def test_a_range_and_a_rough_figure_are_taken_as_they_are_written(page):
    open_cellar(page)
    type_in(page, "legs.b.length", "ca. 11 to 13 m")
    field = page.locator('[data-path="legs.b.length"]').first
    expect(field).to_have_value("ca. 11 to 13 m")
    expect(field).not_to_have_attribute("aria-invalid", "true")
    expect(page.locator("#verdict .main")).to_contain_text("will run at")


def test_the_other_reading_of_a_doubtful_figure_is_one_click_away(page):
    open_cellar(page)
    type_in(page, "answers.stated_flow", "6.000 l/h")
    page.get_by_role("button", name="or 6000 l/h").click()
    expect(page.locator('[data-path="answers.stated_flow"]').first).to_have_value("6000 l/h")
