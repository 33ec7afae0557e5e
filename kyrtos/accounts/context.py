"""What every page knows: the shop, and what the person may do."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from kyrtos.accounts.permissions import ALLOWED
from kyrtos.accounts.sessions import memberships_of


def shop(request: HttpRequest) -> dict[str, Any]:
    """Context of every template."""
    signed_in = getattr(request, "user", None) is not None and request.user.is_authenticated
    membership = getattr(request, "membership", None) if signed_in else None
    # A lazy None is falsy only once looked at; bool() looks.
    membership = membership if membership else None
    allowed = ALLOWED.get(membership.role, frozenset()) if membership else frozenset()
    return {
        "shop": membership.shop if membership else None,
        "may_edit": "edit job" in allowed,
        "may_issue": "issue paper" in allowed,
        "may_change_catalogue": "change catalogue" in allowed,
        "may_keep_customers": "keep customers" in allowed,
        "may_set_rules": "set rules" in allowed,
        "may_set_shop": "set shop" in allowed,
        "several_shops": bool(membership) and len(memberships_of(request)) > 1,
        "demo": settings.DEMO,
    }
