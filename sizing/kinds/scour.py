"""The flow that keeps a sewage line scoured, whatever flows in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.demand.method import Demand
from sizing.document.build_route import bore_m, the_leg
from sizing.document.job import LegEntry
from sizing.hydraulics.friction import velocity_m_s


def raised_to_scour(demand: Demand, legs: Sequence[LegEntry], rules: Rules) -> Demand:
    """The demand, raised to the flow at which solids move in the widest leg.

    Where that is more (rule VEL-07).
    """
    if not legs:
        return demand
    widest = max(legs, key=bore_m)
    bore, speed = bore_m(widest), rules.low("VEL-07")
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
        "rule VEL-07; more than what flows in",
    )
    return replace(demand, needed_m3s=flow, working=working)
