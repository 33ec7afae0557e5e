"""The first shop of an empty server: whoever can read the server's own words makes it."""

from __future__ import annotations

import hashlib
import hmac

from django.conf import settings
from django.db import transaction

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.shops.models import Shop


def is_empty() -> bool:
    """Whether there is no shop yet."""
    return not Shop.objects.exists()


def code() -> str:
    """What the first-run page asks for; ./run serve prints it while there is no shop."""
    key = settings.SECRET_KEY.encode()
    return hmac.new(key, b"first run", hashlib.sha256).hexdigest()[:12]


def is_code(typed: str) -> bool:
    """Whether somebody typed it."""
    return hmac.compare_digest(typed.strip().lower().encode(), code().encode())


@transaction.atomic
def begin(user: User, **shop: str) -> Membership:
    """Make the first shop and its owner; twice at once makes one.

    Raises
    ------
    ValueError
        There is a shop already.
    """
    Shop.objects.select_for_update().count()
    if not is_empty():
        raise ValueError("there is a shop already")
    user.save()
    return Membership.objects.create(user=user, shop=Shop.objects.create(**shop), role=Role.OWNER)
