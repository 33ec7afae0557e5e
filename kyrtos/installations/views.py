"""Installed pumps: the list, one of them, put in and changed, labels, lists out and in."""

from __future__ import annotations

from copy import copy
from datetime import timedelta
from typing import cast
from uuid import UUID

from django.core.paginator import Paginator
from django.db import transaction
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_safe

from kyrtos.accounts import list_views, two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.list_form import LARGEST_LIST
from kyrtos.accounts.models import User
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.config import public
from kyrtos.config.middleware import takes
from kyrtos.customers.models import Site
from kyrtos.installations import labels, lists, pump_records, reliability
from kyrtos.installations.forms import PumpForm
from kyrtos.installations.models import InstalledPump
from kyrtos.jobs.models import Job

_PER_PAGE = 60
_LIST = list_views.Kind(
    code="pumps",
    noun="installed pumps",
    label="A table (.csv, .xlsx)",
    accept=".csv,.xlsx,text/csv",
    address="import-installed",
    back="installed-pumps",
    about="installations/_list_holds.html",
    take=lists.take_in,
)
_SHEETS = {str(number) for number in range(2000)}
_AHEAD = timedelta(days=31)


def user_of(request: HttpRequest) -> User:
    """Who asks."""
    return cast(User, request.user)


def found(request: ShopRequest, code: str) -> InstalledPump:
    """A pump of the shop by its code; who is of another shop gets 404."""
    rows = InstalledPump.objects.select_related("site__customer", "shop", "job", "paper", "plate")
    return get_object_or_404(rows, code=code.upper(), shop=request.membership.shop)


