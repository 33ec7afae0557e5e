"""Back-ups, a shop's own data out and in again, large files by the worker, quotas."""

import io
import json
import zipfile
from datetime import UTC, datetime, timedelta

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import Client
from django.utils import timezone

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.catalogue import imports
from kyrtos.catalogue.models import CatalogueEntry, Import, PriceNote
from kyrtos.config import queue
from kyrtos.customers import photos
from kyrtos.jobs import recordings
from kyrtos.jobs.models import JobNote
from kyrtos.operations import backups, lost, shop_data, shop_files, tasks
from kyrtos.operations.models import Backup, ShopFile
from kyrtos.paper.services import issue
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_imports import send
from tests.kyrtos.test_queue import large_file


@pytest.fixture
def owner(as_role) -> Client:
    return as_role("owner")


# --- back-ups


def test_the_newest_of_days_weeks_and_months_are_kept():
    moments = [datetime(2026, 11, 27, 2, tzinfo=UTC) - timedelta(days=one) for one in range(300)]
    again = moments[0] + timedelta(hours=5)
    stay = backups.kept([*moments, again])
    assert again in stay
    assert moments[0] not in stay  # the later one of that day stands for it
    assert {moments[one] for one in range(1, 7)} <= stay
    assert moments[7] not in stay
    assert len({one.strftime("%G%V") for one in stay}) >= 4
    assert {one.strftime("%m") for one in stay} == {"11", "10", "09", "08", "07", "06"}
    assert backups.kept([]) == set()


@pytest.mark.parametrize(
    ("folder", "hours", "good", "says"),
    [
        ("", None, True, "no folder"),
        ("there", None, True, "no good back-up yet"),
        ("there", 2, False, "no good back-up yet"),
        ("there", 40, True, "it is old"),
        ("there", 26, True, ""),
    ],
)
def test_a_back_up_that_is_old_or_missing_is_told(owner, settings, folder, hours, good, says):
    settings.BACKUP_FOLDER = folder
    if hours is not None:
        made = Backup.objects.create(file="x", good=good, told="" if good else "disk full")
        Backup.objects.filter(pk=made.pk).update(when=timezone.now() - timedelta(hours=hours))
    shown = text_of(owner.get("/back-ups/")).lower()
    assert (says in shown) if says else "last good back-up" in shown
    assert good or "disk full" in shown


def test_a_failed_one_is_noted_and_nothing_is_rotated(db, settings, tmp_path, monkeypatch):
    settings.BACKUP_FOLDER = str(tmp_path)
    settings.DATABASE_ADDRESS = "postgresql://nobody@127.0.0.1:1/none"
    noted = backups.make()
    assert not noted.good
    assert "127.0.0.1" in noted.told
    assert not list(tmp_path.iterdir())


def test_rotation_takes_files_away_and_keeps_what_was_noted(db, tmp_path):
    for days in range(40):
        file = tmp_path / f"{days}.backup"
        file.write_text("x")
        made = Backup.objects.create(file=str(file), good=True)
        when = datetime(2026, 11, 27, 2, tzinfo=UTC) - timedelta(days=days)
        Backup.objects.filter(pk=made.pk).update(when=when)
    backups.rotate()
    left = {one.name for one in tmp_path.iterdir()}
    assert {f"{days}.backup" for days in range(7)} <= left
    assert len(left) == Backup.objects.filter(gone=False).count() < 20
    assert Backup.objects.count() == 40


def test_one_is_asked_for_once(owner, settings, monkeypatch):
    made = []
    monkeypatch.setattr(tasks.backups, "make", lambda: made.append(1))
    settings.BACKUP_FOLDER = "there"
    owner.post("/back-ups/")
    owner.post("/back-ups/")
    queue.run_held()
    assert made == [1]
    settings.BACKUP_FOLDER = ""
    tasks.nightly_backup.func(0)
    assert made == [1]


# --- a shop's own data


