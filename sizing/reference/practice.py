"""Answers to the practice families, by the same public functions as the application."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.demand.openings import Orifice, jets, orifices_m3s, weir
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.demand.statistical import Group, statistical
from sizing.demand.volume import fill_m3s, per_head_by_factor, per_head_by_hours, turnover_m3s
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


def demand_statistical(given: Inputs) -> Answers:
    """Peak by probability."""
    groups = [Group(**group) for group in given["groups"]]
    return dict(vars(statistical(groups, percentile=given["percentile"], zero_truncated=given["zero_truncated"])))


def demand_turnover(given: Inputs) -> Answers:
    """A volume turned over."""
    return {"flow_m3s": turnover_m3s(given["volume_m3"], given["turnovers_per_h"])}


def demand_jets(given: Inputs) -> Answers:
    """Jets shared by pumps."""
    return dict(vars(jets([(jet["count"], jet["flow_m3s"]) for jet in given["jets"]], given["pump_count"])))


def demand_per_head(given: Inputs) -> Answers:
    """People and a day."""
    people, volume = given["people"], given["volume_per_person_m3_d"]
    if given["peaking"] == "factor":
        return dict(vars(per_head_by_factor(people, volume, given["peak_factor"])))
    return dict(vars(per_head_by_hours(people, volume, given["peak_hours_h"], given["share_in_peak_hours"])))


def demand_fill(given: Inputs) -> Answers:
    """A tank filled in a time."""
    return {"flow_m3s": fill_m3s(given["volume_m3"], given["time_s"], given["draw_off_m3s"])}


def demand_weir(given: Inputs) -> Answers:
    """A sheet of water over a weir."""
    known = {key: given[key] for key in ("head_m", "flow_m3s", "flow_per_width_m2s")}
    return dict(vars(weir(given["crest_width_m"], given["weir_constant_m05_s"], **known)))


def demand_orifices(given: Inputs) -> Answers:
    """Holes of a network."""
    return {"total_flow_m3s": orifices_m3s([Orifice(**one) for one in given["orifices"]])}


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "demand_rise": demand_rise, "demand_rational": demand_rational, "basin": basin_family, "demand_statistical": demand_statistical,
    "demand_turnover": demand_turnover, "demand_jets": demand_jets, "demand_per_head": demand_per_head, "demand_fill": demand_fill,
    "demand_weir": demand_weir, "demand_orifices": demand_orifices,
}  # fmt: skip
