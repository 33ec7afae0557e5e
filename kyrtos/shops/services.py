"""What a shop decides for its pages and for the jobs that it begins."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from copy import copy
from typing import cast

from kyrtos.shops.logo import NoLogo, redrawn
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.start import Terms
from sizing.storage import basin_list
from sizing.storage.basin_list import OnSale


def terms_of(shop: Shop, system: System) -> Terms:
    """What a new job of the shop begins with; what it does not name is as usual in its region."""
    return Terms(
        system=system,
        voltage_v=shop.voltage_v,
        phases=shop.phases,
        frequency_hz=shop.frequency_hz,
        pipes=cast("dict[str, str]", shop.own_pipes),
        fittings=shop.own_fittings,
    )


def basins_of(shop: Shop) -> tuple[OnSale, ...]:
    """The basins that a shop sells; none where it keeps no list (or one that is not read)."""
    try:
        return basin_list.read(shop.basins, "metric")
    except SizingError:
        return ()


_LETTERHEAD = (
    "name",
    "address",
    "phone",
    "licence",
    "terms",
    "currency",
    "paper_size",
    "logo_type",
)


def letterhead_of(shop: Shop) -> dict[str, str]:
    """The shop as it stands on a paper, to be kept with it."""
    logo = base64.b64encode(bytes(shop.logo)).decode() if shop.logo else ""
    return {name: str(getattr(shop, name)) for name in _LETTERHEAD} | {"logo": logo}


def letterhead_judged(came: object) -> dict[str, str] | None:
    """A letterhead that came in a shop's file, its logo drawn anew; None where it is none."""
    if not isinstance(came, dict) or set(came) != {*_LETTERHEAD, "logo"}:
        return None
    if not all(isinstance(one, str) for one in came.values()):
        return None
    held = {name: came[name][:3000] for name in _LETTERHEAD} | {"logo": "", "logo_type": ""}
    try:
        if came["logo"]:
            content, held["logo_type"] = redrawn(base64.b64decode(came["logo"]))
            held["logo"] = base64.b64encode(content).decode()
    except (NoLogo, ValueError):
        return None
    return held


def as_on_paper(shop: Shop, letterhead: Mapping[str, str] | None) -> Shop:
    """The shop as it stood when a paper was issued; as it is now where that was not kept."""
    if letterhead is None:
        return shop
    then = copy(shop)
    for name in _LETTERHEAD:
        setattr(then, name, letterhead[name])
    then.logo = base64.b64decode(letterhead["logo"])
    return then


def logo_address(shop: Shop) -> str:
    """The logo as an address that holds the picture itself; '' without one."""
    if not shop.logo:
        return ""
    return f"data:{shop.logo_type};base64,{base64.b64encode(bytes(shop.logo)).decode()}"