@require_safe
@may("see")
def pump_list(request: ShopRequest) -> HttpResponse:
    """All pumps that stand somewhere, by words and state."""
    shop, asked = request.membership.shop, request.GET
    words, state = asked.get("q", "")[:100], asked.get("state", "")
    if state not in InstalledPump.State.values:
        state = ""
    rows = pump_records.search(shop, words=words, state=state)
    context = {
        "page": Paginator(rows, _PER_PAGE).get_page(asked.get("page")),
        "words": words,
        "state": state,
        "states": InstalledPump.State.choices,
        "label_parts": range(-(-rows.filter(state="running").count() // labels.MOST)),
        "due_count": pump_records.due(shop, timezone.localdate() + _AHEAD).count(),
    }
    return render(request, "installations/list.html", context)


@require_safe
@may("see")
def due(request: ShopRequest) -> HttpResponse:
    """What is to be done at pumps within a month, what is late first."""
    today = timezone.localdate()
    rows = pump_records.due(request.membership.shop, today + _AHEAD)[:300]
    return render(request, "installations/due.html", {"rows": rows, "today": today})


def _models(request: ShopRequest) -> list[tuple[str, str]]:
    rows = CatalogueEntry.objects.filter(shop=request.membership.shop, archived=False)
    return list(rows.order_by("maker", "model").values_list("maker", "model").distinct()[:500])


def _form(
    request: ShopRequest, draft: InstalledPump, title: str, old: InstalledPump | None = None
) -> HttpResponse:
    def make(sent: QueryDict | None) -> PumpForm:
        row = copy(draft) if draft.pk is None else InstalledPump.objects.get(pk=draft.pk)
        return PumpForm(sent, instance=row)

    form = two_people.opened(request, make)
    if request.method == "POST" and form.is_valid():
        draft = form.save(commit=False)
        is_new = draft.pk is None
        try:
            with transaction.atomic():
                if is_new:
                    draft.known_since = reliability.record_begins(draft.installed)
                    pump_records.put_in(draft)
                else:
                    if {"maker", "model"} & set(form.changed_data):
                        pump_records.recorded_anew(draft)
                    draft.save()
                if old is not None:
                    on = draft.installed or timezone.localdate()
                    pump_records.replaced(old=old, new=draft, user=user_of(request), on=on)
        except pump_records.CannotBe as problem:
            form.add_error("installed", f"{problem}.")
        else:
            did(request, "pump put in" if is_new else "installed pump changed", str(draft))
            return redirect("installed-pump", code=draft.code)
    context = {"form": form, "title": title, "site": draft.site, "models": _models(request)}
    status = two_people.status_of(form)
    return render(request, "installations/form.html", context, status=status)


@may("edit job")
@once
def put_in(request: ShopRequest, site_id: int) -> HttpResponse:
    """A pump that stands at a site: typed as it is found, or in the place of one that failed."""
    site = get_object_or_404(Site, pk=site_id, shop=request.membership.shop)
    draft = InstalledPump(shop=site.shop, site=site, installed=timezone.localdate())
    asked = request.GET.get("instead", "").upper()
    old = site.pumps.filter(code=asked).first() if asked else None
    if old is not None:
        draft.place, draft.kind, draft.settings = old.place, old.kind, old.settings
        draft.hours_per_year = old.hours_per_year
        draft.promised = old.promised  # the run stays
    for name in ("maker", "model", "family"):
        if request.GET.get(name):
            setattr(draft, name, request.GET[name][:80])
    title = f"In the place of the {old}" if old else "A pump stands here"
    return _form(request, draft, title, old)


@may("edit job")
@once
def put_in_for(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The pump of a job is put in: what job and paper know is filled in."""
    job = get_object_or_404(
        Job.objects.select_related("shop", "site_record"),
        pk=job_id,
        shop=request.membership.shop,
    )
    if job.site_record is None:
        return redirect(f"{reverse('worksheet', args=[job.pk])}#stage-installed")
    draft = pump_records.draft_from(job)
    draft.installed = timezone.localdate()
    return _form(request, draft, f"The pump of {job} is put in")


@may("edit job")
@transaction.atomic
def change(request: ShopRequest, code: str) -> HttpResponse:
    """What is kept of an installed pump, as a form."""
    draft = found(request, code)
    InstalledPump.objects.select_for_update(of=("self",)).get(pk=draft.pk)
    return _form(request, draft, f"{draft}")


@require_safe
@may("see")
@share
def label(request: ShopRequest, code: str) -> HttpResponse:
    """One label as PDF."""
    return _labels(request, [found(request, code)])


@require_safe
@may("see")
@share
def label_sheet(request: ShopRequest) -> HttpResponse:
    """Labels of the pumps that run and that a search finds, four sheets at a time."""
    asked = request.GET
    first = labels.MOST * (int(asked["from"]) if asked.get("from", "") in _SHEETS else 0)
    rows = pump_records.search(
        request.membership.shop,
        words=asked.get("q", "")[:100],
        state=InstalledPump.State.RUNNING,
    )[first : first + labels.MOST]
    return _labels(request, list(rows))


def _labels(request: ShopRequest, pumps: list[InstalledPump]) -> HttpResponse:
    def address(pump: InstalledPump) -> str:
        return public.address(reverse("installed-pump", args=[pump.code]))

    content = labels.sheet(request.membership.shop, pumps, address)
    head = {"Content-Disposition": 'inline; filename="labels.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=head)


_FILES = {
    "csv": (lists.as_csv, "text/csv; charset=utf-8"),
    "xlsx": (
        lists.as_xlsx,
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ),
}


@require_safe
@may("edit job")
@share
def export(request: ShopRequest, kind: str) -> HttpResponse:
    """All installed pumps as a table."""
    write, media_type = _FILES[kind]
    rows = request.membership.shop.installed.select_related("site__customer").order_by("pk")
    did(request, "installed pumps taken out as a file", kind)
    head = {"Content-Disposition": f'attachment; filename="installed-pumps.{kind}"'}
    return HttpResponse(write(rows), content_type=media_type, headers=head)


@takes(LARGEST_LIST)
@may("edit job")
def bring_in(request: ShopRequest) -> HttpResponse:
    """Installed pumps from a table."""
    return list_views.page(request, _LIST, headings=lists.HEADINGS)
