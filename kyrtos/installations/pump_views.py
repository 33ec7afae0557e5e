"""One installed pump on the phone beside it: its page, events, reminders, readings."""

from __future__ import annotations

import uuid
from datetime import datetime
from functools import partial
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, can, may
from kyrtos.accounts.terms import system_of
from kyrtos.config.middleware import takes
from kyrtos.customers import photos
from kyrtos.customers.models import Place
from kyrtos.drawing.handover_chart import handover_chart
from kyrtos.installations import as_built, old_readings, pump_records, readings
from kyrtos.installations.forms import EventForm, ReminderForm
from kyrtos.installations.models import InstalledPump, ReadingSet
from kyrtos.installations.views import found, user_of
from kyrtos.installations.words import facts_of, reading_rows, trend_said, turns, wear_rows
from kyrtos.jobs import devices
from kyrtos.jobs.told_alone import told_alone
from kyrtos.shops import trouble
from kyrtos.worksheet.dialogs.commissioning import (
    compared_rows,
    read_fields,
    sign_of,
    verdict,
)
from sizing.aftercare.commissioning import typed_readings
from sizing.aftercare.commissioning.grades import GRADES, USUAL
from sizing.base.errors import SizingError

_QUEUED = "Kyrtos-Queued"
_LONGEST_TABLE = 1_000_000


def _context(
    request: ShopRequest,
    pump: InstalledPump,
    *,
    event: EventForm | None = None,
    reminder: ReminderForm | None = None,
) -> dict[str, Any]:
    system, shop = system_of(request.membership), request.membership.shop
    untold: dict[str, list[Any]] = {"facts": [], "sets": [], "wear": []}
    alone = partial(trouble.alone, shop, job=pump.job_id)
    return {
        "pump": pump,
        "facts": alone(
            "the facts of a pump", lambda: facts_of(pump, system, shop.currency), untold["facts"]
        ),
        "events": pump.events.select_related("user"),
        "reminders": pump.reminders.filter(done=None),
        "sets": alone("the readings of a pump", lambda: reading_rows(pump, system), untold["sets"]),
        "trend": alone("the trend of a pump", lambda: trend_said(pump), ""),
        "wear": alone("the wear of a pump", lambda: wear_rows(pump), untold["wear"]),
        "event": event or EventForm(initial={"token": uuid.uuid4()}),
        "reminder": reminder or ReminderForm(),
        "causes": pump_records.causes_of(pump.shop),
        "today": timezone.localdate(),
        "runs": pump.state == InstalledPump.State.RUNNING,
        "plate_problem": "",
    }


@require_safe
@may("see")
def page(request: ShopRequest, code: str) -> HttpResponse:
    """An installed pump: what it is, what happened, what is due, what was read."""
    return render(request, "installations/pump.html", _context(request, found(request, code)))


@require_POST
@may("edit job")
def add_event(request: ShopRequest, code: str) -> HttpResponse:
    """Note what happened."""
    pump = found(request, code)
    form = EventForm(request.POST)
    if not form.is_valid():
        return render(
            request, "installations/pump.html", _context(request, pump, event=form), status=422
        )
    try:
        is_new = not pump_records.is_kept(form.cleaned_data["token"])
        pump_records.happened(pump=pump, user=user_of(request), **form.cleaned_data)
    except pump_records.CannotBe as problem:
        form.add_error("on", f"{problem}.")
        context = _context(request, pump, event=form)
        return render(request, "installations/pump.html", context, status=422)
    except pump_records.UsedElsewhere as problem:
        form.add_error(None, f"{problem}.")
        context = _context(request, pump, event=form)
        return render(request, "installations/pump.html", context, status=422)
    if is_new:
        kind = form.cleaned_data["kind"]
        did(request, "event at a pump", f"{pump}: {kind}{_typist(request)}")
    if _QUEUED in request.headers:
        return _kept(is_new)
    return redirect("installed-pump", code=pump.code)


@require_POST
@may("edit job")
def take_back(request: ShopRequest, code: str, event_id: int) -> HttpResponse:
    """Something that was noted by mistake; sent twice, it is taken back once."""
    pump = found(request, code)
    one = pump.events.filter(pk=event_id).first()
    if one is not None:
        said = f"{one.get_kind_display()}, {one.on}: {one.cause} {one.text}".strip()
        pump_records.take_back(one)
        did(request, "event taken back", f"{pump}: {said}")
        messages.success(request, "Taken back; the record of the shop keeps what it said.")
    return redirect("installed-pump", code=pump.code)


