"""Readings of before, out of a notebook or another program: a table, each row judged as typed."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.customers.models import folded
from kyrtos.installations import days, readings
from kyrtos.installations.models import InstalledPump
from sizing.aftercare.commissioning import typed_readings
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.pump.foreign_file import read_sheet

_MOST_ROWS = 500
_WAYS = ("%Y-%m-%dT%H:%M", "%Y-%m-%d %H:%M", "%Y-%m-%d %H:%M:%S", "%d.%m.%Y %H:%M")
_DAYS = ("%Y-%m-%d", "%d.%m.%Y", "%d %b %Y")
_NOON = 12  # of a reading of which only the day is told


class CannotTake(SizingError):
    """Why nothing was taken: a line for each row that cannot be."""

    def __init__(self, problems: list[str]) -> None:
        self.problems = problems
        super().__init__("; ".join(problems))


@dataclass(frozen=True)
class Taken:
    """How many sets are new, and how many were there already."""

    new: int
    known: int


def moment(text: str) -> datetime:
    """When something was read, in the shop's time: a day with or without its hour.

    Raises
    ------
    SizingError
        It is no day, or one that cannot be.
    """
    at, day_only = _told(text)
    days.sensible(at.date(), ahead=days.TODAY)
    found = timezone.make_aware(at)
    if found > timezone.now() and not day_only:
        raise SizingError(f"{text.strip()} is yet to come: write when it was read")
    return min(found, timezone.now())


def _told(text: str) -> tuple[datetime, bool]:
    """What was written, noon where only the day was; and whether it was only that."""
    text = text.strip()
    for way in (*_WAYS, *_DAYS):
        try:
            at = datetime.strptime(text, way)
        except ValueError:
            continue
        return (at.replace(hour=_NOON), True) if way in _DAYS else (at, False)
    raise SizingError(f"'{text[:30]}' is no moment: write 2026-11-27 14:30, or the day alone")


@transaction.atomic
def take_in(pump: InstalledPump, user: User, content: bytes, system: System) -> Taken:
    """All rows of a table, or none of them. A row that was taken before is not taken again.

    Its first line names the columns: ``date``, and ``FIELDS`` of
    :mod:`sizing.aftercare.commissioning.typed_readings`.

    Raises
    ------
    CannotTake
    """
    try:
        sheet = read_sheet(content, _MOST_ROWS)
    except SizingError as problem:
        raise CannotTake([str(problem)]) from None
    heads = [folded(cell).replace(" ", "_") for cell in sheet.header]
    strange = [
        one for one in heads if one and one not in ("date", "unsteady", *typed_readings.FIELDS)
    ]
    if "date" not in heads or strange:
        names = ", ".join(typed_readings.FIELDS)
        told = f"no column is called {strange[0]}" if strange else "the first line has no date"
        raise CannotTake([f"{told}: it may hold date, {names}"])
    problems: list[str] = []
    counts = [0, 0]
    for line, cells in sheet.rows:
        row = {head: cells[at].strip() for at, head in enumerate(heads) if head and at < len(cells)}
        try:
            counts[_kept(pump, user, row, system)] += 1
        except SizingError as problem:
            problems.append(f"line {line}: {problem}")
    if problems:
        raise CannotTake(problems[:20])
    return Taken(new=counts[True], known=counts[False])


def _kept(pump: InstalledPump, user: User, row: dict[str, str], system: System) -> bool:
    """Keep one row; whether it is new."""
    told = row.pop("date", "")
    on = moment(told)
    judged = readings.judge(pump, row, system)
    if judged.typed.problems:
        field, problem = next(iter(judged.typed.problems.items()))
        raise SizingError(f"{field}: {problem}")
    if not judged.typed.read:
        raise SizingError("no reading in it")
    written = "|".join(f"{key}={text}" for key, text in sorted(row.items()) if text)
    token = uuid.uuid5(uuid.NAMESPACE_OID, f"{pump.pk}|{_told(told)[0].isoformat()}|{written}")
    _, is_new = readings.keep(
        pump=pump, user=user, judged_as=judged, system=system, on=on, token=token
    )
    return is_new
