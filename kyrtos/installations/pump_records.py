"""Installed pumps: put in, what happened to them, what is due, replaced."""

from __future__ import annotations

import calendar
import uuid
from datetime import date, timedelta
from typing import Any, TypeVar

from django.db import transaction
from django.db.models import Q, QuerySet, Value
from django.db.models.functions import Concat, Trim
from django.dispatch import receiver
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import CURVE, PLAIN, to_pump
from kyrtos.customers import merging
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.forgetting import Done, customer_forgotten
from kyrtos.customers.models import Customer, Site
from kyrtos.installations import days
from kyrtos.installations.models import Event, InstalledPump, ReadingSet, Reminder
from kyrtos.jobs.models import Job
from kyrtos.jobs.services import current, size_alone, size_document
from kyrtos.shops import quota, trouble
from kyrtos.shops.merges import Moved, repoint
from kyrtos.shops.models import Shop
from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.promise import promise_of as promise_kept
from sizing.analysis.changed import known
from sizing.analysis.commissioning import promise_of
from sizing.base import tables, units
from sizing.base.errors import SizingError
from sizing.pump.catalogue import Pump
from sizing.pump.identity import identity
from sizing.pump.record import pump_of, record

CAUSES = (
    "wore out",
    "jammed or clogged",
    "seal or bearing",
    "motor burnt",
    "capacitor or electronics",
    "float or switch",
    "cable or supply",
    "ran dry",
    "froze",
    "short cycling",
    "flooded or lightning",
)
_MONTHS_A_YEAR = 12
_LAST_MONTH = date.max.year * _MONTHS_A_YEAR + 11
DAYS_A_MONTH = 30.4375
_ENDS = {
    Event.Kind.FAILED: InstalledPump.State.FAILED,
    Event.Kind.TAKEN_OUT: InstalledPump.State.OUT,
    Event.Kind.REPLACED: InstalledPump.State.OUT,
}
_KIND_OF = {
    InstalledPump.State.FAILED: Event.Kind.FAILED,
    InstalledPump.State.OUT: Event.Kind.TAKEN_OUT,
}
_TURNS = {
    Event.Kind.FAILED: "failed",
    Event.Kind.TAKEN_OUT: "been taken out",
    Event.Kind.REPLACED: "been replaced",
    Event.Kind.REPAIRED: "been repaired",
}
_WARN_BEFORE_END = timedelta(days=30)


def causes_of(shop: Shop) -> list[str]:
    """Why pumps fail, in this shop's words too: the list grows with what it writes."""
    own = (
        Event.objects.filter(pump__shop=shop)
        .exclude(cause="")
        .order_by("cause")
        .values_list("cause", flat=True)
        .distinct()[:200]
    )
    return list(dict.fromkeys([*CAUSES, *own]))


def entry_named(shop: Shop, maker: str, model: str) -> Pump | None:
    """The pump of the catalogue that a plate means."""
    rows = CatalogueEntry.objects.filter(shop=shop)
    row = rows.filter(identity=identity(maker, model)).values(*PLAIN, *CURVE).first()
    if row is None and maker and model:
        whole = Trim(Concat("model", Value(" "), "variant"))
        alike = rows.annotate(whole=whole).filter(maker__iexact=maker, whole__iexact=model)
        row = alike.values(*PLAIN, *CURVE).first()
    return None if row is None else to_pump(row)


def promise_from(job: Job) -> dict[str, Any]:
    """What a job's sizing promises of its pump; {} where it promises nothing that can be read."""

    def promised() -> dict[str, Any]:
        try:
            return promise_of(known(size_document(job.shop, current(job)))).record()
        except SizingError:
            return {}

    return trouble.alone(job.shop, "what is promised of a pump", promised, {}, job.pk)


