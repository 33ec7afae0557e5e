"""Mails of what is due at a shop's pumps: to its owners, each thing once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import date, timedelta

from django.conf import settings
from django.utils import timezone

from kyrtos.accounts import mail
from kyrtos.accounts.addresses import confirmed_of
from kyrtos.accounts.models import Role
from kyrtos.installations import pump_records
from kyrtos.installations.models import Reminder
from kyrtos.shops import trouble
from kyrtos.shops.models import Shop

AHEAD = timedelta(days=7)


MORNING = 5  # o'clock in the shop


def where_it_is_morning() -> list[Shop]:
    """The shops that are told in this hour."""
    return [
        shop
        for shop in Shop.objects.all()
        if timezone.localtime(timezone=shop.zone).hour == MORNING
    ]


def tell_all(shops: Iterable[Shop] | None = None) -> int:
    """Tell these shops, or every one; how many were told something."""
    if not settings.SENDS_MAIL:
        return 0
    told = 0
    for shop in (
        Shop.objects.all() if shops is None else shops
    ):  # the fault of one is noted there, and the others go on
        told += bool(trouble.alone(shop, "the mail of what is due", _told_today(shop), False))
    return told


def _told_today(shop: Shop) -> Callable[[], bool]:
    return lambda: tell(shop, timezone.localdate(timezone=shop.zone))


def tell(shop: Shop, today: date) -> bool:
    """One mail of all that is due within a week and was not told yet; whether it went out."""
    rows = list(pump_records.due(shop, today + AHEAD).filter(told=None)[:200])
    owners = shop.memberships.filter(role=Role.OWNER).select_related("user")
    to = confirmed_of(one.user for one in owners)
    if not rows or not to:
        return False
    lines = [
        f"{one.due}  {one.pump}, {one.pump.site}{_of(one)}: {one.text}  [{one.pump.code}]"
        for one in rows
    ]
    text = "Due at pumps that you put in:\n\n" + "\n".join(lines) + "\n"
    if not mail.send(f"{shop.name}: {len(rows)} due at pumps", text, to, whose=shop.pk):
        return False
    Reminder.objects.filter(pk__in=[one.pk for one in rows]).update(told=today)
    return True


def _of(one: Reminder) -> str:
    customer = one.pump.site.customer
    return f" ({customer})" if customer else ""
