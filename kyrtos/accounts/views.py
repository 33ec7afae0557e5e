"""Signing in, the demo's one click, the house rules, and the pages for what went wrong."""

from __future__ import annotations

import ipaddress

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from kyrtos.accounts.guessing import SignInForm

DEMO_USER = "wenna"


def on_loopback(request: HttpRequest) -> bool:
    """Whether the request came from this very machine, and straight (no proxy spoke for it)."""
    try:
        address = ipaddress.ip_address(request.META.get("REMOTE_ADDR", ""))
    except ValueError:
        return False
    return address.is_loopback and "HTTP_X_FORWARDED_FOR" not in request.META


@require_POST
def sign_in_over(request: HttpRequest) -> HttpResponse:
    """Sign in over a page that stays as it is: 204 when name and password go together, else 422."""
    form = SignInForm(request, request.POST)
    if settings.DEMO and "who" in request.POST:
        return HttpResponse(status=204 if demo_sign_in(request).status_code == 302 else 422)
    if not form.is_valid():
        return HttpResponse(status=422)
    login(request, form.get_user())
    return HttpResponse(status=204)


@require_POST
def demo_sign_in(request: HttpRequest) -> HttpResponse:
    """Sign one of the demo people (who have no password) in.

    In demo mode, on loopback, and nowhere else.
    """
    user = (
        get_user_model()
        .objects.filter(username=request.POST.get("who", DEMO_USER), password__startswith="!")
        .first()
    )
    if not settings.DEMO or not on_loopback(request) or user is None:
        raise Http404("no such page")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("job-list")
