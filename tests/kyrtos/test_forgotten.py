"""A customer who asked to be forgotten is named nowhere: not in any table, file, mail or cache."""

import base64
import io
import json
import re
from datetime import date
from pathlib import Path

import pytest
from allauth.account.models import EmailAddress
from django.contrib.messages.storage.base import Message
from django.contrib.messages.storage.cookie import MessageEncoder
from django.contrib.sessions.models import Session
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from pypdf import PdfReader

from kyrtos.accounts.models import User
from kyrtos.config import queue
from kyrtos.customers.crossing_out import Names
from kyrtos.installations import reminders
from kyrtos.jobs import services
from kyrtos.paper import seals
from kyrtos.paper.models import Paper
from kyrtos.shops import trouble
from sizing.base.failure import failure_of
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_hostile_files import picture

NAME = "Zebulon Quartermain"
PERSON = "Petronel Quix"


@pytest.fixture(autouse=True)
def folders(settings, tmp_path):
    settings.EMAIL_BACKEND = "django.core.mail.backends.filebased.EmailBackend"
    settings.EMAIL_FILE_PATH, settings.SENDS_MAIL = str(tmp_path / "mails"), True
    settings.MEDIA_ROOT = str(tmp_path / "files")


def rows() -> dict[str, str]:
    """Every table of the database as text, packed columns unpacked."""
    with connection.cursor() as ask:
        ask.execute("select tablename from pg_tables where schemaname = 'public'")
        found = {}
        for (table,) in ask.fetchall():
            ask.execute(f'select t::text from "{table}" t')
            found[table] = "\n".join(one for (one,) in ask.fetchall())
    found["sessions"] = "\n".join(str(one.get_decoded()) for one in Session.objects.all())
    with connection.cursor() as ask:
        ask.execute("select value from shared_cache")
        found["cache"] = "\n".join(
            base64.b64decode(one).decode("latin-1") for (one,) in ask.fetchall()
        )
    papers = [PdfReader(io.BytesIO(bytes(one.pdf))) for one in Paper.objects.all()]
    found["papers"] = "\n".join(page.extract_text() for pdf in papers for page in pdf.pages)
    return found


def holding(tmp_path: Path, *names: str) -> set[str]:
    """Where one of the names stands, whatever its capitals."""
    places = rows()
    for file in tmp_path.rglob("*"):
        if file.is_file():
            places[file.name] = file.read_bytes().decode("latin-1") + file.name
    hexed = [one.encode().hex() for one in names]
    pattern = re.compile("|".join([*map(re.escape, names), *hexed]), re.IGNORECASE)
    return {place for place, text in places.items() if pattern.search(text)}


