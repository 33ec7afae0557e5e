"""On whose terms a page is made: a person's own settings over those of the shop."""

from __future__ import annotations

from typing import cast

from kyrtos.accounts.models import Membership
from sizing.base.reader import Dates, Reader, Style
from sizing.base.units import System


def system_of(membership: Membership) -> System:
    """The system of units that a member reads, and begins jobs in."""
    return cast(System, membership.units or membership.shop.units)


def reader_of(membership: Membership) -> Reader:
    """The units of single quantities, the decimal mark and the dates of a member."""
    shop = membership.shop
    return Reader(
        units={**shop.own_units, **membership.own_units},
        style=cast(Style, membership.numbers or shop.numbers),
        dates=cast(Dates, membership.dates or shop.dates),
    )
