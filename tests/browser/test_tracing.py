"""A chart that we draw ourselves, tilted like a bad scan, is traced by hand and gives its pump
back.
"""

from __future__ import annotations

import io
import math
import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from PIL import Image, ImageDraw

from kyrtos.catalogue.models import CatalogueEntry
from tests.browser.conftest import sign_in

pytestmark = pytest.mark.browser
WIDTH, HEIGHT, TILT = 900, 620, math.radians(2.5)


def on_page(flow, head):
    """Where a flow (0 to 12 m³/h) and a head (0 to 20 m) lie on our tilted chart."""
    x, y = 90 + 700 * flow / 12, 540 - 460 * head / 20
    dx, dy = x - WIDTH / 2, y - HEIGHT / 2
    return WIDTH / 2 + dx * math.cos(TILT) - dy * math.sin(TILT), HEIGHT / 2 + dx * math.sin(
        TILT
    ) + dy * math.cos(TILT)


def true_head(flow):
    return 17.0 - 0.02 * flow - 0.09 * flow**2


def drawn() -> bytes:
    image = Image.new("RGB", (WIDTH, HEIGHT), "white")
    pen = ImageDraw.Draw(image)
    for flow in range(0, 13, 2):
        pen.line([on_page(flow, 0), on_page(flow, 20)], fill="#ccc")
    for head in range(0, 21, 5):
        pen.line([on_page(0, head), on_page(12, head)], fill="#ccc")
    pen.line([on_page(q / 10, true_head(q / 10)) for q in range(121)], fill="#222", width=3)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def click(page, flow, head):
    box = page.locator("#trace-image").bounding_box()
    x, y = on_page(flow, head)
    page.mouse.click(box["x"] + x / WIDTH * box["width"], box["y"] + y / HEIGHT * box["height"])


def trace_leaflet(page, flows):
    """Put our chart in, mark its axes and click along its curve."""
    page.goto("/catalogue/trace/")
    page.set_input_files(
        "#file", {"name": "leaflet.png", "mimeType": "image/png", "buffer": drawn()}
    )
    page.click("button:has-text('Put it in')")
    page.wait_for_selector("#trace-image")
    for key, place, value in (
        ("x1", (0, 0), "0"),
        ("x2", (12, 0), "12"),
        ("y1", (0, 5), "5"),
        ("y2", (0, 20), "20"),
    ):
        click(page, *place)
        page.wait_for_function(
            "n => document.querySelectorAll('.trace-stage .t-mark').length === n",
            arg=("x1", "x2", "y1", "y2").index(key) + 1,
        )
        page.fill(f"#v-{key}", value)
        page.keyboard.press("Tab")
        page.wait_for_function(
            "([id, v]) => document.getElementById(id).getAttribute('value') === v",
            arg=[f"v-{key}", value],
        )
    for number, flow in enumerate(flows, 1):
        click(page, flow, true_head(flow))
        page.wait_for_function(
            "n => document.querySelectorAll('.trace-stage .t-point').length === n", arg=number
        )
    page.wait_for_selector(".trace-stage .t-fit", state="attached")


def test_a_tilted_chart_gives_its_pump_back_within_a_hundredth(page):
    sign_in(page)
    flows = (0, 1.5, 3, 4.5, 6, 7.5, 9, 10.5, 12)
    trace_leaflet(page, flows)
    assert "9 points" in page.inner_text("#trace-said")
    found = Axe().run(page).response["violations"]
    assert {one["id"] for one in found if one["impact"] in ("serious", "critical")} == set()
    page.focus("#t-point-4")  # a nudge and back: the keyboard moves what the hand missed
    before = page.locator("#t-point-4").get_attribute("cy")
    page.keyboard.press("ArrowDown")
    page.wait_for_function(
        "y => document.getElementById('t-point-4').getAttribute('cy') !== y", arg=before
    )
    page.keyboard.press("ArrowUp")
    page.wait_for_function(
        "y => document.getElementById('t-point-4').getAttribute('cy') === y", arg=before
    )
    page.fill("#maker", "Ondrath")
    page.fill("#model", "Leaflet 7")
    page.click("button:has-text('Save as a pump')")
    page.wait_for_selector("h1:has-text('Ondrath Leaflet 7')")
    pump = CatalogueEntry.objects.get(pump_id="ondrath-leaflet-7")
    assert len(pump.flows_m3s) == len(flows)
    for flow, head in zip(pump.flows_m3s, pump.heads_m, strict=True):
        assert head == pytest.approx(true_head(flow * 3600), abs=0.01 * 17)


def test_units_and_a_logarithmic_axis_are_kept_as_chosen(page):
    """60 gpm at 42 ft is no 60 m³/h at 42 m."""
    sign_in(page)
    page.goto("/catalogue/trace/")
    page.set_input_files(
        "#file", {"name": "leaflet.png", "mimeType": "image/png", "buffer": drawn()}
    )
    page.click("button:has-text('Put it in')")
    page.wait_for_selector("#trace-image")
    for key, place, value in (
        ("x1", (0, 0), "1"),
        ("x2", (12, 0), "100"),
        ("y1", (0, 0), "0"),
        ("y2", (0, 20), "60"),
    ):
        click(page, *place)
        page.wait_for_function(
            "n => document.querySelectorAll('.trace-stage .t-mark').length === n",
            arg=("x1", "x2", "y1", "y2").index(key) + 1,
        )
        page.fill(f"#v-{key}", value)
        page.keyboard.press("Tab")
        page.wait_for_function(
            "([id, v]) => document.getElementById(id).getAttribute('value') === v",
            arg=[f"v-{key}", value],
        )
    for label, unit in (("flow", "gpm"), ("head", "ft")):
        page.select_option(f"select[aria-label='Unit of the {label} axis']", unit)
        page.wait_for_selector(
            f"select[aria-label='Unit of the {label} axis'] option[selected]:text-is('{unit}')",
            state="attached",
        )
    page.check("text=flow axis logarithmic")
    page.wait_for_selector("[data-axis-log=x_log][checked]")
    for number, flow in enumerate((0, 3, 6, 9, 12), 1):
        click(page, flow, 20 - flow)
        page.wait_for_function(
            "n => document.querySelectorAll('.trace-stage .t-point').length === n", arg=number
        )
    flow, head = re.findall(
        r"[\d.]+(?= gpm| ft)", page.locator("#t-point-2").get_attribute("aria-label")
    )
    assert (float(flow), float(head)) == (pytest.approx(10, rel=0.02), pytest.approx(42, rel=0.02))
    page.fill("#maker", "Ondrath")
    page.fill("#model", "Leaflet 8")
    page.click("button:has-text('Save as a pump')")
    page.wait_for_selector("h1:has-text('Ondrath Leaflet 8')")
    pump = CatalogueEntry.objects.get(model="Leaflet 8")
    assert pump.flows_m3s[2] == pytest.approx(10 * 231 * 0.0254**3 / 60, rel=0.02)
    assert pump.heads_m[2] == pytest.approx(42 * 0.3048, rel=0.02)
