"""A job told in words: what was not read stands in sight when the worksheet opens."""

import pytest

from tests.browser.conftest import sign_in

pytestmark = pytest.mark.browser


def test_what_was_not_read_is_in_sight(page):
    sign_in(page)
    page.goto("/jobs/new/")
    page.fill("#in_words_told", "cellar sump 18 in pit, rises 4 in in 70 s, 14 bananas")
    page.click("text=Read and open the worksheet")
    told = page.locator(".messages", has_text="14 bananas")
    told.wait_for()
    assert page.evaluate("window.scrollY") == 0
    assert page.locator(":focus").count() == 1
    assert page.input_value('[data-path="answers.pit_diameter"]') == "18 in"
