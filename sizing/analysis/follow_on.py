"""The job that another leaves to be done, such as the booster after a well's open tank."""

from __future__ import annotations

from sizing.base.errors import SizingError
from sizing.document.job import JobDocument
from sizing.editing.edit import edit
from sizing.kinds import kind
from sizing.kinds.base import FollowOn
from sizing.size import Sizing


def follow_on(sizing: Sizing) -> FollowOn | None:
    """What is left to be done by a pump of its own; None where nothing is, or not known yet."""
    if sizing.demand is None:
        return None
    return kind(sizing.job.kind).follow_on(sizing.facts, sizing.demand)


def job_of(sizing: Sizing) -> JobDocument:
    """That job as a document: for the same customer, with what is known already filled in.

    Raises
    ------
    SizingError
        Nothing is left to be done.
    """
    found = follow_on(sizing)
    if found is None:
        raise SizingError("this job leaves no other to be done")
    before = sizing.job
    job = JobDocument(
        kind=found.kind,
        title=f"{before.title}: {found.title}"[:200],
        customer=before.customer,
        site=before.site,
        units=before.units,
        legs=kind(found.kind).default_legs,
    )
    for key, answer in found.answers:
        text = answer if isinstance(answer, str) else answer.text(job.units)
        made = edit(job, f"answers.{key}", text)
        if made.problem:
            raise SizingError(made.problem)
        job = made.job
    return job
