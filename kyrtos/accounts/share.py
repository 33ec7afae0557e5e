"""Pages that take long: a small share of the server a person and a shop, so that others get theirs.

One process works on one of them at a time, and lets one more wait for a moment: its other threads
stay free for edits, lists and the watchdog. A person has one of them under way on the whole server,
a shop all but one of the places, and two at least. Who comes when the share is taken is told at
once; pages and scripts ask again by themselves.

The shares of persons and shops are PostgreSQL's advisory locks: they end with the connection,
whatever becomes of the process that holds them.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from functools import wraps
from typing import cast

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from kyrtos.accounts import whose
from kyrtos.accounts.models import Membership
from kyrtos.accounts.permissions import ShopRequest, View

_WORKS, _WAITS = threading.BoundedSemaphore(1), threading.BoundedSemaphore(1)
_PATIENCE_S, _LOOK_S = 3.0, 0.1
# first halves of the locks' names; a shop's places follow on
_PERSON, _NEXT, _SHOP = 0x6B70, 0x6B71, 0x6B7300
_AGAIN_S = 1
_LEAST_OF_A_SHOP = 2  # one person of a shop keeps no other of it waiting
BUSY = (
    "You have another long question under way, or many are asked at this moment. This one is asked"
    " again by itself."
)


def share(view: View) -> View:
    """Marks a page that takes long; under :func:`kyrtos.accounts.permissions.may`."""

    @wraps(view)
    def guarded(request: ShopRequest, *args: object, **given: object) -> HttpResponse:
        # a part of a page asks again by itself; what is sent, and a file, would leave the page
        patience_s = _PATIENCE_S if _sent_or_opened(request) else 0.0
        with _place(request.membership, patience_s) as taken:
            return view(request, *args, **given) if taken else _busy(request)

    return cast(View, guarded)


def _sent_or_opened(request: HttpRequest) -> bool:
    return request.method == "POST" or "HX-Request" not in request.headers


@contextmanager
def _place(member: Membership, patience_s: float) -> Iterator[bool]:
    """Whether a place was free; it is given back at the end.

    The person's share comes first: who asks twelve at once keeps nobody from waiting.
    """
    places = max(_LEAST_OF_A_SHOP, settings.PLACES - 1)
    with ExitStack() as held:
        yield (
            held.enter_context(_persons(member.user_id, patience_s))
            and held.enter_context(_held([(_SHOP + one, member.shop_id) for one in range(places)]))
            and held.enter_context(_here())
        )


@contextmanager
def _persons(user_id: int, patience_s: float) -> Iterator[bool]:
    """The person's one place: at once, or after a moment if no other of theirs waits for it."""
    with ExitStack() as held:
        taken = held.enter_context(_held([(_PERSON, user_id)]))
        if not taken and patience_s and held.enter_context(_held([(_NEXT, user_id)])):
            taken = held.enter_context(_held([(_PERSON, user_id)], patience_s))
        yield taken


@contextmanager
def _here() -> Iterator[bool]:
    """A place in this process: at once, or after a moment if nobody else waits for it."""
    taken = _WORKS.acquire(blocking=False)
    if not taken and _WAITS.acquire(blocking=False):
        try:
            taken = _WORKS.acquire(timeout=_PATIENCE_S)
        finally:
            _WAITS.release()
    try:
        yield taken
    finally:
        if taken:
            _WORKS.release()


@contextmanager
def _held(names: list[tuple[int, int]], patience_s: float = 0.0) -> Iterator[bool]:
    """Whether the first free one of some locks could be taken, now or within some time."""
    until = time.monotonic() + patience_s
    held = next((one for one in names if _asked("pg_try_advisory_lock", one)), None)
    while held is None and time.monotonic() < until:
        time.sleep(_LOOK_S)
        held = next((one for one in names if _asked("pg_try_advisory_lock", one)), None)
    try:
        yield held is not None
    finally:
        if held is not None and connection.connection is not None and not connection.needs_rollback:
            _asked("pg_advisory_unlock", held)


def _asked(function: str, name: tuple[int, int]) -> bool:
    with connection.cursor() as ask:
        ask.execute(f"select {function}(%s, %s)", name)  # nosec B608: one of our own two
        (done,) = ask.fetchone() or (False,)
    return bool(done)


def _busy(request: HttpRequest) -> HttpResponse:
    if "HX-Request" in request.headers:
        head = {"Retry-After": str(_AGAIN_S)}
        return HttpResponse(BUSY, status=429, content_type="text/plain", headers=head)
    if request.method == "POST":
        context: dict[str, object] = {"told": "Not just now", "why": BUSY.partition(" This")[0]}
        context |= {"here": request.get_full_path(), "sent": whose.sent_of(request)}
        answer = render(request, "accounts/send_again.html", context, status=429)
    else:
        context = {"told": BUSY, "before": whose.page_before(request)}
        answer = render(request, "accounts/busy.html", context, status=429)
        answer.headers["Refresh"] = str(_AGAIN_S)
    answer.headers["Retry-After"] = str(_AGAIN_S)
    return answer
