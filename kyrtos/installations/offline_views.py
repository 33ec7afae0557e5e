"""The service worker of an installed pump's page: for a cellar without a network."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.templatetags.static import static
from django.views.decorators.http import require_safe

_ASSETS = ("kyrtos/kyrtos.css", "kyrtos/icon.svg", "kyrtos/phone.js", "kyrtos/pump/pump.js")
_STATIC = Path(settings.BASE_DIR) / "kyrtos" / "static"


@lru_cache
def _script() -> str:
    return (_STATIC / "kyrtos" / "pump" / "worker.js").read_text(encoding="utf-8")


@lru_cache
def version() -> str:
    """A digest of the worker and of all that it keeps: another one makes a new cache."""
    held = hashlib.sha256(_script().encode())
    for name in _ASSETS:
        held.update((_STATIC / name).read_bytes())
    return held.hexdigest()[:12]


@require_safe
def worker(request: HttpRequest) -> HttpResponse:
    """The script, told its version and which of our files it keeps; it says nothing of anyone."""
    told = {"version": version(), "assets": [static(name) for name in _ASSETS]}
    content = f"self.KEPT = {json.dumps(told)};\n{_script()}"
    answer = HttpResponse(content, content_type="text/javascript")
    answer.headers["Cache-Control"] = "no-cache"
    return answer


@require_safe
def now(request: HttpRequest) -> HttpResponse:
    """Who is signed in at this moment, and the token for what a phone kept and now sends."""
    user = str(request.user.pk) if request.user.is_authenticated else ""
    answer = JsonResponse({"user": user, "csrf": get_token(request) if user else ""})
    answer.headers["Cache-Control"] = "no-store"
    return answer