@pytest.fixture
def newcomer(db) -> Client:
    """The owner of an empty shop elsewhere."""
    user = User.objects.create(username="ama")
    elsewhere = Shop.objects.create(name="Farshore Pumps")
    Membership.objects.create(user=user, shop=elsewhere, role=Role.OWNER)
    client = Client()
    client.force_login(user)
    return client


def upload(client, content):
    return client.post("/shop-file/", {"file": SimpleUploadedFile("shop.zip", content)})


def taken_out(owner) -> bytes:
    at = owner.post("/shop-file/new/").url
    assert "Being made" in text_of(owner.get(at))
    queue.run_held()
    assert "Save kyrtos-shop.zip" in text_of(owner.get(at))
    return owner.get(f"{at}content/").content


def test_a_shop_leaves_with_its_data_and_comes_back_with_it(owner, newcomer, shop, job, estimator):
    change(estimator, job, "answers.rise", "105 mm")
    job.refresh_from_db()
    wenna = User.objects.get(username="wenna")
    paper = issue(job=job, user=wenna)
    JobNote.objects.create(job=job, user=wenna, text="rang: wants a spare")
    recordings.keep(job, wenna, "a night", "time,level [m]\n0,0.2\n20,0.3\n40,0.4")
    PriceNote.objects.create(shop=shop, pump_id="vessmar-tarn-80", price=400.0, source="list")
    shop.house_rules.create(rule_id="CYC-01", value_si=9.0, reason="clay")
    shop.licence = "PL 77"
    shop.save()
    photo = photos.keep(
        site=job.site_record,
        user=wenna,
        sent=SimpleUploadedFile("pit.pdf", b"%PDF-1.7 pit"),
        place="pump",
        job=job.pk,
    )
    standing = shop.installed.get(serial="VE220841")
    read = [one.come for one in standing.readings.order_by("on")]
    pumps_out = shop.installed.count()
    out = taken_out(owner)
    names = zipfile.ZipFile(io.BytesIO(out)).namelist()
    assert {"shop.json", "pumps.csv", "audit.csv", f"papers/{job.pk}-1.pdf"} <= set(names)

    def told(of):
        return [(one.title, one.customer, one.created, one.changed) for one in of.jobs.all()]

    before = told(shop)
    pumps = CatalogueEntry.objects.filter(shop=shop).count()
    shop.jobs.get(pk=job.pk).papers.all().delete()
    shop.installed.all().delete()
    shop.jobs.all().delete()  # it has gone elsewhere
    answer = upload(newcomer, out)
    queue.run_held()
    shown = text_of(newcomer.get(answer.url))
    assert f"{len(before)} jobs" in shown
    assert f"{pumps} pumps" in shown
    elsewhere = Shop.objects.get(name="Farshore Pumps")
    assert elsewhere.licence == "PL 77"
    assert elsewhere.house_rules.get().value_si == 9.0
    held = elsewhere.jobs.get(pk=job.pk)
    assert told(elsewhere) == before
    assert [one.document["answers"].get("rise") for one in held.revisions.all()][-1]["text"] == (
        "105 mm"
    )
    assert bytes(held.papers.get().pdf) == bytes(paper.pdf)
    assert held.papers.get().issued == paper.issued
    assert held.notes.get().text == "rang: wants a spare"
    assert held.recordings.get().text.startswith("time,level [m]")
    assert PriceNote.objects.get(shop=elsewhere, source="list").price == 400.0
    assert newcomer.get(f"/jobs/{job.pk}/").status_code == 200
    there = elsewhere.installed.get(serial="VE220841")
    assert (there.code, there.job_id, there.site) == (standing.code, job.pk, held.site_record)
    assert [one.come for one in there.readings.order_by("on")] == read
    assert elsewhere.installed.count() == pumps_out
    kept = held.site_record.files.get()
    assert (kept.name, kept.job, kept.at) == (photo.name, job.pk, photo.at)
    assert default_storage.open(kept.stored).read() == b"%PDF-1.7 pit"