def test_who_is_forgotten_is_named_nowhere(
    shop, job, estimator, as_role, tmp_path, django_capture_on_commit_callbacks
):
    owner, other = as_role("owner"), shop.jobs.get(title="Chandler's undercroft")
    isolde = User.objects.get(username="isolde")
    EmailAddress.objects.create(user=isolde, email="i@farshore.example", verified=True)
    change(estimator, job, "customer", NAME)
    job.refresh_from_db()
    change(estimator, job, "title", f"{NAME}'s cellar")
    job.refresh_from_db()
    record = job.customer_record
    owner.post(
        f"/customers/{record.pk}/edit/",
        {"name": NAME, "people": PERSON, "phone": "0555 808 909", "mail": "zq@quartermain.example"},
    )
    site = job.site_record
    for one in (job, other):
        estimator.post(f"/jobs/{one.pk}/notes/", {"text": f"as at {NAME.upper()}: ask {PERSON}"})
        one.refresh_from_db()
        change(estimator, one, "note", f"key at {NAME}, 0555 808 909")
        assert estimator.post(f"/jobs/{one.pk}/paper/issue/").status_code == 302
    sent = SimpleUploadedFile(f"pit of {NAME}.jpg", picture(), "image/jpeg")
    estimator.post(f"/sites/{site.pk}/files/", {"file": sent, "place": "pump"})
    pump = shop.installed.create(site=site, maker="Ondrath", model="K 11", place=f"{NAME}, left")
    pump.events.create(kind="noted", on=date(2030, 1, 1), text=f"{PERSON} rang")
    pump.reminders.create(text=f"ring {NAME}", due=date(2030, 1, 1))
    reminders.tell(shop, date(2030, 1, 1))
    trouble.note(shop, [failure_of("a part", ValueError(NAME))], job.pk)
    shop.troubles.update(about=f"job of {NAME}")
    owner.post("/shop-file/new/")
    queue.run_held()
    cache.clear()
    for client in (owner, estimator):
        at = client.session
        waiting = [Message(20, f"{NAME} is kept.")]
        at["_messages"] = json.dumps(waiting, cls=MessageEncoder)
        at.save()
    before = holding(tmp_path, NAME, PERSON)
    assert {"jobs_revision", "shop_auditentry", "sessions", "papers", "shop_trouble"} <= before
    assert any(".log" in place for place in before)

    owner.post(f"/customers/{record.pk}/forget/", {"sure": "on"})
    with django_capture_on_commit_callbacks(execute=True):
        queue.run_held()
    assert holding(tmp_path, NAME, PERSON, "0555 808 909", "zq@quartermain") == set()
    assert not shop.files.filter(kind="all").exists()
    other.refresh_from_db()
    assert services.current(other).note == "key at ███████████████████, ████████████"
    assert estimator.get(f"/jobs/{job.pk}/").status_code == 200


def test_notes_of_others_keep_their_length(shop, job, estimator, as_role):
    change(estimator, job, "customer", NAME)
    job.refresh_from_db()
    long = f"{NAME}: " + "a word or two " * 60
    job.notes.create(user=User.objects.get(username="wenna"), text=long)
    as_role("owner").post(f"/customers/{job.customer_record_id}/forget/", {"sure": "on"})
    queue.run_held()
    (note,) = job.notes.filter(text__contains="a word or two")
    assert len(note.text) == len(long)


@pytest.mark.parametrize(
    ("text", "left"),
    [
        ("Tarn called", "████ called"),
        ("at the tarn, by TARN", "at the ████, by ████"),
        ("Tarnside and starn", "Tarnside and starn"),
    ],
)
def test_whole_words_are_crossed_out(text, left):
    assert Names(["Tarn"]).crossed_out(text) == left


def test_a_customer_called_as_a_pump_takes_no_pump_away():
    held = {"pump": "vessmar-tarn-80", "title": "Tarn", "pending": {"answers.rise": "tarn"}}
    out = Names(["Tarn"]).out_of(held)
    assert out == {"pump": "vessmar-tarn-80", "title": "████", "pending": {"answers.rise": "████"}}


def test_a_paper_is_printed_again_under_the_letterhead_of_its_day(shop, job, estimator, as_role):
    owner = as_role("owner")
    change(estimator, job, "customer", NAME)
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    job.refresh_from_db()
    shop.name, shop.terms, shop.licence = "Quite Another Name", "paid tomorrow", "PL 99"
    shop.save()
    owner.post(f"/customers/{job.customer_record_id}/forget/", {"sure": "on"})
    queue.run_held()
    pdf = PdfReader(io.BytesIO(bytes(job.papers.get().pdf)))
    text = "\n".join(page.extract_text() for page in pdf.pages)
    assert NAME not in text
    assert "Ilvermoor Pump & Pipe" in text
    for now in ("Quite Another Name", "paid tomorrow", "PL 99"):
        assert now not in text


# --- the plan, the task, the seals


def asked(client, customer, **sent):
    answer = client.post(f"/customers/{customer.pk}/forget/", {"sure": "on", **sent})
    assert answer.status_code == 302
    queue.run_held()