@takes(photos.LARGEST_BYTES)
@require_POST
@may("edit job")
def plate(request: ShopRequest, code: str) -> HttpResponse:
    """A photo of its plate, kept with its site."""
    pump = found(request, code)
    sent = request.FILES.get("file")
    try:
        if sent is None:
            raise SizingError("choose a photo first")
        kept = photos.keep(
            site=pump.site, user=user_of(request), sent=sent, place=Place.PLATE, job=pump.job_id
        )
        InstalledPump.objects.filter(pk=pump.pk).update(plate=kept)
    except SizingError as problem:
        context = _context(request, pump) | {"plate_problem": str(problem)}
        return render(request, "installations/pump.html", context, status=422)
    return redirect("installed-pump", code=pump.code)


@require_POST
@may("edit job")
@once
def add_reminder(request: ShopRequest, code: str) -> HttpResponse:
    """Note what is to be done."""
    pump = found(request, code)
    form = ReminderForm(request.POST)
    if not form.is_valid():
        return render(
            request, "installations/pump.html", _context(request, pump, reminder=form), status=422
        )
    made = form.save(commit=False)
    made.pump = pump
    if made.due is None:
        made.due = pump_records.due_by_hours(pump, made.every_hours, timezone.localdate())
    made.save()
    return redirect("installed-pump", code=pump.code)


@require_POST
@may("edit job")
def reminder_done(request: ShopRequest, code: str, reminder_id: int) -> HttpResponse:
    """It was done, or is to be forgotten."""
    pump = found(request, code)
    with transaction.atomic():  # sent twice, it is done once
        one = pump.reminders.select_for_update().filter(pk=reminder_id, done=None).first()
        if one is not None and request.POST.get("do") == "forget":
            one.delete()
        elif one is not None:
            pump_records.done(one, timezone.localdate())
    return redirect("due" if request.POST.get("from") == "due" else pump_page(pump))


def pump_page(pump: InstalledPump) -> str:
    """The address of a pump's page."""
    return reverse("installed-pump", args=[pump.code])


def _moment(text: str) -> datetime | None:
    """When it was read, as a phone without a network wrote it; None for now or nonsense."""
    try:
        at = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        return None
    at = at if at.tzinfo else timezone.make_aware(at)
    return at if timezone.now().year - 2 <= at.year and at <= timezone.now() else None


def _token(text: str) -> uuid.UUID | None:
    try:
        return uuid.UUID(text)
    except ValueError:
        return None


@may("see")
@told_alone("the readings of a pump")
def commission(request: ShopRequest, code: str) -> HttpResponse:
    """Readings typed beside the pump: judged as they are typed, kept when asked."""
    pump, system = found(request, code), system_of(request.membership)
    asked = request.POST if request.method == "POST" else request.GET
    given = {key: asked.get(key, "") for key in (*typed_readings.FIELDS, "unsteady")}
    problem = ""
    if request.method == "GET" and asked.get("devices"):
        try:
            given |= readings.from_devices()
        except SizingError as told:
            problem = str(told)
    judged = readings.judge(pump, given, system)
    if request.method == "POST" and request.POST.get("do"):  # only looked at: no token in a link
        looked = {key: text for key, text in given.items() if text}
        looked |= {"devices": "1"} if request.POST["do"] == "devices" else {}
        return redirect(f"{reverse('commission', args=[pump.code])}?{urlencode(looked)}")
    if request.method == "POST":
        return _keep(request, pump, judged)
    context = _reading_page(request, pump, judged)
    context["problem"] = problem or context["problem"]
    return render(request, "installations/commission.html", context)


def _reading_page(
    request: ShopRequest, pump: InstalledPump, judged: readings.Judged
) -> dict[str, Any]:
    system, shown = system_of(request.membership), judged.found
    promise = pump_records.promise_for(pump)
    usual = dict.fromkeys(typed_readings.FIELDS, "")
    if promise is not None:
        usual = typed_readings.usual(promise, system)
    code = request.GET.get("grade", USUAL)
    return {
        "pump": pump,
        "fields": read_fields(judged.typed, usual),
        "unsteady": judged.unsteady,
        "read_at": request.POST.get("read_at", ""),
        "token": uuid.uuid4(),
        "state": "" if shown is None else sign_of(shown.diagnosis.code),
        "verdict": "" if shown is None else verdict(shown),
        "look": "" if shown is None else shown.diagnosis.look,
        "rows": () if shown is None else (*compared_rows(shown, system), *turns(pump, judged)),
        "chart": None
        if shown is None
        else handover_chart(shown, system, code if code in GRADES else USUAL),
        "grades": list(GRADES),
        "devices": devices.known(),
        "problem": judged.problem,
        "surer": "" if shown is None else as_built.surer(shown),
    }


