"""No job locks itself: whatever breaks, its page opens, and undo, file and copy hang on nothing."""

from __future__ import annotations

import random
import re

import pytest

from kyrtos.config import queue
from kyrtos.jobs.models import Job, Recheck
from kyrtos.paper import view_model
from kyrtos.paper.views import services as paper_services
from kyrtos.shops.models import Trouble
from kyrtos.worksheet import sheet as sheets
from kyrtos.worksheet import sheet_stages
from kyrtos.worksheet.dialogs import dialogs
from sizing.checks.base import MAKERS
from sizing.document import job as document
from tests import edges
from tests.kyrtos.conftest import change, walk
from tests.kyrtos.reading import text_of


def breaks(*_, **__):
    raise RuntimeError("broken on purpose")


BROKEN = pytest.mark.fails_alone
_OF_THE_SHEET = (
    "picture",
    "verdict",
    "family",
    "buttons",
    "choosing",
    "as_text",
    "working",
    "_method",
    "_tape",
    "_speeds",
    "_loss",
    "_flow_steps",
    "_needed_working",
)


@BROKEN
@pytest.mark.parametrize("name", _OF_THE_SHEET)
def test_each_part_of_the_sheet_fails_alone(estimator, shop, job, monkeypatch, name):
    monkeypatch.setattr(sheets, name, breaks)
    answer = estimator.get(f"/jobs/{job.pk}/")
    assert answer.status_code == 200
    text = text_of(answer)
    assert "Could not be worked out" in text
    assert 'data-path="answers.budget"' in text  # the rest of the sheet is there to be changed
    trouble = Trouble.objects.filter(shop=shop, job=job.pk).first()
    assert trouble is not None
    assert "broken on purpose" in trouble.trace


@BROKEN
@pytest.mark.parametrize("name", sorted(sheet_stages._DECIDED))
def test_the_line_of_each_stage_fails_alone(estimator, job, monkeypatch, name):
    monkeypatch.setitem(sheet_stages._DECIDED, name, breaks)
    assert "Could not be worked out" in text_of(estimator.get(f"/jobs/{job.pk}/"))


@BROKEN
@pytest.mark.parametrize(
    "path",
    [
        "kyrtos.worksheet.fields.of_question",
        "kyrtos.worksheet.sheet_pumps._candidate",
        "kyrtos.worksheet.sheet_pumps._check",
        "kyrtos.worksheet.views.follow_on",
        "kyrtos.jobs.services.remedies_of",
    ],
)
def test_each_field_pump_and_sentence_fails_alone(estimator, job, monkeypatch, path):
    monkeypatch.setattr(path, breaks)
    answer = estimator.get(f"/jobs/{job.pk}/")
    assert "Could not be worked out" in text_of(answer)
    assert 'id="worksheet"' in text_of(answer)


@BROKEN
def test_a_broken_check_is_named_where_it_would_stand(estimator, job, monkeypatch):
    monkeypatch.setitem(MAKERS, "sizing.checks.pump_curve._reserve", breaks)
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "The head in reserve" in text
    assert "the other checks stand" in text
    assert "Recommended" not in text


@BROKEN
@pytest.mark.parametrize("where", ["kyrtos.jobs.services.size", "kyrtos.worksheet.views.sheet"])
def test_a_sheet_that_breaks_as_a_whole_leaves_undo_file_and_copy(
    estimator, job, monkeypatch, where
):
    change(estimator, job, "answers.budget", "200")
    job.refresh_from_db()
    monkeypatch.setattr(where, breaks)
    page = estimator.get(f"/jobs/{job.pk}/")
    assert page.status_code == 200
    assert "This sheet could not be worked out" in text_of(page)
    edit = change(estimator, job, "answers.budget", "300")
    assert edit.status_code == 200
    job.refresh_from_db()
    assert job.current_revision == 3  # it was saved
    assert walk(estimator, job, "undo").status_code == 200
    job.refresh_from_db()
    assert job.current_revision == 1
    assert walk(estimator, job, "redo").status_code == 200
    assert estimator.get(f"/jobs/{job.pk}/job.json").json()["kind"] == "sump"
    before = Job.objects.count()
    made = estimator.post(f"/jobs/{job.pk}/copy/")
    assert made.status_code == 302
    assert Job.objects.count() == before + 1
    assert estimator.get("/").status_code == 200
    wrong = estimator.get(f"/jobs/{job.pk}/sizing.json")
    if where.endswith("size"):
        assert wrong.status_code == 422
        assert "could not be worked out" in text_of(wrong)


