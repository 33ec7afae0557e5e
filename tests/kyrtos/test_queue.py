"""Work that goes on behind the page: large imports, publishing, rechecking.

And a worker that does it for real.
"""

import os
import subprocess
import sys

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection

from benchmarks import generated
from kyrtos.catalogue import import_preview, imports, publishing, services, tasks
from kyrtos.catalogue.models import CatalogueEntry, Import, Published
from kyrtos.config import queue
from kyrtos.jobs.models import Recheck
from sizing.pump.catalogue_write import write_csv
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_imports import DEMO, csv_of, send

LARGE = [
    pump
    for pump in generated.pumps(1400)
    if sorted(pump.curve.heads_m, reverse=True) == list(pump.curve.heads_m)
][:1200]  # none that rises: no doubts


def large_file() -> bytes:
    return write_csv(LARGE).encode()


def state(url: str) -> str:
    return Import.objects.get(pk=int(url.split("/")[-2])).state


def test_a_large_file_is_read_taken_and_undone_behind_the_page(estimator, shop):
    queue.run_held()
    url = send(estimator, large_file()).url
    waiting = text_of(estimator.get(url))
    assert "Reading the file" in waiting
    assert 'hx-trigger="every 1s"' in waiting
    assert state(url) == "reading"
    queue.run_held()
    assert "1200 new, 0 changed" in text_of(estimator.get(url))
    estimator.post(url, {"do": "take"})
    assert state(url) == "taking"
    assert CatalogueEntry.objects.filter(shop=shop).count() == 82
    queue.run_held()
    assert "1200 added, 0 replaced" in text_of(estimator.get(url))
    shop.refresh_from_db()
    assert len(publishing.catalogue_of(shop)) == 1282
    estimator.post(url, {"do": "undo"})
    assert "Undoing it" in text_of(estimator.get(url))
    queue.run_held()
    assert state(url) == "undone"
    assert CatalogueEntry.objects.filter(shop=shop).count() == 82


def test_the_page_tells_how_far_the_worker_is(estimator, shop, monkeypatch):
    url = send(estimator, large_file()).url
    seen = []
    monkeypatch.setattr(
        imports,
        "preview_of",
        lambda *_: (
            seen.append(Import.objects.get(pk=int(url.split("/")[-2])).done)
            or import_preview.Preview((), {}, 0)
        ),
    )
    queue.run_held()
    assert seen == [1200]  # told every 250 rows, and at the end
    assert Import.objects.get().total == 1200


def test_a_large_file_that_cannot_be_read_is_told_on_its_page(estimator, shop):
    url = send(estimator, b"maker,model\n" + b"x,y\n" * 100_000).url
    queue.run_held()
    assert "Nothing was imported: the first row must name the columns" in text_of(
        estimator.get(url)
    )


