"""Lists that come in (customers, installed pumps): shown before they are taken, and undone."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from django.apps import apps
from django.db import models, transaction

from kyrtos.shops.merges import put_back, state_of
from kyrtos.shops.models import BroughtIn, Shop
from sizing.base.errors import SizingError

_KEPT = 20  # lists of a kind that a shop can still undo
_MOST_TOLD = 8


class CannotTake(SizingError):
    """A list that cannot be taken or undone now; the text says why."""


@dataclass
class Taken:
    """What came of a list: counts, rows that were left out or wait for a word, and the rows."""

    new: int = 0
    known: int = 0  # there already, with nothing to add
    filled: int = 0
    left: list[str] = field(default_factory=list)
    doubtful: list[str] = field(default_factory=list)
    made: list[models.Model] = field(default_factory=list)
    changed: list[tuple[Any, models.Model]] = field(default_factory=list)  # state before, row

    def report(self) -> dict[str, Any]:
        """As it is kept and shown."""
        names = ("new", "known", "filled", "left", "doubtful")
        return {name: getattr(self, name) for name in names}


# puts the rows of a file's content in; with the doubtful ones when told so
Take = Callable[[Shop, bytes, bool], Taken]


@transaction.atomic
def begin(shop: Shop, user: Any, kind: str, name: str, content: bytes, take: Take) -> BroughtIn:
    """Keep a list and what it would do, found by doing it and taking all of it back.

    Raises
    ------
    SizingError
        It cannot be read at all.
    """
    with transaction.atomic():
        taken = take(shop, content, False)
        transaction.set_rollback(True)
    shop.brought_in.filter(kind=kind, state=BroughtIn.State.SHOWN).delete()  # one in hand at a time
    return BroughtIn.objects.create(
        shop=shop, user=user, kind=kind, name=name[:200], content=content, report=taken.report()
    )


@transaction.atomic
def take_now(found: BroughtIn, take: Take, *, doubtful: bool) -> BroughtIn:
    """Put a list in that was shown.

    Raises
    ------
    CannotTake
        It was taken already.
    """
    found = BroughtIn.objects.select_for_update().get(pk=found.pk)
    if found.state != BroughtIn.State.SHOWN:
        raise CannotTake("this list was taken already")
    taken = take(found.shop, bytes(found.content), doubtful)
    found.report = taken.report()
    found.made = [state_of(row) for row in taken.made]
    found.filled = [{"before": before, "after": state_of(row)} for before, row in taken.changed]
    found.state, found.content = BroughtIn.State.TAKEN, b""
    found.save()
    old = found.shop.brought_in.filter(kind=found.kind)[_KEPT:]
    BroughtIn.objects.filter(pk__in=[one.pk for one in old]).delete()
    return found


@transaction.atomic
def undo(found: BroughtIn) -> BroughtIn:
    """Take out again what a list put in, and put back what it filled.

    Raises
    ------
    CannotTake
        It is not taken; or something of it was worked on since, which is named.
    """
    found = BroughtIn.objects.select_for_update().get(pk=found.pk)
    if found.state != BroughtIn.State.TAKEN:
        raise CannotTake("this list was not taken, or is undone already")
    in_the_way = list(_in_the_way(found))
    if in_the_way:
        more = len(in_the_way) - _MOST_TOLD
        told = "; ".join(in_the_way[:_MOST_TOLD]) + (f"; and {more} more" if more > 0 else "")
        raise CannotTake(f"it was worked on since: {told}. Take these back first, or keep the list")
    for held in reversed(found.made):
        row = _row(held)
        if row is not None:  # a reminder went with its pump
            row.delete()
    for pair in found.filled:
        put_back(pair["before"])
    found.state, found.made, found.filled = BroughtIn.State.UNDONE, [], []
    found.save()
    return found


def _row(held: Any) -> models.Model | None:
    model: type[models.Model] = apps.get_model(held["model"])
    return model._default_manager.filter(pk=held["pk"]).first()


def _same(held: Any, row: models.Model) -> bool:
    now = state_of(row)["fields"]
    return all(
        now.get(name) == value for name, value in held["fields"].items() if name != "changed"
    )


def _in_the_way(found: BroughtIn) -> Iterator[str]:
    """Rows of a list that were changed since, and what points at its new ones by now."""
    ours = {(held["model"], str(held["pk"])) for held in found.made}
    for held in [*found.made, *(pair["after"] for pair in found.filled)]:
        row = _row(held)
        if row is None:
            name = held["fields"].get("name") or held["fields"].get("model") or held["model"]
            yield f"{name} was merged or taken away"
        elif not _same(held, row):
            yield f"{row} was changed"
    for held in found.made:
        row = _row(held)
        if row is None:
            continue
        for relation in row._meta.related_objects:
            rows = relation.related_model._default_manager.filter(**{relation.field.name: row})
            for one in rows[:_MOST_TOLD]:
                if (one._meta.label_lower, str(one.pk)) not in ours:
                    noun = str(one._meta.verbose_name)
                    yield f"{row} has {'an' if noun[0] in 'aeiou' else 'a'} {noun}: {one}"
