"""Customers and sites that are one: found, compared field by field, merged, parted again."""

from __future__ import annotations

from typing import cast

from django.contrib import messages
from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.customers import merging, records
from kyrtos.customers.models import Customer, Site
from kyrtos.shops.merges import CannotMerge, CannotUndo
from kyrtos.shops.models import Merge, Shop

_MOST = 20


@may("keep customers")
@transaction.atomic
def customer(request: ShopRequest, customer_id: int) -> HttpResponse:
    """Choose the customer that this one is, look at both, and make them one."""
    rows = request.membership.shop.customers.select_for_update()
    goes = get_object_or_404(rows, pk=customer_id)
    words = request.GET.get("q", "")[:100]
    found = records.found(goes.shop, words).exclude(pk=goes.pk)[:_MOST] if words else ()
    return _page(request, goes, _chosen(request, rows), found or records.alike(goes), words)


@may("keep customers")
@transaction.atomic
def site(request: ShopRequest, site_id: int) -> HttpResponse:
    """Choose the site that this one is, look at both, and make them one."""
    rows = request.membership.shop.sites.select_for_update(of=("self",))
    goes = get_object_or_404(rows.select_related("customer"), pk=site_id)
    words = request.GET.get("q", "")[:100]
    found = (
        _sites_found(goes.shop, words)
        if words
        else goes.shop.sites.filter(Q(customer=goes.customer) | Q(known_as=goes.known_as))
    )
    found = found.exclude(pk=goes.pk).select_related("customer")[:_MOST]
    return _page(request, goes, _chosen(request, rows.select_related("customer")), found, words)


def _sites_found(shop: Shop, words: str) -> QuerySet[Site]:
    rows = shop.sites.all()
    for word in words.split():
        key = word.casefold()
        rows = rows.filter(
            Q(known_as__contains=key)
            | Q(address__icontains=word)
            | Q(customer__known_as__contains=key)
        )
    return rows


def _chosen(request: ShopRequest, rows: QuerySet[merging.Record]) -> merging.Record | None:
    """The record that stays, as the address or the form names it."""
    asked = request.POST.get("stays", "") or request.GET.get("with", "")
    whole = asked.isascii() and asked.isdigit() and len(asked) < 18
    return rows.filter(pk=int(asked)).first() if whole else None


def _page(
    request: ShopRequest,
    goes: merging.Record,
    stays: merging.Record | None,
    found: object,
    words: str,
) -> HttpResponse:
    kind, problem = merging.kind_of(goes), ""
    taken = {name.removeprefix("take_") for name, value in request.POST.items() if value == "goes"}
    apart = (
        isinstance(goes, Site) and isinstance(stays, Site) and goes.customer_id != stays.customer_id
    )
    if request.method == "POST":
        try:
            if stays is None:
                raise CannotMerge(f"choose the {kind} that stays")
            if apart and request.POST.get("sure") != "on":
                raise CannotMerge(
                    "these sites belong to two customers: tick that they are one place"
                )
            _merge(stays, goes, frozenset(taken), cast(User, request.user))
        except CannotMerge as told:
            problem = str(told)
        else:
            did(request, f"{kind}s merged", f"{goes} into {stays}")
            messages.success(
                request,
                f"{goes} is a part of this record now. It can be undone until this is"
                " changed: see Merged here.",
            )
            return redirect(kind, stays.pk)
    context = {
        "kind": kind,
        "goes": goes,
        "other": stays if stays is not None and stays.pk != goes.pk else None,
        "rows": merging.compared(stays, goes) if stays is not None and stays.pk != goes.pk else (),
        "taken": taken,
        "apart": apart,
        "words": words,
        "alike": found,
        "problem": problem,
    }
    return render(request, "customers/merge.html", context, status=422 if problem else 200)


def _merge(stays: merging.Record, goes: merging.Record, taken: frozenset[str], user: User) -> None:
    if isinstance(stays, Customer) and isinstance(goes, Customer):
        merging.merge_customers(stays, goes, taken=taken, user=user)
    elif isinstance(stays, Site) and isinstance(goes, Site):
        merging.merge_sites(stays, goes, taken=taken, user=user)


@require_POST
@may("keep customers")
@transaction.atomic
def undo(request: ShopRequest, merge_id: int) -> HttpResponse:
    """Make two records of one again."""
    rows = request.membership.shop.merges.select_for_update(of=("self",))
    merge: Merge = get_object_or_404(rows, pk=merge_id, within=None, kind__in=("customer", "site"))
    stays, name = int(merge.stays), merge.goes_name
    try:
        goes = int(merge.goes)
        merging.undo(merge)
    except CannotUndo as problem:
        messages.error(request, f"Nothing was undone: {problem}.")
        return redirect(merge.kind, stays)
    did(request, f"merge of {merge.kind}s undone", name)
    messages.success(request, f"{name} is a record of its own again, as it was before the merge.")
    return redirect(merge.kind, goes)
