"""Which shop a page or a form is of, and which one its reader works in now.

Every form and every request of a script says the shop of the page that it stands on. Where the
session has gone over to another meanwhile, in another tab, nothing is written: it is told, what was
typed is kept, and one click goes back.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.apps import apps
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme

from kyrtos.accounts.models import Membership
from kyrtos.accounts.sessions import memberships_of
from kyrtos.shops.models import Shop

FIELD, HEADER = "of_shop", "X-Kyrtos-Shop"
GO_OVER = "Kyrtos-Go-Over"  # to a script: where to post so that one works in the page's shop
_OWN = (FIELD, "was", "once", "do_again")
_NOT_SENT = ("csrfmiddlewaretoken", "then", "again", "code")  # again: a password once more

# What an address names, and where its shop stands.
_NAMED: dict[str, tuple[str, str, str]] = {
    "job_id": ("jobs.Job", "pk", "shop_id"),
    "customer_id": ("customers.Customer", "pk", "shop_id"),
    "site_id": ("customers.Site", "pk", "shop_id"),
    "code": ("installations.InstalledPump", "code", "shop_id"),
    "pump_id": ("catalogue.CatalogueEntry", "pump_id", "shop_id"),
    "import_id": ("catalogue.Import", "pk", "shop_id"),
    "trace_id": ("catalogue.Trace", "pk", "shop_id"),
    "member_id": ("shop.Membership", "pk", "shop_id"),
}


def said(request: HttpRequest) -> str:
    """The shop that a form or a script says it is of; '' where it says none."""
    header = request.headers.get(HEADER, "")
    return header or (request.POST.get(FIELD, "") if request.method == "POST" else "")


def elsewhere(request: HttpRequest, membership: Membership) -> HttpResponse | None:
    """The answer to what was sent from a page of another shop; None where all is well.

    Who belongs to one shop only cannot mistake it, so that a form may leave it out.
    """
    given = said(request)
    if given == str(membership.shop_id):
        return None
    places = memberships_of(request)
    if not given and (request.method != "POST" or len(places) == 1):
        return None
    if given and len(places) == 1:
        return _told(request, membership, None)
    return _told(request, membership, _place(places, given))


def of_another(request: HttpRequest, membership: Membership, named: Mapping[str, Any]) -> Any:
    """The answer where what an address names is in another shop of the person; None elsewhere."""
    places = memberships_of(request)
    if len(places) == 1:
        return None
    for name, (model, field, shop) in _NAMED.items():
        if name not in named:
            continue
        mine = [place.shop_id for place in places if place.shop_id != membership.shop_id]
        try:
            rows = apps.get_model(model).objects.filter(**{field: named[name], f"{shop}__in": mine})
            held = rows.values_list(shop, flat=True).first()
        except (ValueError, ValidationError):
            return None
        if held is not None:
            return _told(request, membership, _place(places, str(held)))
    return None


# Set by the app of a record that may have become part of another: where that is now.
PlaceOf = Callable[[Shop, int], str]
MOVED: dict[str, PlaceOf] = {}


def moved(request: HttpRequest, membership: Membership, named: Mapping[str, Any]) -> Any:
    """The answer where what an address names became part of another record; None elsewhere."""
    for name, place_of in MOVED.items():
        place = place_of(membership.shop, int(named[name])) if named.get(name) else ""
        if place and request.method == "POST":
            return gone_page(request, "This record was merged with another one meanwhile.", place)
        if place:
            return redirect(place)
    return None


def _place(places: list[Membership], given: str) -> Membership | None:
    return next((one for one in places if str(one.shop_id) == given), None)


def _told(request: HttpRequest, now: Membership, page: Membership | None) -> HttpResponse:
    of = f"This page is of {page.shop}; you" if page else "This page is of another shop. You"
    told = f"{of} work in {now.shop} now, in another tab. Nothing was written."
    if "HX-Request" in request.headers:
        head = {GO_OVER: reverse("change-shop", args=[page.shop_id])} if page else {}
        return HttpResponse(told, status=409, content_type="text/plain", headers=head)
    posted = request.method == "POST"
    files = posted and bool(request.FILES)
    then = request.get_full_path()
    if files:
        then = page_before(request)
    context = {
        "told": told,
        "page": page,
        "now": now,
        "then": then,
        "sent": sent_of(request) if posted and not files else [],
        "again": posted and not files,
        "files": files,
    }
    return render(request, "accounts/other_shop.html", context, status=409)


def sent_of(request: HttpRequest) -> list[tuple[str, str, str]]:
    """What a form held, to be sent again: name, text, label; passwords apart."""
    return [
        (name, text, name.replace("_", " ").replace(".", ", "))
        for name, texts in request.POST.lists()
        for text in texts
        if "password" not in name and name not in _NOT_SENT
    ]


def page_before(request: HttpRequest) -> str:
    """The page of ours that this was asked from; else the bench."""
    return _local(request, request.headers.get("Referer", "")) or reverse("job-list")


def _local(request: HttpRequest, address: str) -> str:
    """An address of this very server as a path; '' for any other."""
    if not url_has_allowed_host_and_scheme(
        address, {request.get_host()}, require_https=request.is_secure()
    ):
        return ""
    return "/" + address.partition("://")[2].partition("/")[2] if "://" in address else address


def next_page(request: HttpRequest) -> str:
    """Where to go on after going over to another shop; '' for the bench."""
    then = request.POST.get("then", "")
    safe = then.startswith("/") and not then.startswith("//") and _local(request, then)
    return then if safe and not then.startswith("/settings/in/") else ""


def gone_page(request: HttpRequest, told: str, instead: str = "") -> HttpResponse:
    """The answer to a form of what is not there any more: nothing is written or brought back."""
    sent = sent_of(request) if request.method == "POST" else []
    context = {
        "told": told,
        "sent": [one for one in sent if one[0] not in _OWN],
        "instead": instead,
    }
    if "HX-Request" in request.headers:
        return HttpResponse(told, status=409, content_type="text/plain")
    return render(request, "accounts/gone.html", context, status=409)
