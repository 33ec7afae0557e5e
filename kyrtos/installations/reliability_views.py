"""How long the shop's pumps last, what a year of one cost, and what that says for the next."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.drawing.reliability_chart import life_chart
from kyrtos.house_rules.services import RuleError, rules_of, set_rule
from kyrtos.installations import reliability
from kyrtos.installations.models import InstalledPump
from kyrtos.installations.views import user_of
from sizing.aftercare.reliability.cost_of_a_year import GroupLife
from sizing.aftercare.reliability.survival import FEW, Lifetimes, Span
from sizing.base import units
from sizing.base.rules import defaults
from sizing.base.units import System

_BY = {
    "model": "model",
    "family": "family",
    "maker": "maker",
    "kind": "kind of job",
    "cause": "why they failed",
}
_LIFE_RULE = "CHO-07"
_MOST_ROWS = 100
_STARTS: tuple[str, System] = ("frequency", "metric")


@dataclass(frozen=True)
class LifeRow:
    """A group as a row."""

    group: str
    count: int
    failed: int
    few: bool
    mean: str
    median: str
    price: str
    year: str
    causes: str


def span_said(span: Span) -> str:
    """A length of years with its interval."""
    if span.years is None:
        return "not told yet" if span.low is None else f"over {span.low:.1f} years"
    high = "?" if span.high is None else f"{span.high:.1f}"
    low = "?" if span.low is None else f"{span.low:.1f}"
    return f"{span.years:.1f} years ({low} to {high})"


def _row(one: GroupLife, currency: str) -> LifeRow:
    def money(value: float | None) -> str:
        return "" if value is None else f"{value:,.0f} {currency}"

    return LifeRow(
        group=one.group,
        count=one.life.count,
        failed=one.life.failed,
        few=one.life.few,
        mean=span_said(one.life.expected),
        median=span_said(one.life.median),
        price=money(one.price),
        year=money(one.cost_per_year),
        causes=", ".join(f"{count} {cause}" for cause, count in one.causes[:3]),
    )


def fit_said(life: Lifetimes) -> str:
    """What the fits say of a group, with their doubt."""
    if life.weibull is None:
        return "Too few failures for a fit."
    fit = life.weibull
    shape = f"shape {fit.shape:.1f} ({fit.shape_low:.1f} to {fit.shape_high:.1f})"
    mean = f"mean {fit.mean_years:.1f} ± {2 * fit.mean_sigma_years:.1f} years"
    if not fit.better:
        return (
            f"Weibull: {shape}, {mean}. It explains no more than chance would over a plain rate of"
            " failure: no sign that they wear out or fail young."
        )
    says = "they wear out" if fit.shape > 1 else "many fail young: look at how they are put in"
    return f"Weibull: {shape}, {mean}: {says}."


def _early_said(early: list[tuple[InstalledPump, float, float | None]]) -> list[str]:
    """Why pumps failed early, the commonest first, and how often those were to start."""
    by_cause: dict[str, list[float]] = {}
    counts: dict[str, int] = {}
    for pump, _, starts in early:
        cause = pump.cause or "not told"
        counts[cause] = counts.get(cause, 0) + 1
        if starts is not None:
            by_cause.setdefault(cause, []).append(starts)
    return [
        f"{count} {cause}"
        + (f" (were to start {units.show(median(known), *_STARTS)})" if known else "")
        for cause, count in sorted(counts.items(), key=lambda row: -row[1])[:8]
        for known in (by_cause.get(cause, []),)
    ]


@require_safe
@may("see")
@share
def life(request: ShopRequest) -> HttpResponse:
    """How long pumps last, by one way of grouping; the curve of all or of one group."""
    shop, today = request.membership.shop, timezone.localdate()
    by = request.GET.get("by", "model")
    by = by if by in _BY else "model"
    groups = reliability.by_group(shop, by, reliability.PRICE_PER_KWH, today)
    chosen = next((one for one in groups if one.group == request.GET.get("group")), None)
    pumps = list(reliability.known(shop))
    whole = reliability.together(pumps, today) if pumps else None
    shown = chosen.life if chosen else whole
    name = chosen.group if chosen else "all pumps"
    rule = defaults()[_LIFE_RULE]
    early = reliability.early(shop, today)
    context = {
        "impossible": reliability.impossible(shop)[:_MOST_ROWS],
        "by": by,
        "ways": _BY.items(),
        "rows": [_row(one, shop.currency) for one in groups[:_MOST_ROWS]],
        "more": max(len(groups) - _MOST_ROWS, 0),
        "name": name,
        "shown": shown,
        "chart": None if shown is None else life_chart(shown, name),
        "fit": "" if shown is None else fit_said(shown),
        "median": "" if shown is None else span_said(shown.median),
        "mean": "" if shown is None else span_said(shown.expected),
        "causes": _early_said(early),
        "few": FEW,
        "price": f"{reliability.PRICE_PER_KWH:.2f} {shop.currency}",
        "early": [
            (
                pump,
                f"{years:.1f}",
                "" if starts is None else units.show(starts, "frequency", "metric"),
            )
            for pump, years, starts in early[:20]
        ],
        "rule": rule,
        "rule_years": f"{rules_of(shop).value(_LIFE_RULE):g}",
        "group": chosen.group if chosen else "",
    }
    return render(request, "installations/life.html", context)


@require_POST
@may("set rules")
def as_rule(request: ShopRequest) -> HttpResponse:
    """Take the life that the shop's own pumps show as the one in the cost of owning."""
    shop, today = request.membership.shop, timezone.localdate()
    by, group = request.POST.get("by", "model"), request.POST.get("group", "")
    groups = reliability.by_group(
        shop, by if by in _BY else "model", reliability.PRICE_PER_KWH, today
    )
    chosen = next((one.life for one in groups if one.group == group), None)
    if not group:
        pumps = list(reliability.known(shop))
        chosen = reliability.together(pumps, today) if pumps else None
    if chosen is None or chosen.few or chosen.expected.years is None:
        messages.error(request, f"Nothing was set: fewer than {FEW} of these failed.")
        return redirect("life")
    rule = defaults()[_LIFE_RULE]
    years = f"{chosen.expected.years:.1f}"
    reason = (
        f"our own log of {today}: {chosen.failed} of {chosen.count} failed in"
        f" {chosen.years:.0f} years of service ({group or 'all pumps'})"
    )
    try:
        set_rule(
            shop=shop,
            user=user_of(request),
            rule=rule,
            texts={"usual": years},
            reason=reason,
            system="metric",
        )
    except RuleError as problem:
        messages.error(request, f"Nothing was set: {problem}")
        return redirect("life")
    did(request, "rule set", f"{rule.rule_id} from the log: {years} years")
    messages.success(request, f"The cost of owning now spreads a price over {years} years.")
    return redirect("rule", rule_id=rule.rule_id)
