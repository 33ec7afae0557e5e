"""Legs and rows added, moved and taken out; the ground of a leg."""

from __future__ import annotations

from sizing.base.errors import SizingError
from sizing.document.answers import rows_of
from sizing.document.job import (
    MOST_LEGS,
    MOST_ROWS,
    Figure,
    JobDocument,
    LegEntry,
    ListRow,
    Surveyed,
)
from sizing.editing.edit import declared_list, find_row, with_rows
from sizing.hydraulics import survey
from sizing.hydraulics.survey import Pairs
from sizing.kinds import kind


def set_survey(job: JobDocument, leg_id: str, pairs: Pairs, *, shift: bool) -> JobDocument:
    """The job with the ground of a leg as surveyed.

    ``shift`` raises it as a whole to where the leg begins.

    Length and end of the leg are the survey's from then on.

    Raises
    ------
    SizingError
        No such leg; or it is to be shifted and nobody knows yet where the leg begins.
    """
    entry = job.leg(leg_id)
    if shift:
        at = job.legs.index(entry)
        begins = job.legs[at - 1].ends_at if at else None
        if begins is None:
            raise SizingError(
                "it cannot be shifted: the leg before it has no level yet that it ends at. Give"
                " that first, or take the levels as they are"
            )
        pairs = survey.shifted(pairs, begins.si("length"))
    points = tuple(
        Surveyed(distance_m=round(distance, 3), elevation_m=round(elevation, 3))
        for distance, elevation in pairs
    )
    checked = LegEntry.model_validate(
        entry.model_dump()
        | {"survey": [point.model_dump() for point in points], "length": None, "ends_at": None}
    )
    return job.with_leg(checked)


def drop_survey(job: JobDocument, leg_id: str) -> JobDocument:
    """The job without the survey of a leg; its length and end stay, as figures from a drawing."""
    entry = job.leg(leg_id)
    if not entry.survey:
        return job
    kept = {
        name: getattr(entry, name) or Figure(value=round(value, 2), unit="m", provenance="drawing")
        for name, value in (
            ("length", survey.length_m(entry.survey)),
            ("ends_at", entry.survey[-1].elevation_m),
        )
    }
    return job.with_leg(entry.model_copy(update={"survey": (), **kept}))


def add_leg(job: JobDocument, after: str | None = None) -> JobDocument:
    """A new leg after the one named (or at the end), of the same pipe as its neighbour.

    Raises
    ------
    SizingError
        When the job has as many legs as it may.
    """
    if len(job.legs) >= MOST_LEGS:
        raise SizingError(f"a run has at most {MOST_LEGS} legs")
    at = next((index + 1 for index, leg in enumerate(job.legs) if leg.id == after), len(job.legs))
    like = job.legs[at - 1] if job.legs else kind(job.kind).default_legs[-1]
    new = LegEntry(id=_free_id(job), side=like.side, series=like.series, nominal=like.nominal)
    return job.model_copy(update={"legs": (*job.legs[:at], new, *job.legs[at:])})


def _free_id(job: JobDocument) -> str:
    taken = {leg.id for leg in job.legs}
    return next(f"l{number}" for number in range(1, MOST_LEGS + 2) if f"l{number}" not in taken)


def remove_leg(job: JobDocument, leg_id: str) -> JobDocument:
    """The job without a leg, and without what was pending in it."""
    job.leg(leg_id)
    pending = {
        path: text for path, text in job.pending.items() if not path.startswith(f"legs.{leg_id}.")
    }
    return job.model_copy(
        update={"legs": tuple(leg for leg in job.legs if leg.id != leg_id), "pending": pending}
    )


def move_leg(job: JobDocument, leg_id: str, step: int) -> JobDocument:
    """The job with a leg one place earlier (-1) or later (+1); at an end it stays."""
    at = job.legs.index(job.leg(leg_id))
    to = min(max(at + step, 0), len(job.legs) - 1)
    legs = list(job.legs)
    legs.insert(to, legs.pop(at))
    return job.model_copy(update={"legs": tuple(legs)})


def add_row(job: JobDocument, key: str) -> JobDocument:
    """A new row at the end of a list, like the one before it but for its figures.

    Raises
    ------
    SizingError
        When the list has as many rows as it may, or its rows are given.
    """
    declared = declared_list(job, key)
    rows = rows_of(job, declared)
    if len(rows) >= MOST_ROWS or declared.fixed:
        raise SizingError(f"this list has {len(rows)} rows and takes no more")
    free = next(
        f"r{number}"
        for number in range(1, MOST_ROWS + 2)
        if f"r{number}" not in {row.id for row in rows}
    )
    return with_rows(job, key, (*rows, ListRow(id=free)))


def remove_row(job: JobDocument, key: str, row_id: str) -> JobDocument:
    """The job without a row of a list, and without what was pending in it."""
    declared = declared_list(job, key)
    rows = rows_of(job, declared)
    find_row(rows, row_id)
    if declared.fixed:
        raise SizingError("the rows of this list are given: none can be taken away")
    pending = {
        path: text
        for path, text in job.pending.items()
        if not path.startswith(f"lists.{key}.{row_id}.")
    }
    return with_rows(job, key, tuple(row for row in rows if row.id != row_id)).model_copy(
        update={"pending": pending}
    )
