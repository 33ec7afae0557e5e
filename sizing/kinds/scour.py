"""The flow that keeps a sewage line scoured, whatever flows in."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand
from sizing.document.answers import Choice, Facts, Question
from sizing.document.build_route import bore_m, the_leg
from sizing.document.job import LegEntry
from sizing.hydraulics.friction import velocity_m_s

SPEED_QUESTION = Question(
    "speed_limits",
    "Speeds and bore of the line by",
    "run",
    default="us",
    choices=(
        Choice("us", "US practice: 2 to 8 ft/s (0.61 to 2.44 m/s)"),
        Choice("en", "EN 12056-4: 0.7 to 2.3 m/s (2.3 to 7.5 ft/s)"),
    ),
    help="Two schools; your code names one.",
)
_WHY = "keeps solids moving and the loss small"
_SPEEDS = {
    "us": Speeds("VEL-09", _WHY, "VEL-07", settles="VEL-21"),
    "en": Speeds("VEL-22", _WHY, "VEL-22", settles="VEL-21"),
}


def sewage_speeds(facts: Facts) -> Speeds:
    """The rules on the speed of sewage, by the school that was chosen."""
    return _SPEEDS[facts.choice("speed_limits")]


def raised_to_scour(
    demand: Demand, legs: Sequence[LegEntry], rules: Rules, scour_rule: str
) -> Demand:
    """The demand, raised to the flow at which solids move in the widest leg.

    Where that is more.
    """
    if not legs:
        return demand
    widest = max(legs, key=bore_m)
    bore, speed = bore_m(widest), rules.low(scour_rule)
    flow = speed / float(velocity_m_s(1.0, bore))
    if flow <= demand.needed_m3s:
        return demand
    inputs = (
        ("least speed", Measure(speed, "velocity")),
        (f"bore of {the_leg(widest, legs.index(widest) + 1)}", Measure(bore, "bore")),
    )
    working = Working(
        "Flow needed so that solids move",
        "v × π d² / 4",
        inputs,
        Measure(flow, "flow"),
        f"rule {scour_rule}; more than what flows in",
    )
    return demand.then(working, flow)
