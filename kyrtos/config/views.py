"""Whether the server is well, and the pages for what went wrong."""

from __future__ import annotations

from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.templatetags.static import static


def health(request: HttpRequest) -> HttpResponse:
    """Says 'kyrtos ok' when the database answers: for ./run and for watchdogs."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return HttpResponse("kyrtos ok\n", content_type="text/plain")


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return render(request, "404.html", status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    return HttpResponse(
        "Something broke on our side. What you had saved is safe. Go back and try again; if it"
        " stays broken, tell whoever runs this server.",
        status=500,
        content_type="text/plain",
    )


def favicon(request: HttpRequest) -> HttpResponse:
    """Viewers of papers ask for the icon at its oldest address."""
    return redirect(static("kyrtos/icon.svg"))
