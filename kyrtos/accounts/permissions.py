"""Who may do what: one closed table, and the guard that views wear."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, Literal, cast, get_args

from django.conf import settings
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import resolve_url

from kyrtos.accounts.models import Membership, Role
from kyrtos.accounts.terms import reader_of
from sizing.base.reader import reading

Action = Literal["see", "edit job", "issue paper", "change catalogue", "set rules", "set shop"]

ALLOWED: dict[str, frozenset[Action]] = {
    Role.OWNER: frozenset(get_args(Action)),
    Role.ESTIMATOR: frozenset({"see", "edit job", "issue paper", "change catalogue"}),
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


_NOT_ALLOWED = "Your role does not allow this. Ask the owner of the shop."


def _signed_out() -> HttpResponse:
    """To a script whose session has run out; htmx by itself goes to the sign-in."""
    head = {"HX-Redirect": resolve_url(settings.LOGIN_URL)}
    return HttpResponse("You are signed out.", status=401, content_type="text/plain", headers=head)


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
                return _signed_out() if part else redirect_to_login(request.get_full_path())
            membership = getattr(request, "membership", None)
            if not membership or not can(
                membership, action
            ):  # a lazy None is not None, but it is false
                if part:
                    return HttpResponse(_NOT_ALLOWED, status=403, content_type="text/plain")
                raise PermissionDenied(_NOT_ALLOWED)
            with reading(reader_of(membership)):
                return view(cast(ShopRequest, request), *args, **kwargs)

        return guarded

    return guard