@pytest.mark.nightly
def test_beside_the_shop_it_came_from_it_gets_ids_of_its_own(owner, newcomer, shop, job):
    at = upload(newcomer, taken_out(owner)).url
    queue.run_held()
    assert "Taken in" in text_of(newcomer.get(at))
    elsewhere = Shop.objects.get(name="Farshore Pumps")
    assert elsewhere.jobs.count() == shop.jobs.count()
    assert not elsewhere.jobs.filter(pk=job.pk).exists()
    assert newcomer.get(f"/jobs/{job.pk}/").status_code == 404


def test_the_database_going_away_says_nothing_of_a_shops_file(owner, newcomer, monkeypatch):
    at = upload(newcomer, taken_out(owner)).url

    def away(*_):
        raise OperationalError("server closed the connection")

    monkeypatch.setattr(shop_data, "_take_in", away)
    with pytest.raises(OperationalError):
        queue.run_held()
    assert "Being taken in" in text_of(newcomer.get(at))  # it is done again


def test_not_into_a_shop_that_has_something(owner, shop):
    answer = upload(owner, taken_out(owner))
    assert answer.status_code == 422
    assert "has jobs or pumps already" in text_of(answer)


def spoilt(out: bytes, name: str, content: bytes) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(out)) as held, zipfile.ZipFile(stream, "w") as made:
        for one in held.namelist():
            part = next(n for n in held.namelist() if n.startswith(name)) if name else ""
            made.writestr(one, content if one == part else held.read(one))
    return stream.getvalue()


SHOP = b'{"format": "kyrtos-shop/1", "currency": "\xe2\x82\xac", %s}'


@pytest.fixture
def small_file(shop, job) -> bytes:
    """A shop's file with one of each: a job, a pump, a customer's site, an installed pump."""
    shop.jobs.exclude(pk=job.pk).delete()
    first = shop.installed.first()
    shop.installed.exclude(pk=first.pk).delete()
    shop.sites.exclude(pk__in=(first.site_id, job.site_record_id)).delete()
    CatalogueEntry.objects.filter(shop=shop).exclude(model="Tarn 80").delete()
    return shop_data.write(shop, lambda *_: None)


@pytest.mark.parametrize(
    ("part", "content", "says"),
    [
        ("shop.json", b'{"format": "other/1"}', "no kyrtos-shop/1"),
        ("shop.json", b'{"format": "kyrtos-shop/1", "units": "miles"}', "broken"),
        ("shop.json", b"[]", "broken"),
        ("shop.json", SHOP % b'"own_units": {"flow": "cups"}', "cups"),
        ("shop.json", SHOP % b'"own_units": ["flow"]', "broken"),
        ("shop.json", SHOP % b'"own_pipes": {"sump": "lead"}', "lead"),
        ("shop.json", SHOP % b'"logo": "3c7376673e"', "no PNG or JPEG"),
        ("suppliers.json", b'[{"signature": "a", "by_hand": {"a": 5}}]', "texts"),
        ("pumps.json", b'[{"pump_id": "a"}]', "broken"),
        ("pumps.json", b'{"a": 1}', "broken"),
        ("jobs/", b"{", "broken"),
        ("jobs/", b'{"id": "x", "revisions": []}', "broken"),
        ("rules.json", b'[{"rule_id": 5, "reason": null}]', "there is none of"),
        ("prices.json", b"\xff\xfe", "broken"),
        ("customers.json", b"[]", "broken"),
        ("customers.json", b'{"customers": [{"name": ""}], "sites": []}', "broken"),
        ("installed.json", b'[{"code": "A", "site": 9999}]', "broken"),
        ("installed.json", b'[{"code": "A", "site": 0, "job": "", "record": {"a": 1}}]', "broken"),
    ],
)
def test_a_broken_file_is_told_and_changes_nothing(small_file, newcomer, part, content, says):
    answer = upload(newcomer, spoilt(small_file, part, content))
    queue.run_held()
    assert says in text_of(newcomer.get(answer.url))
    elsewhere = Shop.objects.get(name="Farshore Pumps")
    assert shop_data.is_empty(elsewhere)
    assert (elsewhere.units, elsewhere.house_rules.count()) == ("metric", 0)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"no zip", "not a ZIP file"),
        (b"PK\x03\x04" + b"x" * 400, "not a ZIP file"),
        (spoilt(b"PK\x05\x06" + b"\0" * 18, "", b""), "no shop.json"),
    ],
)
def test_what_is_no_shops_data_is_told_at_once(newcomer, content, says):
    answer = upload(newcomer, content)
    assert answer.status_code == 422
    assert says in text_of(answer)


