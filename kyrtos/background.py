"""Work that a request leaves for later.

A row in PostgreSQL that a worker takes up (``manage.py procrastinate worker``).
"""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

held: list[tuple[str, dict[str, Any]]] = []  # what the tests have waiting


def later(task: str, *, lock: str, once: bool = False, **given: Any) -> None:
    """Have a task done by a worker, within the transaction in hand.

    Undone with it, and not begun before it is through.

    Parameters
    ----------
    task : its full name, such as ``kyrtos.catalogue.tasks.publish``.
    lock : tasks of one lock are done one after the other.
    once : nothing is added while one of that lock is still waiting.
    """
    if settings.BACKGROUND == "held":
        if not (once and (task, given) in held):
            held.append((task, given))
        return
    try:
        with transaction.atomic():
            app.configure_task(
                task, lock=lock, queueing_lock=f"{task} {lock}" if once else None
            ).defer(**given)
    except AlreadyEnqueued:
        pass


def do_held() -> int:
    """Do what is held, and what that leaves for later in turn; returns how many there were."""
    count = 0
    while held:
        task, given = held.pop(0)
        app.tasks[task].func(**given)
        count += 1
    return count
