"""What must hold for a pump from tank to tank."""

from __future__ import annotations

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, alone, state
from sizing.document.answers import Facts


@alone("the suction lift")
def lift_checks(running: Running, facts: Facts, level: str = "source_level") -> list[Check]:
    """Whether a suction lift is one that works in practice.

    Nothing where the water stands over the pump.
    """
    lift = -facts.si(level)
    if lift <= 0:
        return []
    least = running.rules.value("NPSH-06") * facts.si("altitude") / 1000.0
    usual, most = running.rules.value("NPSH-05") - least, running.rules.high("NPSH-05") - least
    primed = running.pump.pump.family == "jet" or any(
        one.fitting in ("foot_poppet", "foot_hinged")
        for leg in running.legs
        for one in leg.fittings
    )
    text = message(
        "It lifts {lift} by suction; {usual} is dependable at this height over the sea (rules"
        " NPSH-05 and NPSH-06). "
        + ("" if primed else "Nothing holds the water in the suction: no foot valve."),
        lift=Measure(lift, "length"),
        usual=Measure(usual, "length"),
    )
    return [
        Check(
            "lift",
            "Suction lift",
            state(lift <= usual and primed, lift <= most),
            text,
            "Set the pump lower, fit a foot valve (each pump its own suction line), stop it before"
            " it runs dry, or hang a pump in the water.",
            weight="must",
            about="site",
        )
    ]


@alone("the time to fill the tank")
def fill_checks(running: Running) -> list[Check]:
    """Whether the tank is full in the time wanted."""
    facts = running.facts
    volume, draw = facts.optional("volume"), facts.optional("draw_off") or 0.0
    wanted = facts.optional("fill_time")
    if volume is None or wanted is None or running.flow_m3s <= draw:
        return []
    time = volume / (running.flow_m3s - draw)
    inputs = (
        ("volume", Measure(volume, "volume")),
        ("flow", Measure(running.flow_m3s, "flow")),
        ("drawn meanwhile", Measure(draw, "flow")),
    )
    return [
        Check(
            code="fill",
            label="Filled in time",
            state=state(time <= wanted * 1.001, time <= 1.1 * wanted),
            message=message(
                "At the flow it really gives, the volume is moved in {time}; {wanted} was wanted.",
                time=Measure(time, "time"),
                wanted=Measure(wanted, "time"),
            ),
            remedy="Take a stronger pump or a wider pipe.",
            working=Working(
                "Time to fill",
                "volume / (flow − drawn)",
                inputs,
                Measure(time, "time"),
                "continuity",
            ),
        )
    ]


@alone("the floats")
def floats_check(facts: Facts) -> Check:
    """Whether floats stop the pump when full and when dry."""
    found = facts.choice("floats")
    texts = {
        "none": (
            "No float yet: the upper tank overflows, and the pump runs dry when the lower is empty."
        ),
        "upper": (
            "The upper float stops it when full; nothing stops it when the lower tank is empty."
        ),
        "both": "One float stops it when the upper tank is full, one when the lower is empty.",
    }
    return Check(
        "floats",
        "Floats",
        state(found == "both", found == "upper"),
        message(texts[found]),
        "Fit a float in each tank, wired in series; running dry ruins the seal in minutes.",
        about="site",
    )
