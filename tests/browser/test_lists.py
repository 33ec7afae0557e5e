"""The bench and the catalogue as a person uses them."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.browser.conftest import on_worksheet, sign_in

pytestmark = pytest.mark.browser


def test_finding_a_job_by_typing(page):
    sign_in(page)
    page.fill("#q", "chandler")
    page.press("#q", "Enter")
    assert page.locator("tbody tr").count() == 1
    page.click("text=Chandler's undercroft")
    assert "Still needed" in page.inner_text("#verdict .main")


def test_importing_a_broken_file_changes_nothing_and_a_mended_one_goes_in(page):
    sign_in(page)
    page.click("text=Catalogue")
    before = page.inner_text(".page-head .soft")
    page.click("text=Import")
    lines = Path("demo/pumps.csv").read_text().splitlines()
    new = lines[1].replace("K 5", "K 6")
    for text, says in (
        (new.replace("m3/h", "psi"), "1 of 1 rows are refused"),
        (new, "1 added, 0 replaced"),
    ):
        page.goto("/catalogue/import/")
        page.set_input_files(
            "#file",
            {
                "name": "pumps.csv",
                "mimeType": "text/csv",
                "buffer": f"{lines[0]}\n{text}\n".encode(),
            },
        )
        page.click("button:has-text('Look at it')")
        page.click("button:has-text('Take it in')")
        page.wait_for_selector(f"text={says}")
    page.goto("/catalogue/?q=K+6")
    assert "Ondrath K 6" in page.inner_text("tbody")
    page.goto("/catalogue/")
    assert page.inner_text(".page-head .soft") != before


def test_a_job_file_goes_out_and_comes_in(page, tmp_path):
    sign_in(page)
    page.click("text=Bookbinder's cellar")
    on_worksheet(page)
    page.keyboard.press("p")
    with page.expect_download() as waiting:
        page.click("text=Job file")
    path = tmp_path / "job.json"
    waiting.value.save_as(path)
    page.goto("/jobs/new/")
    page.set_input_files("#file", path)
    page.click("text=Upload")
    on_worksheet(page)
    assert "The Vessmar Tarn 80 will run" in page.inner_text("#verdict .main")