def test_a_file_that_unpacks_to_far_too_much_is_not_unpacked(newcomer, monkeypatch):
    monkeypatch.setattr(shop_data, "_MOST_OF_A_PART", 1000)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("shop.json", b"0" * 5000)
    assert "far more" in text_of(upload(newcomer, stream.getvalue()))


# --- large files by the worker


def test_a_large_workbook_is_made_by_the_worker_and_can_be_called_off(estimator, shop, monkeypatch):
    from kyrtos.operations import views

    monkeypatch.setattr(views, "_AT_ONCE", 10)
    assert "Make the workbook" in text_of(estimator.get("/catalogue/pumps.xlsx"))
    assert not shop.files.exists()  # looking makes nothing
    at = estimator.post("/catalogue/pumps.xlsx").url
    assert estimator.post("/catalogue/pumps.xlsx").url == at  # not twice
    estimator.post(at)
    queue.run_held()
    assert "Called off" in text_of(estimator.get(at))
    assert estimator.get(f"{at}content/").status_code == 404
    at = estimator.post("/catalogue/pumps.xlsx").url
    queue.run_held()
    assert at in estimator.get("/catalogue/pumps.xlsx").text
    assert estimator.get(f"{at}content/").content[:2] == b"PK"


def test_it_stops_where_it_is_called_off_on_its_way(shop, monkeypatch):
    made = shop_files.begin(shop, User.objects.get(username="wenna"), ShopFile.Kind.ALL)
    monkeypatch.setattr(shop_data, "_write_job", lambda *_: shop_files.call_off(made))
    shop_files.work_on(made)
    made.refresh_from_db()
    assert (made.state, bytes(made.content)) == ("off", b"")


def test_files_make_room_and_belong_to_one_shop(owner, newcomer, shop):
    user = User.objects.get(username="isolde")
    own = shop_files.begin(shop, user, ShopFile.Kind.ALL)
    shop_files.work_on(own)
    waits = shop_files.begin(shop, user, ShopFile.Kind.INTO, b"x")
    for _ in range(6):
        made = shop_files.begin(shop, user, ShopFile.Kind.PUMPS)
        shop_files.call_off(made)
    kinds = [file.kind for file in shop.files.defer("content")]
    assert kinds.count("pumps") == shop_files.KEPT + 1
    assert {own.pk, waits.pk} <= {file.pk for file in shop.files.defer("content")}
    assert newcomer.get(f"/shop-file/{made.pk}/").status_code == 404


def test_one_file_of_a_kind_waits_at_a_time(owner, shop):
    at = owner.post("/shop-file/new/").url
    assert owner.post("/shop-file/new/").url == at
    shop_files.begin(shop, User.objects.get(username="isolde"), ShopFile.Kind.INTO, b"x")
    shop.jobs.all().delete()
    answer = upload(owner, b"PK")
    assert answer.status_code == 422


