"""A phone that two people share and one that is in two shops: nothing is lost, doubled or shown."""

from __future__ import annotations

import pytest
from django.test import Client
from playwright.sync_api import expect

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.installations.models import InstalledPump
from kyrtos.shops.models import Shop
from tests.browser.conftest import on_worksheet, sign_in, type_in
from tests.browser.test_after_the_sale import cellar, worker_ready
from tests.kyrtos.conftest import sign_in_now

pytestmark = pytest.mark.browser
WAITING = "() => JSON.parse(localStorage['kyrtos-waiting'] || '[]')"


def come_in(page, user: User) -> None:
    """As this person, on whatever page."""
    client = Client()
    sign_in_now(client, user)
    cookie = {"name": "sessionid", "value": client.cookies["sessionid"].value}
    page.context.clear_cookies()
    page.context.add_cookies([cookie | {"domain": "localhost", "path": "/"}])


def kept_pages(phone) -> list[str]:
    return phone.evaluate(
        "async () => { const found = []; for (const name of await caches.keys())"
        " if (name.startsWith('kyrtos-pump-')) for (const one of await"
        " (await caches.open(name)).keys()) found.push(new URL(one.url).pathname); return found; }"
    )


def beside(phone, pump: InstalledPump) -> None:
    """The pump's page kept on the phone, and no network any more."""
    phone.goto(f"/p/{pump.code}/")
    worker_ready(phone)
    phone.goto(f"/p/{pump.code}/")
    phone.wait_for_function(
        "async (where) => Boolean(await caches.match(where))", arg=f"/p/{pump.code}/"
    )
    phone.context.set_offline(True)


def note(phone, pump: InstalledPump, text: str, count: int) -> None:
    """Typed on the page out of the phone's own keeping, opened anew."""
    phone.goto(f"/p/{pump.code}/")
    phone.select_option("#event-kind", "noted")
    phone.fill("#event-text", text)
    phone.click("button:has-text('Note it')")
    expect(phone.locator("#waiting")).to_contain_text(f"{count} not sent yet")


def texts(pump: InstalledPump) -> list[str]:
    return list(pump.events.filter(kind="noted").order_by("pk").values_list("text", flat=True))


def test_four_typed_without_a_network_are_all_sent_and_once(phone):
    pump = cellar()
    sign_in(phone)
    beside(phone, pump)
    said = ["one", "two", "three", "four"]
    for count, text in enumerate(said, 1):
        note(phone, pump, text, count)  # the kept page has the same hidden token each time
    held = phone.evaluate(WAITING)
    assert len({one["id"] for one in held}) == 4
    phone.context.set_offline(False)
    phone.wait_for_function(f"() => !({WAITING})().length")
    expect(phone.locator("main")).to_contain_text("four")  # the page is shown anew
    assert texts(pump) == said
    phone.evaluate("(held) => localStorage.setItem('kyrtos-waiting', JSON.stringify(held))", held)
    phone.goto(f"/p/{pump.code}/")  # an answer that got lost: all four come once more
    phone.wait_for_function(f"() => !({WAITING})().length")
    assert texts(pump) == said


def test_a_refusal_in_the_middle_is_set_aside_with_its_reason_and_the_rest_goes_on(phone):
    pump, other = cellar(), InstalledPump.objects.exclude(serial="VE220841").first()
    sign_in(phone)
    beside(phone, pump)
    for count, text in enumerate(("one", "two", "three"), 1):
        note(phone, pump, text, count)
    phone.evaluate(  # the second is of a pump that is gone when it is sent
        "() => { const held = JSON.parse(localStorage['kyrtos-waiting']);"
        " held[1].url = '/p/ZZZZZZZZ/events/'; held[1].pump = 'Ondrath K 11';"
        " localStorage['kyrtos-waiting'] = JSON.stringify(held); }"
    )
    phone.context.set_offline(False)
    aside = phone.locator("#waiting p:has-text('Not taken: Ondrath K 11')")
    expect(aside).to_contain_text("There is no such page, or it belongs to another shop.")
    assert texts(pump) == ["one", "three"]
    assert other.events.filter(text="two").count() == 0
    aside.locator("button:has-text('Throw away')").click()
    expect(phone.locator("#waiting")).to_be_hidden()


