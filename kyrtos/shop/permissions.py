"""Who may do what: one closed table, and the guard that views wear."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, Literal, cast

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

from kyrtos.shop.models import Membership, Role

Action = Literal["see", "edit job", "issue paper", "change catalogue", "set rules"]

ALLOWED: dict[str, frozenset[Action]] = {
    Role.OWNER: frozenset({"see", "edit job", "issue paper", "change catalogue", "set rules"}),
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


def may(action: Action) -> Callable[[View], View]:
    """Only members whose role allows the action get to the view: others 403, strangers to the sign-in."""

    def guard(view: View) -> View:
        @wraps(view)
        @login_required
        def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            membership = getattr(request, "membership", None)
            if not membership or not can(membership, action):  # a lazy None is not None, but it is false
                raise PermissionDenied("Your role does not allow this. Ask the owner of the shop.")
            return view(cast(ShopRequest, request), *args, **kwargs)

        return guarded

    return guard
