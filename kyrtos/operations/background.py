"""How the background work stands: what waits, what failed, and whether anybody does it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import connection, transaction
from django.utils import timezone

from kyrtos.config import queue
from kyrtos.shops.models import TaskNote

_SILENT = timedelta(seconds=60)  # a worker tells that it lives every ten
_WAITS_LONG = timedelta(minutes=15)
_SHOWN, _LOOKED_AT = 20, 2000
_NAMES = {
    "read_import": "reading a pump file",
    "take_import": "taking a pump file into the catalogue",
    "undo_import": "undoing a pump file",
    "publish_task": "packing the catalogue",
    "recheck": "looking through the open jobs",
    "take_up_what_was_left": "taking up what was left",
    "make_file": "making or taking in a file of a shop",
    "nightly_backup": "the nightly back-up",
    "backup_now": "a back-up",
    "record": "reading the devices of a site",
    "take_sun": "reading a weather file",
    "tell_what_is_due": "the mails of what is due",
    "tell_of_lost_work": "looking for work that nobody does",
}


@dataclass(frozen=True)
class Failure:
    """A task that was set aside: what it was, why, and how often it was tried."""

    task: int
    what: str
    when: datetime | None
    tried: int
    reason: str


@dataclass(frozen=True)
class Background:
    """The queue at one moment."""

    waiting: tuple[tuple[str, int], ...]
    doing: tuple[tuple[str, datetime | None], ...]
    oldest: datetime | None
    workers: int
    last_sign: datetime | None
    failures: tuple[Failure, ...]

    @property
    def problem(self) -> str:
        """What is wrong with it; '' when nothing is."""
        now = timezone.now()
        if self.last_sign is None:
            return "no background worker runs"
        if now - self.last_sign > _SILENT:
            return f"the background worker has been silent since {self.last_sign:%H:%M:%S} UTC"
        if self.oldest and now - self.oldest > _WAITS_LONG:
            return f"background work has waited since {self.oldest:%H:%M} UTC"
        return ""


def standing(shop_id: int | None = None) -> Background:
    """Read the queue's own tables; single tasks are told of a shop and of the whole place."""

    def of_shop(lock: str | None) -> bool:
        return queue.shop_of(lock) in (None, shop_id)

    with connection.cursor() as ask:
        ask.execute(
            "select task_name, lock from procrastinate_jobs where status = 'todo'"
            " and coalesce(scheduled_at, now()) <= now()"
        )
        counts = Counter(_name(task) for task, lock in ask.fetchall() if of_shop(lock))
        waiting = tuple(sorted(counts.items()))
        ask.execute(
            "select task_name, lock, max(at) from procrastinate_jobs j"
            " left join procrastinate_events e on e.job_id = j.id and e.type = 'started'"
            " where status = 'doing' group by j.id, 1, 2"
        )
        doing = tuple((_name(task), at) for task, lock, at in ask.fetchall() if of_shop(lock))
        ask.execute(
            "select min(at) from procrastinate_events e join procrastinate_jobs j"
            " on j.id = e.job_id where j.status = 'todo'"
            " and coalesce(j.scheduled_at, now()) <= now() and e.type in"
            " ('deferred', 'deferred_for_retry', 'retried', 'scheduled')"
        )
        (oldest,) = ask.fetchone() or (None,)
        ask.execute(
            "select count(*) filter (where last_heartbeat > now() - %s::interval),"
            " max(last_heartbeat) from procrastinate_workers",
            [str(_SILENT)],
        )
        workers, last_sign = ask.fetchone() or (0, None)
        ask.execute(
            "select j.id, task_name, max(at), attempts, lock, coalesce(max(n.reason), '')"
            " from procrastinate_jobs j left join procrastinate_events e on e.job_id = j.id"
            " left join shop_tasknote n on n.task = j.id where status = 'failed'"
            " group by j.id order by 3 desc nulls last limit %s",
            [_LOOKED_AT],
        )
        failures = tuple(
            Failure(task, _name(name), at, tried + 1, reason)
            for task, name, at, tried, lock, reason in ask.fetchall()
            if of_shop(lock)
        )[:_SHOWN]
    return Background(waiting, doing, oldest, int(workers), last_sign, failures)


def set_aside() -> int:
    """How many tasks of the whole place were set aside since yesterday."""
    with connection.cursor() as ask:
        ask.execute(
            "select count(distinct j.id) from procrastinate_jobs j join procrastinate_events e"
            " on e.job_id = j.id where status = 'failed' and e.type = 'failed'"
            " and at > now() - interval '1 day'"
        )
        (count,) = ask.fetchone() or (0,)
    return int(count)


@transaction.atomic
def try_again(task: int, shop_id: int) -> bool:
    """Have a task that was set aside done once more; whether it was one of this shop's."""
    with connection.cursor() as ask:
        ask.execute(
            "select lock from procrastinate_jobs where id = %s and status = 'failed' for update",
            [task],
        )
        row = ask.fetchone()
        if row is None or queue.shop_of(row[0]) not in (None, shop_id):
            return False
        ask.execute(
            "select procrastinate_retry_job_v2(%s, now(), null, null, null)",
            [task],
        )
    TaskNote.objects.filter(task=task).update(killed=0)
    return True


def _name(task: str) -> str:
    short = task.rpartition(".")[2]
    return _NAMES.get(short, short.replace("_", " "))
