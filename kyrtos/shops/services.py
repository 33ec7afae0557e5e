"""What a shop decides for its pages and for the jobs that it begins."""

from __future__ import annotations

import base64
from typing import cast

from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.start import Terms
from sizing.storage import basin_list
from sizing.storage.basin_list import OnSale

_HERTZ_US = 60.0
_VOLTS_US = 115.0


def terms_of(shop: Shop, system: System) -> Terms:
    """What a new job of the shop begins with; in US units the US supply, unless it has another."""
    us = system == "us"
    return Terms(
        system=system,
        voltage_v=shop.voltage_v or (_VOLTS_US if us else None),
        phases=shop.phases,
        frequency_hz=shop.frequency_hz or (_HERTZ_US if us else None),
        pipes=cast("dict[str, str]", shop.own_pipes),
        fittings=shop.own_fittings,
    )


def basins_of(shop: Shop) -> tuple[OnSale, ...]:
    """The basins that a shop sells; none where it keeps no list (or one that is not read)."""
    try:
        return basin_list.read(shop.basins, "metric")
    except SizingError:
        return ()


def logo_address(shop: Shop) -> str:
    """The logo as an address that holds the picture itself; '' without one."""
    if not shop.logo:
        return ""
    return f"data:{shop.logo_type};base64,{base64.b64encode(bytes(shop.logo)).decode()}"
