"""The mail address of a person: it counts once they have shown that they read what is sent there.

What an owner wrote on a link, or somebody typed, is a claim. New passwords and notices go to an
address that was confirmed by a link sent to it; on a server that sends no mail, to none.
"""

from __future__ import annotations

from collections.abc import Iterable

from allauth.account.forms import ResetPasswordForm
from allauth.account.models import EmailAddress, EmailConfirmationHMAC
from allauth.account.signals import password_reset
from django.conf import settings
from django.db import transaction
from django.dispatch import receiver
from django.http import HttpRequest
from django.urls import reverse

from kyrtos.accounts import mail
from kyrtos.accounts.audit import note_everywhere
from kyrtos.accounts.login_throttle import address_of
from kyrtos.accounts.models import User
from kyrtos.config import public

_CONFIRM = """Somebody, probably you, says that this is the address of {user} on Kyrtos.

If it is yours, open this page and say so:

{link}

Only then are new passwords sent here. If you know nothing of it, do nothing.
"""
_CHANGED = """The address of {user} on Kyrtos is to be changed to another.

If it was not you, sign in, change your password, and tell the owner of your shop.
"""


def confirmed(user: User) -> str:
    """The address that a person has confirmed; '' where there is none."""
    held = EmailAddress.objects.filter(user=user, verified=True).order_by("-primary", "-pk").first()
    return held.email if held else ""


def confirmed_of(users: Iterable[User]) -> list[str]:
    """The confirmed addresses of several people."""
    return [address for user in users if (address := confirmed(user))]


def claimed(user: User) -> str:
    """The address that waits for being confirmed; '' where none does."""
    held = EmailAddress.objects.filter(user=user, verified=False).order_by("-pk").first()
    return held.email if held else ""


@transaction.atomic
def claim(user: User, address: str, request: HttpRequest) -> bool:
    """Note the address that somebody says is theirs; whether a link to confirm it was sent there.

    The one that was confirmed before stays in force until then, and is told.
    """
    EmailAddress.objects.filter(user=user, verified=False).delete()
    before = confirmed(user)
    if not address:
        EmailAddress.objects.filter(user=user).delete()
        User.objects.filter(pk=user.pk).update(email="")
        _tell_old(user, before)
        return False
    if address.lower() == before.lower():
        return False
    EmailAddress.objects.create(user=user, email=address, primary=not before, verified=False)
    if not before:
        user.email = address
        user.save(update_fields=["email"])
    _tell_old(user, before)
    return send_confirmation(user, request)


def _tell_old(user: User, before: str) -> None:
    if before:
        text = _CHANGED.format(user=user.username)
        mail.send("Kyrtos: your address is to be changed", text, [before], whose=_whose(user))


def _whose(user: User) -> int | None:
    """The shop to whose share a mail to a person counts."""
    return user.memberships.values_list("shop_id", flat=True).first()


def send_confirmation(user: User, request: HttpRequest) -> bool:
    """Send the link by which the address is confirmed; whether it went out."""
    held = EmailAddress.objects.filter(user=user, verified=False).order_by("-pk").first()
    if held is None or not settings.SENDS_MAIL:
        return False
    key = EmailConfirmationHMAC(held).key
    link = public.address(reverse("confirm-address", args=[key]))
    text = _CONFIRM.format(user=user.username, link=link)
    return mail.send("Kyrtos: is this your address?", text, [held.email], whose=_whose(user))


def waiting(key: str) -> EmailAddress | None:
    """The address of a link that was sent to it; None where it is too old, used or no such link."""
    found = EmailConfirmationHMAC.from_key(key)
    return found.email_address if found else None


@transaction.atomic
def confirm(address: EmailAddress, request: HttpRequest) -> bool:
    """It alone counts from now on; False where somebody else confirmed it meanwhile."""
    elsewhere = EmailAddress.objects.filter(email__iexact=address.email, verified=True)
    if elsewhere.exclude(user=address.user).exists():
        return False
    user = User.objects.select_for_update().get(pk=address.user_id)
    EmailAddress.objects.filter(user=user).exclude(pk=address.pk).delete()
    address.verified = address.primary = True
    address.save(update_fields=["verified", "primary"])
    user.email = address.email
    user.save(update_fields=["email"])
    note_everywhere(user, "address confirmed", address=address_of(request))
    return True


class ResetForm(ResetPasswordForm):  # type: ignore[misc]
    """A link for a new password goes to confirmed addresses only."""

    def clean_email(self) -> str:
        """The people of an address: none where it is not confirmed, in the same words."""
        typed = str(self.cleaned_data["email"])
        held = EmailAddress.objects.filter(
            email__iexact=typed, verified=True, user__is_active=True
        ).select_related("user")
        self.users = [one.user for one in held]
        return typed


@receiver(password_reset)
def _reset(request: HttpRequest, user: User, **_: object) -> None:
    """Every shop of the person hears of it."""
    note_everywhere(user, "new password by a link", address=address_of(request))
