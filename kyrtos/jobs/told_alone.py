"""Views of what hangs on a sizing: where one breaks, that is told, and noted for the owner."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar, cast

from django.core.exceptions import PermissionDenied, SuspiciousOperation
from django.db import DatabaseError
from django.http import Http404, HttpResponse
from django.shortcuts import render

from kyrtos.accounts.permissions import ShopRequest
from kyrtos.shops import trouble
from kyrtos.shops.quota import NoMoreRoom, StoreFailed
from sizing.base.failure import failure_of

View = TypeVar("View", bound=Callable[..., HttpResponse])
# these are answers, each with a page of its own
_ANSWERS = (DatabaseError, Http404, PermissionDenied, SuspiciousOperation, NoMoreRoom, StoreFailed)


def told_alone(about: str) -> Callable[[View], View]:
    """Let a view say "could not be worked out" instead of breaking; ``about`` is what."""

    def guard(view: View) -> View:
        @wraps(view)
        def guarded(request: ShopRequest, *args: Any, **named: Any) -> HttpResponse:
            try:
                return view(request, *args, **named)
            except _ANSWERS:
                raise
            except Exception as problem:
                job = named.get("job_id")
                trouble.note(request.membership.shop, [failure_of(about, problem)], job)
                context = {"about": about, "job_id": job}
                return render(request, "jobs/not_worked_out.html", context, status=422)

        return cast(View, guarded)

    return guard
