"""Work on jobs that takes longer than a request may."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from procrastinate import JobContext
from procrastinate.contrib.django import app
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from kyrtos.accounts.models import User
from kyrtos.config.queue import AGAIN, MOST_KILLS, enqueue
from kyrtos.jobs import recordings, services, sun_from_file
from kyrtos.jobs.models import Job, Recording
from kyrtos.shops.models import Shop, TaskNote

_GONE_AFTER_S = 60  # without a sign of life a worker is gone, and what it had in hand begins anew


@app.task(retry=AGAIN)
def recheck(shop_id: int) -> None:
    """Look through a shop's open jobs."""
    services.recheck(Shop.objects.get(pk=shop_id))


def recheck_soon(shop: Shop) -> None:
    """Have the open jobs looked through: the catalogue or a rule has changed."""
    enqueue(recheck, lock="recheck", whose=shop.pk, once=True, shop_id=shop.pk)


@app.task(retry=AGAIN)
def record(recording_id: int) -> None:
    """Read the devices into a recording."""
    recordings.fill(recording_id)


def record_soon(recording: Recording) -> None:
    """Have the devices read."""
    enqueue(
        record,
        lock=f"record-{recording.job_id}",
        whose=recording.job.shop_id,
        recording_id=recording.pk,
    )


@app.task(retry=AGAIN)
def take_sun(job_id: str, user_id: int) -> None:
    """Read a weather file that was laid by."""
    sun_from_file.take(job_id, user_id)


def take_sun_soon(job: Job, user: User) -> None:
    """Have the weather file of a job read."""
    enqueue(take_sun, lock=f"sun-{job.pk}", whose=job.shop_id, job_id=str(job.pk), user_id=user.pk)


@app.periodic(cron="* * * * *")
@app.task(queueing_lock="take up what a worker left", pass_context=True)
async def take_up_what_was_left(context: JobContext, timestamp: int) -> None:
    """Begin anew what a worker had in hand when it was killed.

    Every task does its work whole or not at all. Where the same work waits already (a rule was
    saved once more meanwhile), that does it: the one left behind is ended, so that it holds up
    neither that nor whatever else was left. One over which two workers ended is set aside.
    """
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_GONE_AFTER_S):
        killed = await sync_to_async(_killed)(job.id)
        try:
            if killed >= MOST_KILLS:
                await app.job_manager.finish_job(job, Status.FAILED, delete_job=False)
            else:
                await app.job_manager.retry_job(job)
        except UniqueViolation:
            await app.job_manager.finish_job(job, Status.FAILED, delete_job=False)


def _killed(task: int | None) -> int:
    """How many workers have ended over a task by now, this one with them; noted with why."""
    note, _ = TaskNote.objects.get_or_create(task=task or 0)
    note.killed += 1
    if note.killed >= MOST_KILLS:
        note.reason = f"its worker ended {note.killed} times over it: out of memory, or killed"
    note.save()
    return note.killed
