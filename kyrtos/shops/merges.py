"""Merges of two records into one, remembered so that each can be undone until it was worked on."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from django.apps import apps
from django.core import serializers
from django.db import models
from django.db.models import QuerySet

from kyrtos.shops.models import Merge, Shop
from sizing.base.errors import SizingError

# rows that point to the record that stays since a merge: their model, the column, their ids
Moved = tuple[str, str, list[str]]


class CannotMerge(SizingError):
    """Two records that are not to become one; the text says why."""


class CannotUndo(SizingError):
    """A merge that was worked on since; the text says why."""


def state_of(row: models.Model) -> Any:
    """A row as it is now, as plain JSON; its moments to the microsecond."""
    (held,) = serializers.serialize("python", [row])
    return json.loads(json.dumps(held, default=lambda value: value.isoformat()))


def put_back(held: Any) -> None:
    """Write a row as ``state_of`` kept it, moments and number included."""
    for one in serializers.deserialize("python", [held]):
        one.save()


def repoint(rows: QuerySet[Any], column: str, value: object) -> Moved:
    """Point rows to the record that stays; which they were."""
    ids = list(rows.values_list("pk", flat=True))
    rows.model._default_manager.filter(pk__in=ids).update(**{column: value})
    return rows.model._meta.label, column, [str(one) for one in ids]


def remember(
    stays: models.Model,
    goes: models.Model,
    *,
    kind: str,
    shop: Shop,
    user: Any,
    before: Any,
    gone: Any,
    moved: Iterable[Moved] = (),
    keys: tuple[str, str] | None = None,
) -> Merge:
    """Keep what an undo needs; ``keys`` are what the two are found by, when not their numbers."""
    stays.refresh_from_db()
    one, other = keys or (str(stays.pk), str(goes.pk))
    return Merge.objects.create(
        shop=shop,
        user=user,
        kind=kind,
        stays=one,
        goes=other,
        goes_name=str(goes)[:300],
        before=before,
        after=state_of(stays),
        gone=gone,
        moved=[list(each) for each in moved if each[2]],
    )


def that_can_be_undone(shop: Shop, kind: str, key: object) -> QuerySet[Merge]:
    """What was merged into a record, by itself and not as a part of another merge; last first."""
    return shop.merges.filter(kind=kind, stays=str(key), within=None).select_related("user")


def _differing(one: Any, other: Any) -> list[str]:
    """Columns in which two states of a row differ; when it was changed is none."""
    return [
        name
        for name, value in one["fields"].items()
        if name != "changed" and value != other["fields"].get(name)
    ]


def check(merge: Merge) -> None:
    """Raise where a merge, or a part of it, was worked on since.

    Raises
    ------
    CannotUndo
    """
    model = apps.get_model(merge.after["model"])
    stays = model._default_manager.filter(pk=merge.after["pk"]).first()
    if stays is None:
        raise CannotUndo(
            f"the {merge.kind} that {merge.goes_name} was merged into is another one's record by"
            " now: undo that merge first"
        )
    since = _differing(merge.after, state_of(stays))
    if since:
        labels = [str(getattr(model._meta.get_field(one), "verbose_name", one)) for one in since]
        raise CannotUndo(
            f"{stays} was changed since {merge.goes_name} was merged into it"
            f" ({', '.join(labels)}). Undo a later merge first, or part them by hand"
        )
    for part in merge.parts.all():
        check(part)


def undo(merge: Merge) -> None:
    """Make two records of one again; rows that moved go back where they still point to it.

    Called in a transaction, after ``check``.
    """
    for part in merge.parts.all():
        undo(part)
    put_back(merge.gone)
    put_back(merge.before)
    for label, column, ids in merge.moved:
        rows = apps.get_model(label)._default_manager.filter(pk__in=ids)
        rows.filter(**{column: merge.stays}).update(**{column: merge.goes})
    merge.delete()
