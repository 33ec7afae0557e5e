import io

import pytest
from pypdf import PdfReader

from kyrtos.catalogue import publishing
from kyrtos.jobs import services as jobs
from kyrtos.paper.models import Paper
from kyrtos.paper.services import CannotIssue, issue, print_paper, thaw
from tests.kyrtos.conftest import change, walk


def words(pdf: bytes) -> str:
    return " ".join(
        " ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(pdf)).pages
    )


@pytest.fixture
def wenna(shop):
    return shop.memberships.get(role="estimator").user


def test_the_paper_holds_the_numbers_of_the_worksheet(estimator, job, wenna):
    text = words(bytes(issue(job=job, user=wenna).pdf))
    sizing = jobs.size_document(job.shop, jobs.current(job))
    for part in (
        "Needs 6.36 m³/h at 8.24 m.",
        "Vessmar Tarn 80",
        sizing.head_breakdown.figures("metric")[1],
        "measured on site",
        "from a drawing",
        "told by the customer",
        "assumed",
        "Signature of the customer",
        "confined space",
        "Local codes, permits and licensed trades",
        "1000 mm",
        "€ 243.00",
        "Pell & Sorrow",
    ):
        assert part in text, part


def test_a_paper_prints_the_same_after_the_catalogue_and_the_rules_changed(
    estimator, job, shop, wenna
):
    paper = issue(job=job, user=wenna)
    before = bytes(paper.pdf)
    shop.pumps.filter(pump_id="vessmar-tarn-80").update(heads_m=[2.0] * 10, price=1.0)
    publishing.changed(shop)
    shop.house_rules.create(rule_id="HI-01", value_si=0.5, reason="test")
    change(estimator, job, "answers.rise", "150 mm")
    again = print_paper(
        job,
        thaw(Paper.objects.get(pk=paper.pk)),
        number=1,
        issued=paper.issued,
        issued_by=str(wenna),
    )
    assert words(again).replace("revision 2", "revision 1") == words(before).replace(
        "revision 2", "revision 1"
    )
    assert estimator.get(f"/jobs/{job.pk}/paper/1/").content == before


def test_the_paper_of_two_pumps_together_is_reckoned_with_two(estimator, job, wenna):
    change(estimator, job, "arrangement", "parallel")
    job.refresh_from_db()
    change(estimator, job, "standby", "1")
    job.refresh_from_db()
    sheet = jobs.size_document(job.shop, jobs.current(job)).chosen.candidate
    again = thaw(issue(job=job, user=wenna)).sizing().chosen.candidate
    assert sheet.pump.together == 2
    assert (again.pump.name, again.flow_m3s) == (sheet.pump.name, pytest.approx(sheet.flow_m3s))
    assert again.pump.price == pytest.approx(sheet.pump.price)


def test_a_job_counts_as_issued_until_it_is_changed(estimator, job):
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    estimator.get(f"/jobs/{job.pk}/")
    job.refresh_from_db()
    assert (job.state, job.pump) == ("issued", "Vessmar Tarn 80")
    change(estimator, job, "answers.rise", "105 mm")
    job.refresh_from_db()
    assert job.state == "sized"
    walk(estimator, job, "undo")
    job.refresh_from_db()
    assert job.state == "issued"


def test_papers_are_numbered_and_listed(estimator, job):
    for rise in ("101 mm", "105 mm"):
        job.refresh_from_db()
        change(estimator, job, "answers.rise", rise)
        estimator.post(f"/jobs/{job.pk}/paper/issue/")
    assert [paper.number for paper in job.papers.all()] == [2, 1]
    assert "issued 2×" in estimator.get(f"/jobs/{job.pk}/").content.decode()


def test_a_paper_is_not_issued_of_something_else_than_was_seen(estimator, job):
    answer = estimator.post(f"/jobs/{job.pk}/paper/issue/", {"revision": "0"}, follow=True)
    assert "The job changed since you looked" in answer.content.decode()
    assert not job.papers.exists()


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        ("answers.rise", "lots", "cannot be read"),
        ("answers.flow_from", "rain", "still missing"),
        ("pump", "gone", "not in the catalogue any more"),
        ("answers.rise", "800 mm", "only comes nearest"),
    ],
)
def test_an_unfinished_job_gets_no_paper(estimator, job, wenna, path, value, says):
    change(estimator, job, path, value)
    job.refresh_from_db()
    with pytest.raises(CannotIssue, match=says):
        issue(job=job, user=wenna)
    assert says in estimator.post(f"/jobs/{job.pk}/paper/issue/", follow=True).content.decode()


def test_the_paper_names_what_a_leg_has_that_most_do_not(estimator, job, wenna):
    for path, value in (("share", "50 %"), ("items", "meter 0.1 bar at 6 m³/h")):
        change(estimator, job, f"legs.b.{path}", value)
    estimator.post(
        f"/jobs/{job.pk}/survey/",
        {"leg": "l1", "text": "0 6.9\n5 9.2\n14 6.6", "do": "take", "page": "p"},
        headers={"HX-Request": "true"},
    )
    job.refresh_from_db()
    text = words(bytes(issue(job=job, user=wenna).pdf))
    for part in (
        "Yard, carries",
        "50 % of the flow",
        "Yard, meter",
        "0.1 bar at 6",
        "Lane, ground",
        "surveyed at 3 points",
        "Ground along the lane",
    ):
        assert part in text, part


def test_a_us_paper_reads_us_units_and_nothing_of_the_shelf(estimator, job, wenna):
    change(estimator, job, "units", "us")
    change(estimator, job, "answers.water_temperature", "")
    change(estimator, job, "answers.stated_flow", "0.7 l/s")
    job.refresh_from_db()
    text = words(bytes(issue(job=job, user=wenna).pdf))
    assert "Water temperature 50 °F assumed" in text
    assert "0.7 l/s = 11.1 gpm" in text
    assert "On the shelf" not in text
    assert "More within" not in text
    assert "Take the flow from the largest of these assumed" in text
    assert "It stands" not in text  # a wish that nobody had


def test_a_flow_in_another_unit_than_the_results_stands_in_both(estimator, job, wenna):
    change(estimator, job, "answers.stated_flow", "0.7 l/s")
    job.refresh_from_db()
    assert "0.7 l/s = 2.52 m³/h" in words(bytes(issue(job=job, user=wenna).pdf))
