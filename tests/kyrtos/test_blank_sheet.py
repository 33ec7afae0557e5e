"""From the first minute: the blank picture, the site sheet, the kinds as drawings."""

from __future__ import annotations

import io
import re

import pytest
from pypdf import PdfReader

from kyrtos.drawing.kinds import drawings
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from sizing.kinds import kinds
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.thin import some


def new_job(client, kind="sump", **more) -> Job:
    sent = {"title": f"A blank {kind}", "kind": kind} | more
    assert client.post("/jobs/new/", sent).status_code == 302
    return Job.objects.get(title=sent["title"])


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_blank_sheet_draws_and_each_missing_fact_leads_to_its_field(estimator, shop, code):
    job = new_job(estimator, code)
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    sizing = services.size_document(shop, services.current(job))
    asked = {"f-" + one.path.replace(".", "-") for one in sizing.missing}
    assert set(re.findall(r'data-to="([^"]+)"', text)) == asked
    for field in asked:
        assert f'id="{field}"' in text


def test_the_picture_fills_in_as_facts_come(estimator):
    job = new_job(estimator)
    before = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert before.count('class="p-pipe unknown"') == 4  # two legs, wide and narrow
    for path, value in (("legs.a.length", "3 m"), ("legs.a.ends_at", "2.8 m")):
        job.refresh_from_db()
        change(estimator, job, path, value)
    after = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert after.count('class="p-pipe unknown"') == 2
    assert "riser 3 m" in after


@pytest.mark.parametrize("code", some(sorted(kinds()), 4))
def test_a_site_sheet_is_one_page_with_every_question_on_it(estimator, code):
    pdf = PdfReader(io.BytesIO(estimator.get(f"/site-sheet/{code}.pdf").content))
    assert len(pdf.pages) == 1
    words = " ".join(pdf.pages[0].extract_text().split())
    asked = [one for one in kinds()[code].questions if one.dimension and not one.group]
    lost = [one.label for one in asked if one.stage != "proof" and one.label not in words]
    assert lost == []


def test_the_site_sheet_of_a_job_holds_what_is_known(estimator, job):
    pdf = PdfReader(io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/site-sheet.pdf").content))
    words = " ".join(pdf.pages[0].extract_text().split())
    assert "Bookbinder" in words
    assert "3.4 m" in words
    assert len(pdf.pages) == 1


def test_the_kinds_are_chosen_by_drawings(estimator):
    text = text_of(estimator.get("/jobs/new/?kind=pond"))
    assert text.count('class="small"') == len(kinds()) == len(drawings())
    assert re.search(r'value="pond" checked', text)
    assert "ask me" in text


def test_facts_of_which_pump_go_along_into_the_job(estimator):
    asked = {"liquid": "ground", "place": "pit", "feeds": "gravity", "solid": "9 mm", "lift": "4 m"}
    text = text_of(estimator.get("/which-pump/", asked))
    address = re.search(r'href="(/jobs/new/[^"]+)"', text)[1].replace("&amp;", "&")
    form = text_of(estimator.get(address))
    assert 'value="9 mm"' in form
    hidden = dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)"', form))
    assert hidden["note"].startswith("First told: ground water, in a pit, feeds")
    facts = {name: hidden[name] for name in ("largest_solid", "liquid", "note")}
    held = services.current(new_job(estimator, "sump", **facts | {"liquid": "rain"}))
    assert held.answers["largest_solid"].text == "9 mm"
    assert held.answers["liquid"] == "rain"
    assert held.note == hidden["note"]
    assert (
        services.current(new_job(estimator, "sump", title="two", liquid="ground")).answers["liquid"]
        == "clear"
    )
    odd = services.current(new_job(estimator, "sump", title="three", liquid="lava"))
    assert not odd.pending  # what the kind does not know is left out, not held against it
    assert "?family=sump" in text


def test_where_a_leg_ends_is_proposed_and_taken_at_a_click(estimator):
    job = new_job(estimator)
    change(estimator, job, "legs.a.length", "3 m")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert 'data-take="legs.a.ends_at" data-value="3 m">ends at 3 m: straight up' in text
    job.refresh_from_db()
    change(estimator, job, "legs.a.ends_at", "3 m")
    assert 'data-take="legs.a.ends_at"' not in text_of(estimator.get(f"/jobs/{job.pk}/"))
