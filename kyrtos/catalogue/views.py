"""The catalogue: list, one pump with its curve, import and export."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, cast

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Q
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts import two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.accounts.terms import system_of
from kyrtos.accounts.whose import gone_page
from kyrtos.catalogue import (
    import_preview,
    imports,
    prices,
    pump_form,
    services,
    supplier_file,
)
from kyrtos.catalogue.models import CatalogueEntry, Import
from kyrtos.catalogue.publishing import to_pump
from kyrtos.catalogue.pump_facts import pump_facts
from kyrtos.catalogue.pump_form import PumpForm
from kyrtos.config.middleware import takes
from kyrtos.drawing.curve_chart import curve_chart
from kyrtos.shops import merges
from sizing.base import units
from sizing.base.numbers import as_read
from sizing.base.units import System
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_columns import COLUMNS, families
from sizing.pump.catalogue_file import CatalogueFileError
from sizing.pump.catalogue_write import write_csv

_PER_PAGE = 60


def _system(request: ShopRequest) -> System:
    return system_of(request.membership)


@require_safe
@may("see")
def catalogue(request: ShopRequest) -> HttpResponse:
    """Pumps of the shop, with search and family."""
    words, family = request.GET.get("q", "")[:100], request.GET.get("family", "")
    ours = CatalogueEntry.objects.filter(shop=request.membership.shop)
    found = ours.filter(archived=bool(request.GET.get("archived")))
    for word in words.split():
        found = found.filter(Q(maker__icontains=word) | Q(model__icontains=word))
    if family:
        found = found.filter(family=family)
    if request.GET.get("aside"):
        found = found.exclude(aside="")
    page = Paginator(found, _PER_PAGE).get_page(request.GET.get("page"))
    rows = [_line(row, _system(request)) for row in page.object_list]
    context = {
        "page": page,
        "rows": rows,
        "families": families().items(),
        "asked": {
            "q": words,
            "family": family,
            "aside": request.GET.get("aside", ""),
            "archived": request.GET.get("archived", ""),
        },
        "aside_count": ours.filter(archived=False).exclude(aside="").count(),
        "archived_count": ours.filter(archived=True).count(),
        "currency": request.membership.shop.currency,
    }
    return render(request, "catalogue/list.html", context)


def _line(row: CatalogueEntry, system: System) -> dict[str, str]:
    return {
        "pump_id": row.pump_id,
        "name": str(row),
        "family": families().get(row.family, row.family),
        "most_flow": units.show(row.flows_m3s[-1], "flow", system, 1),
        "most_head": units.show(row.heads_m[0], "length", system, 1),
        "solids": units.show(row.solids_m, "size", system) if row.solids_m is not None else "",
        "supply": (
            f"{row.voltage_v:g} V, {row.phases}-phase" if row.voltage_v and row.phases else ""
        ),
        "aside": row.aside,
        "gone": "no longer made" if row.discontinued else "",
        "stock": as_read(f"{row.stock:g}") if row.stock is not None else "",
        "price": units.number_text(row.price, 0) if row.price is not None else "",
    }


def _pump(request: ShopRequest, pump_id: str) -> Pump:
    rows = CatalogueEntry.objects.filter(shop=request.membership.shop, pump_id=pump_id)
    get_object_or_404(rows)
    return to_pump(rows.values()[0])


@require_safe
@may("see")
def pump(request: ShopRequest, pump_id: str) -> HttpResponse:
    """One pump: curve, points, facts, and what it cost since when."""
    shop = request.membership.shop
    row = get_object_or_404(CatalogueEntry, shop=shop, pump_id=pump_id)
    if row.merged_into and "own" not in request.GET:
        return redirect("pump", pump_id=row.merged_into)
    found, system = to_pump(row.__dict__), _system(request)
    curve = found.curve
    table = [
        (
            units.show(q, "flow", system, with_unit=False),
            units.show(h, "length", system, with_unit=False),
            (
                ""
                if curve.powers_w is None
                else units.show(curve.powers_w[i], "power", system, with_unit=False)
            ),
            _percent(curve.efficiency_at(q)),
        )
        for i, (q, h) in enumerate(zip(curve.flows_m3s, curve.heads_m, strict=True))
    ]
    siblings = CatalogueEntry.objects.filter(
        shop=shop, maker=found.maker, model=found.model, archived=False
    ).exclude(pump_id=pump_id)
    facts = pump_facts(found, system, shop.currency)
    context = {
        "siblings": [(row.pump_id, row.variant or str(row)) for row in siblings],
        "pump": found,
        "family": families().get(found.family, found.family),
        "chart": curve_chart(found, system),
        "table": table,
        "flow_unit": units.shown("flow", system).unit,
        "head_unit": units.shown("length", system).unit,
        "power_unit": units.shown("power", system).unit,
        "row": row,
        "second_entries": CatalogueEntry.objects.filter(shop=shop, merged_into=pump_id),
        "merged": merges.that_can_be_undone(shop, "pump", pump_id),
        "prices": prices.history(shop, pump_id),
        "currency": shop.currency,
        "best": units.show(curve.best_flow_m3s, "flow", system),
        "facts": [(label, text) for label, text in facts if text],
        "not_stated": [f"{label[:1].lower()}{label[1:]}" for label, text in facts if not text],
    }
    return render(request, "catalogue/pump.html", context)


def _percent(efficiency: float | None) -> str:
    return "" if efficiency is None else units.show(efficiency, "ratio", "metric")


@may("change catalogue")
@once
def new_pump(request: ShopRequest) -> HttpResponse:
    """A pump typed in, from nothing or like another."""
    shop, like = request.membership.shop, request.GET.get("like", "")
    if request.method == "POST":
        return _saved(request, PumpForm(shop, request.POST))
    return _pump_form(request, PumpForm(shop, like=_pump(request, like) if like else None))


@may("change catalogue")
def edit_pump(request: ShopRequest, pump_id: str) -> HttpResponse:
    """A pump changed, or taken out."""
    shop = request.membership.shop
    with transaction.atomic():
        rows = CatalogueEntry.objects.select_for_update().filter(shop=shop, pump_id=pump_id)
        row = rows.first()
        if row is None and prices.history(shop, pump_id):
            return gone_page(request, "This pump was taken out of the catalogue.")
        if row is not None and row.merged_into:
            instead = reverse("pump", args=[row.merged_into])
            return gone_page(request, "This pump was merged into another one.", instead)
        found = _pump(request, pump_id)
        form = two_people.opened(request, lambda sent: PumpForm(shop, sent, before=found))
        if request.method == "POST" and request.POST.get("do") == "take out":
            if getattr(form, "moved", False):
                messages.error(
                    request,
                    f"{found.name} was not taken out: somebody else changed it meanwhile. Look at"
                    " it, then take it out.",
                )
                return _pump_form(request, form, status=409)
            pump_form.take_out(shop, pump_id)
            did(request, "pump taken out", found.name)
            return redirect("catalogue")
        return _saved(request, form) if request.method == "POST" else _pump_form(request, form)


def _saved(request: ShopRequest, form: PumpForm) -> HttpResponse:
    if not form.may_be_saved:
        return _pump_form(request, form, status=two_people.status_of(form))
    saved = pump_form.save(form)
    did(request, "pump saved by hand", saved.name)
    return redirect("pump", pump_id=saved.pump_id)


def _pump_form(request: ShopRequest, form: PumpForm, status: int = 200) -> HttpResponse:
    context = {"form": form, "before": form.before}
    return render(request, "catalogue/pump_form.html", context, status=status)


@takes(services.LARGEST_FILE_BYTES)
@may("change catalogue")
def import_pumps(request: ShopRequest) -> HttpResponse:
    """Send a file of pumps, and the imports so far."""
    problem, shop = "", request.membership.shop
    if request.method == "POST":
        sent = request.FILES.get("file")
        try:
            if sent is None:
                raise CatalogueFileError("choose a CSV or XLSX file first")
            found = imports.begin(
                shop,
                cast(User, request.user),
                sent.name or "pumps",
                sent.read(services.LARGEST_FILE_BYTES + 1),
            )
            did(request, "pump file sent", found.name)
            return redirect("import", import_id=found.pk)
        except CatalogueFileError as error:
            problem = str(error)
    context = {
        "problem": problem,
        "columns": COLUMNS,
        "families": families().items(),
        "imports": (
            Import.objects.filter(shop=shop).defer("content", "before", "ids", "report")[:10]
        ),
    }
    return render(request, "catalogue/import.html", context, status=422 if problem else 200)


@may("change catalogue")
def one_import(request: ShopRequest, import_id: int) -> HttpResponse:
    """One import: what it would do, with the button to take it.

    What it did, with the button to undo it.
    """
    found = get_object_or_404(
        Import.objects.defer("content", "before", "ids"), pk=import_id, shop=request.membership.shop
    )
    problem = ""
    if request.method == "POST":
        try:
            if request.POST.get("do") == "undo":
                imports.undo(found)
                did(request, "pump file undone", found.name)
            elif request.POST.get("do") == "off":
                if imports.call_off(found):
                    did(request, "pump file called off", found.name)
            elif request.POST.get("do") == "columns":
                imports.choose_columns(found, **_matched(request, found))
            else:
                ticked = {
                    name: name in request.POST
                    for name in ("without_refused", "take_doubtful", "blank_missing")
                }
                imports.take(found, **ticked)
                did(request, "pump file taken", found.name)
            return redirect("import", import_id=found.pk)
        except CatalogueFileError as error:
            problem = str(error)
    context = {
        "found": found,
        "problem": problem,
        "preview": import_preview.preview(found) if found.report else None,
        "columns": [*(one.name for one in COLUMNS), "flow", "head", "power", "pump_id"],
        "families": families().items(),
    }
    return render(request, "catalogue/one_import.html", context, status=422 if problem else 200)


def _matched(request: ShopRequest, found: Import) -> dict[str, Any]:
    """What the form about a supplier's headings says."""
    known = {*(one.name for one in COLUMNS), "flow", "head", "power", "pump_id", ""}
    by_hand = {}
    for number, one in enumerate(found.asked.get("unknown", [])):
        column = request.POST.get(f"column-{number}", "")
        by_hand[one["text"]] = column if column in known else ""
    before = found.chosen.get("by_hand", {}) if found.chosen else {}
    fixed = {
        name: request.POST.get(f"fixed-{name}", "").strip()[:60]
        for name in supplier_file.FIXABLE
        if request.POST.get(f"fixed-{name}", "").strip()
    }
    return {
        "by_hand": {**before, **by_hand},
        "fixed": {**found.asked.get("fixed", {}), **fixed},
        "supplier": request.POST.get("supplier", ""),
    }


