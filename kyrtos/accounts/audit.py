"""The record of who did what: sign-ins, people, rules, settings, catalogue, papers, exports.

Edits of a job are not here: every one is a revision of the job, with its person.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse

from kyrtos.accounts.guessing import address_of
from kyrtos.accounts.models import AuditEntry, Membership, User
from kyrtos.shops.models import Shop

# What is noted when it succeeds, by the name of its address; exports are asked for by GET.
NOTED = {
    "rule": "house rule",
    "shop-settings": "settings of the shop",
    "password": "own password changed",
    "people": "link made",
    "change-member": "member changed",
    "withdraw": "link withdrawn",
    "import-pumps": "pump file sent",
    "import": "pump file",
    "new-pump": "pump added",
    "edit-pump": "pump changed",
    "archive-pump": "pump archived or brought back",
    "merge-pump": "pumps merged",
    "accept-pump": "pump accepted",
    "trace-save": "pumps traced",
    "issue-paper": "paper issued",
    "archive-job": "job archived or brought back",
    "upload-job": "job file taken in",
}
EXPORTS = {"export-pumps": "catalogue exported", "export-xlsx": "catalogue exported"}
_TOLD = ("do", "role", "email", "stays", "reason", "model")  # of what was posted; never a password
_MOST = 300


def note(shop: Shop | None, who: str, what: str, about: str = "", address: str = "") -> None:
    """Add a line to the record."""
    AuditEntry.objects.create(
        shop=shop, who=who[:150], what=what[:60], about=about[:_MOST], address=address[:45]
    )


class AuditMiddleware:
    """Notes what a member did, once it has succeeded."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        match = request.resolver_match
        name = match.url_name if match else None
        done = NOTED if request.method == "POST" else EXPORTS
        if match and name in done and response.status_code < 400 and request.user.is_authenticated:
            membership = getattr(request, "membership", None)
            if membership:
                told = [str(value) for value in match.kwargs.values()]
                told += [request.POST[key] for key in _TOLD if request.POST.get(key)]
                person = request.user.get_username()
                note(membership.shop, person, done[str(name)], ", ".join(told), address_of(request))
        return response


def _shop_of(username: str) -> Shop | None:
    found = Membership.objects.select_related("shop").filter(user__username=username).first()
    return found.shop if found else None


@receiver(user_logged_in)
def _in(request: HttpRequest, user: User, **_: Any) -> None:
    address = address_of(request) if request else ""
    note(_shop_of(user.username), user.username, "signed in", address=address)


@receiver(user_logged_out)
def _out(request: HttpRequest, user: User | None, **_: Any) -> None:
    if user is not None:
        note(_shop_of(user.username), user.username, "signed out", address=address_of(request))


@receiver(user_login_failed)
def _failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    name = str(credentials.get("username", ""))
    address = address_of(request) if request else ""
    note(_shop_of(name), name, "wrong password", address=address)
