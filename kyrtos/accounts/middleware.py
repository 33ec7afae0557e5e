"""Puts the signed-in person's membership on the request, fetched once and only when asked for."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from kyrtos.accounts.models import Membership
from kyrtos.accounts.sessions import memberships_of


class MembershipMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        lazy = SimpleLazyObject(lambda: _membership(request))
        request.membership = lazy  # type: ignore[attr-defined]
        return self.get_response(request)


def _membership(request: HttpRequest) -> Membership | None:
    if not request.user.is_authenticated:
        return None
    return next(iter(memberships_of(request)), None)
