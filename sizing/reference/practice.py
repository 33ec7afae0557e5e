"""Answers to the practice families, by the same public functions as the application."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.storage.basin import Levels, basin, pipe_volume_m3
from sizing.storage.plan import Plan, plan

Inputs = dict[str, Any]
Answers = dict[str, Any]
_MM_PER_HOUR = 1e-3 / 3600.0


def _plan(given: Inputs) -> Plan:
    return plan(given["shape"], diameter_m=given["diameter_m"], length_m=given["length_m"], width_m=given["width_m"])


def demand_rise(given: Inputs) -> Answers:
    """Inflow from a timed rise."""
    return dict(vars(rise(_plan(given), given["level_rise_m"], given["time_s"])))


def demand_rational(given: Inputs) -> Answers:
    """Run-off of rain on surfaces."""
    surfaces = [Surface(**surface) for surface in given["surfaces"]]
    return dict(vars(rational(given["rain_mm_h"] * _MM_PER_HOUR, surfaces)))


def basin_family(given: Inputs) -> Answers:
    """Cycles, storage and overflow of a pit."""
    levels = Levels(*(given[f"{name}_level_m"] for name in ("stop", "start", "inlet", "alarm", "overflow")))
    drains = 0.0 if given["check_valve_holds"] else pipe_volume_m3(given["drain_line_length_m"], given["drain_line_inside_diameter_m"])
    found = basin(
        _plan(given), levels, pump_flow_m3s=given["pump_flow_m3s"], inflow_m3s=given["inflow_m3s"],
        allowed_starts_per_h=given["allowed_starts_per_h"], pump_count=given["pump_count"], alternating=given["alternating"],
        drain_line_volume_m3=drains, level_at_failure_m=given["level_at_failure_m"], line_full_at_failure=given["line_full_at_failure"],
    )  # fmt: skip
    return dict(vars(found))


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "demand_rise": demand_rise, "demand_rational": demand_rational, "basin": basin_family,
}  # fmt: skip
