"""The character U+0000 reads as nothing and no database keeps it.

It is shown as a replacement character instead of breaking a page.
"""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, QueryDict


class NulMiddleware:
    """Takes U+0000 out of what was asked and typed."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.GET = _without(request.GET)  # type: ignore[assignment]
        if request.method == "POST":
            request.POST = _without(request.POST)  # type: ignore[assignment]
        return self.get_response(request)


def _without(asked: QueryDict) -> QueryDict:
    if not any("\0" in value for _, values in asked.lists() for value in values):
        return asked
    clean = asked.copy()
    for key, values in asked.lists():
        clean.setlist(key, [value.replace("\0", "\ufffd") for value in values])
    return clean
