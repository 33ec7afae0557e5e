"""Who belongs to a shop: let in by a link that works once, given a role, taken out."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from django.contrib.sessions.models import Session
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from kyrtos.accounts.models import Invitation, Membership, Role, User
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError

GOOD_FOR = timedelta(days=7)
MOST_OPEN = 30


class CannotChange(SizingError):
    """A change that would leave a shop without an owner, or a link that lets nobody in any more."""


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def invite(shop: Shop, by: User, role: str, email: str = "") -> str:
    """The token of a new link; it is shown once, and only its digest is kept.

    Raises
    ------
    CannotChange
        Too many links are open.
    """
    if still_open(shop).count() >= MOST_OPEN:
        raise CannotChange(f"{MOST_OPEN} links are open: withdraw some first")
    token = secrets.token_urlsafe(32)
    Invitation.objects.create(
        shop=shop,
        digest=_digest(token),
        role=Role(role),
        email=email,
        by=by,
        until=timezone.now() + GOOD_FOR,
    )
    return token


def still_open(shop: Shop) -> QuerySet[Invitation]:
    """The links that would still let somebody in."""
    return shop.invitations.filter(taken=None, until__gt=timezone.now())


def found(token: str) -> Invitation:
    """The link of a token.

    Raises
    ------
    CannotChange
        It was taken, withdrawn, or is too old; or there never was one.
    """
    link = Invitation.objects.select_related("shop").filter(digest=_digest(token)).first()
    if link is None or link.taken or link.until <= timezone.now():
        raise CannotChange(
            "this link was used already, was withdrawn, or is over a week old: ask the owner of the"
            " shop for a new one"
        )
    return link


@transaction.atomic
def join(token: str, user: User) -> Membership:
    """A new person comes in by a link, which then lets nobody else in.

    Raises
    ------
    CannotChange
    """
    link = found(token)
    link = Invitation.objects.select_for_update().select_related("shop").get(pk=link.pk)
    if link.taken:
        raise CannotChange("this link was used a moment ago: ask the owner of the shop for another")
    user.save()
    link.taken = timezone.now()
    link.save(update_fields=["taken"])
    return Membership.objects.create(user=user, shop=link.shop, role=link.role)


def _other_owners(shop: Shop, membership: Membership) -> bool:
    """Whether somebody else owns the shop; the shop's row is held until the change is through."""
    Shop.objects.select_for_update().get(pk=shop.pk)
    return shop.memberships.filter(role=Role.OWNER).exclude(pk=membership.pk).exists()


@transaction.atomic
def set_role(shop: Shop, membership: Membership, role: str) -> None:
    """Give a member another role; it holds from their next click.

    Raises
    ------
    CannotChange
        The last owner would be none.
    """
    if role != Role.OWNER and not _other_owners(shop, membership):
        raise CannotChange("a shop needs an owner: make somebody else one first")
    membership.role = Role(role)
    membership.save(update_fields=["role"])


@transaction.atomic
def take_out(shop: Shop, membership: Membership) -> None:
    """Take a member out: their sessions end at once, what they did stays.

    Raises
    ------
    CannotChange
        The last owner would be gone.
    """
    if not _other_owners(shop, membership):
        raise CannotChange("a shop needs an owner: make somebody else one first")
    user_id = str(membership.user_id)
    membership.delete()
    for session in Session.objects.filter(expire_date__gt=timezone.now()).iterator(chunk_size=500):
        if session.get_decoded().get("_auth_user_id") == user_id:
            session.delete()
