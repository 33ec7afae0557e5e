"""Where somebody is signed in, for how long, and by how many steps."""

from __future__ import annotations

import time
from typing import Any, cast

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.contrib.auth import logout
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.db import DatabaseError, transaction
from django.db.models import QuerySet
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from kyrtos.accounts.models import Membership, User

_SEEN = "seen_at"
_SHOP = "shop"
_IDLE = "idle_s"
_PLACES = "places"
_EVERY_S = 60  # a session notes at most so often that it is in use


@receiver(user_logged_in)
def _listed(request: HttpRequest, user: User, **_: Any) -> None:
    """Every session is listed, whichever way it began."""
    if request is not None and user.last_shop_id:
        request.session[_SHOP] = user.last_shop_id  # one begins where one last was
    if request is not None and "REMOTE_ADDR" in request.META:
        UserSession.objects.create_from_request(request, user=user)


def open_sessions(user: User) -> list[UserSession]:
    """Where a person is signed in; those that have run out are forgotten."""
    return list(UserSession.objects.purge_and_list(user))


def end_all(user: User, *, but: str = "") -> int:
    """Sign a person out everywhere, but for one session; how many there were."""
    count = 0
    for session in Session.objects.filter(expire_date__gt=timezone.now()).iterator(chunk_size=500):
        if session.session_key != but and session.get_decoded().get("_auth_user_id") == str(
            user.pk
        ):
            session.delete()
            count += 1
    UserSession.objects.filter(user=user).exclude(session_key=but).delete()
    return count


def idle_too_long(request: HttpRequest, membership: Membership) -> bool:
    """Whether this session has lain idle for longer than the shop allows; it is ended then.

    When it was used is noted whether the shop has a limit or not: the next one that the person
    works in may have (:func:`too_idle_for`).
    """
    now, seen = int(time.time()), request.session.get(_SEEN)
    idle_s = max(0, now - seen) if seen else 0  # a clock that was put back makes nobody idle
    setattr(request, _IDLE, idle_s)
    if too_idle_for(request, membership):
        return True
    if (not seen or idle_s >= _EVERY_S or now < seen) and _noted_here(membership):
        request.session[_SEEN] = now
    return False


def _noted_here(membership: Membership) -> bool:
    """Note that somebody is here; a database that may only be read still shows its pages."""
    try:
        with transaction.atomic():
            Membership.objects.filter(pk=membership.pk).update(last_here=timezone.now())
    except DatabaseError:
        return False
    return True


def too_idle_for(request: HttpRequest, membership: Membership) -> bool:
    """Whether a session lay idle, until now, for longer than a shop allows; it is ended then."""
    limit = membership.shop.idle_minutes
    if not limit or getattr(request, _IDLE, 0) <= limit * 60:
        return False
    logout(request)
    return True


def second_steps(user: User) -> QuerySet[Authenticator]:
    """What a person has besides the password: codes of an app, keys and passkeys."""
    kinds = (Authenticator.Type.TOTP, Authenticator.Type.WEBAUTHN)
    return cast("QuerySet[Authenticator]", Authenticator.objects.filter(user=user, type__in=kinds))


def step_is_missing(membership: Membership) -> bool:
    """Whether the shop demands a second step that this person has not set up."""
    return membership.shop.second_step and not second_steps(membership.user).exists()


def memberships_of(request: HttpRequest) -> list[Membership]:
    """The person's places, that of the shop they work in first; asked for once a request."""
    held: list[Membership] | None = getattr(request, _PLACES, None)
    if held is not None:
        return held
    found = list(Membership.objects.select_related("shop", "user").filter(user=request.user.pk))
    chosen = request.session.get(_SHOP)
    found.sort(key=lambda one: one.shop_id != chosen)
    setattr(request, _PLACES, found)
    return found


def work_in(request: HttpRequest, shop_id: int) -> None:
    """Work in another of one's shops from now on, and after the next signing in."""
    request.session[_SHOP] = shop_id
    User.objects.filter(username=request.user.get_username()).update(last_shop=shop_id)


def of_shop(member: Membership) -> list[UserSession]:
    """The sessions in which a member works in that shop: others are none of its affair."""
    held = open_sessions(member.user)
    keys = [one.session_key for one in held]
    working = {
        session.session_key
        for session in Session.objects.filter(session_key__in=keys)
        if session.get_decoded().get(_SHOP, _first_shop(member.user)) == member.shop_id
    }
    return [one for one in held if one.session_key in working]


def _first_shop(user: User) -> int | None:
    return user.memberships.values_list("shop_id", flat=True).first()
