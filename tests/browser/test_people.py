"""From a link to a first edit, and what becomes of it when the role is taken away meanwhile."""

from __future__ import annotations

import pytest

from kyrtos.accounts.models import Membership
from tests.browser.conftest import on_worksheet, sign_in, type_in

pytestmark = pytest.mark.browser
GOOD = "weir-steps-nine-and-ten"


def as_owner(page) -> None:
    sign_in(page)
    page.get_by_role("button", name="sign out").click()
    page.locator('[name=who][value="isolde"]').click()
    page.wait_for_selector("h1:has-text('Bench')")


def test_a_newcomer_comes_in_by_a_link_edits_and_is_made_a_viewer_meanwhile(page):
    as_owner(page)
    page.goto("/people/")
    page.select_option("#role", "technician")
    page.click("text=Make a link")
    link = page.inner_text("#link")
    newcomer = page.context.browser.new_page(base_url=page.url.split("/people")[0])
    newcomer.goto(link)
    for field, text in (("username", "ama"), ("password", "short"), ("again", "short")):
        newcomer.fill(f"#{field}", text)
    newcomer.click("button:has-text('Come in')")
    newcomer.wait_for_selector("#password_error:has-text('too short')")
    for field in ("password", "again"):
        newcomer.fill(f"#{field}", GOOD)
    newcomer.click("button:has-text('Come in')")
    newcomer.wait_for_selector("h1:has-text('Bench')")
    newcomer.click("text=Bookbinder's cellar")
    on_worksheet(newcomer)
    type_in(newcomer, "answers.rise", "105 mm")
    page.goto("/people/")
    row = page.locator("tr", has_text="ama")
    row.locator("select").select_option("viewer")
    row.get_by_role("button", name="Set").click()
    page.wait_for_selector("text=is viewer now")
    assert Membership.objects.get(user__username="ama").role == "viewer"
    newcomer.fill("#f-answers-rise", "99 mm")
    newcomer.press("#f-answers-rise", "Tab")
    newcomer.wait_for_selector("#say-f-answers-rise:has-text('Your role does not allow this')")
    assert newcomer.input_value("#f-answers-rise") == "99 mm"
    newcomer.close()
