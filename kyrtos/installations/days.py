"""Days of pumps that can be: one judgement for forms, lists and events."""

from __future__ import annotations

from datetime import date, timedelta

from django.utils import timezone

from sizing.base.errors import SizingError

FIRST = date(1950, 1, 1)
TODAY = timedelta(0)  # nothing is read tomorrow
TOMORROW = timedelta(days=1)  # where it is a day later already
PLANNED = timedelta(days=365 * 30)  # a warranty, a reminder


class NoSuchDay(SizingError):
    """A day that cannot be; the text says which could."""


def sensible(day: date, *, ahead: timedelta = TOMORROW) -> date:
    """The day, where it lies between 1950 and so much from now.

    Raises
    ------
    NoSuchDay
    """
    last = timezone.localdate() + ahead
    if not FIRST <= day <= last:
        raise NoSuchDay(f"{day} cannot be: a day between {FIRST:%Y} and {last}")
    return day
