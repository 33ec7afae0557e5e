"""Work that a page waits for and nobody does any more: given back to who asked for it.

It should not be: a task is done again after every fault that is known. What is not known, or a row
of the queue that somebody took away, would leave a page waiting for ever.
"""

from __future__ import annotations

from collections.abc import Callable

from django.db import connection, transaction

from kyrtos.catalogue.models import Import
from kyrtos.operations.models import ShopFile

_TOLD = "it was not finished in the background, and nothing was changed; try again"
_BACK = {
    Import.State.READING: Import.State.FAILED,
    Import.State.TAKING: Import.State.SHOWN,
    Import.State.UNDOING: Import.State.TAKEN,
}


def _in_hand(argument: str) -> set[int]:
    """What the queue still has tasks for, by the name of their argument."""
    with connection.cursor() as ask:
        ask.execute(
            "select (args->>%s)::bigint from procrastinate_jobs where args ? %s"
            " and status in ('todo', 'doing')",
            [argument, argument],
        )
        return {int(number) for (number,) in ask.fetchall()}


def _left(found: Callable[[], set[int]], argument: str) -> set[int]:
    """Those without a task, looked at so that one that is just being made has its task already."""
    waiting = found()
    return waiting - _in_hand(argument) if waiting else set()


def give_back() -> int:
    """Give everything back that nobody works on; how much it was."""
    count = 0
    with transaction.atomic():
        for number in _left(_busy_imports, "import_id"):
            busy = Import.objects.select_for_update().get(pk=number)
            if busy.busy:
                busy.state, busy.problem = _BACK[Import.State(busy.state)], _TOLD
                busy.save(update_fields=["state", "problem"])
                count += 1
        for number in _left(_waiting_files, "file_id"):
            waits = ShopFile.objects.filter(pk=number, state=ShopFile.State.WAITING)
            count += waits.update(state=ShopFile.State.FAILED, told=_TOLD)
    return count


def _busy_imports() -> set[int]:
    return set(Import.objects.filter(state__in=_BACK).values_list("pk", flat=True))


def _waiting_files() -> set[int]:
    return set(ShopFile.objects.filter(state=ShopFile.State.WAITING).values_list("pk", flat=True))
