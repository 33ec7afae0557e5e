"""Signing in, the demo's one click, the house rules, and the pages for what went wrong."""

from __future__ import annotations

import ipaddress
from typing import cast

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.forms import AuthenticationForm
from django.core.exceptions import PermissionDenied
from django.db import connection
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.templatetags.static import static
from django.views.decorators.http import require_GET, require_POST

from kyrtos.shop import services
from kyrtos.shop.models import HouseRule, User
from kyrtos.shop.permissions import ShopRequest, can, may
from sizing.base.rules import Rule, defaults

DEMO_USER = "wenna"


def on_loopback(request: HttpRequest) -> bool:
    """Whether the request came from this very machine, and straight (no proxy spoke for it)."""
    try:
        address = ipaddress.ip_address(request.META.get("REMOTE_ADDR", ""))
    except ValueError:
        return False
    return address.is_loopback and "HTTP_X_FORWARDED_FOR" not in request.META


@require_POST
def sign_in_over(request: HttpRequest) -> HttpResponse:
    """Sign in over a page that stays as it is: 204 when name and password go together, else 422."""
    form = AuthenticationForm(request, request.POST)
    if settings.DEMO and "who" in request.POST:
        return HttpResponse(status=204 if demo_sign_in(request).status_code == 302 else 422)
    if not form.is_valid():
        return HttpResponse(status=422)
    login(request, form.get_user())
    return HttpResponse(status=204)


@require_POST
def demo_sign_in(request: HttpRequest) -> HttpResponse:
    """Sign one of the demo people (who have no password) in.

    In demo mode, on loopback, and nowhere else.
    """
    user = (
        get_user_model()
        .objects.filter(username=request.POST.get("who", DEMO_USER), password__startswith="!")
        .first()
    )
    if not settings.DEMO or not on_loopback(request) or user is None:
        raise Http404("no such page")
    login(request, user)
    return redirect("bench")


def health(request: HttpRequest) -> HttpResponse:
    """Says 'kyrtos ok' when the database answers: for ./run and for watchdogs."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return HttpResponse("kyrtos ok\n", content_type="text/plain")


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return render(request, "404.html", status=404)


def server_error(request: HttpRequest) -> HttpResponse:
    return HttpResponse(
        "Something broke on our side. What you had saved is safe. Go back and try again; if it"
        " stays broken, tell whoever runs this server.",
        status=500,
        content_type="text/plain",
    )


def favicon(request: HttpRequest) -> HttpResponse:
    """Viewers of papers ask for the icon at its oldest address."""
    return redirect(static("kyrtos/icon.svg"))


def _line(rule: Rule, house: HouseRule | None, request: ShopRequest) -> dict[str, object]:
    system = services.system_of(request.membership.shop)
    return {
        "rule": rule,
        "house": house,
        "low": rule.shown(rule.low_si, system),
        "usual": rule.shown(rule.typical_si, system),
        "high": rule.shown(rule.high_si, system),
        "own": rule.shown(house.value_si, system) if house else "",
    }


@require_GET
@may("see")
def rules(request: ShopRequest) -> HttpResponse:
    """Every rule with low, usual and high, and the house's own values."""
    words = request.GET.get("q", "")[:100]
    own = {
        house.rule_id: house
        for house in request.membership.shop.house_rules.select_related("set_by")
    }
    found = [_line(rule, own.get(rule.rule_id), request) for rule in services.search_rules(words)]
    found.sort(key=lambda line: line["house"] is None)  # the house's own first
    return render(request, "shop/rules.html", {"lines": found, "words": words, "changed": len(own)})


@may("see")
def rule(request: ShopRequest, rule_id: str) -> HttpResponse:
    """One rule: what it says, why, where the schools disagree; and the owner's form."""
    shop = request.membership.shop
    found = defaults().get(rule_id)
    if found is None:
        raise Http404("no such rule")
    house = shop.house_rules.filter(rule_id=rule_id).first()
    typed = {
        "value": found.shown(
            house.value_si if house else found.typical_si, services.system_of(shop)
        ),
        "reason": house.reason if house else "",
    }
    problem: services.RuleError | None = None
    if request.method == "POST":
        if not can(request.membership, "set rules"):
            raise PermissionDenied("Only the owner of the shop sets its rules.")
        if "clear" in request.POST:
            services.clear_rule(shop=shop, rule=found)
            return redirect("rules")
        typed = {name: request.POST.get(name, "")[:300] for name in ("value", "reason")}
        try:
            services.set_rule(
                shop=shop,
                user=cast(User, request.user),
                rule=found,
                text=typed["value"],
                reason=typed["reason"],
            )
        except services.RuleError as error:
            problem = error
        else:
            return redirect("rules")
    context = {
        **_line(found, house, request),
        "typed": typed,
        "problem": problem,
        "problem_field": problem.field if problem else "",
    }
    return render(request, "shop/rule.html", context, status=422 if problem else 200)