@require_safe
@may("change catalogue")
def import_report(request: ShopRequest, import_id: int) -> HttpResponse:
    """What was said of every row of an import, as a CSV file."""
    found = get_object_or_404(
        Import.objects.defer("content", "before", "ids"), pk=import_id, shop=request.membership.shop
    )
    if not found.report:
        raise Http404("this file is not read yet")
    head = {"Content-Disposition": f'attachment; filename="import-{found.pk}-report.csv"'}
    return HttpResponse(
        import_preview.report_csv(found), content_type="text/csv; charset=utf-8", headers=head
    )


@require_POST
@may("change catalogue")
def accept(request: ShopRequest, pump_id: str) -> HttpResponse:
    """Choose from a pump that was kept aside."""
    if imports.accept(request.membership.shop, [pump_id]):
        did(request, "pump accepted", pump_id)
    return redirect("pump", pump_id=pump_id)


def _all_pumps(request: ShopRequest) -> Iterator[Pump]:
    rows = (
        CatalogueEntry.objects.filter(shop=request.membership.shop, archived=False)
        .order_by("pump_id")
        .values(*services.COLUMNS)
    )
    return (to_pump(row) for row in rows.iterator(chunk_size=2000))


@require_safe
@may("change catalogue")
@share
def export(request: ShopRequest) -> HttpResponse:
    """The whole catalogue as the CSV file that the import reads."""
    pumps = _all_pumps(request)
    did(request, "catalogue exported", "CSV")
    return HttpResponse(
        write_csv(pumps),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="pumps.csv"'},
    )
