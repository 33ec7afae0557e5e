"""Parts that broke and were done without: logged, and kept for the owner's page."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from hashlib import sha256
from typing import TypeVar
from uuid import UUID

from django.db import DatabaseError, transaction
from django.db.models import F
from django.utils import timezone

from kyrtos.shops.models import Shop, Trouble
from sizing.base.failure import Failure, failure_of

T = TypeVar("T")
_MOST = 100  # of a shop; the oldest go
_log = logging.getLogger("kyrtos.trouble")


def note(shop: Shop, failures: Iterable[Failure], job: UUID | None = None) -> None:
    """Log failures with the job they belong to, and keep each once with how often it came."""
    for one in failures:
        _log.error("shop %s, job %s, %s:\n%s", shop.pk, job or "none", one.words, one.trace)
        try:
            with transaction.atomic():
                _keep(shop, one, job)
        except DatabaseError:  # it is in the log; whoever works goes on
            _log.exception("the trouble above could not be kept")


def _keep(shop: Shop, failure: Failure, job: UUID | None) -> None:
    what = failure.trace.strip().rpartition("\n")[2]  # the exception, whichever way it came
    digest = sha256(f"{job} {failure.about} {what}".encode(errors="replace")).hexdigest()
    known = Trouble.objects.filter(shop=shop, digest=digest)
    if known.update(times=F("times") + 1, last=timezone.now()):
        return
    about, trace = failure.about[:200], failure.trace.replace("\0", "\ufffd")
    Trouble.objects.create(shop=shop, job=job, about=about, trace=trace, digest=digest)
    kept = Trouble.objects.filter(shop=shop).values_list("pk", flat=True)
    Trouble.objects.filter(pk__in=list(kept[_MOST:])).delete()


def alone(
    shop: Shop, about: str, work: Callable[[], T], otherwise: T, job: UUID | None = None
) -> T:
    """What a part gives, or ``otherwise`` where it breaks, which is noted.

    A database that does not answer is told by its own page instead.
    """
    try:
        return work()
    except DatabaseError:
        raise
    except Exception as problem:
        note(shop, [failure_of(about, problem)], job)
        return otherwise
