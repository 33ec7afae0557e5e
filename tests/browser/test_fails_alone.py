"""What breaks breaks alone, as somebody sees it: a dialog says so, a broken sheet is undone."""

import dataclasses

import pytest
from playwright.sync_api import expect

from kyrtos.worksheet import views
from kyrtos.worksheet.dialogs import dialogs
from tests.browser.conftest import open_cellar, type_in

pytestmark = pytest.mark.fails_alone


def breaks(*_, **__):
    raise RuntimeError("broken on purpose")


def test_a_question_that_breaks_is_told_in_its_dialog(page, monkeypatch):
    whole = dialogs()
    broken = whole | {"methods": dataclasses.replace(whole["methods"], view=breaks)}
    monkeypatch.setattr("kyrtos.worksheet.dialog_views.dialogs", lambda: broken)
    open_cellar(page)
    page.keyboard.press("f")
    expect(page.locator("#dialog")).to_contain_text("could not be worked out")
    page.keyboard.press("Escape")
    page.keyboard.press("w")  # the next one answers
    expect(page.locator("#dialog h2")).to_contain_text("measure")


def test_a_sheet_that_breaks_is_undone_from_the_page_that_is_left(page, monkeypatch):
    open_cellar(page)
    type_in(page, "answers.rise", "120 mm")
    with monkeypatch.context() as broken:
        broken.setattr(views, "sheet", breaks)
        page.reload()
        expect(page.locator("#verdict")).to_contain_text("This sheet could not be worked out")
        expect(page.get_by_text("Download the job file")).to_be_visible()
    page.click("#verdict [data-step=undo]")
    expect(page.locator('[data-path="answers.rise"]').first).to_have_value("102 mm")


def test_a_part_that_breaks_leaves_the_rest_to_be_typed_in(page, monkeypatch):
    monkeypatch.setattr("kyrtos.worksheet.sheet.picture", breaks)
    open_cellar(page)
    expect(page.locator("#verdict")).to_contain_text("Could not be worked out: the picture")
    type_in(page, "answers.rise", "120 mm")
    expect(page.locator("#verdict")).to_contain_text("Needs")
