"""Work that a request leaves for later: a row in PostgreSQL that a worker takes up.

The worker is ``manage.py procrastinate worker``.
"""

from __future__ import annotations

import threading
from typing import Any

from django.conf import settings
from django.db import DatabaseError, InterfaceError, OperationalError, connection, transaction
from procrastinate import RetryStrategy
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.jobs import Job
from procrastinate.retry import RetryDecision
from procrastinate.tasks import Task

Queued = Task[Any, Any, Any]
MOST_TRIES = 3
MOST_KILLS = 2  # workers that end over a task before it is set aside


class TellingStrategy(RetryStrategy):
    """Tries again after 5, then after 25 seconds, then leaves it; each time notes why."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        """Whether it is tried again."""
        if job.id is not None:
            # the worker asks within its event loop, where the ORM may not be
            noting = threading.Thread(target=note_reason, args=(job.id, exception))
            noting.start()
            noting.join()
        return super().get_retry_decision(exception=exception, job=job)


def note_reason(task: int, problem: BaseException) -> None:
    """Keep why a task failed; where the database is away, it will say so itself."""
    from kyrtos.shops.models import TaskNote

    told = f"{type(problem).__name__}: {problem}".replace("\0", "")[:400]
    try:
        TaskNote.objects.update_or_create(task=task, defaults={"reason": told})
    except DatabaseError:
        pass
    finally:
        connection.close()


# Every task does its work whole or not at all, so that it may be done again where the database or
# a disk went away meanwhile. What breaks otherwise would break again: it is set aside at once.
AGAIN = TellingStrategy(
    max_attempts=MOST_TRIES - 1,
    exponential_wait=5,
    retry_exceptions=(OperationalError, InterfaceError, OSError),
)
held: list[tuple[Queued, dict[str, Any]]] = []  # what the tests have waiting


def enqueue(
    task: Queued, *, lock: str, whose: int | None, once: bool = False, **given: Any
) -> None:
    """Have a task done by a worker, within the transaction in hand.

    It is undone with the transaction, and not begun before that is through. Shops take turns: the
    second task of one waits behind the first of every other.

    Parameters
    ----------
    task : what to do.
    lock : tasks of one lock are done one after the other.
    whose : the shop that it is for; None for the whole place.
    once : nothing is added while one of that lock is still waiting.
    """
    if settings.BACKGROUND == "held":
        if not (once and (task, given) in held):
            held.append((task, given))
        return
    whole = lock if whose is None else f"{_of(whose)}{lock}"
    queueing_lock = f"{task.name} {whole}" if once else None
    try:
        with transaction.atomic():
            waits = task.configure(lock=whole, queueing_lock=queueing_lock, priority=_turn(whose))
            waits.defer(**given)
    except AlreadyEnqueued:
        pass


def _of(shop_id: int) -> str:
    return f"shop-{shop_id}/"


def shop_of(lock: str | None) -> int | None:
    """Whose a task is, by its lock."""
    head, slash, _ = (lock or "").partition("/")
    return int(head[5:]) if slash and head[:5] == "shop-" and head[5:].isdigit() else None


def _turn(shop_id: int | None) -> int:
    """The priority of another task of a shop: one under its last that waits."""
    if shop_id is None:
        return 0
    with connection.cursor() as ask:
        ask.execute(
            "select min(priority) from procrastinate_jobs where status = 'todo'"
            " and starts_with(lock, %s)",
            [_of(shop_id)],
        )
        (last,) = ask.fetchone() or (None,)
    return 0 if last is None else max(last - 1, -10_000)


def run_held() -> int:
    """Do what is held, and what that leaves for later in turn; returns how many there were."""
    count = 0
    while held:
        task, given = held.pop(0)
        task.func(**given)
        count += 1
    return count
