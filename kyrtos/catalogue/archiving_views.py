"""Pumps put away, brought back and merged."""

from __future__ import annotations

from typing import cast

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.catalogue import archiving
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.shops.merges import CannotMerge, CannotUndo


@require_POST
@may("change catalogue")
def archive(request: ShopRequest, pump_id: str) -> HttpResponse:
    """Put a pump away, or bring it back."""
    shop = request.membership.shop
    get_object_or_404(CatalogueEntry, shop=shop, pump_id=pump_id)
    if request.POST.get("do") == "bring back":
        archiving.bring_back(shop, pump_id)
        did(request, "pump brought back", pump_id)
    else:
        archiving.archive(shop, pump_id)
        did(request, "pump archived", pump_id)
    return redirect("pump", pump_id=pump_id)


@may("change catalogue")
def merge(request: ShopRequest, pump_id: str) -> HttpResponse:
    """Choose the pump that this one is, look at both side by side, and make them one."""
    shop, problem = request.membership.shop, ""
    found = get_object_or_404(CatalogueEntry, shop=shop, pump_id=pump_id)
    if request.method == "POST":
        try:
            archiving.merge(
                shop,
                stays=request.POST.get("stays", ""),
                goes=pump_id,
                user=cast(User, request.user),
            )
            did(request, "pumps merged", f"{pump_id} into {request.POST['stays']}")
            return redirect("pump", pump_id=request.POST["stays"])
        except CannotMerge as error:
            problem = str(error)
    words = request.GET.get("q", "")[:100]
    with_id = request.GET.get("with", "")
    other = CatalogueEntry.objects.filter(shop=shop, pump_id=with_id, archived=False).first()
    context = {
        "found": found,
        "other": other,
        "words": words,
        "alike": archiving.alike(shop, found, words),
        "facts": (
            archiving.compared(other, found, system_of(request.membership), shop.currency)
            if other
            else ()
        ),
        "problem": problem,
    }
    return render(request, "catalogue/merge.html", context, status=422 if problem else 200)


@require_POST
@may("change catalogue")
def undo_merge(request: ShopRequest, merge_id: int) -> HttpResponse:
    """Two pumps are two again."""
    rows = request.membership.shop.merges.all()
    merge = get_object_or_404(rows, pk=merge_id, kind="pump", within=None)
    stays, goes = merge.stays, merge.goes
    try:
        archiving.undo_merge(merge)
    except CannotUndo as problem:
        messages.error(request, f"Nothing was undone: {problem}.")
        return redirect("pump", pump_id=stays)
    did(request, "merge of pumps undone", f"{goes} out of {stays}")
    return redirect("pump", pump_id=goes)