def draft_from(job: Job) -> InstalledPump:
    """A pump to be put in for a job, filled with what the job and its paper know."""
    sizing = size_alone(job.shop, current(job), job)
    paper = job.papers.first()
    pump = sizing.chosen.candidate.pump if sizing and sizing.chosen else None
    draft = InstalledPump(shop=job.shop, job=job, paper=paper, kind=job.kind)
    if paper is not None and paper.pump_record is not None:
        pump = pump_of(paper.pump_record)  # what was sold, whatever the sheet says now
    if pump is not None:
        _filled_by(draft, pump)
    if job.site_record is not None:
        draft.site = job.site_record
    if sizing is not None and sizing.facts.asks("hours_per_year"):
        seconds = sizing.facts.optional("hours_per_year")
        draft.hours_per_year = None if seconds is None else units.unit("h", "time").from_si(seconds)
    return draft


def _filled_by(draft: InstalledPump, pump: Pump) -> None:
    draft.pump_id, draft.maker, draft.family = pump.pump_id, pump.maker, pump.family
    draft.model = " ".join(filter(None, (pump.model, pump.variant)))
    draft.record = record(pump)
    draft.price = pump.price if draft.price is None else draft.price


def recorded_anew(pump: InstalledPump) -> None:
    """Another maker or model was meant: its record is that one's, or none; saved by who asks."""
    known = entry_named(pump.shop, pump.maker, pump.model)
    pump.record, pump.pump_id = None, ""
    if known is not None:
        _filled_by(pump, known)


@transaction.atomic
def put_in(draft: InstalledPump) -> InstalledPump:
    """Keep a pump that was put in, with what is due at it.

    Raises
    ------
    NoMoreRoom
        The shop keeps as many as it may.
    """
    quota.check("installed pumps", draft.shop.installed.count())
    if draft.record is None:
        pump = entry_named(draft.shop, draft.maker, draft.model)
        if pump is not None:
            _filled_by(draft, pump)
    if draft.job is not None and not draft.promised:
        draft.promised = promise_from(draft.job)
    draft.save()
    if draft.state != InstalledPump.State.RUNNING and draft.ended:  # as a list told it
        kind = _KIND_OF[InstalledPump.State(draft.state)]
        Event.objects.create(pump=draft, kind=kind, on=draft.ended, cause=draft.cause)
    if draft.state == InstalledPump.State.RUNNING:
        _first_reminders(draft)
    return draft


def _first_reminders(pump: InstalledPump) -> None:
    """What the custom of its family is, and the end of its warranty; nothing of years ago."""
    today = timezone.localdate()
    since = pump.installed or today
    for row in tables.rows("service_intervals"):
        if row["family"] != pump.family:
            continue
        months = int(row["months"])
        season = row["season_month"]
        due = _next_season(since, int(season)) if season else later(since, months)
        while due < today:
            due = later(due, months)
        Reminder.objects.create(pump=pump, text=row["what"], due=due, every_months=months)
    if pump.warranty_until and pump.warranty_until >= today:
        Reminder.objects.create(
            pump=pump,
            text="the warranty ends: look at it once more before",
            due=pump.warranty_until - _WARN_BEFORE_END,
        )


def _next_season(since: date, month: int) -> date:
    this_year = date(since.year, month, 1)
    return this_year if this_year > since else date(since.year + 1, month, 1)


def later(day: date, months: int) -> date:
    """The same day so many months on; the last of a month that has not so many days."""
    at = day.year * _MONTHS_A_YEAR + day.month - 1 + months
    year, month = divmod(min(at, _LAST_MONTH), _MONTHS_A_YEAR)
    last = calendar.monthrange(year, month + 1)[1]
    return date(year, month + 1, min(day.day, last))


def pump_of_record(pump: InstalledPump) -> Pump | None:
    """The pump as it was when it went in; None where only its plate is known."""
    return None if pump.record is None else pump_of(pump.record)


def promise_for(pump: InstalledPump) -> Promise | None:
    """What was promised of it; None where no job was."""
    return promise_kept(pump.promised) if pump.promised else None


class UsedElsewhere(SizingError):
    """A form whose token was sent from another pump's page."""


Sent = TypeVar("Sent", Event, ReadingSet)


_SAME = {"typed", "kind", "cause", "text"}  # what tells one thing from another


class CannotBe(SizingError):
    """Something that cannot have happened then; the text says why."""