def _keep(request: ShopRequest, pump: InstalledPump, judged: readings.Judged) -> HttpResponse:
    if not can(request.membership, "edit job"):
        return HttpResponse("Your role looks at everything and changes nothing.", status=403)
    context = _reading_page(request, pump, judged)
    if judged.typed.problems or not judged.typed.read:
        context["problem"] = "Nothing was kept: type at least one reading that can be read."
        return render(request, "installations/commission.html", context, status=422)
    on, told = _moment(request.POST.get("at", "")), request.POST.get("read_at", "")[:40]
    try:
        on = old_readings.moment(told) if told.strip() else on
    except SizingError as problem:
        context |= {"moment_problem": str(problem), "problem": "Nothing was kept: see “Read at”."}
        return render(request, "installations/commission.html", context, status=422)
    try:
        kept, is_new = readings.keep(
            pump=pump,
            user=user_of(request),
            judged_as=judged,
            system=system_of(request.membership),
            on=on,
            token=_token(request.POST.get("token", "")),
        )
    except pump_records.UsedElsewhere as told:
        context["problem"] = f"Nothing was kept: {told}."
        return render(request, "installations/commission.html", context, status=422)
    if request.POST.get("handed_over"):
        pump_records.happened(
            pump=pump,
            user=user_of(request),
            kind="handed_over",
            on=timezone.localtime(kept.on).date(),
            text=kept.diagnosis.replace("_", " "),
            token=uuid.uuid5(kept.token, "handed over"),
        )
    if is_new:
        about = f"{pump}: {kept.diagnosis or 'not compared'}{_typist(request)}"
        did(request, "readings kept", about)
    if _QUEUED in request.headers:
        return _kept(is_new)
    return redirect("readings", code=pump.code, set_id=kept.pk)


@takes(_LONGEST_TABLE)
@may("edit job")
def before(request: ShopRequest, code: str) -> HttpResponse:
    """Readings of before, as a table: all of them or none."""
    pump = found(request, code)
    context: dict[str, Any] = {"pump": pump, "names": ", ".join(typed_readings.FIELDS)}
    if request.method != "POST":
        blank = context | {"problems": [], "text": ""}
        return render(request, "installations/old_readings.html", blank)
    text, file = request.POST.get("rows", "")[:_LONGEST_TABLE], request.FILES.get("file")
    content = text.encode() if file is None else file.read(_LONGEST_TABLE)
    try:
        taken = old_readings.take_in(pump, user_of(request), content, system_of(request.membership))
    except old_readings.CannotTake as told:
        again = context | {"problems": told.problems, "text": text}
        return render(request, "installations/old_readings.html", again, status=422)
    said = f"{taken.new} kept" + (f", {taken.known} were there already" if taken.known else "")
    did(request, "readings of before kept", f"{pump}: {said}")
    messages.success(request, f"{said}.")
    return redirect("installed-pump", code=pump.code)


def _typist(request: ShopRequest) -> str:
    """Who typed what another person sends from the same phone, as it stands in the record."""
    name = " ".join(request.POST.get("typed_by", "").split())[:80]
    return f", typed by {name}" if name else ""


def _kept(is_new: bool) -> HttpResponse:
    """The answer to a phone that sends what it had kept."""
    return HttpResponse("kept" if is_new else "kept already", content_type="text/plain")


@require_safe
@may("see")
@told_alone("the readings of a pump")
def reading_set(request: ShopRequest, code: str, set_id: int) -> HttpResponse:
    """A set of readings as it was kept, judged anew, with its chart."""
    pump = found(request, code)
    kept = get_object_or_404(pump.readings.select_related("user"), pk=set_id)
    judged = readings.again(kept)
    context = _reading_page(request, pump, judged) | {"kept": kept}
    return render(request, "installations/commission.html", context)


@require_POST
@may("edit job")
@told_alone("the readings of a pump")
def take_as_built(request: ShopRequest, code: str, set_id: int) -> HttpResponse:
    """Take the K that was measured into the job and the site, as built."""
    pump = found(request, code)
    kept: ReadingSet = get_object_or_404(pump.readings, pk=set_id)
    try:
        said = as_built.take(pump, kept, user_of(request))
        messages.success(request, said)
        did(request, "measured K taken into the job", str(pump))
    except SizingError as problem:
        messages.error(request, f"Nothing was changed: {problem}.")
    return redirect("readings", code=pump.code, set_id=kept.pk)
