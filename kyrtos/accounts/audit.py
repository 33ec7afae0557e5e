"""The record of who did what: sign-ins, people, rules, settings, catalogue, papers, exports.

Edits of a job are not here: every one is a revision of the job, with its person.
"""

from __future__ import annotations

from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.dispatch import receiver
from django.http import HttpRequest

from kyrtos.accounts.login_throttle import address_of
from kyrtos.accounts.models import AuditEntry, Membership, User
from kyrtos.accounts.permissions import ShopRequest
from kyrtos.shops.models import Shop

_MOST = 300


def note(shop: Shop | None, who: str, what: str, about: str = "", address: str = "") -> None:
    """Add a line to the record."""
    AuditEntry.objects.create(
        shop=shop, who=who[:150], what=what[:60], about=about[:_MOST], address=address[:45]
    )


def did(request: ShopRequest, what: str, about: str = "") -> None:
    """Add what a member has just done; called where it has succeeded."""
    person = request.user.get_username()
    note(request.membership.shop, person, what, about, address_of(request))


def note_everywhere(user: User, what: str, about: str = "", address: str = "") -> None:
    """Add a line to the record of every shop that a person belongs to."""
    _note_by_name(user.username, what, about, address)


def _note_by_name(username: str, what: str, about: str = "", address: str = "") -> None:
    held = Membership.objects.select_related("shop").filter(user__username=username)
    shops: list[Shop | None] = [one.shop for one in held]
    for shop in shops or [None]:
        note(shop, username, what, about, address)


@receiver(user_logged_in)
def _in(request: HttpRequest, user: User, **_: Any) -> None:
    note_everywhere(user, "signed in", address=address_of(request) if request else "")


@receiver(user_logged_out)
def _out(request: HttpRequest, user: User | None, **_: Any) -> None:
    if user is not None:
        note_everywhere(user, "signed out", address=address_of(request))


@receiver(user_login_failed)
def _failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    name = str(credentials.get("username", ""))
    address = address_of(request) if request else ""
    _note_by_name(name, "wrong password", address=address)
