"""Lists of a job on the worksheet and on paper: rows, their fields, the family advice."""

import io
import json

import pytest
from pypdf import PdfReader

from kyrtos.jobs import services
from kyrtos.paper.services import issue
from kyrtos.worksheet.sheet import sheet
from sizing.editing.edit import edit
from sizing.kinds import kinds
from tests.kyrtos.test_every_demo_job import CATALOGUE, FILES
from tests.thin import some


@pytest.fixture
def tub(shop):
    return shop.jobs.get(title__startswith="Hydrotherapy")


def post(client, job, where, **values):
    revision = services.Job.objects.get(pk=job.pk).current_revision
    return client.post(
        f"/jobs/{job.pk}/{where}/",
        {"page": "p1", "revision": str(revision)} | values,
        headers={"HX-Request": "true"},
    )


def test_a_row_is_added_filled_undone_and_taken_away(estimator, tub):
    assert post(estimator, tub, "rows/add", list="jets").status_code == 200
    tub.refresh_from_db()
    assert [row.id for row in services.current(tub).lists["jets"]] == ["r1", "r2", "r3"]
    post(estimator, tub, "change", path="lists.jets.r3.count", value="4")
    tub.refresh_from_db()
    assert services.current(tub).lists["jets"][2].cells["count"].value == 4
    post(estimator, tub, "undo")
    tub.refresh_from_db()
    assert services.current(tub).lists["jets"][2].cells == {}
    post(estimator, tub, "rows/remove", list="jets", row="r3")
    tub.refresh_from_db()
    assert len(services.current(tub).lists["jets"]) == 2


@pytest.mark.parametrize("values", [{"list": "nothing"}, {"list": ""}, {}])
def test_a_list_that_no_job_has_is_refused(estimator, tub, values):
    assert post(estimator, tub, "rows/add", **values).status_code == 400


def test_a_row_that_is_gone_is_told(estimator, tub):
    answer = post(estimator, tub, "rows/remove", list="jets", row="r9")
    assert answer.status_code == 409
    assert "row was taken out" in answer.content.decode()


def test_nonsense_in_a_row_is_told_beside_it_and_kept(estimator, tub):
    text = post(estimator, tub, "change", path="lists.jets.r1.flow", value="5 psi").content.decode()
    assert "psi&#x27; is a unit of pressure" in text
    assert 'value="5 psi"' in text
    assert "The last good value still counts" in text


def test_two_people_on_one_row_see_both_values(estimator, tub):
    head = str(tub.current_revision)
    post(estimator, tub, "change", path="lists.jets.r1.count", value="15")
    answer = estimator.post(
        f"/jobs/{tub.pk}/change/",
        {"page": "p2", "revision": head, "path": "lists.jets.r1.count", "value": "16"},
        headers={"HX-Request": "true"},
    ).content.decode()
    assert "15" in answer
    assert "16" in answer
    tub.refresh_from_db()
    assert services.current(tub).lists["jets"][0].cells["count"].value == 15


def test_the_paper_holds_the_rows_that_the_customer_signs_for(shop, tub):
    user = shop.memberships.get(role="estimator").user
    pages = PdfReader(io.BytesIO(bytes(issue(job=tub, user=user).pdf))).pages
    words = " ".join(" ".join(page.extract_text().split()) for page in pages)
    for part in (
        "Jets, 1: jet back jets",
        "Jets, 1: how many 14",
        "Jets, 2: each takes 26 l/min",
        "hair, hands and bodies",
    ):
        assert part in words, part


def test_the_sheet_says_the_family_and_why_no_other(estimator, tub):
    text = estimator.get(f"/jobs/{tub.pk}/").content.decode()
    assert "spa pump" in text
    assert "why not another family" in text
    assert "/which-pump/?liquid=chlorinated&amp;place=beside&amp;feeds=jets" in text


def test_a_family_that_suits_the_water_but_not_the_job_is_no_answer(shop):
    mill = shop.jobs.get(title__startswith="Converted mill")
    made = sheet(services.size_document(shop, services.current(mill)), currency="€").family
    assert [label for label, _ in made.fits] == ["booster"]
    assert (
        "diaphragm demand / delivery",
        "By its water and place it would do, but it is not for large flows.",
    ) in made.others


def test_a_closed_loop_asks_for_no_levels_and_a_suction_may_be_told(estimator, tub):
    text = estimator.get(f"/jobs/{tub.pk}/").content.decode()
    assert ".ends_at" not in text
    assert 'data-path="legs.a.side"' in text


def test_a_file_with_lists_comes_back_the_same(estimator, tub):
    content = json.loads(estimator.get(f"/jobs/{tub.pk}/job.json").content)
    assert content["lists"]["jets"][0]["cells"]["flow"]["text"] == "42 l/min"


@pytest.mark.parametrize(
    "path", [path for path in FILES if path.stem > "06"], ids=lambda path: path.stem
)
def test_nonsense_in_any_row_breaks_no_sheet(path):
    from sizing.editing import intake
    from sizing.size import size

    job = intake.loads(path.read_bytes())
    for declared in kinds()[job.kind].lists:
        rows = job.lists.get(declared.key, declared.first)
        for question in declared.columns:
            for text in some(("", "-1", "1e12", "abc", "3 psi", "0", "½"), 2, question.key):
                made = sheet(
                    size(
                        edit(job, f"lists.{declared.key}.{rows[0].id}.{question.key}", text).job,
                        CATALOGUE,
                    ),
                    currency="€",
                )
                assert made.verdict
