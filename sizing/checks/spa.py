"""What must hold for the pump of a hot tub."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.document.answers import Facts
from sizing.selection.limit import ByFlow, Limit, not_over

_WEAK = 0.9  # of the flow wanted: under it the blower's air wins (assumed)


@alone("the flow of the jets")
def jets_check(running: Running) -> Check:
    """The pressure that is really left at the jets, for their air."""
    device, rules = running.system.route.devices[0], running.rules
    ratio = running.flow_m3s / device.rated_flow_m3s
    pressure = running.system.water.pressure_pa(device.rated_head_m * ratio**2)
    low, high = rules.low("SPA-02"), rules.high("SPA-02")
    text = message(
        "At the flow that really runs the jets have {pressure}; {low} to {high} draws air well"
        " (rule SPA-02).",
        pressure=Measure(pressure, "pressure"),
        low=Measure(low, "pressure"),
        high=Measure(high, "pressure"),
    )
    inputs = (
        (
            "wanted pressure",
            Measure(running.system.water.pressure_pa(device.rated_head_m), "pressure"),
        ),
        ("flow over the wanted one", Measure(ratio, "ratio")),
    )
    working = Working(
        "Pressure at the jets",
        "wanted × (flow / wanted flow)²",
        inputs,
        Measure(pressure, "pressure"),
        "turbulent loss",
    )
    return Check(
        code="jets",
        label="Pressure at the jets",
        state=state(low <= pressure <= high, 0.8 * low <= pressure <= 1.3 * high),
        message=text,
        remedy="Fewer jets on this pump, or wider pipe.",
        working=working,
    )


@alone("a pump that is too strong")
def too_strong_check(running: Running) -> Check:
    """Whether the pump gives more than the jets take."""
    surplus, most = (
        running.flow_m3s / running.demand.needed_m3s - 1.0,
        running.rules.value("CHO-02"),
    )
    text = message(
        (
            "It gives {surplus} more than the jets want"
            if surplus > 0
            else "It gives no more than the jets want"
        )
        + "; over {most} they sting and splash (rule CHO-02).",
        surplus=Measure(max(surplus, 0.0), "ratio"),
        most=Measure(most, "ratio"),
    )
    return Check(
        "too_strong",
        "Not too strong",
        state(surplus <= most, surplus <= 2 * most),
        text,
        "Take the smaller pump, or two speeds: throttling wastes what it holds back.",
    )


@alone("suction entrapment")
def entrapment_site_checks(site: Site) -> list[Check]:
    """Suction outlets, how far apart they lie, and the rating of their covers: who bathes is held.

    What is not known is watched; what is known to be wrong fails.
    """
    facts, rules, needed = site.facts, site.rules, site.demand.needed_m3s
    outlets, apart = facts.si("suction_outlets"), facts.optional("outlet_spacing")
    least = rules.low("SPA-06")
    rating = facts.optional("cover_rating")
    return [
        Check(
            "outlets",
            "Suction outlets",
            state(outlets >= 2),
            message(
                "{outlets} for each pump; two or more, so that no body covers all (rule SPA-05).",
                outlets=Measure(outlets, "count"),
            ),
            "Fit a second suction outlet, or a single cover that cannot be blocked.",
            weight="must",
            about="site",
        ),
        Check(
            "spacing",
            "Outlets apart",
            "watch" if apart is None else state(bool(at_least(apart, least))),
            message(
                "Nobody has said how far apart; {least} at least (rule SPA-06).", least=_m(least)
            )
            if apart is None
            else message(
                "{apart} apart; {least} at least, so that one body cannot cover both (rule"
                " SPA-06).",
                apart=_m(apart),
                least=_m(least),
            ),
            "Measure from middle to middle; set them further apart.",
            weight="must",
            asks=apart is None,
            about="site",
        ),
        Check(
            "cover",
            "Suction covers",
            "watch" if rating is None else state(bool(at_least(rating, needed))),
            message(
                "Nobody has said what the covers are rated for; {needed} is needed.",
                needed=_q(needed),
            )
            if rating is None
            else message(
                "With one blocked, one cover takes the whole {needed}; it is rated for {rating}.",
                needed=_q(needed),
                rating=_q(rating),
            ),
            "Read the rating on the cover; fit covers rated for the whole flow.",
            weight="must",
            asks=rating is None,
            about="site",
        ),
    ]


def _m(value: float) -> Measure:
    return Measure(value, "length")


def _q(value: float) -> Measure:
    return Measure(value, "flow")


def cover_limits(site: Site) -> tuple[Limit, ...]:
    """No pump may draw more through a cover than it is rated for."""
    rating = site.facts.optional("cover_rating")
    if rating is None or not at_least(rating, site.demand.needed_m3s):
        return ()  # not known, or the site's fault whatever the pump
    return (
        ByFlow(
            lambda flow_m3s: flow_m3s,
            partial(not_over, usual=rating, most=rating),
            "would draw {figure} through a suction cover rated for less",
            "flow",
            "would draw more than the suction covers are rated for",
        ),
    )


@alone("the flow through the suction covers")
def cover_flow_check(running: Running) -> list[Check]:
    """The flow that really runs against the rating of a cover."""
    rating = running.facts.optional("cover_rating")
    if rating is None or not at_least(rating, running.demand.needed_m3s):
        return []
    return [
        Check(
            "cover_flow",
            "Flow through one cover",
            state(bool(at_most(running.flow_m3s, rating))),
            message(
                "With one blocked, one cover takes {flow}; it is rated for {rating}.",
                flow=_q(running.flow_m3s),
                rating=_q(rating),
            ),
            "Fit covers rated for the whole flow, or take a smaller pump.",
            weight="must",
        )
    ]


@alone("the blower")
def blower_checks(running: Running) -> Iterator[Check]:
    """Whether the blower stands near enough, and the jets are strong enough for its air."""
    found = running.facts.choice("blower")
    texts = {
        "none": "Air comes by the jets' own venturis.",
        "near": "The blower stands near enough (rule SPA-03).",
        "far": "The blower stands too far off: its air cools and weakens (rule SPA-03).",
    }
    yield Check(
        "blower",
        "Air",
        "fail" if found == "far" else "hold",
        message(texts[found]),
        "Set the blower nearer the tub, its loop over the water.",
        about="site",
    )
    if found == "none":
        return
    share = running.flow_m3s / running.demand.needed_m3s
    yield Check(
        "blower_jets",
        "Jets against the blower",
        state(bool(at_least(share, 1.0)), bool(at_least(share, _WEAK))),
        message(
            "With {share} of the flow that they want the jets carry the blower's air away."
            if at_least(share, 1.0)
            else "With {share} of the flow that they want the jets drown in the blower's air.",
            share=Measure(share, "ratio"),
        ),
        "Take the pump that gives the jets their flow, or turn the air down.",
    )


@alone("the priming of the tub's pump")
def tub_priming_check(facts: Facts) -> Iterator[Check]:
    """A tub's pump does not suck itself full: it stands below the water. Nothing where not told."""
    over = facts.optional("pump_over_water")
    if over is None:
        return
    yield Check(
        "primes",
        "Pump below the water",
        state(over <= 0),
        message(
            "It stands {below} under the tub's water and fills by itself.",
            below=Measure(-over, "length"),
        )
        if over <= 0
        else message(
            "It stands {over} over the tub's water, and such a pump does not prime itself.",
            over=Measure(over, "length"),
        ),
        "Set the pump under the water, or take a self-priming one with a check valve before it.",
        about="site",
    )