def test_what_breaks_in_the_background_is_told(shop, monkeypatch):
    made = shop_files.begin(shop, User.objects.get(username="wenna"), ShopFile.Kind.ALL)
    monkeypatch.setattr(shop_data, "write", lambda *_: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        shop_files.work_on(made)
    made.refresh_from_db()
    assert (made.state, "ZeroDivisionError" in made.told) == ("failed", True)


def test_an_import_is_called_off_while_it_is_read_and_while_it_is_taken(estimator, shop):
    queue.run_held()
    url = send(estimator, large_file()).url
    estimator.post(url, {"do": "off"})
    queue.run_held()
    assert "called off" in text_of(estimator.get(url))
    url = send(estimator, large_file()).url
    queue.run_held()
    estimator.post(url, {"do": "take"})
    assert "Call it off" in text_of(estimator.get(url))
    found = Import.objects.get(pk=int(url.split("/")[-2]))
    assert imports.call_off(found)
    queue.run_held()
    assert CatalogueEntry.objects.filter(shop=shop).count() == 82
    found.refresh_from_db()
    assert found.state == "shown"
    assert not imports.call_off(found)


# --- quotas


@pytest.mark.parametrize(
    ("thing", "address", "sent"),
    [
        ("jobs", "/jobs/new/", {"title": "cellar", "kind": "sump"}),
        ("pumps", "/catalogue/new/", None),
        ("papers of a job", "/jobs/{job}/paper/issue/", {}),
    ],
)
def test_a_quota_that_is_full_is_told(estimator, job, monkeypatch, thing, address, sent):
    from tests.kyrtos.test_pump_form import TYPED

    monkeypatch.setitem(quota.MOST, thing, 0)
    answer = estimator.post(address.format(job=job.pk), TYPED if sent is None else sent)
    assert answer.status_code in (409, 422)
    assert f"{thing} already" in text_of(answer)


def test_people_in_people_json_are_names_only(owner, shop):
    held = zipfile.ZipFile(io.BytesIO(taken_out(owner)))
    people = json.loads(held.read("people.json"))
    assert ["wenna", "Wenna Polreath", "estimator"] in people
    assert b"pbkdf2" not in b"".join(held.read(one) for one in held.namelist())


# --- work that nobody does


def test_every_task_is_done_again_after_the_database_was_away():
    from procrastinate.contrib.django import app

    ours = [task for name, task in app.tasks.items() if name.startswith("kyrtos.")]
    assert len(ours) >= 8
    for task in ours:
        periodic = task.name.rpartition(".")[2]
        again = task.retry_strategy is queue.AGAIN
        assert again or periodic in (
            "take_up_what_was_left",
            "nightly_backup",
            "tell_of_lost_work",
            "tell_what_is_due",
        ), task.name  # these come again by themselves


def test_the_database_going_away_is_no_verdict_on_a_file(estimator, shop, monkeypatch):
    url = send(estimator, large_file()).url

    def away(*_):
        raise OperationalError("server closed the connection")

    monkeypatch.setattr(imports, "read", away)
    with pytest.raises(OperationalError):
        queue.run_held()
    assert Import.objects.get(pk=int(url.split("/")[-2])).state == "reading"  # it is done again


def test_what_nobody_works_on_is_given_back(estimator, shop):
    ways = {"reading": "failed", "taking": "shown", "undoing": "taken", "taken": "taken"}
    made = {
        state: Import.objects.create(shop=shop, name=state, content=b"", state=state)
        for state in ways
    }
    in_hand = Import.objects.create(shop=shop, name="in hand", content=b"", state="reading")
    with connection.cursor() as ask:
        ask.execute(
            "insert into procrastinate_jobs (queue_name, task_name, args) values ('default',"
            " 'kyrtos.catalogue.tasks.read_import', %s)",
            [json.dumps({"import_id": in_hand.pk})],
        )
    user = User.objects.get(username="wenna")
    file = shop_files.begin(shop, user, ShopFile.Kind.ALL)
    assert lost.give_back() == 4
    assert lost.give_back() == 0
    for state, found in made.items():
        found.refresh_from_db()
        assert found.state == ways[state]
    in_hand.refresh_from_db()
    file.refresh_from_db()
    assert (in_hand.state, file.state) == ("reading", "failed")
    page = f"/catalogue/import/{made['reading'].pk}/"
    assert "not finished in the background" in text_of(estimator.get(page))
