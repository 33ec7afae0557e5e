"""Guessing of passwords: it waits, and nobody else waits for it.

django-axes counts the wrong ones by name and address and locks the pair out for a while, in the
same words whether the name exists. Hashing a password takes a core for a good part of a second, so
one process hashes one at a time: who comes meanwhile is asked to try again.
"""

from __future__ import annotations

import ipaddress
import threading
from typing import Any

from django.conf import settings
from django.contrib.auth.forms import AuthenticationForm
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

_HASHING = threading.BoundedSemaphore(1)
_PATIENCE_S = 0.5


class SignInForm(AuthenticationForm):
    """Name and password."""

    error_messages = {
        **AuthenticationForm.error_messages,
        "invalid_login": "That name and password do not go together. Capitals count.",
        "busy": "Many are signing in at this moment. Wait a few seconds and try again.",
    }

    def clean(self) -> dict[str, Any]:
        """Compare the password, unless another is being compared just now."""
        if not _HASHING.acquire(timeout=_PATIENCE_S):
            raise ValidationError(self.error_messages["busy"], code="busy")
        try:
            return super().clean()
        finally:
            _HASHING.release()


def address_of(request: HttpRequest) -> str:
    """The address that asks: of the proxy's last word where one speaks for it, else the peer's."""
    peer = str(request.META.get("REMOTE_ADDR", ""))
    # without a peer it came over the socket on which our own proxy alone speaks
    spoken = request.META.get("HTTP_X_FORWARDED_FOR", "") if settings.SECURE or not peer else ""
    try:
        return str(ipaddress.ip_address(spoken.split(",")[-1].strip()))
    except ValueError:  # nothing, or what no proxy writes
        return peer


def locked_out(request: HttpRequest, *_: Any, **__: Any) -> HttpResponse:
    """Said to whoever guessed too often, whether the name exists or not."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    told = f"Too many wrong passwords. Wait {minutes} minutes, then try again."
    context = {"told": told, "form": SignInForm(request)}
    return render(request, "accounts/sign_in.html", context, status=429)