def test_two_people_on_one_phone(phone):
    """What one typed is not sent as the other, nor shown to them; it may be handed over."""
    pump, tobin = cellar(), User.objects.get(username="tobin")
    sign_in(phone)
    beside(phone, pump)
    note(phone, pump, "a secret of Wenna's", 1)
    come_in(phone, tobin)
    phone.context.set_offline(False)
    phone.goto(f"/p/{pump.code}/")
    waiting = phone.locator("#waiting")
    expect(waiting).to_contain_text("1 entry typed by Wenna Polreath not sent yet")
    assert "secret" not in phone.inner_text("body")
    assert texts(pump) == []
    waiting.locator("button:has-text('Send as Tobin')").click()
    phone.wait_for_function(f"() => !({WAITING})().length")
    assert texts(pump) == ["a secret of Wenna's"]
    assert pump.events.get(kind="noted").user == tobin
    assert pump.shop.audit.filter(about__contains="typed by Wenna Polreath").exists()


def test_signing_out_on_any_page_warns_and_leaves_no_page_of_a_pump(phone):
    pump = cellar()
    sign_in(phone)
    beside(phone, pump)
    note(phone, pump, "waits", 1)
    phone.route("**/p/now/", lambda route: route.abort())  # the network is bad: it waits on
    phone.context.set_offline(False)
    phone.goto("/")
    assert kept_pages(phone) != []
    asked = []
    phone.once("dialog", lambda dialog: (asked.append(dialog.message), dialog.dismiss()))
    phone.click("form[data-sign-out] button")
    phone.wait_for_timeout(0)
    expect(phone.locator("h1")).to_contain_text("Bench")
    assert "1 not sent yet" in asked[0]
    phone.once("dialog", lambda dialog: dialog.accept())
    phone.click("form[data-sign-out] button")
    phone.wait_for_selector("h1:has-text('Sign in')")
    phone.wait_for_function(
        "async () => !(await caches.keys()).some((name) => name.startsWith('kyrtos-pump-'))"
    )
    assert len(phone.evaluate(WAITING)) == 1
    phone.unroute("**/p/now/")
    sign_in(phone)
    phone.goto(f"/p/{pump.code}/")
    phone.wait_for_function(f"() => !({WAITING})().length")
    assert texts(pump) == ["waits"]


@pytest.fixture
def in_two(page) -> tuple[User, Shop]:
    """Wenna in another shop too."""
    wenna = User.objects.get(username="wenna")
    other = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=wenna, shop=other, role=Role.OWNER)
    return wenna, other


def test_a_worksheet_goes_on_at_one_click_after_another_tab_went_over(page, in_two):
    wenna, other = in_two
    come_in(page, wenna)
    page.goto("/")
    page.click("text=Bookbinder's cellar")
    on_worksheet(page)
    tab = page.context.new_page()
    tab.goto("/settings/signing-in/")
    tab.click(f"form[action='/settings/in/{other.pk}/'] button")
    tab.wait_for_selector("text=You work in Farshore Pumps now")
    field = page.locator('[data-path="answers.rise"]').first
    field.fill("104 mm")
    field.press("Tab")
    notice = page.locator("#notices")
    expect(notice).to_contain_text("This page is of Ilvermoor Pump & Pipe; you work in Farshore")
    notice.locator("button").click()
    expect(notice).to_be_empty()
    page.wait_for_function("() => !window.kyrtos.isBusy()")
    assert page.locator('[data-path="answers.rise"]').first.input_value() == "104 mm"
    type_in(page, "answers.rise", "105 mm")
    tab.goto("/customers/new/")  # this tab is of Ilvermoor now
    tab.fill("#name", "Zebulon")
    page.goto("/settings/signing-in/")
    page.click(f"form[action='/settings/in/{other.pk}/'] button")
    tab.click("main button[type=submit]")
    expect(tab.locator("main [role=alert]")).to_contain_text("Nothing was written")
    tab.click("button:has-text('Work in Ilvermoor Pump & Pipe and send it')")
    expect(tab.locator("h1")).to_have_text("Zebulon")
    assert not other.customers.exists()


def test_what_was_typed_in_one_shop_is_not_written_into_the_other(phone, in_two):
    wenna, other = in_two
    pump = cellar()
    come_in(phone, wenna)
    beside(phone, pump)
    note(phone, pump, "here", 1)
    client = Client()
    client.cookies["sessionid"] = next(
        one["value"] for one in phone.context.cookies() if one["name"] == "sessionid"
    )
    client.post(f"/settings/in/{other.pk}/")
    phone.context.set_offline(False)
    aside = phone.locator("#waiting p:has-text('Not taken')")
    expect(aside).to_contain_text("This page is of Ilvermoor Pump & Pipe; you work in Farshore")
    client.post(f"/settings/in/{pump.shop_id}/")
    aside.locator("button:has-text('Try again')").click()
    phone.wait_for_function(f"() => !({WAITING})().length")
    assert texts(pump) == ["here"]