@pytest.fixture
def known(shop, job, estimator, as_role):
    """A customer with a site, and what others wrote of them."""
    change(estimator, job, "customer", NAME)
    job.refresh_from_db()
    as_role("owner").post(
        f"/customers/{job.customer_record_id}/edit/",
        {"name": NAME, "phone": "0555 808 909", "address": "7 Tallow Lane", "people": PERSON},
    )
    other = shop.jobs.get(title="Chandler's undercroft")
    text = "key with Quartermain, 0555-808909, at 7 Tallow Lane; Quartermaine is another"
    note = other.notes.create(user=User.objects.get(username="wenna"), text=text)
    return job.customer_record, note


def test_the_plan_says_all_and_changes_nothing(shop, job, estimator, as_role, known):
    customer = known[0]
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    before = rows()
    page = text_of(as_role("owner").get(f"/customers/{customer.pk}/forget/"))
    for text in ("Papers", "Revisions of those jobs", "Notes on jobs", "Lines of the record"):
        assert text in page
    assert "key with Quartermain," in page  # a part of the name, where it stands
    assert 'value="Quartermain"' in page
    after = rows()
    for table in ("customers_customer", "jobs_revision", "jobs_jobnote", "paper_paper"):
        assert after[table] == before[table]


def test_parts_that_were_ticked_are_struck_out_and_no_text_is_shortened(as_role, known):
    customer, note = known
    asked(as_role("owner"), customer, part=["Quartermain", "7 Tallow Lane"])
    before, length = note.text, len(note.text)
    note.refresh_from_db()
    assert len(note.text) == length
    assert note.text.endswith("; Quartermaine is another")
    for gone in ("Quartermain,", "808909", "Tallow"):
        assert gone in before
        assert gone not in note.text
    page = as_role("owner").get(f"/customers/{customer.pk}/")
    assert "what was done" in text_of(page)


@pytest.mark.fails_alone
def test_what_breaks_half_way_leaves_nothing_done_and_is_told(as_role, known, monkeypatch):
    customer = known[0]
    before = rows()

    def broken(*_, **__):
        raise ValueError("no more")

    monkeypatch.setattr("kyrtos.customers.crossing_out.Names.crossed_out", broken)
    as_role("owner").post(f"/customers/{customer.pk}/forget/", {"sure": "on"})
    with pytest.raises(ValueError, match="no more"):
        queue.run_held()
    after = rows()
    for table in ("customers_customer", "customers_site", "jobs_revision", "jobs_jobnote"):
        assert after[table] == before[table]
    page = text_of(as_role("owner").get(f"/customers/{customer.pk}/"))
    assert "failed and nothing of it was done" in page
    monkeypatch.undo()
    asked(as_role("owner"), customer)
    customer.refresh_from_db()
    assert customer.taken_out


def test_the_seals_of_a_paper_say_why_its_file_is_another_now(job, estimator, as_role, known):
    customer, _ = known
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    paper = job.papers.get()
    first = bytes(paper.pdf)
    assert [one.why for one in paper.seals.all()] == [seals.ISSUED]
    asked(as_role("owner"), customer)
    paper.refresh_from_db()
    assert bytes(paper.pdf) != first
    assert [one.why for one in paper.seals.all()] == [seals.ISSUED, seals.STRUCK_OUT]
    assert list(seals.broken(job)) == []
    assert seals.STRUCK_OUT in text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert estimator.get(f"/jobs/{job.pk}/paper/1/").status_code == 200


@pytest.mark.parametrize(
    ("change_it", "says"),
    [
        (lambda paper: Paper.objects.update(pdf=b"%PDF-1.7 another"), "its file is not the one"),
        (lambda paper: paper.seals.update(why="nothing"), "its seal of"),
        (lambda paper: paper.seals.update(pdf_sha256="0" * 64), "its seal of"),
    ],
)
def test_a_file_or_a_seal_that_was_altered_is_found(job, estimator, change_it, says):
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    change_it(job.papers.get())
    assert any(says in one for one in seals.broken(job))
    if says.startswith("its file"):
        answer = estimator.get(f"/jobs/{job.pk}/paper/1/")
        assert answer.status_code == 409
        assert "altered outside Kyrtos" in text_of(answer)
