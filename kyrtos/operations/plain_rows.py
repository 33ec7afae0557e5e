"""A row of the database as plain JSON content, and back."""

from __future__ import annotations

import json
from collections.abc import Set
from datetime import date, datetime
from typing import Any

from django.db import models

from kyrtos.shops.one_line import Lines, OneLine


def _own(row: models.Model) -> list[Any]:
    """A row's own columns: keys to other rows are made anew where it goes."""
    return [
        one
        for one in row._meta.concrete_fields
        if not one.is_relation and one.name not in ("id", "pdf")
    ]


def plain(row: models.Model) -> dict[str, Any]:
    """A row's own columns, without keys to other rows."""
    return {
        one.name: value if not isinstance(value, bytes | memoryview) else bytes(value).hex()
        for one in _own(row)
        for value in (getattr(row, one.attname),)
    }


def as_json(value: object) -> str:
    """As text; moments in ISO."""

    def moment(one: Any) -> str:
        return one.isoformat() if isinstance(one, date) else str(one)

    return json.dumps(value, ensure_ascii=False, indent=1, default=moment)


def fill(row: Any, held: dict[str, Any], but: Set[str] = frozenset()) -> Any:
    """Put what was written into a row's own columns; what it does not know is passed over."""
    for one in _own(row):
        if one.name in held and one.name not in but:
            value = held[one.name]
            if isinstance(one, models.BinaryField):
                value = bytes.fromhex(value)
            elif isinstance(one, models.DateTimeField) and value is not None:
                value = datetime.fromisoformat(value)
            elif isinstance(one, models.DateField) and value is not None:
                value = date.fromisoformat(value)
            if isinstance(one, OneLine | Lines):
                value = one.get_prep_value(value)  # a break of before is a space
            setattr(row, one.attname, value)
    row._written = getattr(row, "_written", {}) | held
    return row


def judge(row: models.Model) -> None:
    """Judge a row that comes in; what may be empty in the database may come in empty.

    Raises
    ------
    ValidationError
    """
    empty = {
        one.name
        for one in row._meta.concrete_fields
        if ((value := getattr(row, one.attname)) is None and one.null)
        or (isinstance(one, models.JSONField) and value in ({}, []))
    }
    row.full_clean(exclude={"id", *empty})


def keep_moments(*rows: Any) -> None:
    """Moments and days that the database sets by itself are put back to what they were."""
    by_model: dict[type[models.Model], list[Any]] = {}
    for row in rows:
        by_model.setdefault(type(row), []).append(row)
    for model, held in by_model.items():
        names = [
            one.name
            for one in model._meta.concrete_fields
            if getattr(one, "auto_now", False) or getattr(one, "auto_now_add", False)
        ]
        for row in held:
            fill(row, {name: row._written[name] for name in names if row._written.get(name)})
        if names:
            model._default_manager.bulk_update(held, names, batch_size=1000)
