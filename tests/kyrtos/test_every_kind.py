"""Every kind through the web: its blank sheet, its questions, its cautions, its files."""

import re

import pytest

from kyrtos.jobs.models import Job
from sizing.kinds import kinds
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_lists import post
from tests.thin import some


@pytest.fixture
def blank(estimator):
    def make(code: str) -> Job:
        estimator.post(
            "/jobs/new/", {"title": f"Blank {code}", "customer": "", "site": "", "kind": code}
        )
        return Job.objects.get(title=f"Blank {code}")

    return make


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_blank_sheet_opens_with_its_questions_and_says_what_is_needed(estimator, blank, code):
    text = text_of(estimator.get(f"/jobs/{blank(code).pk}/"))
    assert "Still needed" in text
    for question in kinds()[code].questions:
        if question.shown_when is None:
            assert f'data-path="answers.{question.key}"' in text, question.key
    for declared in kinds()[code].lists:
        assert f'id="list-{declared.key}"' in text
    assert "Which pump is right?" in text
    assert not re.search(
        r"\b(None|nan|inf)\b", re.sub(r"<script.*?</script>", "", text, flags=re.S)
    )


@pytest.mark.parametrize("code", some(sorted(kinds()), 4, "bucket"))
def test_every_flow_may_be_timed_with_a_bucket(estimator, blank, code):
    job = blank(code)
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    flows = [
        question
        for question in kinds()[code].questions
        if question.dimension == "flow" and question.shown_when is None
    ]
    assert text.count('class="bucket"') >= len(flows) >= 1
    answer = post(
        estimator, job, "change", path="answers.stated_flow", value="3 gal in 40 s"
    ).content.decode()
    assert 'value="3 gal in 40 s"' in answer
    for wrong, says in (
        ("3 gal in 0 s", "more than zero"),
        ("3 in 40", "has no unit"),
        ("3 psi in 40 s", "unit of pressure"),
    ):
        assert (
            says
            in post(
                estimator, job, "change", path="answers.stated_flow", value=wrong
            ).content.decode()
        )


@pytest.mark.parametrize("code", sorted(kinds()))
def test_the_job_and_its_result_can_be_taken_along(estimator, blank, code):
    job = blank(code)
    assert estimator.get(f"/jobs/{job.pk}/job.json").json()["kind"] == code
    result = estimator.get(f"/jobs/{job.pk}/sizing.json").json()
    assert result["job"]["kind"] == code
    assert result["missing"]


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_job_in_american_units_asks_in_them(estimator, blank, code):
    job = blank(code)
    text = post(estimator, job, "change", path="units", value="us").content.decode()
    field = re.search(r'data-path="answers.stated_flow"[^>]*placeholder="([^"]*)"', text)
    assert field
    assert field[1] == "gpm"


def test_a_school_that_cannot_say_is_told_beside_the_others(estimator, shop):
    mill = shop.jobs.get(title__startswith="Converted mill")
    text = post(
        estimator, mill, "change", path="lists.fixtures.r1.fixture", value="rain_shower"
    ).content.decode()
    assert "cannot say: this school has no figure for a rain head" in text
    assert "taken because it knows the kind of building" in text
