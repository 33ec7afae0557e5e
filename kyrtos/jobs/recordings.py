"""What was measured on a job's site: kept with the job, thinned, the latest few."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.jobs import devices
from kyrtos.jobs.models import Job, Recording
from sizing.base.errors import SizingError
from sizing.over_time.simulation.measured import Log, read_log

MOST_KEPT = 6
MOST_ROWS = 8_000
RECORD_S = 60.0  # of the stand-ins, which run sixty times as fast: an hour of theirs


def keep(job: Job, user: User, name: str, text: str) -> Recording:
    """Keep a log with a job.

    Raises
    ------
    SizingError
        It cannot be read; the text says why.
    """
    read_log(text)
    found = Recording.objects.create(
        job=job, user=user, name=name[:120], text=_thinned(text), ended=timezone.now()
    )
    _forget_old(job)
    return found


def begin(job: Job, user: User) -> Recording:
    """A recording that a worker is to make; its task fills it."""
    found = Recording.objects.create(job=job, user=user, name="recorded from the devices")
    _forget_old(job)
    return found


def fill(recording_id: int) -> None:
    """Read the devices into a recording; one that was forgotten meanwhile is left alone."""
    recording = Recording.objects.filter(pk=recording_id, ended=None).first()
    if recording is None:
        return
    text, problem = "", ""
    try:
        text = devices.stream(RECORD_S)
        read_log(text)
    except SizingError as told:
        text, problem = "", str(told)
    Recording.objects.filter(pk=recording_id, ended=None).update(
        text=_thinned(text), problem=problem[:300], ended=timezone.now()
    )


def latest(job: Job) -> Recording | None:
    """The newest recording of a job, still going on or not."""
    return job.recordings.first()


def log_of(recording: Recording) -> Log:
    """A recording as it is reckoned with; raises like :func:`keep`."""
    return read_log(recording.text)


def _forget_old(job: Job) -> None:
    with transaction.atomic():
        old = job.recordings.values_list("pk", flat=True)[MOST_KEPT:]
        Recording.objects.filter(pk__in=list(old)).delete()


def _thinned(text: str) -> str:
    """The heading, and every so many rows, as they were written."""
    rows = [row for row in text.splitlines() if row.strip()]
    if len(rows) <= MOST_ROWS + 1:
        return "\n".join(rows)
    every = -(-(len(rows) - 1) // MOST_ROWS)
    return "\n".join([rows[0], *rows[1::every]])