def once(
    model: type[Sent], pump: InstalledPump, token: uuid.UUID | None, made: dict[str, Any]
) -> tuple[Sent, bool]:
    """What was sent under a token, kept once however often and at once it comes; whether it is new.

    Other words under the same token are another thing: from an old page, opened again.

    Raises
    ------
    UsedElsewhere
    """
    token = token or uuid.uuid4()
    row, is_new = model._default_manager.get_or_create(token=token, defaults=made | {"pump": pump})
    if row.pump_id != pump.pk:
        raise UsedElsewhere(
            "this form was sent from another pump's page: open this pump's page anew and type it"
            " there; nothing was kept"
        )
    if not is_new and any(getattr(row, name) != made[name] for name in _SAME & made.keys()):
        raise UsedElsewhere(
            "something else was sent from this form already and is kept; look whether this is new"
            " as well, then send it again"
        )
    return row, is_new


def is_kept(token: uuid.UUID | None) -> bool:
    """Whether an event was kept under a token already."""
    return token is not None and Event.objects.filter(token=token).exists()


@transaction.atomic
def happened(
    *,
    pump: InstalledPump,
    user: User,
    kind: str,
    on: date,
    cause: str = "",
    text: str = "",
    cost: float | None = None,
    hours: float | None = None,
    token: uuid.UUID | None = None,
) -> Event:
    """Note what happened to a pump; what ends or mends it tells its state, by its day.

    The same ``token`` again is the same event, sent twice or at once.

    Raises
    ------
    UsedElsewhere
        The token is that of another pump's event.
    CannotBe
        It happened before the pump went in.
    """
    if kind in _TURNS and pump.installed and on < pump.installed:
        raise CannotBe(
            f"the pump went in on {pump.installed}: it cannot have {_TURNS[Event.Kind(kind)]} on"
            f" {on}; put one of the two days right"
        )
    told = {"user": user, "kind": kind, "on": on, "cause": cause, "text": text}
    made, is_new = once(Event, pump, token, told | {"cost": cost, "hours": hours})
    if not is_new:
        return made
    work_out_state(pump)
    if kind == Event.Kind.SERVICED:
        for reminder in pump.reminders.filter(done=None, due__lte=on + timedelta(days=31)):
            done(reminder, on)
    return made


def work_out_state(pump: InstalledPump) -> None:
    """Its state by all that happened, in the order of the days, however late it was typed.

    The first end since it was last mended counts: what failed and was then taken out has failed. A
    state of before there were events stands, until something happens after it.
    """
    rows = list(pump.events.filter(kind__in=_TURNS).order_by("on", "pk"))
    turns = [(one.on, str(one.kind), one.cause) for one in rows]
    if pump.state != InstalledPump.State.RUNNING and not any(kind in _ENDS for _, kind, _ in turns):
        first = str(_KIND_OF[InstalledPump.State(pump.state)])
        turns = sorted([(pump.ended or pump.installed or days.FIRST, first, pump.cause), *turns])
    state, ended, why = InstalledPump.State.RUNNING, None, ""
    for on, kind, cause in turns:
        if kind == Event.Kind.REPAIRED:
            state, ended, why = InstalledPump.State.RUNNING, None, ""
        elif ended is None:
            state, ended, why = _ENDS[Event.Kind(kind)], on, cause
        else:
            why = why or cause
    pump.state, pump.ended, pump.cause = state, ended, why
    pump.save(update_fields=["state", "ended", "cause"])


@transaction.atomic
def take_back(event: Event) -> None:
    """Something that was noted by mistake did not happen; the state of its pump follows."""
    pump = InstalledPump.objects.select_for_update(of=("self",)).get(pk=event.pump_id)
    event.delete()
    if event.kind in _ENDS and not pump.events.filter(kind__in=_ENDS).exists():
        pump.state, pump.ended, pump.cause = InstalledPump.State.RUNNING, None, ""
    work_out_state(pump)


