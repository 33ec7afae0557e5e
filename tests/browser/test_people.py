"""From a link to a first edit, and what becomes of it when the role is taken away meanwhile."""

from __future__ import annotations

import pytest

from kyrtos.accounts.models import Membership
from tests.browser.conftest import on_worksheet, sign_in, type_in
from tests.codes import code_now

pytestmark = pytest.mark.browser
RECOVERY: list[str] = []
GOOD = "weir-steps-nine-and-ten"


def as_owner(page) -> None:
    sign_in(page)
    page.get_by_role("button", name="sign out").click()
    page.locator('[name=who][value="isolde"]').click()
    page.wait_for_selector("h1:has-text('Bench')")


def set_up_an_app(page) -> None:
    """An app for codes, as a person does it; its recovery codes are kept."""
    page.goto("/settings/signing-in/")
    page.click("text=Set one up")
    if "again" in page.url:
        page.fill("[name=password]", GOOD)
        page.click("button:has-text('Go on')")
    secret = page.inner_text("#secret")
    page.fill("[name=code]", code_now(secret))
    page.click("button:has-text('Use it from now on')")
    page.wait_for_selector("h1:has-text('Recovery codes')")
    RECOVERY[:] = page.locator(".codes code").all_inner_texts()
    page.click("text=I have them")
    page.wait_for_selector("text=10 left")


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
    set_up_an_app(newcomer)
    newcomer.click(".bar-button")
    newcomer.fill("#id_username", "ama")
    newcomer.fill("#id_password", GOOD)
    newcomer.get_by_role("button", name="Sign in", exact=True).click()
    newcomer.wait_for_selector("h1:has-text('Second step')")
    newcomer.fill("[name=code]", "000000")
    newcomer.get_by_role("button", name="Sign in").click()
    newcomer.wait_for_selector("text=Incorrect code")
    newcomer.fill("[name=code]", RECOVERY.pop())
    newcomer.get_by_role("button", name="Sign in").click()
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


def test_a_passkey_is_added_and_lets_in_without_name_and_password(page):
    sign_in(page)
    browser = page.context.new_cdp_session(page)
    browser.send("WebAuthn.enable")
    key = {
        "protocol": "ctap2",
        "transport": "internal",
        "hasResidentKey": True,
        "hasUserVerification": True,
        "isUserVerified": True,
        "automaticPresenceSimulation": True,
    }
    browser.send("WebAuthn.addVirtualAuthenticator", {"options": key})
    page.goto("/settings/signing-in/")
    page.click("text=Add one")
    page.fill("[name=name]", "Wenna's phone")
    page.check("[name=passwordless]")
    page.get_by_role("button", name="Add it").click()
    page.wait_for_selector("h1:has-text('Recovery codes'), h1:has-text('Keys and passkeys')")
    page.goto("/settings/signing-in/")
    page.wait_for_selector("text=Wenna's phone")
    page.click(".bar-button")
    page.get_by_role("button", name="Sign in with a passkey").click()
    page.wait_for_selector("h1:has-text('Bench')")
    page.wait_for_selector("text=Wenna Polreath")
    page.goto("/settings/signing-in/")
    page.click("text=Take away")
    page.get_by_role("button", name="Take it away").click()
    page.goto("/settings/signing-in/")
    page.wait_for_selector("text=Keys and passkeys: none")


def test_where_no_key_answers_it_is_said(page):
    page.goto("/sign-in/")
    page.evaluate("void (navigator.credentials.get = () => Promise.reject(new Error('no key')))")
    page.get_by_role("button", name="Sign in with a passkey").click()
    page.wait_for_selector("#key-say:has-text('No key answered')")
