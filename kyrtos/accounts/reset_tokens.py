"""Links for a new password: judged again when they are used."""

from __future__ import annotations

from typing import Any

from allauth.account.models import EmailAddress
from django.contrib.auth.tokens import PasswordResetTokenGenerator

from kyrtos.accounts.models import Membership, Role


class ResetTokens(PasswordResetTokenGenerator):
    """A link dies when the person joins or leaves a shop, or confirms another address.

    An owner may make one for somebody who is only here: it must not open the next shop's door, nor
    this one's when that owner is none any more. So it dies with the owners of the person's shops.
    """

    def _make_hash_value(self, user: Any, timestamp: int) -> str:
        shops = user.memberships.order_by("shop_id").values_list("shop_id", flat=True)
        held = EmailAddress.objects.filter(user=user, verified=True).order_by("email")
        owners = Membership.objects.filter(shop__memberships__user=user, role=Role.OWNER)
        own = owners.order_by("pk").values_list("pk", flat=True)
        known = [*map(str, shops), *held.values_list("email", flat=True), *map(str, own)]
        return super()._make_hash_value(user, timestamp) + "|".join(known)
