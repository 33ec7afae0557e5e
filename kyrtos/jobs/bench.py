"""The bench: finding and sorting jobs, putting them away, and what was noted of them."""

from __future__ import annotations

from django.db.models import F, Max, Q, QuerySet
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.jobs.models import Job, JobNote
from kyrtos.shops.models import Shop

ARCHIVED = "archived"
SORTS = ("title", "customer", "kind", "state", "flow_m3s", "head_m", "pump", "changed")


def search(
    shop: Shop,
    *,
    words: str = "",
    state: str = "",
    kind_code: str = "",
    customer: str = "",
    sort: str = "",
) -> QuerySet[Job]:
    """The shop's jobs that match; newest change first, or by ``sort``, '-' before it for down.

    Those that were put away only when asked for by the state :data:`ARCHIVED`.
    """
    found = shop.jobs.filter(archived__isnull=state != ARCHIVED)
    found = found.annotate(issued=Max("papers__issued"))
    for word in words.split():
        found = found.filter(
            Q(title__icontains=word)
            | Q(customer__icontains=word)
            | Q(site__icontains=word)
            | Q(customer_record__known_as__contains=word.casefold())
            | Q(site_record__known_as__contains=word.casefold())
            | Q(pump__icontains=word)
        )
    if state and state != ARCHIVED:
        found = found.filter(state=state)
    if kind_code:
        found = found.filter(kind=kind_code)
    if customer:
        found = found.filter(customer=customer)
    field = sort.removeprefix("-")
    if field not in SORTS:
        return found.order_by("-changed")
    order = (
        F(field).desc(nulls_last=True) if sort.startswith("-") else F(field).asc(nulls_last=True)
    )
    return found.order_by(order, "-changed")


def set_archived(job: Job, *, away: bool) -> None:
    """Put a job away, or bring it back; nothing else of it changes."""
    Job.objects.filter(pk=job.pk).update(archived=timezone.now() if away else None)


def add_note(*, job: Job, user: User, text: str) -> JobNote | None:
    """Keep what was said about a job; None for nothing."""
    plain = text.strip()[:2000]
    return JobNote.objects.create(job=job, user=user, text=plain) if plain else None


def remove_note(*, job: Job, user: User, note_id: int) -> None:
    """Take a note out again: whoever wrote it may."""
    job.notes.filter(pk=note_id, user=user).delete()
