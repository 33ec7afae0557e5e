"""What one person typed and another reads, in every place where it goes out: it stays text."""

import csv
import io
import re
from datetime import date
from pathlib import Path

import pytest
import vobject
from allauth.account.models import EmailAddress
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from openpyxl import load_workbook
from pypdf import PdfReader

from kyrtos.accounts import people
from kyrtos.accounts.mail import send_link
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.customers import cards
from kyrtos.customers.models import SiteFile
from kyrtos.installations import reminders
from kyrtos.jobs import services
from tests.kyrtos.conftest import change
from tests.kyrtos.test_hostile_files import picture
from tests.thin import some

SCRIPT = "<script>alert(1)</script>"
PULL = '"><img src=x hx-get="/people/" hx-trigger="load" onerror=alert(1)>'
FORMULA = "=cmd|' /C calc'!A0"
BREAK = "a\r\nBcc: trap@elsewhere.example\r\nEND:VCARD\r\nBEGIN:VCARD"
TEMPLATE = "{{ 7|add:7 }}{% load static %}"
HOSTILE = (SCRIPT, PULL, FORMULA, BREAK, TEMPLATE)


@pytest.fixture(params=HOSTILE, ids=("script", "pull", "formula", "break", "template"))
def text(request) -> str:
    return request.param


@pytest.fixture
def told(shop, estimator, job, text):
    """The text in every name and note that somebody can type, put there as they are stored."""
    flat = " ".join(text.split())
    customer, site = job.customer_record, job.site_record
    for record in (customer, site):
        record.name = flat[:200]
        record.save()
    customer.people = customer.notes = customer.address = text
    customer.phone = flat[:60]
    customer.save()
    site.address = site.water = text
    site.save()
    change(estimator, job, "title", flat)
    job.refresh_from_db()
    change(estimator, job, "note", text)
    estimator.post(f"/jobs/{job.pk}/notes/", {"text": text})
    pump = shop.installed.filter(site=site).first() or shop.installed.first()
    pump.site, pump.serial, pump.installer, pump.model = site, flat[:60], flat[:120], flat[:120]
    pump.save()
    shop.name, shop.address, shop.terms, shop.licence = flat[:120], text, text, flat[:60]
    shop.save()
    sent = SimpleUploadedFile("x.jpg", picture())
    sent.name = flat.replace("/", "") + ".jpg"
    estimator.post(f"/sites/{site.pk}/files/", {"file": sent, "place": "pump"})
    job.refresh_from_db()
    return job, customer, site, pump


def safe(page: str, text: str) -> None:
    """No piece of a page runs, pulls or was worked out; what was typed stands there as text."""
    assert SCRIPT not in page
    assert not re.search(r"<[^>]*\bhx-get=\"/people/\"", page)
    assert "onerror=alert" not in re.sub(r"&quot;.*?&gt;", "", page)
    assert not re.search(r">\s*14\s*<", page) or text != TEMPLATE


def test_pages_show_it_as_text(as_role, estimator, told, text):
    job, customer, site, pump = told
    owner = as_role("owner")
    pages = (
        *("/", "/customers/", "/pumps/", "/pumps/due/", "/audit/", "/people/", "/settings/shop/"),
        *(f"/jobs/{job.pk}/", f"/customers/{customer.pk}/", f"/sites/{site.pk}/"),
        *(
            f"/p/{pump.code}/",
            f"/p/{pump.code}/change/",
            f"/counter/?pump={pump.code}",
            "/running/",
        ),
    )
    for page in pages:
        answer = owner.get(page)
        assert answer.status_code in (200, 422), page
        safe(answer.text, text)


def test_tables_and_cards_hold_no_formula_and_no_second_card(as_role, told, text):
    owner = as_role("owner")
    for name in ("customers.csv", "pumps.csv", "audit.csv"):
        address = "/audit/?csv=1" if name == "audit.csv" else f"/{name}"
        rows = list(csv.reader(io.StringIO(owner.get(address).text)))
        cells = [cell for row in rows for cell in row]
        assert not [cell for cell in cells if cell[:1] in ("=", "+", "@")], name
    book = load_workbook(io.BytesIO(owner.get("/pumps.xlsx").content))
    formulas = [c for row in book.active.iter_rows() for c in row if c.data_type == "f"]
    assert formulas == []
    held = owner.get("/customers.vcf").text
    count = len(list(vobject.readComponents(held)))
    assert count == owner.get("/customers/").wsgi_request.membership.shop.customers.count()
    assert len({row["name"] for row in cards.read(held.encode())}) == count


