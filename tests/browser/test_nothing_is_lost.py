"""Slow answers, other people, ended sessions and lesser roles: what was typed stays."""

from __future__ import annotations

import threading

import pytest

from kyrtos.accounts.models import Membership, Role
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from sizing.editing import edit_structure
from tests.browser.conftest import on_worksheet, open_cellar, type_in

pytestmark = pytest.mark.browser


def cellar() -> Job:
    return Job.objects.get(title__startswith="Bookbinder")


def held() -> dict:
    return services.current(cellar()).answers


class Gate:
    """Holds back the answers to some requests until it is opened.

    It stands before its page is opened: a request that follows at once on a route being set may
    slip past it, and Playwright then never hears of it.
    """

    def __init__(self, page, address: str) -> None:
        self._page, self._waiting, self._open = page, [], False
        page.route(address, self._take)

    def _take(self, route) -> None:
        if self._open:
            route.continue_()
        else:
            self._waiting.append(route)

    def open(self) -> None:
        self._open = True
        for route in self._waiting:
            route.continue_()


def test_an_answer_to_a_question_no_longer_asked_is_dropped(page):
    gate = Gate(page, "**/dialogs/**")
    open_cellar(page)
    with page.expect_request("**/dialogs/**"):
        page.keyboard.press("w")
    page.wait_for_selector("#dialog[open][aria-busy]")
    page.keyboard.press("Escape")
    page.wait_for_selector("#dialog", state="hidden")
    page.focus("#f-answers-margin")
    page.keyboard.press("Control+a")
    with page.expect_response("**/dialogs/**"):
        gate.open()
    page.keyboard.type("1.75")
    page.keyboard.press("Tab")
    page.wait_for_function("() => document.getElementById('worksheet').dataset.revision === '2'")
    assert not page.is_visible("#dialog")
    assert held()["margin"].text == "1.75 ×"


def test_keys_typed_while_a_dialog_is_under_way_are_not_lost(page):
    gate = Gate(page, "**/dialogs/**")
    open_cellar(page)
    page.keyboard.press("o")
    page.wait_for_selector("#dialog[open][aria-busy]")
    page.keyboard.type("5 m3/h")
    gate.open()
    page.wait_for_selector("#dialog-flow")
    page.wait_for_selector("#dialog:not([aria-busy])")
    assert page.input_value("#dialog-flow") == "5 m3/h"


def test_only_the_last_of_two_questions_is_answered(page):
    gate = Gate(page, "**/dialogs/sensitivity/**")
    open_cellar(page)
    with page.expect_request("**/dialogs/sensitivity/**"):
        page.keyboard.press("w")
    page.wait_for_selector("#dialog[open][aria-busy]")
    page.keyboard.press("Escape")
    page.keyboard.press("f")
    page.wait_for_selector("#dialog h2:has-text('Friction by every school')")
    with page.expect_response("**/dialogs/sensitivity/**"):
        gate.open()
    assert "Friction by every school" in page.inner_text("#dialog h2")


def elsewhere(action) -> None:
    """Done by somebody else: in a thread of its own, with a connection of its own."""

    def work() -> None:
        from django.db import connection

        action()
        connection.close()

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()


def take_leg_out() -> None:
    other = Membership.objects.get(role=Role.OWNER).user
    services.change(
        job=cellar(),
        user=other,
        path="",
        page="another",
        apply=lambda content: edit_structure.remove_leg(content, "b"),
    )


def test_typing_into_a_leg_that_somebody_took_out_is_told_and_the_queue_goes_on(page):
    open_cellar(page)
    elsewhere(take_leg_out)
    page.fill("#f-legs-b-length", "19.5 m")
    page.press("#f-legs-b-length", "Tab")
    page.wait_for_selector(".kept")
    assert page.inner_text(".kept output") == "19.5 m"
    assert "taken out of the job meanwhile" in page.inner_text(".kept")
    assert page.locator("#stage-run .kept").count() == 1
    assert page.locator("#leg-b").count() == 0
    type_in(page, "answers.rise", "105 mm")
    assert held()["rise"].text == "105 mm"
    assert page.is_hidden("#unsaved")
    assert page.inner_text(".kept output") == "19.5 m"  # until it is said to be forgotten
    page.click(".kept button")
    assert page.locator(".kept").count() == 0


def test_when_the_session_has_run_out_one_signs_in_over_the_page(page):
    open_cellar(page)
    page.context.clear_cookies(name="sessionid")
    page.fill("#f-answers-rise", "105 mm")
    page.press("#f-answers-rise", "Tab")
    page.wait_for_selector("#sign-in[open]")
    assert page.input_value("#f-answers-rise") == "105 mm"
    page.fill("#over-password", "wrong")
    page.click("#sign-in button:has-text('Sign in')")
    page.wait_for_selector("#sign-in .say:has-text('do not go together')")
    page.click("#sign-in button:has-text('Come in again')")
    page.wait_for_function("() => document.getElementById('worksheet').dataset.revision === '2'")
    assert held()["rise"].text == "105 mm"
    assert not page.is_visible("#sign-in")


def test_a_role_that_was_reduced_is_said_and_the_text_stays(page):
    open_cellar(page)
    elsewhere(lambda: Membership.objects.filter(user__username="wenna").update(role=Role.VIEWER))
    page.fill("#f-answers-rise", "105 mm")
    page.press("#f-answers-rise", "Tab")
    page.wait_for_selector("#say-f-answers-rise:has-text('Your role does not allow this')")
    assert page.input_value("#f-answers-rise") == "105 mm"
    assert page.is_hidden("#unsaved")


@pytest.mark.parametrize(
    "title", ["Bookbinder's cellar", "Converted mill", "Hostel willow bed", "Six cabins"]
)
def test_no_how_paints_over_its_neighbours(page, title):
    open_cellar(page)
    if title != "Bookbinder's cellar":
        page.goto("/")
        page.locator("tbody a").filter(has_text=title).first.click()
        on_worksheet(page)
    page.evaluate(
        "document.querySelectorAll('.working, .stage').forEach((one) => { one.open = true; })"
    )
    over = page.evaluate(
        """() => {
          const right = document.getElementById("stages").getBoundingClientRect().right;
          return [...document.querySelectorAll("#stages .working *")]
            .filter((one) => one.getBoundingClientRect().right > right)
            .map((one) => one.textContent.slice(0, 60));
        }"""
    )
    assert over == []
