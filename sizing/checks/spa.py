"""What must hold for the pump of a hot tub."""

from __future__ import annotations

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, state
from sizing.document.answers import Facts


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


def too_strong_check(running: Running) -> Check:
    """Whether the pump gives more than the jets take."""
    surplus, most = (
        running.flow_m3s / running.demand.needed_m3s - 1.0,
        running.rules.value("CHO-02"),
    )
    text = message(
        "It gives {surplus} more than the jets want; over {most} they sting and splash (rule"
        " CHO-02).",
        surplus=Measure(surplus, "ratio"),
        most=Measure(most, "ratio"),
    )
    return Check(
        "too_strong",
        "Not too strong",
        state(surplus <= most, surplus <= 2 * most),
        text,
        "Take the smaller pump, or two speeds: throttling wastes what it holds back.",
    )


def entrapment_checks(running: Running) -> list[Check]:
    """Suction outlets and the rating of their covers."""
    outlets, rating = running.facts.si("suction_outlets"), running.facts.optional("cover_rating")
    found = [
        Check(
            "outlets",
            "Suction outlets",
            state(outlets >= 2),
            message(
                "{outlets} for each pump; two or more at least {apart} apart, so that no body"
                " covers all (rules SPA-05 and SPA-06).",
                outlets=Measure(outlets, "count"),
                apart=Measure(running.rules.low("SPA-06"), "length"),
            ),
            "Fit a second suction outlet, or a single cover that cannot be blocked.",
        )
    ]
    if rating is not None:
        text = message(
            "With one blocked, one cover takes {flow}; it is rated for {rating}.",
            flow=Measure(running.flow_m3s, "flow"),
            rating=Measure(rating, "flow"),
        )
        found.append(
            Check(
                "cover",
                "Suction covers",
                state(rating >= running.flow_m3s),
                text,
                "Fit covers rated for the whole flow, or more outlets.",
            )
        )
    return found


def blower_check(facts: Facts) -> Check:
    """Whether the blower stands near enough."""
    found = facts.choice("blower")
    texts = {
        "none": "Air comes by the jets' own venturis.",
        "near": "The blower stands near enough (rule SPA-03).",
        "far": "The blower stands too far off: its air cools and weakens (rule SPA-03).",
    }
    return Check(
        "blower",
        "Air",
        "fail" if found == "far" else "hold",
        message(texts[found]),
        "Set the blower nearer the tub, its loop over the water.",
    )
