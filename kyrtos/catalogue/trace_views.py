"""Tracing printed curves.

The pictures, one picture with its marks, each step, and saving as a pump.
"""

from __future__ import annotations

from typing import cast
from urllib.parse import urlencode

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.catalogue import printed_page, traced_pumps, tracing
from kyrtos.catalogue.models import Trace
from kyrtos.catalogue.trace_overlay import overlay
from kyrtos.config.middleware import takes
from sizing.base.errors import SizingError
from sizing.pump.catalogue_columns import families
from sizing.pump.digitise import TraceError


def _find(request: ShopRequest, trace_id: int) -> Trace:
    return get_object_or_404(Trace, pk=trace_id, shop=request.membership.shop)


@takes(printed_page.MOST_BYTES)
@may("change catalogue")
def traces(request: ShopRequest) -> HttpResponse:
    """Put a picture in, and the pictures so far."""
    problem = ""
    if request.method == "POST":
        sent, page = request.FILES.get("file"), request.POST.get("page", "1")
        try:
            if sent is None:
                raise TraceError("choose a picture or a PDF first")
            found = tracing.begin(
                request.membership.shop,
                cast(User, request.user),
                sent.name or "picture",
                sent.read(printed_page.MOST_BYTES + 1),
                page=int(page) if page.isascii() and page.isdigit() and len(page) < 6 else 0,
                system=system_of(request.membership),
            )
            return redirect("trace", trace_id=found.pk)
        except SizingError as error:
            problem = str(error)
    found_all = Trace.objects.filter(shop=request.membership.shop).defer("image")[:20]
    return render(
        request,
        "catalogue/traces.html",
        {"problem": problem, "traces": found_all},
        status=422 if problem else 200,
    )


def _show(
    request: ShopRequest,
    found: Trace,
    problem: str = "",
    template: str = "catalogue/trace.html",
    status: int = 200,
) -> HttpResponse:
    context = {
        "found": found,
        "overlay": overlay(found),
        "in_hand": tracing.in_hand(found.state),
        "problem": problem,
        "families": families().items(),
        "cells": {key: request.POST.get(key, "") for key in ("maker", "model", "family")},
    }
    return render(request, template, context, status=status)


@require_safe
@may("change catalogue")
def one_trace(request: ShopRequest, trace_id: int) -> HttpResponse:
    return _show(request, _find(request, trace_id))


@require_safe
@may("change catalogue")
def image(request: ShopRequest, trace_id: int) -> HttpResponse:
    return HttpResponse(
        bytes(_find(request, trace_id).image),
        content_type="image/png",
        headers={"Cache-Control": "private, max-age=86400"},
    )


@require_POST
@may("change catalogue")
def act(request: ShopRequest, trace_id: int) -> HttpResponse:
    """One step; the answer is the part of the page that changes."""
    found, problem = _find(request, trace_id), ""
    try:
        tracing.act(
            found,
            request.POST.get("do", ""),
            {key: str(value) for key, value in request.POST.items()},
        )
    except SizingError as error:
        problem = str(error)
    return _show(request, found, problem, "catalogue/_trace.html")


@require_POST
@may("change catalogue")
def save(request: ShopRequest, trace_id: int) -> HttpResponse:
    """Every head curve as a pump, or as variants of one."""
    found = _find(request, trace_id)
    try:
        rows = traced_pumps.save(found, {key: str(value) for key, value in request.POST.items()})
    except SizingError as error:
        return _show(request, found, str(error), status=422)
    pumps = [row.pump for row in rows if row.pump is not None]
    if len(pumps) < len(rows):
        problems = dict.fromkeys(one for row in rows for one in row.problems)
        return _show(request, found, "; ".join(problems), status=422)
    did(request, "pumps traced", ", ".join(pump.name for pump in pumps))
    if len(pumps) > 1:
        words = urlencode({"q": f"{pumps[0].maker} {pumps[0].model}"})
        return redirect(f"{reverse('catalogue')}?{words}")
    return redirect("pump", pump_id=pumps[0].pump_id)
