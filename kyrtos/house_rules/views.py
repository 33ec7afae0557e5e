"""The pages of the house rules."""

from __future__ import annotations

from typing import cast

from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, can, may
from kyrtos.house_rules import services
from kyrtos.house_rules.models import HouseRule
from kyrtos.shops.services import system_of
from sizing.base.rules import Rule, defaults


def _line(rule: Rule, house: HouseRule | None, request: ShopRequest) -> dict[str, object]:
    system = system_of(request.membership.shop)
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
    return render(
        request, "house_rules/rules.html", {"lines": found, "words": words, "changed": len(own)}
    )


@may("see")
def rule(request: ShopRequest, rule_id: str) -> HttpResponse:
    """One rule: what it says, why, where the schools disagree; and the owner's form."""
    shop = request.membership.shop
    found = defaults().get(rule_id)
    if found is None:
        raise Http404("no such rule")
    house = shop.house_rules.filter(rule_id=rule_id).first()
    typed = {
        "value": found.shown(house.value_si if house else found.typical_si, system_of(shop)),
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
    return render(request, "house_rules/rule.html", context, status=422 if problem else 200)