@BROKEN
@pytest.mark.parametrize("name", sorted(dialogs()))
def test_each_dialog_fails_alone(estimator, job, monkeypatch, name):
    whole = dialogs()
    broken = {**whole, name: type(whole[name])(**{**vars(whole[name]), "view": breaks})}
    monkeypatch.setattr("kyrtos.worksheet.dialog_views.dialogs", lambda: broken)
    answer = estimator.get(f"/jobs/{job.pk}/dialogs/{name}/", headers={"HX-Request": "true"})
    assert answer.status_code == 422
    text = text_of(answer)
    assert "could not be worked out" in text
    assert "<html" not in text  # the dialog alone, not a page within a page


@BROKEN
def test_the_owner_sees_each_trouble_once_with_its_trace(as_role, estimator, job, monkeypatch):
    monkeypatch.setattr(sheets, "picture", breaks)
    for _ in range(3):
        estimator.get(f"/jobs/{job.pk}/")
    assert [one.times for one in Trouble.objects.filter(about="the picture")] == [6]  # wide, narrow
    text = text_of(as_role("owner").get("/running/"))
    assert "The picture" in text
    assert "broken on purpose" in text
    assert "broken on purpose" not in text_of(as_role("stranger").get("/running/"))


@BROKEN
def test_a_recheck_goes_on_behind_a_job_that_breaks(estimator, shop, job, monkeypatch):
    from kyrtos.jobs import services

    whole = services.size

    def one_breaks(content, *given):
        return breaks() if content.title == job.title else whole(content, *given)

    monkeypatch.setattr(services, "size", one_breaks)
    queue.held.clear()
    estimator.post("/jobs/recheck/now/")
    queue.run_held()
    known = Recheck.objects.get(shop=shop)
    assert known.done == known.total > 5
    assert Trouble.objects.filter(job=job.pk).exists()


@BROKEN
def test_a_paper_says_what_could_not_be_worked_out(estimator, shop, job, monkeypatch):
    monkeypatch.setattr(view_model, "_annex", breaks)
    seen = []
    monkeypatch.setattr(paper_services, "render_pdf", lambda view: seen.append(view) or b"%PDF-1.4")
    assert estimator.post(f"/jobs/{job.pk}/paper/issue/").status_code == 302
    assert seen[0].failures == ("the second look",)
    monkeypatch.setattr(paper_services, "render_pdf", breaks)
    change(estimator, job, "answers.rise", "105 mm")  # of an unchanged job it is the one there is
    answer = estimator.post(f"/jobs/{job.pk}/paper/issue/")
    assert answer.status_code == 422
    assert "The paper could not be worked out" in text_of(answer)
    assert job.papers.count() == 1


@BROKEN
def test_counter_and_installed_pumps_fail_alone(estimator, shop, monkeypatch):
    monkeypatch.setattr("kyrtos.counter.views.replacement", breaks)
    asked = estimator.get("/counter/", {"maker": "Vessmar", "model": "Tarn 80"})
    assert asked.status_code == 422
    assert "could not be worked out" in text_of(asked)
    pump = shop.installed.first()
    for name in ("facts_of", "reading_rows", "trend_said", "wear_rows"):
        monkeypatch.setattr(f"kyrtos.installations.pump_views.{name}", breaks)
    assert estimator.get(f"/p/{pump.code}/").status_code == 200


def at_the_edge(client, shop, seed: int) -> None:
    draw = random.Random(seed)
    content, pumps = edges.job(draw), edges.catalogue(draw)
    from kyrtos.catalogue import services as catalogue
    from kyrtos.jobs import services

    catalogue.store(shop, list(pumps.pumps))
    made = services.adopt(shop=shop, user=None, content=content)
    for address in (f"/jobs/{made.pk}/", "/", f"/jobs/{made.pk}/sizing.json"):
        answer = client.get(address)
        assert answer.status_code == 200, (seed, address)
        assert not re.search(r"\b(nan|inf)\b", answer.content.decode().lower()), (seed, address)
    issued = client.post(f"/jobs/{made.pk}/paper/issue/")
    assert issued.status_code == 302, seed
    assert document.dump(services.current(made))


@pytest.mark.parametrize("seed", [3, 18, 121])
def test_jobs_at_their_edges_open_and_print(estimator, shop, seed):
    at_the_edge(estimator, shop, seed)


@pytest.mark.nightly
@pytest.mark.parametrize("begin", range(0, 200, 20))
def test_two_hundred_of_them_through_page_bench_and_paper(estimator, shop, begin):
    for seed in range(begin, begin + 20):
        at_the_edge(estimator, shop, seed)
