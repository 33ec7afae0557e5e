"""Somebody else's sum: from scratch, off a spreadsheet, beside a job, and on its paper."""

from __future__ import annotations

import io
import json

import pytest
from openpyxl import Workbook
from pypdf import PdfReader

from kyrtos.jobs import services
from kyrtos.paper import services as papers
from sizing.aftercare.calculation_review.hand_sum import right
from sizing.aftercare.calculation_review.written import read
from sizing.analysis.calculation_review import facts_of, of_job
from sizing.analysis.changed import known
from sizing.document import job as document
from sizing.editing import intake
from tests.kyrtos.reading import text_of
from tests.sizing.test_hand_sums_as_written import CISTERN, head_of

WRONG = right(read(CISTERN | {"fittings": ""}, "metric").facts).figures()


def ask(client, **given):
    return client.get("/calculation-review/", CISTERN | given)


def test_an_empty_page_asks_for_nothing_and_says_what_it_is_for(estimator):
    shown = text_of(estimator.get("/calculation-review/"))
    assert "which slip is in it" in shown
    assert "Still needed" not in shown


def test_two_slips_of_a_cistern_are_explained_side_by_side(estimator):
    got = f"{WRONG.shaft_power * 3.7854 / 745.7:.4g} hp"
    shown = text_of(ask(estimator, got_shaft_power=got, family="transfer"))
    assert "is explained by litres where gallons belong and fittings left out" in shown
    assert "divide litres a minute by 3.785 first" in shown
    assert shown.count('<tr class="watch">') >= 3
    assert "it buys" in shown.lower() or "bought" in shown


def test_a_right_sum_is_told_so(estimator):
    assert "✓ Right:" in text_of(ask(estimator, got_head=f"{head_of():.3g} m"))


def test_what_nothing_explains_is_told_so(estimator):
    assert "None of the usual slips" in text_of(ask(estimator, got_head="3000 m"))


@pytest.mark.parametrize("field", ["flow", "bore", "got_head", "curve", "fixture_units"])
@pytest.mark.parametrize("text", ["much", "1e400", "<b>x"])
def test_nonsense_stands_beside_its_field_and_nothing_is_lost(estimator, field, text):
    answer = ask(estimator, **{field: text})
    assert answer.status_code == 422
    assert answer.text.count('aria-invalid="true"') == 1
    assert f'id="{field}-say"' in answer.text
    for other in CISTERN.keys() - {field}:
        assert f'value="{CISTERN[other]}"' in answer.text


PAGE = "Design flow\t38\tl/min\nStatic head\t6\tm\nPipe length\t24\tm\nBore\t27.2\tmm\nColour\t3"


def test_a_pasted_page_fills_the_form_in_and_says_what_it_left_out(estimator):
    answer = estimator.post("/calculation-review/sheet/", {"page": PAGE})
    shown = estimator.get(answer.url)
    assert 'value="38 l/min"' in shown.text
    assert "Not known, and left out: Colour" in text_of(shown)
    assert "The sum done right" in text_of(shown)


@pytest.mark.parametrize("kind", ["csv", "xlsx"])
def test_a_sheet_sent_up_is_read_too(estimator, kind):
    rows = [line.split("\t") for line in PAGE.splitlines()]
    sent = io.BytesIO()
    if kind == "csv":
        sent.write("\n".join(",".join(row) for row in rows).encode())
    else:
        book = Workbook()
        for row in rows:
            book.active.append([float(cell) if cell[0].isdigit() else cell for cell in row])
        book.save(sent)
    sent.seek(0)
    sent.name = f"sum.{kind}"
    answer = estimator.post("/calculation-review/sheet/", {"file": sent})
    assert "38" in estimator.get(answer.url).context["facts"][0].text


@pytest.mark.parametrize(
    ("sent", "says"),
    [
        ({"page": ""}, "No known quantity"),
        ({"page": "Colour\t3"}, "No known quantity"),
        ({"file": b""}, "empty"),
        ({"file": b"\x00\x01\x02\xff"}, "Nothing was read"),
    ],
)
def test_a_page_with_nothing_in_it_is_told(estimator, sent, says):
    if "file" in sent:
        held = io.BytesIO(sent["file"])
        held.name = "a.xlsx"
        sent = {"file": held}
    answer = estimator.post("/calculation-review/sheet/", sent)
    assert answer.status_code == 422
    assert says in text_of(answer) or "No known quantity" in text_of(answer)


def test_in_a_comma_readers_marks_a_sheet_is_read_as_it_stands(estimator, shop):
    shop.memberships.filter(role="estimator").update(numbers="comma")
    answer = estimator.post("/calculation-review/sheet/", {"page": PAGE})
    shown = estimator.get(answer.url)
    assert shown.status_code == 200
    assert 'value="27,2 mm"' in shown.text


def test_on_the_job_it_goes_onto_the_paper_and_off_again(estimator, shop, job):
    base = known(services.size_document(shop, services.current(job)))
    facts = facts_of(base, "L/min", of_a_pump=False)
    wrong = right(facts).figures().shaft_power * 3.785
    given = {"quantity": "shaft_power", "figure": f"{wrong:.4g} W", "flow_unit": "L/min"}
    where = f"/jobs/{job.pk}/calculation-review/"
    page = estimator.get(f"/jobs/{job.pk}/dialogs/calculation_review/", given).text
    assert "Put it on the paper" in page
    estimator.post(where, given)
    job.refresh_from_db()
    found = of_job(known(services.size_document(shop, services.current(job))))
    assert found.explained.code == "lpm_in_gpm_formula"
    paper = papers.issue(job=job, user=shop.memberships.get(role="owner").user)
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(bytes(paper.pdf))).pages)
    assert "Why our figure differs" in text
    assert "litres where gallons belong" in " ".join(text.split())
    estimator.post(where, {"do": "drop"})
    assert services.current(type(job).objects.get(pk=job.pk)).second_look is None


@pytest.mark.parametrize(
    "given",
    [
        {"figure": "much", "quantity": "head", "flow_unit": "gpm"},
        {"figure": "3 m", "quantity": "weight", "flow_unit": "gpm"},
        {"figure": "3 m", "quantity": "head", "flow_unit": "cups"},
    ],
)
def test_what_cannot_be_is_not_put_on_a_job(estimator, job, given):
    shown = text_of(estimator.post(f"/jobs/{job.pk}/calculation-review/", given, follow=True))
    assert "Nothing was kept" in shown
    assert services.current(type(job).objects.get(pk=job.pk)).second_look is None


def test_a_job_file_whose_figure_says_another_amount_is_mended(job):
    content = document.dump(services.current(job))
    content["second_look"] = {
        "quantity": "head",
        "figure": {"value": 99.0, "unit": "m", "text": "12 m"},
        "flow_unit": "gpm",
    }
    taken = intake.take_in(json.dumps(content).encode())
    assert taken.told
    assert "somebody else's figure" in taken.told[0]


def test_the_old_addresses_still_lead_there(estimator):
    answer = estimator.get("/second-look/", {"flow": "38 l/min"})
    assert answer.url == "/calculation-review/?flow=38+l%2Fmin"
