"""A new job from a sentence, over the web."""

import pytest

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from tests.kyrtos.test_keeping import plain

CELLAR = (
    "cellar sump 18 in pit, rises 4 in in 70 s, 40 ft of 1-1/2 in pvc with 3 elbows, 12 ft up,"
    " 14 bananas"
)


def test_a_sentence_becomes_a_job_and_what_was_not_read_is_told(estimator, shop):
    page = estimator.post("/jobs/new/told/", {"told": CELLAR, "customer": "Ferry Inn"}, follow=True)
    job = Job.objects.get(shop=shop, customer="Ferry Inn")
    held = services.current(job)
    assert held.kind == "sump"
    assert held.note == CELLAR
    assert held.answers["pit_diameter"].si("length") == pytest.approx(0.4572)
    assert held.answers["pit_diameter"].provenance == "told"
    assert [leg.id for leg in held.legs] == ["a"]
    assert "Not read: “14 bananas”" in plain(page)


def test_words_that_name_no_kind_are_given_back(estimator, shop):
    before = Job.objects.filter(shop=shop).count()
    answer = estimator.post("/jobs/new/told/", {"told": "40 ft of pvc, 12 ft up"})
    assert answer.status_code == 422
    assert "do not say what the pump is for" in plain(answer)
    assert "40 ft of pvc, 12 ft up" in answer.text
    assert Job.objects.filter(shop=shop).count() == before


@pytest.mark.parametrize("told", ["", "a" * 4001])
def test_nothing_and_too_much_are_refused_beside_the_field(estimator, told):
    answer = estimator.post("/jobs/new/told/", {"told": told})
    assert answer.status_code == 422
    assert 'id="in_words_told_error"' in answer.text


@pytest.mark.parametrize(
    "told", ["sump\x00 18 in pit", "<b>cellar</b> sump \u202e 18 in pit", "pond\n" * 500]
)
def test_hostile_words_make_a_job_or_are_refused(estimator, told):
    answer = estimator.post("/jobs/new/told/", {"told": told}, follow=True)
    assert answer.status_code in (200, 422)
    assert "<b>cellar</b>" not in answer.text


def test_what_is_known_of_the_site_goes_along_but_not_before_what_was_told(estimator, shop):
    ferry = shop.customers.create(name="Ferry Inn")
    shop.sites.create(name="Quay", customer=ferry, voltage_v=115.0)
    for words, volts in (("cellar sump", 115.0), ("cellar sump, 240 V", 240.0)):
        sent = {"told": words, "customer": "Ferry Inn", "site": "Quay"}
        estimator.post("/jobs/new/told/", sent)
        made = Job.objects.get(shop=shop, title=words)
        assert services.current(made).answers["voltage"].si("voltage") == volts
