"""Printed curves read in the browser: rulers, a line followed, a PDF's own lines, by hand."""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from weasyprint import HTML

from kyrtos.catalogue.models import CatalogueEntry, Trace
from tests.browser.conftest import sign_in
from tests.charts import CHARTS, HEIGHT, WIDTH, Chart

pytestmark = pytest.mark.browser
BY_NAME = {one.name: one for one in CHARTS}


def put_in(page, content: bytes, name="leaflet.png", mime="image/png") -> None:
    page.goto("/catalogue/trace/")
    page.set_input_files("#file", {"name": name, "mimeType": mime, "buffer": content})
    page.click("button:has-text('Put it in')")
    page.wait_for_selector("#trace-image")


def state() -> dict:
    return Trace.objects.first().state


def type_values(page, **values) -> None:
    """What is printed at the ends of the rulers, gone through by Tab."""
    for key, pair in values.items():
        for end, value in enumerate(pair):
            field = page.locator(f"#v-{key}-{end}")
            field.fill(value)
            field.press("Tab")
            page.wait_for_function(
                "([id, v]) => document.getElementById(id).getAttribute('value') === v",
                arg=[f"v-{key}-{end}", value],
            )


def client_place(page, place) -> tuple[float, float]:
    box = page.locator("#trace-image").bounding_box()
    size = page.evaluate("(({ width, height }) => [width, height])(document.images[0])")
    wide, high = (float(page.get_attribute("#trace-image", name)) for name in ("width", "height"))
    assert size[0] > 0
    return box["x"] + place[0] / wide * box["width"], box["y"] + place[1] / high * box["height"]


def follow(page, *places) -> None:
    for number, place in enumerate(places, 1):
        page.mouse.click(*client_place(page, place))
        page.wait_for_function(
            "n => document.querySelectorAll('.t-click').length === n", arg=number
        )


def save(page, model: str) -> CatalogueEntry:
    page.fill("#maker", "Ondrath")
    page.fill("#model", model)
    page.click("button:has-text('Save as')")
    page.wait_for_selector(f"h1:has-text('Ondrath {model}')")
    return CatalogueEntry.objects.get(model=model)


def trace_leaflet(page, chart: Chart) -> None:
    """Put a chart in, type what is printed at the rulers that were laid, click both ends."""
    put_in(page, chart.png())
    ends = [tuple(f"{one:g}" for one in pair) for pair in (chart.flow, chart.head)]
    type_values(page, flow=ends[0], head=ends[1])
    follow(page, chart.place(0.005), chart.place(0.995))


def test_a_tilted_chart_gives_its_pump_back_within_a_hundredth(page):
    """Two clicks on the curve and one to save: the rulers were laid on its axes."""
    chart = BY_NAME["tilted"]
    sign_in(page)
    trace_leaflet(page, chart)
    assert "They lie on the axes" in page.inner_text(".trace-steps")
    found = Axe().run(page).response["violations"]
    assert {one["id"] for one in found if one["impact"] in ("serious", "critical")} == set()
    page.focus("#t-point-4")  # a nudge and back: the keyboard moves what the eye would have so
    before = page.locator("#t-point-4").get_attribute("cy")
    page.keyboard.press("ArrowDown")
    page.wait_for_function(
        "y => document.getElementById('t-point-4').getAttribute('cy') !== y", arg=before
    )
    page.keyboard.press("ArrowUp")
    page.wait_for_function(
        "y => document.getElementById('t-point-4').getAttribute('cy') === y", arg=before
    )
    pump = save(page, "Leaflet 7")
    for flow, head in zip(pump.flows_m3s, pump.heads_m, strict=True):
        assert head == pytest.approx(chart.curves[0].value(flow * 3600), abs=0.01 * 17)


def test_gpm_feet_and_a_logarithmic_axis_are_kept_as_chosen(page):
    """60 gpm at 42 ft is no 60 m³/h at 42 m."""
    chart = BY_NAME["logarithmic"]
    sign_in(page)
    put_in(page, chart.png())
    for key, unit in (("flow", "gpm"), ("head", "ft")):
        page.select_option(f"#u-{key}", unit)
        page.wait_for_selector(f"#u-{key} option[selected]:text-is('{unit}')", state="attached")
    page.check("[data-log=flow]")
    page.wait_for_selector("[data-log=flow][checked]")
    type_values(page, flow=("1", "100"), head=("0", "60"))
    follow(page, chart.place(0.01), chart.place(0.99))
    said = page.locator("#t-point-9").get_attribute("aria-label")
    flow, head = (float(one) for one in re.findall(r"[\d.]+(?= gpm| ft)", said))
    assert head == pytest.approx(chart.curves[0].value(flow), abs=0.6)
    pump = save(page, "Leaflet 8")
    for flow_m3s, head_m in zip(pump.flows_m3s, pump.heads_m, strict=True):
        gpm = flow_m3s / (231 * 0.0254**3 / 60)
        assert head_m / 0.3048 == pytest.approx(chart.curves[0].value(gpm), abs=0.6)


def test_a_rulers_end_is_dragged_onto_a_printed_value_and_nudged_by_key(page):
    chart = BY_NAME["light grid"]
    sign_in(page)
    put_in(page, chart.png())
    grip = page.locator("#t-grip-flow-1").bounding_box()
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(*client_place(page, chart.page(9, 0)), steps=4)
    page.mouse.move(*client_place(page, chart.page(10, 0)), steps=4)
    page.mouse.up()
    page.wait_for_function("() => document.activeElement.id === 'v-flow-1'")
    assert state()["rulers"]["flow"]["ends"][1] == pytest.approx(chart.page(10, 0), abs=1.5)
    assert state()["curves"][0]["clicks"] == []  # a drag is no click on a curve
    before = state()["rulers"]["flow"]["ends"][1][0]
    page.focus("#t-grip-flow-1")
    page.keyboard.press("Shift+ArrowLeft")
    page.wait_for_function(
        "x => Number(document.getElementById('t-grip-flow-1').getAttribute('cx')) < x", arg=before
    )
    assert state()["rulers"]["flow"]["ends"][1][0] == pytest.approx(before - 10, abs=0.2)


def test_a_pdfs_own_line_is_picked_and_exact(page):
    chart = BY_NAME["plain"]
    places = " ".join(
        f"{x:.3f},{y:.3f}" for x, y in (chart.place(share / 60) for share in range(61))
    )
    corner, right, top = chart.page(0, 0), chart.page(12, 0), chart.page(0, 20)
    drawing = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="600" viewBox="0 0 {WIDTH} {HEIGHT}">'
        f'<polyline points="{right[0]},{right[1]} {corner[0]},{corner[1]} {top[0]},{top[1]}"'
        f' fill="none" stroke="#000" stroke-width="2"/>'
        f'<polyline points="{places}" fill="none" stroke="#000" stroke-width="2"/></svg>'
    )
    sign_in(page)
    put_in(page, HTML(string=drawing).write_pdf(), "leaflet.pdf", "application/pdf")
    type_values(page, flow=("0", "12"), head=("0", "20"))
    page.locator(".t-vector").first.focus()
    page.keyboard.press("Enter")
    page.wait_for_selector("#trace-said")
    pump = save(page, "Leaflet 9")
    for flow, head in zip(pump.flows_m3s, pump.heads_m, strict=True):
        assert head == pytest.approx(chart.curves[0].value(flow * 3600), abs=0.005 * 17)
