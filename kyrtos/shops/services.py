"""What a shop decides for its pages."""

from __future__ import annotations

from typing import cast

from kyrtos.shops.models import Shop
from sizing.base.units import System


def system_of(shop: Shop) -> System:
    """The units a shop reads."""
    return cast(System, shop.units)
