"""A list that comes in, as a page: sent up, looked at, taken, undone."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, cast

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render

from kyrtos.accounts.audit import did
from kyrtos.accounts.list_form import ListForm
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest
from kyrtos.shops import brought_in
from kyrtos.shops.models import BroughtIn
from sizing.base.errors import SizingError


@dataclass(frozen=True)
class Kind:
    """What a page of lists takes: how it is called, which files, how rows go in."""

    code: str
    noun: str  # customers
    label: str
    accept: str
    address: str  # name of this page
    back: str  # name of the page that lists them
    about: str  # template of the words on what a file must hold
    take: brought_in.Take


def page(request: ShopRequest, kind: Kind, **more: Any) -> HttpResponse:
    """Send a list up, look at what it would do, take it, undo it."""
    if request.method == "POST" and "do" in request.POST:
        return _done(request, kind)
    shop = request.membership.shop
    given = (request.POST, request.FILES) if request.method == "POST" else ()
    form = ListForm(kind.label, kind.accept, *given)
    if request.method == "POST" and form.is_valid():
        sent = form.cleaned_data["file"]
        user = cast(User, request.user)
        try:
            brought_in.begin(shop, user, kind.code, sent.name, sent.read(), kind.take)
            return redirect(kind.address)
        except SizingError as problem:
            form.add_error("file", f"Nothing was taken in: {problem}.")
    lists = list(shop.brought_in.filter(kind=kind.code).select_related("user").defer("content"))
    context = {
        "form": form,
        "kind": kind,
        "shown": next((one for one in lists if one.state == BroughtIn.State.SHOWN), None),
        "lists": [one for one in lists if one.state != BroughtIn.State.SHOWN],
        **more,
    }
    status = 422 if form.is_bound else 200
    return render(request, "accounts/bring_in.html", context, status=status)


def _done(request: ShopRequest, kind: Kind) -> HttpResponse:
    """Take, drop or undo one that is kept."""
    rows = request.membership.shop.brought_in.filter(kind=kind.code)
    asked = request.POST.get("list", "")
    whole = asked.isascii() and asked.isdigit() and len(asked) < 18
    found = rows.filter(pk=int(asked)).first() if whole else None
    if found is None:
        messages.error(request, "That list is not here any more: send the file again.")
        return redirect(kind.address)
    try:
        if request.POST["do"] == "take":
            doubtful = request.POST.get("doubtful") == "on"
            found = brought_in.take_now(found, kind.take, doubtful=doubtful)
            told = f"{found.report['new']} new, {found.report['filled']} filled up"
            did(request, f"{kind.noun} taken in", told)
            messages.success(request, f"{found.name}: {told}.")
        elif request.POST["do"] == "undo":
            brought_in.undo(found)
            did(request, f"list of {kind.noun} undone", found.name)
            messages.success(request, f"{found.name} is undone: all is as it was before it.")
        elif found.state == BroughtIn.State.SHOWN:
            found.delete()
    except SizingError as problem:
        messages.error(request, f"Nothing was changed: {problem}.")
    return redirect(kind.address)
