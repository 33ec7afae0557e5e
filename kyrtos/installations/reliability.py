"""The shop's own pumps as what is known of how long pumps last."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, timedelta

from django.db.models import F, Q, QuerySet, Sum
from django.utils import timezone

from kyrtos.installations import days
from kyrtos.installations.models import InstalledPump
from kyrtos.shops.models import Shop
from sizing.aftercare.reliability.cost_of_a_year import GroupLife, Served, grouped
from sizing.aftercare.reliability.survival import Lifetimes, Spell, lifetimes
from sizing.base.units import DAYS_PER_YEAR
from sizing.kinds import kinds
from sizing.pump.catalogue_columns import families

PRICE_PER_KWH = 0.30  # the household tariff that a job begins with
GROUPS = ("model", "family", "maker", "cause", "kind")


def known(shop: Shop, **only: str) -> QuerySet[InstalledPump]:
    """Pumps whose day of putting in is known, with what their repairs cost.

    Days that cannot be teach nothing (:func:`impossible`). Of the record and the promise only what
    is asked here is read: thousands are looked through.
    """
    return (
        shop.installed.exclude(installed=None)
        .exclude(_impossible())
        .filter(**only)
        .annotate(
            spent=Sum("events__cost"),
            powers_w=F("record__curve__powers_w"),
            starts_per_s=F("promised__starts_per_s"),
        )
        .defer("record", "promised", "settings", "parts")
        .order_by("pk")
    )


def _impossible() -> Q:
    last = timezone.localdate() + days.TOMORROW
    return (
        Q(installed__lt=days.FIRST)
        | Q(installed__gt=last)
        | Q(ended__gt=last)
        | Q(ended__lt=F("installed"))
    )


def impossible(shop: Shop) -> QuerySet[InstalledPump]:
    """Pumps whose days cannot be: put in before 1950, or ended before that or in the future."""
    return shop.installed.filter(_impossible()).order_by("pk")


_JUST_PUT_IN = timedelta(days=31)


def record_begins(installed: date | None) -> date | None:
    """Today for a pump that is found standing since long; None for one that goes in now.

    Of its like that failed before, nobody wrote anything down: it counts from today's age on.
    """
    today = timezone.localdate()
    return today if installed is not None and today - installed > _JUST_PUT_IN else None


def spell_of(pump: InstalledPump, today: date) -> Spell:
    """How long it stood; only one that failed counts as failed, one taken out well is censored."""
    assert pump.installed is not None  # known() holds no other
    until = pump.ended or today
    years = max((until - pump.installed).days, 0) / DAYS_PER_YEAR
    late = (pump.known_since - pump.installed).days if pump.known_since else 0
    entry = min(max(late, 0) / DAYS_PER_YEAR, years)
    return Spell(years, pump.state == InstalledPump.State.FAILED, entry)


def _failed(pump: InstalledPump) -> bool:
    """One that was replaced because it had failed is marked failed before it is replaced."""
    return pump.state == InstalledPump.State.FAILED


def group_of(pump: InstalledPump, by: str) -> str:
    """What a pump is called in a grouping."""
    if by == "model":
        return pump.name
    if by == "family":
        return families().get(pump.family, pump.family or "not known")
    if by == "maker":
        return pump.maker or "not known"
    if by == "cause":
        return (pump.cause or "not told") if _failed(pump) else "still running or taken out"
    return kinds()[pump.kind].label if pump.kind in kinds() else "not known"


def served(pump: InstalledPump, by: str, today: date) -> Served:
    """A pump as the core reckons with it."""
    powers = getattr(pump, "powers_w", None)
    power = powers[len(powers) // 2] if powers else None
    return Served(
        group=group_of(pump, by),
        spell=spell_of(pump, today),
        price=pump.price,
        repairs=getattr(pump, "spent", None) or 0.0,
        input_power_w=power,
        hours_per_year=pump.hours_per_year,
        cause=pump.cause,
    )


def by_group(
    shop: Shop, by: str, price_per_kwh: float, today: date, **only: str
) -> tuple[GroupLife, ...]:
    """Every group of a shop's pumps."""
    return grouped((served(one, by, today) for one in known(shop, **only)), price_per_kwh)


def together(pumps: Iterable[InstalledPump], today: date) -> Lifetimes:
    """All of some pumps; raises SizingError where there is none."""
    return lifetimes([spell_of(one, today) for one in pumps])


def early(shop: Shop, today: date) -> list[tuple[InstalledPump, float, float | None]]:
    """What failed within two years: the pump, its years, and the starts an hour promised."""
    found = []
    for one in known(shop, state=InstalledPump.State.FAILED).select_related("site", "job"):
        years = spell_of(one, today).years
        if years < 2.0:
            found.append((one, years, getattr(one, "starts_per_s", None)))
    return sorted(found, key=lambda row: row[1])
