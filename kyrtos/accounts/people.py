"""Who belongs to a shop: let in by a link that works once, given a role, taken out."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from allauth.account.forms import default_token_generator
from allauth.account.models import EmailAddress
from allauth.account.utils import user_pk_to_url_str
from allauth.mfa.models import Authenticator
from django.db import transaction
from django.db.models import QuerySet
from django.urls import reverse
from django.utils import timezone

from kyrtos.accounts import names, sessions
from kyrtos.accounts.models import Invitation, Membership, Role, User
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError

GOOD_FOR = timedelta(days=7)
MOST_OPEN = 30


class CannotChange(SizingError):
    """A change that would leave a shop without an owner, or a link that lets nobody in any more."""


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def invite(shop: Shop, by: User | None, role: str, email: str = "") -> str:
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
    if link is None or link.taken or link.until <= timezone.now() or not _stands(link):
        raise CannotChange(
            "this link was used already, was withdrawn, or is over a week old: ask the owner of the"
            " shop for a new one"
        )
    return link


def _stands(link: Invitation) -> bool:
    """Whether who made a link may still make one; the server's own has no maker."""
    if link.by_id is None:
        return True
    return link.shop.memberships.filter(user=link.by_id, role=Role.OWNER).exists()


def withdraw_all(shop: Shop, *, by: User | None = None) -> int:
    """Let none of the open links, or of those of one person, in any more; how many there were."""
    links = still_open(shop)
    gone, _ = (links.filter(by=by) if by else links).delete()
    return int(gone)


@transaction.atomic
def join(token: str, user: User) -> Membership:
    """Somebody, new or not, comes in by a link, which then lets nobody else in.

    Raises
    ------
    CannotChange
    """
    link = found(token)
    link = Invitation.objects.select_for_update().select_related("shop").get(pk=link.pk)
    if link.taken or not _stands(link):
        raise CannotChange(
            "this link was used or withdrawn a moment ago: ask the owner of the shop for another"
        )
    if user.pk is None:
        user.save()
    elif user.memberships.filter(shop=link.shop).exists():
        raise CannotChange(f"you belong to {link.shop} already; the link is still good")
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

    Who is no owner any more has made no links: those that are open are withdrawn.

    Raises
    ------
    CannotChange
        The last owner would be none.
    """
    if role != Role.OWNER and not _other_owners(shop, membership):
        raise CannotChange("a shop needs an owner: make somebody else one first")
    if role != Role.OWNER:
        withdraw_all(shop, by=membership.user)
    membership.role = Role(role)
    membership.save(update_fields=["role"])


@transaction.atomic
def take_out(shop: Shop, membership: Membership) -> None:
    """Take a member out: their sessions and open links end at once, what they did stays.

    Raises
    ------
    CannotChange
        The last owner would be gone.
    """
    if not _other_owners(shop, membership):
        raise CannotChange("a shop needs an owner: make somebody else one first")
    user = membership.user
    withdraw_all(shop, by=user)
    membership.delete()
    sessions.end_all(user)


@transaction.atomic
def forget(shop: Shop, membership: Membership) -> bool:
    """Take a member out and their name with them, as they may ask; whether the name is gone.

    Jobs, papers and the record of who did what stay; the name in that record is kept, for it is
    only ever added to. Who belongs to another shop too is taken out of this one only.

    Raises
    ------
    CannotChange
        The last owner would be gone.
    """
    user = membership.user
    take_out(shop, membership)
    if user.memberships.exists():
        return False
    Authenticator.objects.filter(user=user).delete()
    EmailAddress.objects.filter(user=user).delete()
    user.username, user.first_name, user.last_name = f"{names.GONE}{user.pk}", "", ""
    user.email, user.is_active, user.last_login = "", False, None
    user.set_unusable_password()
    user.save()
    return True


def _only_here(membership: Membership) -> None:
    """An owner of one shop opens no door to another.

    Raises
    ------
    CannotChange
    """
    if membership.user.memberships.exclude(pk=membership.pk).exists():
        raise CannotChange(
            f"{membership.user} belongs to another shop too, so one owner cannot: they ask for a"
            " new password by mail themselves"
        )


def clear_second_steps(membership: Membership) -> int:
    """Take the second steps of somebody away who has lost them; how many there were.

    Raises
    ------
    CannotChange
        They belong to another shop too.
    """
    _only_here(membership)
    gone, _ = Authenticator.objects.filter(user=membership.user).delete()
    sessions.end_all(membership.user)
    return int(gone)


def password_link(membership: Membership) -> str:
    """The path of a page where a member sets a new password, good once and for two hours.

    Raises
    ------
    CannotChange
        They belong to another shop too.
    """
    _only_here(membership)
    user = membership.user
    where = user_pk_to_url_str(user) + "-" + default_token_generator.make_token(user)
    return reverse("account_reset_password_from_key", args=where.split("-", 1))
