"""What the docs promise of the web: a kind or a dialog in one file is on every screen."""

import pytest

from kyrtos.jobs.models import Job
from kyrtos.paper.models import Paper
from kyrtos.worksheet.dialogs import dialogs
from tests.added import DIALOG, KIND, one_more
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_lists import post
from tests.sizing.test_adding_one import ANSWERS


@pytest.fixture
def one_more_kind(monkeypatch, tmp_path):
    found = ("sizing.kinds.kinds", "kyrtos.drawing.kinds.drawings")
    with one_more(monkeypatch, tmp_path, "sizing.kinds", "wash_down", KIND, *found):
        yield


def test_a_kind_in_one_file_is_on_every_screen_and_paper(one_more_kind, estimator):
    assert "wash-down" in text_of(estimator.get("/jobs/new/"))
    estimator.post("/jobs/new/", {"title": "Yard", "customer": "", "site": "", "kind": "wash_down"})
    job = Job.objects.get(title="Yard")
    assert "Still needed" in text_of(estimator.get(f"/jobs/{job.pk}/"))
    for path, value in ANSWERS:
        post(estimator, job, "change", path=path, value=value)
    sheet = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "Still needed" not in sheet
    assert "could not be worked out" not in sheet
    assert "wash-down" in text_of(estimator.get("/"))
    job.refresh_from_db()
    content = estimator.get(f"/jobs/{job.pk}/job.json")
    assert content.status_code == 200
    for dialog in dialogs().values():
        answer = estimator.get(f"/jobs/{job.pk}/dialogs/{dialog.name}/")
        assert answer.status_code in (200, 404), dialog.name
    assert estimator.post(f"/jobs/{job.pk}/paper/issue/", {}).status_code in (200, 302)
    assert Paper.objects.filter(job=job).exists()
    assert estimator.get("/counter/?q=old").status_code == 200


def test_a_dialog_in_one_file_with_its_template_is_on_the_sheet(
    monkeypatch, tmp_path, settings, estimator, job
):
    folder, found = "kyrtos.worksheet.dialogs", "kyrtos.worksheet.dialogs.dialogs"
    (tmp_path / "dialogs").mkdir()
    (tmp_path / "dialogs" / "bucket_time.html").write_text("<h2>{{ view.said }}</h2>")
    first, *more = settings.TEMPLATES
    settings.TEMPLATES = [{**first, "DIRS": [*first["DIRS"], tmp_path]}, *more]
    with one_more(monkeypatch, tmp_path, folder, "bucket_time", DIALOG, found):
        assert "bucket_time" in estimator.get(f"/jobs/{job.pk}/").content.decode()
        answer = estimator.get(f"/jobs/{job.pk}/dialogs/bucket_time/")
        assert "A bucket takes a minute." in answer.content.decode()
    assert estimator.get(f"/jobs/{job.pk}/dialogs/bucket_time/").status_code == 404
