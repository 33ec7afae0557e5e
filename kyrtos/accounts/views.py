"""Signing in, the demo's one click, the house rules, and the pages for what went wrong."""

from __future__ import annotations

import ipaddress
from typing import cast

from allauth.account.utils import perform_login
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import UNUSABLE_PASSWORD_PREFIX
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import resolve_url
from django.views.decorators.http import require_POST

from kyrtos.accounts.login_throttle import SignInForm
from kyrtos.accounts.proven import sign_in_by_password

DEMO_USER = "wenna"
_STEP_ELSEWHERE = (
    "Your second step is asked for on a page of its own: sign in there, in another tab, then come"
    " back here and go on typing."
)


def on_loopback(request: HttpRequest) -> bool:
    """Whether the request came from this very machine, and no proxy spoke for another."""
    peer = request.META.get("REMOTE_ADDR", "")
    spoken = request.META.get("HTTP_X_FORWARDED_FOR", "")
    by_our_proxy = not peer  # it alone speaks over the socket in our own folder
    if spoken and not by_our_proxy:
        return False
    try:
        address = ipaddress.ip_address(spoken if by_our_proxy else peer)
    except ValueError:
        return False
    return address.is_loopback


@require_POST
def sign_in_over(request: HttpRequest) -> HttpResponse:
    """Sign in over a page that stays as it is.

    204 when name and password go together, 409 with a text where a second step is due, else 422.
    """
    form = SignInForm(request, request.POST)
    if settings.DEMO and "who" in request.POST:
        demo_sign_in(request)
    elif form.is_valid():
        sign_in_by_password(request, form.get_user())
    else:
        return HttpResponse(status=422)
    if not request.user.is_authenticated:
        return HttpResponse(_STEP_ELSEWHERE, status=409, content_type="text/plain")
    return HttpResponse(status=204)


@require_POST
def demo_sign_in(request: HttpRequest) -> HttpResponse:
    """Sign one of the demo people (who have no password) in.

    In demo mode, on loopback, and nowhere else.
    """
    user = (
        get_user_model()
        .objects.filter(
            username=request.POST.get("who", DEMO_USER),
            password__startswith=UNUSABLE_PASSWORD_PREFIX,
        )
        .first()
    )
    if not settings.DEMO or not on_loopback(request) or user is None:
        raise Http404("no such page")
    return cast(HttpResponse, perform_login(request, user, redirect_url=resolve_url("job-list")))
