"""Work that a request leaves for later: a row in PostgreSQL that a worker takes up.

The worker is ``manage.py procrastinate worker``.
"""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import InterfaceError, OperationalError, transaction
from procrastinate import RetryStrategy
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task

Queued = Task[Any, Any, Any]
# Every task does its work whole or not at all: where the database went away meanwhile it is done
# again, after two seconds, four, six ...
AGAIN = RetryStrategy(
    max_attempts=12, linear_wait=2, retry_exceptions=(OperationalError, InterfaceError)
)
held: list[tuple[Queued, dict[str, Any]]] = []  # what the tests have waiting


def enqueue(task: Queued, *, lock: str, once: bool = False, **given: Any) -> None:
    """Have a task done by a worker, within the transaction in hand.

    It is undone with the transaction, and not begun before that is through.

    Parameters
    ----------
    task : what to do.
    lock : tasks of one lock are done one after the other.
    once : nothing is added while one of that lock is still waiting.
    """
    if settings.BACKGROUND == "held":
        if not (once and (task, given) in held):
            held.append((task, given))
        return
    queueing_lock = f"{task.name} {lock}" if once else None
    try:
        with transaction.atomic():
            task.configure(lock=lock, queueing_lock=queueing_lock).defer(**given)
    except AlreadyEnqueued:
        pass


def run_held() -> int:
    """Do what is held, and what that leaves for later in turn; returns how many there were."""
    count = 0
    while held:
        task, given = held.pop(0)
        task.func(**given)
        count += 1
    return count
