"""What to ask makers for where nothing of the catalogue fits: the duty, with what goes with it."""

from __future__ import annotations

import numpy as np

from sizing.base.message import Measure
from sizing.base.water import GRAVITY_M_S2
from sizing.checks.base import Site
from sizing.checks.suction import npsh_limit
from sizing.size import Sizing

_EFFICIENCY = 0.5  # of the wet end: what small pumps reach near their best flow, assumed
# the sizes that motors are made in [W] (IEC 60072-1 preferred outputs)
_MOTORS_W = (
    *(60, 90, 120, 180, 250, 370, 550, 750, 1100, 1500, 2200, 3000, 4000, 5500, 7500),
    *(11_000, 15_000, 18_500, 22_000, 30_000, 37_000, 45_000, 55_000, 75_000),
)

Row = tuple[str, Measure | str]


def specification(sizing: Sizing) -> tuple[Row, ...]:
    """Rows of what a pump has to be; none while flow or run are not known.

    Powers are of water at the duty, the shaft's by an assumed efficiency: a first figure for the
    motor, which the maker's curve replaces.
    """
    demand, system, facts = sizing.demand, sizing.system, sizing.facts
    head_m = sizing.needed_head_m
    if demand is None or system is None or not head_m:
        return ()
    flow, weight = demand.needed_m3s, system.water.density_kg_m3 * GRAVITY_M_S2
    hydraulic_w = weight * flow * head_m
    shaft_w = hydraulic_w / _EFFICIENCY
    motor_w = next((one for one in _MOTORS_W if one >= shaft_w), None)
    static_m = max(system.static_head_m, 0.0)
    rows: list[Row] = [
        ("For", sizing.kind.label),
        ("Flow", Measure(flow, "flow")),
        ("Head at that flow", Measure(head_m, "length")),
        (
            "Head at no flow, at least",
            Measure(static_m * (1.0 + sizing.rules.value("CHO-03")), "length"),
        ),
        ("Power in the water", Measure(hydraulic_w, "power")),
        (f"Power at the shaft, at {_EFFICIENCY:.0%} (assumed)", Measure(shaft_w, "power")),
        (
            "Next motor size",
            "over 75 kW: a maker's own" if motor_w is None else Measure(motor_w, "power"),
        ),
    ]
    suction = sizing.kind.suction_at(facts)
    if suction is not None:
        site = Site(sizing.job, facts, sizing.rules, demand, system, sizing.legs)
        limit = npsh_limit(site, *suction)
        there = float(limit.available_m(np.array([flow]))[0])
        by_ratio = there * (1.0 - 1.0 / sizing.rules.low("NPSH-01"))
        margin = max(sizing.rules.value("NPSH-03"), by_ratio)
        rows.append(("NPSH it may require, at most", Measure(max(there - margin, 0.0), "length")))
    for key, label, dimension in (
        ("largest_solid", "Solid that has to pass", "size"),
        ("temperature", "Water", "temperature"),
        ("voltage", "Supply", "voltage"),
        ("supply_frequency", "Mains", "mains"),
    ):
        value = facts.optional(key) if facts.asks(key) else None
        if value:
            rows.append((label, Measure(value, dimension)))
    if facts.asks("phases"):
        rows.append(("Phases", facts.choice("phases")))
    return tuple(rows)


def in_words(sizing: Sizing) -> tuple[tuple[str, str], ...]:
    """The rows as texts, in the job's units."""
    system = sizing.job.units
    return tuple(
        (label, value.text(system) if isinstance(value, Measure) else value)
        for label, value in specification(sizing)
    )
