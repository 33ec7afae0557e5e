"""What one person or shop made and another reads: nothing of it runs, by no door."""

import base64
import io
import json
import uuid
import zipfile

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.customers import held_files
from kyrtos.customers.models import Site, SiteFile
from kyrtos.operations import shop_data
from kyrtos.paper.models import Paper
from kyrtos.shops.models import Shop
from kyrtos.shops.services import letterhead_judged, letterhead_of

GADGET = b"<script src='/static/vendor/htmx/htmx.min.js'></script><p hx-get='/people/'>"

LETTERHEAD = letterhead_of(Shop(name="Farshore"))


def picture(kind="JPEG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "teal").save(out, kind)
    return out.getvalue()


@pytest.fixture
def newcomer(db) -> tuple[Shop, User]:
    shop, user = Shop.objects.create(name="Farshore Pumps"), User.objects.create(username="ama")
    Membership.objects.create(user=user, shop=shop, role=Role.OWNER)
    return shop, user


@pytest.fixture
def small(db) -> Shop:
    """A shop with one site, so that its file is quick."""
    made = Shop.objects.create(name="Weir Street Pumps")
    Site.objects.create(shop=made, name="The old lock")
    return made


def shop_file(shop, *, content: bytes, **row) -> bytes:
    """A shop's file in which one photo of a site is something else."""
    held = zipfile.ZipFile(io.BytesIO(shop_data.write(shop, lambda *_: None)))
    customers = json.loads(held.read("customers.json"))
    made = str(uuid.uuid4())
    customers["sites"][0]["files"] = [
        {
            "id": made,
            "job": "",
            "name": "IMG_1.jpg",
            "place": "pump",
            "stored": "x",
            "media_type": "image/jpeg",
            "is_photo": True,
            "size_bytes": len(content),
            "at": "2026-11-01T08:00:00+00:00",
        }
        | row
    ]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in held.namelist():
            if not name.startswith("files/"):
                new.writestr(name, held.read(name))
        new.writestr("customers.json", json.dumps(customers))
        new.writestr(f"files/{made}", content)
    return out.getvalue()


def client_of(user) -> Client:
    client = Client()
    client.force_login(user)
    return client


@pytest.mark.parametrize(
    ("content", "row"),
    [
        (GADGET, {"media_type": "text/html"}),
        (b"fetch('/people/')", {"media_type": "text/javascript"}),
        (GADGET, {"media_type": "image/svg+xml", "name": "x.svg"}),
        (b"\xff\xd8\xff\xe0" + GADGET, {}),
        (GADGET, {"name": "x.html"}),
        (GADGET, {"name": "x.pdf"}),
    ],
)
@pytest.mark.filterwarnings("ignore:Duplicate name")
def test_a_shops_file_brings_in_nothing_that_is_not_what_it_says(small, newcomer, content, row):
    into, user = newcomer
    with pytest.raises(shop_data.CannotTakeIn):
        shop_data.take_in(into, user, shop_file(small, content=content, **row), lambda *_: None)
    assert not SiteFile.objects.filter(site__shop=into).exists()


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize("claimed", ["text/html", "text/javascript", "image/jpeg"])
def test_a_picture_in_a_shops_file_is_drawn_anew_whatever_it_is_called(small, newcomer, claimed):
    into, user = newcomer
    sent = picture("PNG") + GADGET
    shop_data.take_in(
        into, user, shop_file(small, content=sent, media_type=claimed), lambda *_: None
    )
    kept = SiteFile.objects.get(site__shop=into)
    assert (kept.media_type, kept.is_photo) == ("image/jpeg", True)
    held = default_storage.open(kept.stored).read()
    assert b"script" not in held
    assert held[:3] == b"\xff\xd8\xff"
    answer = client_of(user).get(f"/sites/files/{kept.pk}/")
    assert answer.headers["Content-Type"] == "image/jpeg"


@pytest.mark.filterwarnings("ignore:Duplicate name")
def test_a_page_called_a_text_goes_out_as_a_file_in_a_sandbox(small, newcomer):
    into, user = newcomer
    sent = shop_file(small, content=GADGET, name="x.txt", media_type="text/html", is_photo=True)
    shop_data.take_in(into, user, sent, lambda *_: None)
    kept = SiteFile.objects.get(site__shop=into)
    answer = client_of(user).get(f"/sites/files/{kept.pk}/")
    assert answer.headers["Content-Disposition"].startswith("attachment")
    assert answer.headers["Content-Type"] == "text/plain"
    assert answer.headers["Content-Security-Policy"] == "sandbox; default-src 'none'"
    assert answer.headers["X-Content-Type-Options"] == "nosniff"


def test_a_row_that_lies_already_in_the_database_runs_nothing_either(shop, estimator, job):
    """As a row from before, or one that somebody put there: the serving itself is guarded."""
    stored = default_storage.save("lies", SimpleUploadedFile("x", GADGET))
    lies = SiteFile.objects.create(
        site=job.site_record,
        user=User.objects.get(username="wenna"),
        name="x.html",
        stored=stored,
        media_type="text/html",
        is_photo=True,
        size_bytes=len(GADGET),
    )
    answer = estimator.get(f"/sites/files/{lies.pk}/")
    assert answer.headers["Content-Disposition"].startswith("attachment")
    assert answer.headers["Content-Type"] == "application/octet-stream"
    assert "sandbox" in answer.headers["Content-Security-Policy"]


def test_papers_of_a_shops_file_are_taken_away_and_not_opened_here(shop, newcomer, estimator, job):
    assert estimator.post(f"/jobs/{job.pk}/paper/issue/").status_code == 302
    into, user = newcomer
    shop.jobs.exclude(pk=job.pk).delete()
    shop.installed.all().delete()
    sent = shop_data.write(shop, lambda *_: None)
    shop_data.take_in(into, user, sent, lambda *_: None)
    own, came = Paper.objects.get(job=job), Paper.objects.get(job__shop=into)
    for client, paper, way in ((estimator, own, "inline"), (client_of(user), came, "attachment")):
        answer = client.get(f"/jobs/{paper.job_id}/paper/{paper.number}/")
        assert answer.headers["Content-Disposition"].startswith(way)


def test_a_logo_is_drawn_anew_by_both_doors(small, newcomer):
    sent = picture("PNG") + GADGET
    small.logo, small.logo_type = sent, "text/html"
    small.save()
    into, user = newcomer
    shop_data.take_in(into, user, shop_data.write(small, lambda *_: None), lambda *_: None)
    into.refresh_from_db()
    assert into.logo_type == "image/png"
    assert b"script" not in bytes(into.logo)


def test_files_come_from_a_name_without_cookies_where_there_is_one(estimator, job, settings):
    settings.FILES_HOST = "files.ilvermoor.example"
    sent = {"file": SimpleUploadedFile("a.jpg", picture()), "place": "pump"}
    estimator.post(f"/sites/{job.site_record_id}/files/", sent)
    kept = SiteFile.objects.latest("at")
    away = estimator.get(f"/sites/files/{kept.pk}/")
    assert away.url.startswith("http://files.ilvermoor.example/held/")
    there = Client(headers={"Host": "files.ilvermoor.example"})
    path = away.url.partition("example")[2]
    answer = there.get(path)
    assert answer.headers["Content-Type"] == "image/jpeg"
    assert "sandbox" in answer.headers["Content-Security-Policy"]
    assert not answer.cookies
    assert there.get(path[:-2] + "xx/").status_code == 404
    assert there.get("/").status_code == 404
    assert there.get("/sign-in/").status_code == 404
    assert estimator.get(path).status_code == 404  # nor is it served beside the cookies
    settings.FILES_HOST = ""
    assert estimator.get(path).status_code == 404


def test_an_address_of_a_file_grows_old(job, settings, monkeypatch):
    settings.FILES_HOST = "files.ilvermoor.example"
    path = held_files.address(uuid.uuid4()).partition("example")[2]
    monkeypatch.setattr(held_files, "_GOOD_FOR_S", -1)
    answer = Client(headers={"Host": "files.ilvermoor.example"}).get(path)
    assert answer.status_code == 404


def test_a_full_store_is_told_and_leaves_no_half_file(estimator, job, monkeypatch, tmp_path):
    def full(name, content):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(default_storage, "save", full)
    before = SiteFile.objects.count()
    sent = {"file": SimpleUploadedFile("a.jpg", picture()), "place": "pump"}
    answer = estimator.post(f"/sites/{job.site_record_id}/files/", sent)
    assert answer.status_code == 503
    assert "full, or may only be read" in answer.text
    assert SiteFile.objects.count() == before


def test_pages_allow_nothing_but_our_own_scripts(estimator):
    policy = estimator.get("/").headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy


@pytest.mark.parametrize(
    "came",
    [
        None,
        "x",
        {"name": "x"},
        {**LETTERHEAD, "logo": "bm8gcGljdHVyZQ=="},
        {**LETTERHEAD, "logo": "%%%"},
        {**LETTERHEAD, "name": 5},
        {**LETTERHEAD, "more": "x"},
    ],
)
def test_a_letterhead_in_a_shops_file_that_is_none_is_left_out(came):
    assert letterhead_judged(came) is None


def test_a_letterhead_comes_in_with_its_logo_drawn_anew():
    logo = base64.b64encode(picture() + b"<script>").decode()
    held = letterhead_judged({**LETTERHEAD, "logo": logo, "logo_type": "text/html"})
    assert held["name"] == "Farshore"
    assert held["logo_type"] in ("image/png", "image/jpeg")
    assert b"<script>" not in base64.b64decode(held["logo"])
