"""Signing in, the demo's one click, and the pages for what went wrong."""

from __future__ import annotations

import ipaddress

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.db import connection
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.templatetags.static import static
from django.views.decorators.http import require_POST

DEMO_USER = "wenna"


def on_loopback(request: HttpRequest) -> bool:
    """Whether the request came from this very machine, and straight (no proxy spoke for it)."""
    try:
        address = ipaddress.ip_address(request.META.get("REMOTE_ADDR", ""))
    except ValueError:
        return False
    return address.is_loopback and "HTTP_X_FORWARDED_FOR" not in request.META


@require_POST
def demo_sign_in(request: HttpRequest) -> HttpResponse:
    """Sign the demo user in: in demo mode, on loopback, and nowhere else."""
    user = get_user_model().objects.filter(username=DEMO_USER).first()
    if not settings.DEMO or not on_loopback(request) or user is None:
        raise Http404("no such page")
    login(request, user)
    return redirect("bench")


def health(request: HttpRequest) -> HttpResponse:
    """Says 'kyrtos ok' when the database answers: for ./run and for watchdogs."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return HttpResponse("kyrtos ok\n", content_type="text/plain")


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return render(request, "404.html", status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    return HttpResponse(
        "Something broke on our side. What you had saved is safe. Go back and try again; if it stays broken, tell whoever runs this server.",
        status=500, content_type="text/plain",
    )  # fmt: skip


def favicon(request: HttpRequest) -> HttpResponse:
    """Viewers of papers ask for the icon at its oldest address."""
    return redirect(static("kyrtos/icon.svg"))
