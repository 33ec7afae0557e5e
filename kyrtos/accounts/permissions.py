"""Who may do what: one closed table, and the guard that views wear."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, Literal, cast, get_args

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from kyrtos.accounts import whose
from kyrtos.accounts.models import Membership, Role
from kyrtos.accounts.sessions import idle_too_long, step_is_missing
from kyrtos.accounts.terms import reader_of
from kyrtos.config.middleware import signed_out
from sizing.base.reader import reading

Action = Literal[
    "see", "edit job", "issue paper", "change catalogue", "keep customers", "set rules", "set shop"
]

ALLOWED: dict[str, frozenset[Action]] = {
    Role.OWNER: frozenset(get_args(Action)),
    Role.ESTIMATOR: frozenset(
        {"see", "edit job", "issue paper", "change catalogue", "keep customers"}
    ),
    Role.TECHNICIAN: frozenset({"see", "edit job"}),
    Role.VIEWER: frozenset({"see"}),
}


class ShopRequest(HttpRequest):
    """A request by a member of a shop, as :func:`may` hands it to a view."""

    membership: Membership


View = Callable[..., HttpResponse]


def can(membership: Membership, action: Action) -> bool:
    """Whether a member may do something; an unknown role may do nothing."""
    return action in ALLOWED.get(membership.role, frozenset())


_STEP_FIRST = (
    "Your shop asks for a second step at signing in: set one up (Settings, Signing in), then go"
    " back and send it again: what you typed is still on its page."
)
_NOT_ALLOWED = "Your role does not allow this. Ask the owner of the shop."


def without_second_step(view: View) -> View:
    """Marks a page that somebody gets to who has yet to set a second step up; under :func:`may`."""
    view.without_second_step = True  # type: ignore[attr-defined]
    return view


def in_any_shop(view: View) -> View:
    """Marks what one does whichever shop one's page is of; under :func:`may`."""
    view.in_any_shop = True  # type: ignore[attr-defined]
    return view


def may(action: Action) -> Callable[[View], View]:
    """Only members whose role allows the action get to the view.

    Others 403, strangers to the sign-in.
    """

    def guard(view: View) -> View:
        @wraps(view)
        def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            part = (
                "HX-Request" in request.headers
            )  # a script asks for a part of a page: it shows a text, no page
            if not request.user.is_authenticated:
                return signed_out(request)
            membership = getattr(request, "membership", None)
            if not membership or not can(
                membership, action
            ):  # a lazy None is not None, but it is false
                if part:
                    return HttpResponse(_NOT_ALLOWED, status=403, content_type="text/plain")
                raise PermissionDenied(_NOT_ALLOWED)
            if idle_too_long(request, membership):
                return signed_out(request)
            if step_is_missing(membership) and not getattr(view, "without_second_step", False):
                if part:
                    return HttpResponse(_STEP_FIRST, status=403, content_type="text/plain")
                messages.warning(request, _STEP_FIRST)
                return redirect("security")
            if not getattr(view, "in_any_shop", False):
                other = whose.elsewhere(request, membership)
                if other is not None:
                    return other
            with reading(reader_of(membership)):
                try:
                    return view(cast(ShopRequest, request), *args, **kwargs)
                except Http404:
                    other = whose.moved(request, membership, kwargs)
                    other = other or whose.of_another(request, membership, kwargs)
                    if other is None:
                        raise
                    return cast(HttpResponse, other)

        guarded.members_only = True  # type: ignore[attr-defined]  # for the door
        return guarded

    return guard
