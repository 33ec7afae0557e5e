"""A pump from its box, through the pages."""

from __future__ import annotations

import pytest

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.paper.services import issue
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of

BOX = {
    "name": "Grey one in the shed",
    "family": "sump",
    "open_flow": "16 m3/h",
    "highest_head": "12 m",
    "points": "8 m 10 m3/h",
}
HX = {"HX-Request": "true"}


def take(client, job, **more):
    return client.post(f"/jobs/{job.pk}/own-pump/", BOX | more, headers=HX)


def test_a_pump_from_its_box_is_listed_drawn_compared_and_put_on_paper(estimator, job):
    assert "A pump I have here" in text_of(estimator.get(f"/jobs/{job.pk}/dialogs/own-pump/"))
    text = text_of(take(estimator, job))
    assert 'Grey one in the shed</b> <span class="watch">rough' in text
    job.refresh_from_db()
    change(estimator, job, "pump", "own-p1")
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert text.count('class="p-band"') == 2  # wide and narrow
    asked = {"pump": ["own-p1", "ondrath-k-11"]}
    compared = text_of(estimator.get(f"/jobs/{job.pk}/dialogs/compare/", asked))
    assert 'class="p-band"' in compared
    assert "Grey one in the shed" in compared
    paper = issue(job=Job.objects.get(pk=job.pk), user=job.revisions.first().user)
    assert paper.pump_name == "Grey one in the shed"


def test_it_is_taken_out_again(estimator, job):
    take(estimator, job)
    text = text_of(take(estimator, job, remove="own-p1"))
    assert "Grey one" not in text
    assert services.current(Job.objects.get(pk=job.pk)).own_pumps == ()


def test_it_may_be_kept_in_the_catalogue_by_who_may_change_that(estimator, as_role, job):
    take(estimator, job, keep="1")
    kept = job.shop.pumps.get(model="Grey one in the shed")
    assert kept.note.startswith("rough")
    take(as_role("technician"), job, keep="1", name="Another")
    assert not job.shop.pumps.filter(model="Another").exists()


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"name": ""}, "give it a name"),
        ({"points": "6 ft"}, "not a flow and a head"),
        ({"open_flow": "plenty"}, "no number"),
        ({"open_flow": "1 m3/h"}, "has to fall"),
    ],
)
def test_what_is_wrong_is_told_beside_its_field_and_nothing_is_lost(estimator, job, wrong, said):
    answer = take(estimator, job, **wrong)
    assert answer.status_code == 422
    text = text_of(answer)
    assert said in text
    assert 'value="12 m"' in text
    job.refresh_from_db()
    assert services.current(job).own_pumps == ()
