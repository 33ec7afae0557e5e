"""A dead pump at the counter, its replacement sold, put in, read, a blocked valve; offline."""

from __future__ import annotations

import io
import re

import pytest
import qrcode
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from kyrtos.demo import fleet
from kyrtos.installations import labels, readings
from kyrtos.installations.models import InstalledPump
from tests.browser.conftest import open_cellar, sign_in
from tests.kyrtos.test_installations import blocked

pytestmark = pytest.mark.browser


def cellar() -> InstalledPump:
    return InstalledPump.objects.get(serial="VE220841")


def type_all(page, texts):
    for name, text in texts.items():
        page.fill(f"#{name}", text)


def violations(page):
    found = Axe().run(page).response["violations"]
    return [(one["id"], one["nodes"][0]["target"]) for one in found]


def test_dead_at_the_counter_sold_put_in_read_and_a_blocked_valve_found(page):
    old = cellar()
    sign_in(page)
    page.goto(f"/p/{old.code}/")
    page.select_option("#event-kind", "failed")
    page.fill("#event-cause", "motor burnt")
    page.click("button:has-text('Note it')")
    page.click("a:has-text('Find its replacement')")
    expect(page.locator("h1")).to_have_text("A dead pump on the counter")
    expect(page.locator("main")).to_contain_text("what is on record is filled in")
    assert page.input_value("#model") == "Tarn 80"
    page.fill("#amps", "2.4")
    page.press("#amps", "Enter")
    expect(page.locator(".candidates li").first).to_contain_text("Vessmar Tarn 80")
    assert violations(page) == []
    page.locator(".candidates li", has_text="Vessmar Tarn 80 V").locator(
        "a:has-text('put it in')"
    ).click()
    expect(page.locator("h1")).to_contain_text("In the place of")
    assert page.input_value("#model") == "Tarn 80 V"
    page.fill("#serial", "NEW-1")
    page.click("button:has-text('Keep')")
    expect(page.locator(".pump-state")).to_have_text("running")
    new = InstalledPump.objects.get(serial="NEW-1")
    assert InstalledPump.objects.get(pk=old.pk).replaced_by == new

    curve, promise = readings.curve_and_promise(new)
    page.click("a:has-text('Read it')")
    flow = 0.999 * promise.flow_m3s
    type_all(page, blocked(new, flow, float(curve.head_m(flow)), power(curve, flow)))
    page.check("input[name=handed_over]")
    page.click("button:text-is('Keep')")
    expect(page.locator(".note.good")).to_contain_text("As predicted")
    expect(page.locator("svg polygon.h-ellipse")).to_be_attached()
    page.click("h1 ~ span a")
    expect(page.locator("main")).to_contain_text("handed over")

    page.click("a:has-text('Read it')")
    flow = 0.72 * promise.flow_m3s
    type_all(page, blocked(new, flow, float(curve.head_m(flow)), power(curve, flow)))
    page.click("button:has-text('Compare only')")
    expect(page.locator(".note.watch:not(#waiting)")).to_contain_text("More friction than promised")
    expect(page.locator("main")).to_contain_text("a valve part closed")
    assert new.readings.count() == 1  # looked at, not kept
    page.click("button:text-is('Keep')")
    page.wait_for_url(re.compile(r"/readings/\d+/"))
    expect(page.locator("h1")).to_contain_text("Read ")
    assert violations(page) == []


def power(curve, flow):
    return float(curve.powers_at([flow])[0])


def test_a_label_opens_the_pumps_page_on_a_phone_for_who_is_signed_in(phone, live_server):
    pump = cellar()
    address = f"{live_server.url}/p/{pump.code}/"
    plain = qrcode.QRCode()
    plain.add_data(address)
    assert labels.qr_code(address).startswith("data:image/png;base64,")
    assert plain.make_image().get_image().size[0] > 100
    phone.goto(address)
    expect(phone.locator("h1")).to_have_text("Sign in")  # nobody else sees it
    sign_in(phone)
    phone.goto(address)
    expect(phone.locator("h1")).to_have_text("Vessmar Tarn 80")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(phone) == []