@transaction.atomic
def replaced(*, old: InstalledPump, new: InstalledPump, user: User, on: date) -> None:
    """Another pump stands in the place of one."""
    if old.state == InstalledPump.State.RUNNING:
        happened(pump=old, user=user, kind=Event.Kind.REPLACED, on=on, text=f"by {new}")
    InstalledPump.objects.filter(pk=old.pk).update(replaced_by=new)
    old.reminders.filter(done=None).delete()


def due(shop: Shop, until: date) -> QuerySet[Reminder]:
    """What is due at pumps that run, until a day, what is late first."""
    return (
        Reminder.objects.filter(
            pump__shop=shop, pump__state=InstalledPump.State.RUNNING, done=None, due__lte=until
        )
        .select_related("pump__site__customer")
        .order_by("due", "pk")
    )


def due_by_hours(pump: InstalledPump, every_hours: int, since: date) -> date:
    """When so many running hours will be over, by the counter if it was read twice.

    Else by the hours a year that it was to run; a year on where not even that is known. One that
    hardly runs is looked at within thirty years.
    """
    per_day = hours_per_day(pump)
    days_on = every_hours / per_day if per_day else 365
    return since + timedelta(days=min(days_on, days.PLANNED.days))


def hours_per_day(pump: InstalledPump) -> float | None:
    """How long it runs a day: between the first and the last time its counter was read."""
    rows = pump.events.order_by("on").values_list("on", "hours")
    read = [(on, hours) for on, hours in rows if hours is not None]
    if len(read) > 1 and read[-1][0] > read[0][0] and read[-1][1] > read[0][1]:
        return (read[-1][1] - read[0][1]) / (read[-1][0] - read[0][0]).days
    return pump.hours_per_year / 365 if pump.hours_per_year else None


def done(reminder: Reminder, on: date) -> None:
    """It was done; what comes round again is due again."""
    Reminder.objects.filter(pk=reminder.pk).update(done=on)
    again = None
    if reminder.every_hours:
        again = due_by_hours(reminder.pump, reminder.every_hours, on)
    elif reminder.every_months:
        again = later(reminder.due if _is_season(reminder) else on, reminder.every_months)
    if again is not None:
        Reminder.objects.create(
            pump=reminder.pump,
            text=reminder.text,
            due=again,
            every_months=reminder.every_months,
            every_hours=reminder.every_hours,
        )


def _is_season(reminder: Reminder) -> bool:
    return any(
        row["season_month"] and row["what"] == reminder.text
        for row in tables.rows("service_intervals")
    )


def search(shop: Shop, *, words: str = "", state: str = "") -> QuerySet[InstalledPump]:
    """Pumps by anything written of them, their site or customer."""
    rows = shop.installed.select_related("site__customer")
    for word in words.split():
        key = word.casefold()
        rows = rows.filter(
            Q(model__icontains=word)
            | Q(maker__icontains=word)
            | Q(serial__icontains=word)
            | Q(code__iexact=word)
            | Q(place__icontains=word)
            | Q(site__known_as__contains=key)
            | Q(site__customer__known_as__contains=key)
        )
    if state:
        rows = rows.filter(state=state)
    return rows


@receiver(customer_forgotten)
def _forgotten(customer: Customer, names: Names, **_: Any) -> list[Done]:
    """What was written at pumps, theirs and others, does not name them either."""
    pumps = InstalledPump.objects.filter(shop=customer.shop_id)
    theirs = pumps.filter(site__customer=customer).count()
    places = names.cross_out(pumps, "place", "settings", "parts")
    events = names.cross_out(Event.objects.filter(pump__shop=customer.shop_id), "text")
    due = names.cross_out(Reminder.objects.filter(pump__shop=customer.shop_id), "text")
    return [
        Done("installed pumps at their sites", theirs, "stay on record, at a site without a name"),
        Done("installed pumps whose place, settings or parts name them", places, "crossed out"),
        Done("events", events, "crossed out"),
        Done("reminders", due, "crossed out"),
    ]


@receiver(merging.sites_merged)
def _sites_merged(stays: Site, goes: Site, **_: Any) -> list[Moved]:
    return [repoint(InstalledPump.objects.filter(site=goes), "site_id", stays.pk)]
