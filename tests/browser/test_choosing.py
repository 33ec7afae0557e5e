"""Choosing through the real browser.

Pipe by pump, arrangements, comparing, reading a curve, an import looked at first.
"""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe

from kyrtos.config import queue
from tests.browser.conftest import open_cellar, sign_in
from tests.browser.test_run import plain, saved
from tests.kyrtos.test_queue import large_file

pytestmark = pytest.mark.browser


def serious(page):
    found = Axe().run(page).response["violations"]
    return {
        one["id"]: [node["html"][:120] for node in one["nodes"]][:2]
        for one in found
        if one["impact"] in ("serious", "critical")
    }


def test_a_cell_of_the_grid_takes_pipe_and_pump_together(page):
    open_cellar(page)
    page.keyboard.press("x")
    page.wait_for_selector("#dialog[open] table.grid")
    assert serious(page) == {}
    cell = page.locator("#dialog tr:has-text('Vessmar Tarn 110') td").nth(1).locator("button")
    promised = plain(cell.inner_text()).splitlines()[0]
    saved(page, cell.click)
    page.wait_for_function(
        "() => document.querySelector('#verdict .main').textContent.includes('Vessmar Tarn 110')"
    )
    assert page.input_value('[data-path="legs.b.pipe"]') == "PVC-U PN10 40 mm"
    page.wait_for_function(
        "t => document.querySelector('#tape h2').textContent.replaceAll('\\u00a0', '"
        " ').includes(t)",
        arg=promised,
    )


def test_two_in_parallel_are_taken_and_drawn_with_each_ones_own_point(page):
    open_cellar(page)
    page.keyboard.press("a")
    page.wait_for_selector("#dialog[open] table")
    assert serious(page) == {}
    saved(page, page.locator("#dialog button[aria-label='Take two in parallel']").click)
    page.wait_for_function(
        "() => document.querySelector('#verdict .main').textContent.includes('2 × ')"
    )
    assert page.locator("svg.wide .p-own").count() == 1
    assert page.locator("svg.wide .p-curve.each").count() == 1
    own, duty = (page.locator(f"svg.wide .{name}").first for name in ("p-own", "p-duty"))
    assert own.get_attribute("cy") == duty.get_attribute("cy")


def test_ticked_pumps_are_compared(page):
    open_cellar(page)
    for pump in ("vessmar-tarn-80", "ondrath-ef-12"):
        page.check(f'[data-compare="{pump}"]')
    page.keyboard.press("Escape")
    page.keyboard.press("c")
    page.wait_for_selector("#dialog[open] svg.reach")
    heads = page.locator("#dialog th").all_inner_texts()
    assert heads == ["where they differ", "Vessmar Tarn 80", "Ondrath EF 12"]
    assert page.locator("#dialog svg.reach .p-curve").count() == 3
    assert "years" in page.inner_text("#dialog")
    assert serious(page) == {}


def test_a_curve_is_read_by_keys_and_by_pointer(page):
    sign_in(page)
    page.goto("/catalogue/ondrath-k-11/")
    page.focus("#read")
    first = page.inner_text("#read-out")
    assert abs(int(re.search(r"(\d+) % of its best flow", plain(first))[1]) - 100) <= 2
    page.keyboard.press("ArrowRight")
    assert page.inner_text("#read-out") != first
    box = page.locator("svg[aria-labelledby='c-title']").bounding_box()
    page.mouse.move(box["x"] + 60, box["y"] + 100)
    page.wait_for_function("() => document.getElementById('read').value < 5")
    assert "wire to water" in page.inner_text("#read-out")
    assert serious(page) == {}


def test_an_import_is_looked_at_taken_and_undone(page):
    sign_in(page)
    page.goto("/catalogue/import/")
    lines = Path("demo/pumps.csv").read_text().splitlines()
    content = "\n".join(
        [lines[0], lines[1].replace("K 5", "K 6"), lines[2].replace(",164,", ",150,")]
    )
    page.set_input_files(
        "#file", {"name": "pumps.csv", "mimeType": "text/csv", "buffer": content.encode()}
    )
    page.click("button:has-text('Look at it')")
    page.wait_for_selector("text=1 new, 1 changed")
    assert serious(page) == {}
    page.click("button:has-text('Take it in')")
    page.wait_for_selector("text=1 added, 1 replaced")
    page.click("button:has-text('Undo this import')")
    page.wait_for_selector("text=as it was before")
    page.goto("/catalogue/?q=Ondrath+6")
    assert "Ondrath K 6" not in page.inner_text("main")


def test_a_large_import_shows_its_progress_and_then_what_it_would_do(page):
    sign_in(page)
    queue.run_held()
    page.goto("/catalogue/import/")
    page.set_input_files(
        "#file", {"name": "large.csv", "mimeType": "text/csv", "buffer": large_file()}
    )
    page.click("button:has-text('Look at it')")
    page.wait_for_selector("text=Reading the file")
    queue.run_held()  # what the worker does meanwhile
    page.wait_for_selector("text=1200 new, 0 changed")  # by itself
    page.click("button:has-text('Take it in')")
    page.wait_for_selector("text=Taking it in")
    queue.run_held()
    page.wait_for_selector("text=1200 added")