def test_mails_keep_their_addressees_and_their_subject(shop, told, text, settings):
    settings.SENDS_MAIL = True
    owner = shop.memberships.get(role="owner").user
    EmailAddress.objects.create(user=owner, email="isolde@ilvermoor.example", verified=True)
    token = people.invite(shop, owner, "viewer", "ama@farshore.example")
    owner.first_name = text[:30]
    owner.save()
    assert send_link(people.found(token), f"http://testserver/join/{token}/")
    assert reminders.tell(shop, date(2030, 1, 1))
    for letter in mail.outbox:
        assert len(letter.recipients()) == 1
        assert "\n" not in letter.subject
        assert "Bcc" not in letter.message()
        letter.message().as_bytes()


@pytest.mark.parametrize("text", some(HOSTILE, 2, "papers"))
def test_papers_labels_and_pictures_print_it_as_text(estimator, told, text):
    job, _, _, pump = told
    for address in (
        f"/jobs/{job.pk}/paper/site-sheet.pdf",
        f"/p/{pump.code}/label.pdf",
        f"/pumps/labels.pdf?pump={pump.code}",
    ):
        answer = estimator.get(address)
        assert answer.status_code == 200, address
        words = "".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages)
        assert not re.search(r"^\s*14\s*$", words, re.M)
    svg = estimator.get(f"/jobs/{job.pk}/paper/picture.svg").text
    safe(svg, text)


@pytest.mark.parametrize("text", some(HOSTILE, 2, "papers"))
def test_a_paper_holds_it_as_text(estimator, told, text):
    job, _, _, _ = told
    assert estimator.post(f"/jobs/{job.pk}/paper/issue/").status_code == 302
    pdf = PdfReader(io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/1/").content))
    root = pdf.trailer["/Root"]
    assert "/OpenAction" not in root
    assert "/JavaScript" not in root.get("/Names", {})
    links = [a for page in pdf.pages for a in page.get("/Annots", ())]
    assert links == []


def test_names_of_files_make_no_header_of_their_own(estimator, told, text):
    job, _, site, _ = told
    kept = SiteFile.objects.filter(site=site).latest("at")
    for address in (
        f"/sites/files/{kept.pk}/",
        f"/jobs/{job.pk}/job.json",
        f"/jobs/{job.pk}/paper/head.csv",
    ):
        answer = estimator.get(address)
        assert answer.status_code == 200, address
        assert "Bcc" not in answer.headers
        assert "\n" not in answer.headers["Content-Disposition"]


def test_a_job_file_carries_it_and_another_shop_reads_it_as_text(estimator, as_role, told, text):
    job, _, _, _ = told
    content = estimator.get(f"/jobs/{job.pk}/job.json").content
    stranger = as_role("stranger")
    came = stranger.post(
        "/jobs/upload/", {"file": SimpleUploadedFile("j.json", content)}, follow=True
    )
    assert came.status_code == 200
    safe(came.text, text)
    assert services.current(job).title


def test_pumps_of_a_list_are_text_everywhere(estimator, shop, text):
    first = CatalogueEntry.objects.filter(shop=shop).first()
    flat = " ".join(text.split())
    CatalogueEntry.objects.filter(pk=first.pk).update(note=text, model=flat[:80], seal=flat[:60])
    for address in ("/catalogue/", f"/catalogue/{first.pump_id}/"):
        safe(estimator.get(address).text, text)
    rows = csv.reader(io.StringIO(estimator.get("/catalogue/pumps.csv").text))
    assert not [cell for row in rows for cell in row if cell[:1] in ("=", "@")]


def test_no_template_prints_what_is_typed_without_escaping():
    """Only pictures that are drawn here may be marked safe; no page evaluates an attribute."""
    for path in Path("kyrtos").rglob("*.html"):
        held = path.read_text()
        assert "|safe" not in held, path
        assert "autoescape off" not in held, path
        assert not re.search(r"\bhx-on|\bjs:|\bhx-vals=['\"]js", held), path
