"""The bench: sorting, putting away, notes; and jobs that were issued and then changed."""

from __future__ import annotations

import io

import pytest
from pypdf import PdfReader

from kyrtos.accounts.models import Membership, Role
from kyrtos.jobs.models import Job
from kyrtos.paper.services import issue
from tests.kyrtos.conftest import change, walk
from tests.kyrtos.reading import text_of


def titles(client, **asked) -> list[str]:
    return [job.title for job, _, _ in client.get("/", asked).context["rows"]]


@pytest.mark.parametrize("field", ["title", "customer", "kind", "state", "pump"])
def test_the_bench_is_sorted_by_any_column_both_ways(estimator, shop, field):
    up = titles(estimator, sort=field)
    assert sorted(up) == sorted(titles(estimator))
    values = {job.title: getattr(job, field) for job in shop.jobs.all()}
    assert [values[one] for one in up] == sorted(values.values())
    assert [values[one] for one in titles(estimator, sort=f"-{field}")] == sorted(
        values.values(), reverse=True
    )


def test_figures_that_matter_stand_on_the_bench_and_sort(estimator, shop, job):
    estimator.get(f"/jobs/{job.pk}/")
    job.refresh_from_db()
    assert job.flow_m3s > 0
    assert job.head_m > 0
    text = text_of(estimator.get("/", {"sort": "-flow_m3s"}))
    assert "6.36 m³/h" in text
    assert titles(estimator, sort="nonsense") == titles(estimator)


def test_a_job_is_put_away_and_brought_back(estimator, job, as_role):
    assert as_role("viewer").post(f"/jobs/{job.pk}/archive/", {"do": "away"}).status_code == 403
    estimator.post(f"/jobs/{job.pk}/archive/", {"do": "away"})
    assert job.title not in titles(estimator)
    assert titles(estimator, state="archived") == [job.title]
    assert "put away" in text_of(estimator.get(f"/jobs/{job.pk}/"))
    estimator.post(f"/jobs/{job.pk}/archive/", {"do": "back"})
    assert job.title in titles(estimator)


def test_notes_are_kept_with_who_and_when_and_taken_out_by_their_writer(estimator, as_role, job):
    estimator.post(f"/jobs/{job.pk}/notes/", {"text": "Dog in the yard.\nRing first."})
    estimator.post(f"/jobs/{job.pk}/notes/", {"text": "   "})
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "Dog in the yard.<br>Ring first." in text
    assert "Wenna Polreath" in text.partition('id="stage-notes"')[2]
    note = job.notes.get()
    as_role("owner").post(f"/jobs/{job.pk}/notes/", {"remove": str(note.pk)})
    assert job.notes.count() == 1  # not theirs
    estimator.post(f"/jobs/{job.pk}/notes/", {"remove": str(note.pk)})
    assert job.notes.count() == 0


def test_a_job_that_was_issued_and_changed_says_so_everywhere(estimator, job):
    wenna = Membership.objects.get(shop=job.shop, role=Role.ESTIMATOR).user
    issue(job=job, user=wenna)
    assert "changed since" not in text_of(estimator.get("/"))
    job.refresh_from_db()
    change(estimator, job, "legs.b.length", "29 m")
    assert "changed since" in text_of(estimator.get("/"))
    assert "changed since: length of yard" in text_of(estimator.get(f"/jobs/{job.pk}/"))
    job.refresh_from_db()
    walk(estimator, job, "undo")
    assert "changed since" not in text_of(estimator.get(f"/jobs/{job.pk}/"))
    walk(estimator, job, "redo")
    second = issue(job=Job.objects.get(pk=job.pk), user=wenna)
    words = " ".join(PdfReader(io.BytesIO(bytes(second.pdf))).pages[0].extract_text().split())
    assert "Replaces paper 1" in words
    assert "Changed since: length of yard" in words