def test_what_breaks_in_the_background_is_told_and_changes_nothing(estimator, shop, monkeypatch):
    url = send(estimator, large_file()).url
    queue.run_held()
    estimator.post(url, {"do": "take"})
    monkeypatch.setattr(services, "store", lambda *_, **__: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        queue.run_held()
    assert "something went wrong in the background (ZeroDivisionError)" in text_of(
        estimator.get(url)
    )
    assert CatalogueEntry.objects.filter(shop=shop).count() == 82


def test_an_undo_that_breaks_leaves_the_import_taken_to_be_undone_again(
    estimator, shop, monkeypatch
):
    url = send(estimator, large_file()).url
    queue.run_held()
    estimator.post(url, {"do": "take"})
    queue.run_held()
    estimator.post(url, {"do": "undo"})
    with monkeypatch.context() as broken:
        broken.setattr(publishing, "changed", lambda _: 1 / 0)
        with pytest.raises(ZeroDivisionError):
            queue.run_held()
    assert "It was not undone: something went wrong" in text_of(estimator.get(url))
    assert CatalogueEntry.objects.filter(shop=shop).count() == 1282
    estimator.post(url, {"do": "undo"})
    queue.run_held()
    assert state(url) == "undone"


def test_a_large_file_goes_in_whole_or_not_at_all_when_refused_rows_are_in_it(estimator, shop):
    spoilt = large_file().replace(b"230 V", b"loud V", 1)
    url = send(estimator, spoilt).url
    queue.run_held()
    answer = estimator.post(url, {"do": "take"})
    assert answer.status_code == 422
    assert "1 of 1200 rows are refused" in text_of(answer)
    estimator.post(url, {"do": "take", "without_refused": "on"})
    queue.run_held()
    assert "1199 added" in text_of(estimator.get(url))


def test_a_task_that_comes_twice_does_its_work_once(shop):
    found = imports.begin(shop, None, "pumps.csv", large_file())
    tasks.read_import(import_id=found.pk)
    imports.take(found, without_refused=False, take_doubtful=False)
    for _ in range(2):
        tasks.take_import(import_id=found.pk, without_refused=False, take_doubtful=False)
    found.refresh_from_db()
    assert (found.added, found.changed) == (1200, 0)


def test_a_large_catalogue_is_published_by_a_worker_and_the_old_one_serves_until_then(
    shop, monkeypatch
):
    monkeypatch.setattr(publishing, "AT_ONCE", 10)
    before = shop.published_revision
    services.store(shop, LARGE[:20])
    assert len(publishing.catalogue_of(shop)) == 82
    assert shop.catalogue_revision == before + 1
    queue.run_held()
    shop.refresh_from_db()
    assert shop.published_revision == before + 1
    assert len(publishing.catalogue_of(shop)) == 102


def test_only_the_last_blobs_of_a_shop_are_kept(shop):
    for pump in LARGE[:5]:
        services.store(shop, [pump])
    assert list(Published.objects.filter(shop=shop).values_list("revision", flat=True)) == [
        shop.published_revision - at for at in (2, 1, 0)
    ]


def test_workers_of_a_machine_share_one_file_and_do_without_where_they_cannot(
    shop, settings, tmp_path
):
    settings.CACHE_FOLDER, settings.CACHE_FILES = str(tmp_path / "cache"), 2
    publishing._open.cache_clear()
    first = publishing.catalogue_of(shop)
    (path,) = (tmp_path / "cache").iterdir()
    assert path.stat().st_size == len(
        bytes(Published.objects.get(shop=shop, revision=shop.published_revision).blob)
    )
    for pump in LARGE[:3]:
        services.store(shop, [pump])
        publishing.catalogue_of(shop)
    assert len(list((tmp_path / "cache").iterdir())) == 2
    settings.CACHE_FOLDER = "/proc/nowhere"
    publishing._open.cache_clear()
    assert len(publishing.catalogue_of(shop)) == len(first) + 3


def test_rows_from_before_there_was_publishing_are_published_when_first_asked_for(shop):
    Published.objects.all().delete()
    shop.published_revision = 0
    shop.save()
    publishing._open.cache_clear()
    assert len(publishing.catalogue_of(shop)) == 82
    assert shop.published_revision == shop.catalogue_revision


def test_a_new_price_marks_the_jobs_whose_answer_turns(estimator, shop, job):
    estimator.post("/jobs/recheck/now/")
    queue.run_held()
    assert "Every answer still stands" in text_of(estimator.get("/jobs/recheck/"))
    lines = DEMO.read_text().splitlines()
    tarn = next(line for line in lines if line.startswith("Vessmar,Tarn 80,"))
    url = send(estimator, csv_of(tarn.replace(",243,", ",2430,"))).url
    estimator.post(url, {"do": "take"})
    queue.run_held()
    listed = text_of(estimator.get("/jobs/recheck/"))
    for part in ("Bookbinder&#x27;s cellar", "Vessmar Tarn 80", "Vessmar Tarn 80 V"):
        assert part in listed
    assert "1 answer turned" in text_of(estimator.get("/"))
    job.refresh_from_db()
    assert (job.pump, job.turns_to, job.sized_revision) == (
        "Vessmar Tarn 80",
        "Vessmar Tarn 80 V",
        1,
    )
    estimator.get(f"/jobs/{job.pk}/")  # somebody looks: that is its answer from now on
    job.refresh_from_db()
    shop.refresh_from_db()
    assert (job.pump, job.turns_to, job.sized_revision) == (
        "Vessmar Tarn 80 V",
        "",
        shop.published_revision,
    )
    estimator.post(url, {"do": "undo"})
    queue.run_held()
    assert "Bookbinder" in text_of(estimator.get("/jobs/recheck/"))


def test_a_house_rule_has_the_jobs_looked_through(as_role, shop):
    queue.held.clear()
    as_role("owner").post("/rules/CYC-01/", {"usual": "6", "reason": "our pumps start hard"})
    assert [task.name for task, _ in queue.held] == ["kyrtos.jobs.tasks.recheck"]


def test_a_recheck_asked_for_twice_waits_once(estimator, shop):
    queue.held.clear()
    estimator.post("/jobs/recheck/now/")
    estimator.post("/jobs/recheck/now/")
    assert queue.run_held() == 1
    known = Recheck.objects.get(shop=shop)
    assert (known.total, known.done, known.revision) == (
        shop.jobs.count(),
        shop.jobs.count(),
        shop.published_revision,
    )
    assert known.ended is not None


@pytest.mark.django_db(transaction=True)
def test_a_worker_takes_up_what_waits_in_the_database(as_role, shop, settings):
    settings.BACKGROUND = "queue"
    url = send(as_role("estimator"), large_file()).url
    assert state(url) == "reading"
    held = connection.settings_dict
    place = f"{held['HOST']}:{held['PORT']}/{held['NAME']}"
    database = f"postgresql://{held['USER']}:{held['PASSWORD']}@{place}"
    env = os.environ | {
        "DATABASE_URL": database,
        "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        "KYRTOS_SECRET_KEY": "only-for-this-test",
        "KYRTOS_DEMO": "1",
    }
    command = [
        sys.executable,
        "manage.py",
        "procrastinate",
        "worker",
        "--one-shot",
        "--delete-jobs",
        "successful",
    ]
    done = subprocess.run(command, env=env, capture_output=True, text=True, timeout=60, check=True)
    assert state(url) == "shown", done.stderr
    assert Import.objects.get().report["counts"]["new"] == 1200


def test_a_file_is_kept_by_name_only_for_its_own_shop(as_role, estimator):
    url = estimator.post(
        "/catalogue/import/", {"file": SimpleUploadedFile("large.csv", large_file())}
    ).url
    assert as_role("stranger").get(url).status_code == 404
