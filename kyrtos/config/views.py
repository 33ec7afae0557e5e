"""The pages for what went wrong, and what the proxy asks."""

from __future__ import annotations

import sys

from django.contrib.auth.views import redirect_to_login
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.templatetags.static import static

from kyrtos.config.middleware import signed_out

_AWAY = (
    "The database does not answer at this moment. What was saved before is safe; this was not"
    " saved. Wait a few seconds and try again."
)
_READS_ONLY = (
    "Nothing can be saved at the moment: the database may only be read. What was saved before is"
    " safe, and your typing is kept on this page. Wait until whoever runs this server has mended"
    " it, then try again."
)
_DISK_IS_FULL = (
    "Nothing can be saved at the moment: the disk under the database is full. What was saved before"
    " is safe, and your typing is kept on this page. Wait until whoever runs this server has made"
    " room, then try again."
)


def may_send(request: HttpRequest) -> HttpResponse:
    """Whether somebody is signed in: the proxy asks this before it reads a file."""
    return HttpResponse(status=204 if request.user.is_authenticated else 401)


def sign_in_first(request: HttpRequest) -> HttpResponse:
    """What the proxy answers for us to a file that nobody may send."""
    if "HX-Request" in request.headers:
        return signed_out(request)
    return redirect_to_login(request.GET.get("next", "/"))


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return render(request, "404.html", status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    """Something broke; where it is the database that does not answer, what was typed is kept."""
    problem = sys.exc_info()[1]
    if disk_is_full(problem):
        return _database_away(request, _DISK_IS_FULL)
    if isinstance(problem, OperationalError | InterfaceError):
        return _database_away(request, _AWAY)
    if reads_only(problem):
        return _database_away(request, _READS_ONLY)
    return HttpResponse(
        "Something broke on our side. What you had saved is safe. Go back and try again; if it"
        " stays broken, tell whoever runs this server.",
        status=500,
        content_type="text/plain",
    )


def reads_only(problem: BaseException | None) -> bool:
    """Whether a database refused to write because it may only be read just now."""
    return _state(problem) == "25006"


def disk_is_full(problem: BaseException | None) -> bool:
    """Whether a database refused because its disk has no room left."""
    return _state(problem) == "53100"


def _state(problem: BaseException | None) -> str:
    return str(getattr(getattr(problem, "__cause__", None), "sqlstate", ""))


def _database_away(request: HttpRequest, told: str) -> HttpResponse:
    """Says so, and offers what was typed to be sent again (passwords and files apart)."""
    head = {"Retry-After": "5", "Cache-Control": "no-store"}
    if "HX-Request" in request.headers:
        return HttpResponse(told, status=503, content_type="text/plain", headers=head)
    sent = []
    if request.method == "POST":
        sent = [
            (name, text, name.replace("_", " ").replace(".", ", "))
            for name, texts in request.POST.lists()
            for text in texts
            if "password" not in name and name != "again"
        ]
    context = {
        "told": told,
        "sent": sent,
        "hidden": [name for name, text, _ in sent if name == "csrfmiddlewaretoken" or not text],
        "files": bool(request.method == "POST" and request.FILES),
        "here": request.get_full_path(),
    }
    page = render_to_string("503.html", context)  # nothing of it may ask the database
    return HttpResponse(page, status=503, headers=head)


def favicon(request: HttpRequest) -> HttpResponse:
    """Viewers of papers ask for the icon at its oldest address."""
    return redirect(static("kyrtos/icon.svg"))