def worker_ready(page):
    page.evaluate("() => navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_function("() => navigator.serviceWorker.controller !== null")


def kept_addresses(page):
    return page.evaluate(
        """async () => {
          const found = [];
          for (const name of await caches.keys()) {
            const held = await (await caches.open(name)).keys();
            found.push(...held.map((one) => new URL(one.url).pathname));
          }
          return found.sort();
        }"""
    )


def test_a_reading_without_a_network_waits_on_the_phone_and_is_sent_later(phone):
    pump = cellar()
    before = pump.readings.count()
    sign_in(phone)
    where = f"/p/{pump.code}/commission/"
    phone.goto(f"/p/{pump.code}/")
    worker_ready(phone)
    phone.goto(f"/p/{pump.code}/")
    phone.goto(where)
    phone.wait_for_function(
        "async (where) => Boolean(await caches.match(where))", arg=where, timeout=60_000
    )
    phone.goto("/customers/")  # is not kept
    phone.goto(where)
    assert [one for one in kept_addresses(phone) if not one.startswith("/static/")] == sorted(
        [f"/p/{pump.code}/", where]
    )

    phone.context.set_offline(True)
    phone.goto(where)  # out of the phone's own keeping
    expect(phone.locator("h1")).to_have_text("Readings")
    type_all(phone, fleet.worn(pump, 0.05))
    phone.click("button:text-is('Keep')")
    expect(phone.locator("#waiting")).to_contain_text("1 not sent yet")
    assert pump.readings.count() == before
    phone.goto(f"/p/{pump.code}/")
    expect(phone.locator("#waiting")).to_contain_text("1 not sent yet")

    phone.context.set_offline(False)
    phone.evaluate("() => window.dispatchEvent(new Event('online'))")
    phone.wait_for_function("() => !JSON.parse(localStorage['kyrtos-waiting'] || '[]').length")
    expect(phone.locator("#waiting")).to_be_hidden()
    assert pump.readings.count() == before + 1
    phone.evaluate("() => window.dispatchEvent(new Event('online'))")
    phone.goto(where)
    assert pump.readings.count() == before + 1  # once

    phone.goto(f"/p/{pump.code}/")
    phone.click("form[data-sign-out] button")
    phone.wait_for_selector("h1:has-text('Sign in')")
    phone.wait_for_function("async () => (await caches.keys()).length === 0")


def test_a_network_that_is_there_by_name_alone_loses_nothing(phone):
    """The phone thinks that it is online, and the server does not answer."""
    pump = cellar()
    before = pump.events.count()
    sign_in(phone)
    phone.goto(f"/p/{pump.code}/")
    phone.route("**/health/web", lambda route: route.abort())
    phone.select_option("#event-kind", "cleaned")
    phone.fill("#event-text", "rag out of the inlet")
    phone.click("button:has-text('Note it')")
    expect(phone.locator("#waiting")).to_contain_text("1 not sent yet")
    assert pump.events.count() == before
    phone.unroute("**/health/web")
    phone.evaluate("() => window.dispatchEvent(new Event('online'))")
    phone.wait_for_function("() => !JSON.parse(localStorage['kyrtos-waiting'] || '[]').length")
    assert pump.events.get(kind="cleaned").text == "rag out of the inlet"


def test_a_cistern_sum_with_two_slips_is_explained(page):
    """Litres a minute in the horsepower formula, and no fittings: typed as somebody wrote it."""
    sign_in(page)
    page.goto("/counter/")
    page.click("a:has-text('second look')")
    type_all(
        page,
        {
            "flow": "38 l/min",
            "lift": "6 m",
            "length": "24 m",
            "fittings": "8 m",
            "bore": "27.2 mm",
            "pump_efficiency": "45 %",
            "got_shaft_power": "0.51 hp",
        },
    )
    page.press("#flow", "Enter")
    expect(page.locator("p.watch[role=status]")).to_contain_text(
        "litres where gallons belong and fittings left out"
    )
    assert page.locator("tr.watch").count() >= 3
    assert violations(page) == []


def test_from_a_pasted_sheet_to_the_answer_by_keyboard(page):
    sign_in(page)
    page.goto("/calculation-review/")
    page.fill("#page", "Flow\t38\tl/min\nStatic head\t6\tm\nPipe length\t24\tm\nBore\t27.2\tmm")
    page.click("button:has-text('Find what is in it')")
    page.wait_for_url(re.compile("flow="))
    assert page.input_value("#flow") == "38 l/min"
    expect(page.locator("main")).to_contain_text("The sum done right")


def test_customers_sites_and_photos_on_a_phone(phone):
    sign_in(phone)
    phone.goto("/customers/?q=pell")
    phone.click("table.list a >> nth=0")
    phone.click("h2:has-text('Sites') + div a >> nth=0")
    expect(phone.locator("h1")).to_contain_text("Tanner")
    phone.set_input_files("#file", {"name": "pit.png", "mimeType": "image/png", "buffer": red()})
    phone.select_option("#place", "pump")
    phone.click("button:has-text('Keep it')")
    phone.wait_for_function(
        "() => [...document.querySelectorAll('.photos img')].some((one) => one.naturalWidth > 0)"
    )
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(phone) == []


def test_a_photo_stands_at_its_place_in_the_picture(page):
    sign_in(page)
    site = cellar().site
    for place in ("pump", "run", "outlet", "source", "panel"):
        page.goto(f"/sites/{site.pk}/")
        page.set_input_files("#file", {"name": "a.png", "mimeType": "image/png", "buffer": red()})
        page.select_option("#place", place)
        page.click("button:has-text('Keep it')")
        page.wait_for_url(re.compile(r"/sites/\d+/$"))
        page.wait_for_selector(f".photos img[alt*='{PLACES[place]}']")
    open_cellar(page)
    marks = page.locator("svg.photo-marks a")
    expect(marks).to_have_count(4)  # the panel is in no picture
    inside = page.locator("svg.wide").first.bounding_box()
    for at in range(4):
        box = marks.nth(at).bounding_box()
        assert inside["x"] <= box["x"] <= inside["x"] + inside["width"]
        assert inside["y"] <= box["y"] <= inside["y"] + inside["height"]
        marks.nth(at).click(trial=True)  # nothing lies over it
    answer = page.request.get(marks.first.get_attribute("href"))
    assert answer.headers["content-type"] == "image/jpeg"


PLACES = {
    "pump": "the pump",
    "run": "the run",
    "outlet": "the outlet",
    "source": "the water",
    "panel": "panel",
}


def red() -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (640, 480), "red").save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(
    "path", ["/pumps/", "/pumps/due/", "/pumps/life/", "/customers/", "/counter/"]
)
def test_the_new_pages_fit_a_phone_and_can_be_read_by_all(phone, path):
    sign_in(phone)
    phone.goto(path)
    phone.wait_for_selector("h1")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(phone) == []
