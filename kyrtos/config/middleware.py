"""What every request and every answer goes through."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, QueryDict


class NulMiddleware:
    """Takes U+0000 out of what was asked and typed: no database keeps it.

    It is shown as a replacement character instead of breaking a page.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.GET = _without(request.GET)  # type: ignore[assignment]
        if request.method == "POST":
            request.POST = _without(request.POST)  # type: ignore[assignment]
        return self.get_response(request)


class NoStoreMiddleware:
    """What somebody signed in sees is kept by no cache, unless a view says for how long."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if settings.SESSION_COOKIE_NAME in request.COOKIES:
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def _without(asked: QueryDict) -> QueryDict:
    if not any("\0" in value for _, values in asked.lists() for value in values):
        return asked
    clean = asked.copy()
    for key, values in asked.lists():
        clean.setlist(key, [value.replace("\0", "\ufffd") for value in values])
    return clean
