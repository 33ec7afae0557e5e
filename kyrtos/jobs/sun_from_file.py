"""The sun of a job's months taken from a weather file: laid by, read by the worker, written in."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.core.cache import cache

from kyrtos.accounts.models import User
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from sizing.base.errors import SizingError
from sizing.document.answers import Facts
from sizing.document.job import JobDocument
from sizing.editing.edit import edit
from sizing.kinds import kind as find_kind

_KEPT_S = 3600
MOST_BYTES = 4_000_000
WAITS = "waits"


def lay_by(job: Job, name: str, content: bytes) -> None:
    """Keep a file until the worker has read it.

    Raises
    ------
    SizingError
        The job has no months, or lacks latitude or tilt.
    """
    _facts(services.current(job))
    cache.set(_key(job.pk, "file"), {"name": name[:120], "content": content}, _KEPT_S)
    cache.set(_key(job.pk, "said"), {"state": WAITS, "text": name[:120]}, _KEPT_S)


def said(job_id: UUID | str) -> dict[str, str]:
    """What came of the last file: its state (waits, taken, refused) and a text; empty for none."""
    found: dict[str, str] = cache.get(_key(job_id, "said")) or {}
    return found


def take(job_id: str, user_id: int) -> None:
    """Read the file laid by, and write its sun into the months; done twice it is done once."""
    from kyrtos.jobs.weather import read  # heavy

    held = cache.get(_key(job_id, "file"))
    job = Job.objects.filter(pk=job_id).select_related("shop").first()
    if held is None or job is None:
        return
    try:
        latitude, tilt = _facts(services.current(job))
        found = read(bytes(held["content"]), tilt, latitude)
        services.change(
            job=job,
            user=User.objects.get(pk=user_id),
            path="lists.months",
            page="",
            apply=lambda content: _with_sun(content, found.sun_h),
        )
    except SizingError as problem:
        cache.set(_key(job_id, "said"), {"state": "refused", "text": str(problem)}, _KEPT_S)
    else:
        sun = ", ".join(f"{one:.1f}" for one in found.sun_h)
        text = f"{held['name']} ({found.kind}): {sun} hours of full sun a day, January to December"
        cache.set(_key(job_id, "said"), {"state": "taken", "text": text}, _KEPT_S)
    cache.delete(_key(job_id, "file"))


def _facts(content: JobDocument) -> tuple[float, float]:
    """Latitude and tilt."""
    kind = find_kind(content.kind)
    facts = Facts(content, kind.questions, kind.lists)
    if not (facts.asks("latitude") and facts.asks("tilt")):
        raise SizingError("this job has no panels")
    return facts.si("latitude"), facts.si("tilt")


def _with_sun(content: JobDocument, sun_h: tuple[float, ...]) -> JobDocument:
    for month, hours in enumerate(sun_h, 1):
        content = edit(content, f"lists.months.m{month}.sun", f"{hours:.2f} h").job
    return content


def _key(job_id: Any, part: str) -> str:
    return f"weather-{job_id}-{part}"
