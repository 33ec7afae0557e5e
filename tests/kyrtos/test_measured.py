"""A logger's file and the stand-in devices, read the same way and kept with the job."""

import threading
from datetime import timedelta
from http.server import ThreadingHTTPServer

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from devices.__main__ import Handler
from devices.site import HEADINGS, Site, stamp
from kyrtos.config import queue
from kyrtos.jobs import recordings
from kyrtos.jobs.models import Recording
from tests.kyrtos.reading import text_of


@pytest.fixture(scope="module")
def site():
    return Site(speed=3600.0)


@pytest.fixture(scope="module")
def served(site):
    Handler.site = site
    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def log(site, hours=6):
    rows = (site.read(at).csv(stamp(at)) for at in range(0, hours * 3600, 20))
    return "\n".join([HEADINGS, *rows])


def send(client, job, text, do="file", name="night.csv"):
    file = SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text)
    return client.post(f"/jobs/{job.pk}/measured/", {"do": do, "file": file})


def test_a_loggers_file_says_what_comes_in_at_night_and_is_kept(estimator, job, site):
    answer = send(estimator, job, log(site))
    assert answer.status_code == 202, text_of(answer)[:900]
    shown = text_of(answer)
    assert "Your pit takes in 1.9" in shown
    assert "within what both are sure of" in shown
    again = text_of(estimator.get(f"/jobs/{job.pk}/dialogs/measured/"))
    assert "night.csv" in again
    assert 'data-take="answers.stated_flow"' in again


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "choose a logger"),
        ("time,level [m]\n0,1", "two rows"),
        ("a,b\n0,1\n1,2\n2,3", "no heading names a level"),
        ("time,level [bar]\n0,1\n1,2\n2,3", "no unit of a level"),
        ("time,level [m]\n0,1\n0,2\n0,3", "rise from row to row"),
        ("time,level [m]\nyesterday,1\nnow,2\nlater,3", "is no time"),
        (b"\xff\xfe\x00\x01", "no text in UTF-8"),
    ],
)
def test_a_file_that_cannot_be_read_is_told_and_nothing_is_kept(estimator, job, text, says):
    if text == "":
        answer = estimator.post(f"/jobs/{job.pk}/measured/", {"do": "file"})
    else:
        answer = send(estimator, job, text)
    assert answer.status_code == 422
    assert says in text_of(answer)
    assert not job.recordings.exists()


def test_the_devices_last_hours_are_read_at_once(estimator, job, served, settings):
    settings.DEVICES = served
    answer = estimator.post(f"/jobs/{job.pk}/measured/", {"do": "log"})
    assert answer.status_code == 202, text_of(answer)[:900]
    assert "Your pit takes in" in text_of(answer)


def test_without_a_device_that_is_said(estimator, job, settings):
    settings.DEVICES = "127.0.0.1:9"
    answer = estimator.post(f"/jobs/{job.pk}/measured/", {"do": "log"})
    assert answer.status_code == 422
    assert "./run devices" in text_of(answer)


def test_a_recording_is_made_by_the_worker_and_ends_by_itself(
    estimator, job, served, settings, monkeypatch
):
    settings.DEVICES = served
    monkeypatch.setattr(recordings, "RECORD_S", 3.0)
    answer = estimator.post(f"/jobs/{job.pk}/measured/", {"do": "record"})
    assert "Recording from the devices" in text_of(answer)
    queue.run_held()
    found = recordings.latest(job)
    assert found.ended is not None
    assert found.problem == ""
    assert len(found.text.splitlines()) > 4
    assert "Recording" not in text_of(estimator.get(f"/jobs/{job.pk}/dialogs/measured/"))


def test_a_recording_without_devices_says_why(estimator, job, settings):
    settings.DEVICES = "127.0.0.1:9"
    estimator.post(f"/jobs/{job.pk}/measured/", {"do": "record"})
    queue.run_held()
    assert "no device answers" in text_of(estimator.get(f"/jobs/{job.pk}/dialogs/measured/"))


def test_only_the_latest_are_kept_and_long_ones_are_thinned(estimator, job, site, monkeypatch):
    monkeypatch.setattr(recordings, "MOST_ROWS", 500)
    for number in range(recordings.MOST_KEPT + 2):
        send(estimator, job, log(site), name=f"night {number}.csv")
        Recording.objects.filter(name=f"night {number}.csv").update(
            begun=timezone.now() - timedelta(hours=20 - number)
        )
    assert job.recordings.count() == recordings.MOST_KEPT
    assert job.recordings.first().name == f"night {recordings.MOST_KEPT + 1}.csv"
    assert len(job.recordings.first().text.splitlines()) <= 501


def test_a_viewer_may_look_and_not_send(as_role, job, site):
    viewer = as_role("viewer")
    assert send(viewer, job, log(site)).status_code == 403
    assert "data-dialog-post" not in viewer.get(f"/jobs/{job.pk}/dialogs/measured/").text


def test_a_job_without_a_pit_has_no_levels(estimator, shop, site):
    well = shop.jobs.filter(kind="well").first()
    assert 'data-dialog="measured"' not in estimator.get(f"/jobs/{well.pk}/").text
    assert "only a pit" in text_of(send(estimator, well, log(site)))
