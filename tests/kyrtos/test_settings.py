"""Settings: one's own and the shop's, and all that follows them."""

from __future__ import annotations

import io
import re
from datetime import UTC, datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from pypdf import PdfReader

from kyrtos.accounts.models import Membership, Role
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.paper.services import issue
from sizing.base.reader import Reader, reading
from sizing.kinds import kinds
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of

SHOP = {
    "name": "Ilvermoor Pump & Pipe",
    "currency": "€",
    "time_zone": "UTC",
    "units": "metric",
    "numbers": "point",
    "dates": "day_month",
    "paper_size": "A4",
}


@pytest.fixture
def owner(as_role):
    return as_role("owner")


def new_job(client, kind="sump") -> Job:
    answer = client.post("/jobs/new/", {"title": "A new one", "kind": kind})
    assert answer.status_code == 302
    return Job.objects.get(title="A new one")


def logo() -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.new("RGB", (40, 20), "#a03a10").save(out, "PNG")
    return SimpleUploadedFile("logo.png", out.getvalue(), "image/png")


def test_a_us_shop_begins_in_inches_schedule_40_and_its_own_supply(owner, estimator):
    assert owner.post("/settings/shop/", SHOP | {"units": "us", "currency": "$"}).status_code == 302
    job = new_job(estimator)
    document = services.current(job)
    assert document.units == "us"
    assert {leg.series for leg in document.legs} == {"pvc_sch40"}
    assert document.answers["voltage"].text == "115 V"
    assert document.answers["supply_frequency"].text == "60 Hz"
    text = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert 'data-path="answers.stop_level" value="6 in"' in text
    assert 'placeholder="in"' in text
    assert "$" in text_of(estimator.get("/catalogue/"))


FIGURE_IN = {
    "us": re.compile(r"\d\s*(?:mm|m|m³/h|l/s|l/min|l/h|bar|kPa|°C|m/s|mm/h|l|cm|m²|m³)\b"),
    "metric": re.compile(r"\d\s*(?:in(?! use)|ft|gpm|gph|psi|°F|ft/s|gal|in/h)\b"),
}


@pytest.mark.parametrize("system", sorted(FIGURE_IN))
@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_blank_sheet_says_nothing_in_the_other_system(owner, shop, code, system):
    Membership.objects.filter(shop=shop).update(units=system)
    text = text_of(owner.get(f"/jobs/{new_job(owner, code).pk}/"))
    # pipes go by the name they are sold under
    sold = r'<datalist.*?</datalist>|csrf\S+ value="\S+|placeholder="1-1/2 in|PEX SDR 9 1/2 in'
    sold += r'|data-page="\w+'  # drawn by lot
    text = re.sub(sold, "", text)
    assert [text[one.start() - 50 : one.end()] for one in FIGURE_IN[system].finditer(text)] == []


def test_ones_own_units_go_before_those_of_the_shop(estimator, job, as_role):
    sent = {"units": "", "numbers": "", "dates": "iso", "unit_flow": "l/min"}
    assert estimator.post("/settings/", sent).status_code == 302
    assert "l/min" in text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "m³/h" not in text_of(estimator.get(f"/jobs/{job.pk}/")).partition("<svg")[0]
    others = as_role("viewer")
    assert "m³/h" in text_of(others.get(f"/jobs/{job.pk}/"))
    Job.objects.filter(pk=job.pk).update(changed=datetime(2026, 11, 26, 12, tzinfo=UTC))
    assert "2026-11-26" in text_of(estimator.get("/"))
    assert "26 Nov 2026" in text_of(others.get("/"))


def test_who_writes_a_comma_reads_a_comma_and_others_a_point(estimator, job, as_role):
    sent = {"units": "", "numbers": "comma", "dates": ""}
    assert estimator.post("/settings/", sent).status_code == 302
    change(estimator, job, "legs.b.length", "12,5 m")
    mine = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert 'data-path="legs.b.length" value="12,5 m"' in mine
    job.refresh_from_db()
    assert services.current(job).leg("b").length.text == "12.5 m"
    theirs = text_of(as_role("owner").get(f"/jobs/{job.pk}/"))
    assert 'data-path="legs.b.length" value="12.5 m"' in theirs


def test_the_shops_own_pipe_and_school_are_what_jobs_begin_with(owner, estimator):
    chosen = {
        "pipe_every": "copper_en1057_std",
        "pipe_well": "pe100_sdr17",
        "fittings_sump": "darby",
    }
    assert owner.post("/settings/shop/", SHOP | chosen).status_code == 302
    document = services.current(new_job(estimator))
    assert {leg.series for leg in document.legs} == {"copper_en1057_std"}
    assert document.fitting_method == "darby"
    text = text_of(owner.get("/settings/shop/"))
    assert '<option value="pe100_sdr17" selected>' in text


def test_the_paper_carries_logo_licence_terms_and_its_size(owner, estimator, job):
    about = {"phone": "0555 0100", "licence": "IV-204", "terms": "Payable within 14 days."}
    sent = SHOP | about | {"paper_size": "letter", "new_logo": logo()}
    assert owner.post("/settings/shop/", sent).status_code == 302
    assert "data:image/png;base64," in text_of(owner.get("/settings/shop/"))
    wenna = Membership.objects.get(shop=job.shop, role=Role.ESTIMATOR).user
    with reading(Reader(dates="month_day")):
        paper = issue(job=Job.objects.get(pk=job.pk), user=wenna)
    read = PdfReader(io.BytesIO(bytes(paper.pdf)))
    assert [float(edge) for edge in read.pages[0].mediabox[2:]] == pytest.approx([612, 792], abs=1)
    words = " ".join(" ".join(page.extract_text() for page in read.pages).split())
    for said in ("0555 0100", "IV-204", "Payable within 14 days."):
        assert said in words
    assert len(read.pages[0].images) == 1
    assert owner.post("/settings/shop/", SHOP | {"no_logo": "on"}).status_code == 302
    job.shop.refresh_from_db()
    assert bytes(job.shop.logo) == b""


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"name": ""}, "This field is required"),
        ({"voltage_v": "a lot"}, "Enter a number"),
        ({"voltage_v": "-3"}, "A supply has 6 to 1000 V"),
        ({"unit_flow": "furlongs"}, "Select a valid choice"),
        ({"pipe_sump": "none_such"}, "Select a valid choice"),
        ({"new_logo": SimpleUploadedFile("x.png", b"<svg/>")}, "no PNG or JPEG"),
        ({"new_logo": SimpleUploadedFile("x.png", b"0" * 600_000)}, "larger than 500 kB"),
    ],
)
def test_a_wrong_setting_is_told_beside_its_field_and_nothing_is_kept(owner, shop, wrong, said):
    answer = owner.post("/settings/shop/", SHOP | {"phone": "0555 0199"} | wrong)
    assert answer.status_code == 422
    assert said in text_of(answer)
    assert 'value="0555 0199"' in text_of(answer)
    shop.refresh_from_db()
    assert shop.phone == ""


def test_a_dialog_reads_again_what_it_shows_to_who_writes_a_comma(estimator, job):
    assert estimator.post("/settings/", {"units": "", "numbers": "comma", "dates": ""}).status_code
    asked = estimator.get(f"/jobs/{job.pk}/dialogs/inverse/")
    flow = asked.context["view"].flow
    assert flow == "6,36\u00a0m³/h"
    again = estimator.get(f"/jobs/{job.pk}/dialogs/inverse/", {"flow": flow, "head": "8,5"})
    assert again.context["view"].problems == ("", "")
