"""What Kyrtos holds about a person within a shop, for them to have."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_safe

from kyrtos.accounts import sessions
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import Membership
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.catalogue.models import Import
from kyrtos.customers.models import SiteFile
from kyrtos.installations.models import Event, ReadingSet
from kyrtos.jobs.models import Revision
from kyrtos.paper.models import Paper


def data_of(member: Membership, *, own: bool) -> dict[str, Any]:
    """Name, address, settings, sessions, and what was done in the shop; for JSON.

    To the shop's owner the sessions are those in this shop only.
    """
    user, shop = member.user, member.shop
    edits = Revision.objects.filter(job__shop=shop, user=user).order_by("pk")
    papers = Paper.objects.filter(job__shop=shop, issued_by=user).order_by("pk")
    return {
        "person": {
            "signs in as": user.username,
            "first name": user.first_name,
            "last name": user.last_name,
            "address": user.email,
            "since": user.date_joined,
            "last signed in" if own else "last here": user.last_login if own else member.last_here,
        },
        "in the shop": {"shop": shop.name, "role": member.role},
        "prefers": {
            "units": member.units,
            "single units": member.own_units,
            "numbers": member.numbers,
            "dates": member.dates,
        },
        "second steps": [one.get_type_display() for one in sessions.second_steps(user)],
        "sessions": [
            {"since": one.created_at, "from": one.ip, "browser": one.user_agent}
            for one in (sessions.open_sessions(user) if own else sessions.of_shop(member))
        ],
        "edits": list(edits.values("job__title", "number", "path", "at")),
        "papers": list(papers.values("job__title", "number", "issued")),
        "events at pumps": list(
            Event.objects.filter(pump__shop=shop, user=user).values("pump__code", "kind", "on")
        ),
        "readings": list(
            ReadingSet.objects.filter(pump__shop=shop, user=user).values(
                "pump__code", "on", "typed"
            )
        ),
        "photos and files": list(
            SiteFile.objects.filter(site__shop=shop, user=user).values("name", "at")
        ),
        "imports": list(Import.objects.filter(shop=shop, user=user).values("name", "when")),
        "record": list(
            shop.audit.filter(who=user.username).values("when", "what", "about", "address")
        ),
    }


def _file(member: Membership, *, own: bool) -> HttpResponse:
    text = json.dumps(data_of(member, own=own), ensure_ascii=False, indent=1, default=str)
    head = {"Content-Disposition": 'attachment; filename="person.json"'}
    return HttpResponse(text, content_type="application/json", headers=head)


@require_safe
@may("see")
def own_data(request: ShopRequest) -> HttpResponse:
    """One's own, as a file."""
    did(request, "own data taken out")
    return _file(request.membership, own=True)


@require_safe
@may("set shop")
def member_data(request: ShopRequest, member_id: int) -> HttpResponse:
    """A member's, for the owner to hand over."""
    found = Membership.objects.select_related("user", "shop")
    member = get_object_or_404(found, pk=member_id, shop=request.membership.shop)
    did(request, "data of a person taken out", member.user.username)
    return _file(member, own=False)
