"""Puts the signed-in person's membership on the request, fetched once and only when asked for."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.functional import SimpleLazyObject

from kyrtos.accounts.models import Membership
from kyrtos.accounts.sessions import memberships_of


class MembershipMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        lazy = SimpleLazyObject(lambda: _membership(request))
        request.membership = lazy  # type: ignore[attr-defined]
        try:
            return self.get_response(request)
        finally:
            timezone.deactivate()


def _membership(request: HttpRequest) -> Membership | None:
    if not request.user.is_authenticated:
        return None
    found = next(iter(memberships_of(request)), None)
    if found is not None:  # days and times of this answer are those of the shop
        timezone.activate(found.shop.zone)
    return found
