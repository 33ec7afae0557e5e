"""The pages of the house rules."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_safe

from kyrtos.accounts import two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, can, may
from kyrtos.accounts.terms import system_of
from kyrtos.house_rules import services
from kyrtos.house_rules.forms import LABELS, RuleForm
from kyrtos.house_rules.models import HouseRule
from kyrtos.shops.models import Shop
from sizing.base.rules import PARTS, Rule, defaults
from sizing.base.units import System


@dataclass(frozen=True)
class Line:
    """A rule with its values as they are shown: the trade's, and the house's own beside them."""

    rule: Rule
    house: HouseRule | None
    low: str
    usual: str
    high: str
    own: str


def _line(rule: Rule, house: HouseRule | None, system: System) -> Line:
    own = [
        f"{LABELS[part].lower()} {rule.shown(house.part(part), system)}"
        for part in PARTS
        if house and house.part(part) is not None
    ]
    low, usual, high = (rule.shown(rule.part(part), system) for part in PARTS)
    return Line(rule=rule, house=house, low=low, usual=usual, high=high, own=", ".join(own))


@require_safe
@may("see")
def rules(request: ShopRequest) -> HttpResponse:
    """Rules that decide something, the house's own first; and apart what is good to know."""
    shop, words = request.membership.shop, request.GET.get("q", "")[:100]
    own = {house.rule_id: house for house in shop.house_rules.select_related("set_by")}
    system = system_of(request.membership)
    found = [_line(one, own.get(one.rule_id), system) for one in services.search_rules(words)]
    found.sort(key=lambda line: line.house is None)
    context = {
        "binding": [line for line in found if line.rule.binds],
        "good_to_know": [line for line in found if not line.rule.binds],
        "words": words,
        "changed": len(own),
    }
    return render(request, "house_rules/rules.html", context)


@may("see")
@transaction.atomic
def rule(request: ShopRequest, rule_id: str) -> HttpResponse:
    """One rule: what it says and decides, where the methods disagree; and the owner's form."""
    shop, found = request.membership.shop, defaults().get(rule_id)
    if found is None:
        raise Http404("no such rule")
    system = system_of(request.membership)
    if request.method == "POST":
        Shop.objects.select_for_update().get(pk=shop.pk)  # a rule may have no row yet to hold
    house = shop.house_rules.filter(rule_id=rule_id).first()
    form = two_people.opened(request, lambda sent: RuleForm(found, system, house, sent))
    if request.method == "POST":
        if not can(request.membership, "set rules"):
            raise PermissionDenied("Only the owner of the shop sets its rules.")
        if _done(request, found, form):
            return redirect("rules")
    line = _line(found, house, system_of(request.membership))
    status = two_people.status_of(form)
    context = {"line": line, "rule": found, "house": house, "form": form}
    return render(request, "house_rules/rule.html", context, status=status)


def _done(request: ShopRequest, found: Rule, form: RuleForm) -> bool:
    """Set or clear a rule as asked; False with what is wrong beside its field."""
    shop = request.membership.shop
    if "clear" in request.POST and getattr(form, "moved", False):
        form.add_error(None, "Somebody else changed this rule meanwhile: look, then clear it.")
        return False
    if "clear" in request.POST:
        services.clear_rule(shop=shop, rule=found)
        did(request, "house rule cleared", found.rule_id)
        return True
    if not form.is_valid():
        return False
    user, reason = cast(User, request.user), form.cleaned_data["reason"]
    try:
        services.set_rule(
            shop=shop,
            user=user,
            rule=found,
            texts=form.typed,
            reason=reason,
            system=system_of(request.membership),
        )
    except services.RuleError as problem:
        form.add_error(problem.field if problem.field in form.fields else None, str(problem))
        return False
    did(request, "house rule set", f"{found.rule_id}: {reason}")
    return True
