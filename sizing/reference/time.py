"""Families of the reference cases on what happens over time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.base import quantity
from sizing.base.errors import UnreadableQuantity
from sizing.base.units import SECONDS_PER_HOUR
from sizing.hydraulics import pipe_words
from sizing.over_time.simulation.delivery import Against, Pump
from sizing.over_time.simulation.pit import Inflow, Pit, run_pit
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.over_time.simulation.power_cut import Battery, power_cut
from sizing.over_time.simulation.pressure_tank import (
    TankAndSwitch,
    cycling,
    quick_tank_volume_m3,
    tank_volume_for_m3,
    worst_draw_m3s,
)
from sizing.over_time.simulation.two_tanks import Lower, TwoTanks, Upper, run_two_tanks
from sizing.storage.basin_design import Wanted, on_sale, smallest
from sizing.storage.starts import starts

Inputs = dict[str, Any]
Answers = dict[str, Any]


def starts_family(given: Inputs) -> Answers:
    """How often a pump starts at the inflow that can come."""
    found = starts(
        given["pump_flows_m3s"],
        alternating=given["alternating"],
        storage_m3=given["storage_m3"],
        drain_back_m3=given["drain_back_m3"],
        peak_inflow_m3s=given["peak_inflow_m3s"],
        allowed_starts_per_s=given["allowed_starts_per_h"] / SECONDS_PER_HOUR,
    )
    rate = found.starts_per_s
    return {
        **vars(found),
        "half_flow_rule_starts_per_pump_per_h": found.half_flow_rule_starts_per_s
        * SECONDS_PER_HOUR,
        "starts_per_pump_per_h": None if rate is None else rate * SECONDS_PER_HOUR,
    }


def basin_day_family(given: Inputs) -> Answers:
    """A pit over a day."""
    area = AreaByLevel.of([(row["level_m"], row["area_m2"]) for row in given["area_by_level"]])
    pit = Pit(
        area=area,
        stop_m=given["stop_level_m"],
        start_m=given["start_level_m"],
        lag_start_m=given["lag_start_level_m"],
        alarm_m=given["alarm_level_m"],
        inlet_m=given["inlet_level_m"],
        rim_m=given["rim_level_m"],
        pumps=tuple(Pump(one["shutoff_head_m"], one["curve_b_s2_m5"]) for one in given["pumps"]),
        against=Against(given["discharge_level_m"], given["system_k_s2_m5"]),
        alternating=given["alternating"],
        drain_back_m3=0.0 if given["check_valve_holds"] else given["drain_back_m3"],
    )
    found = run_pit(
        pit,
        Inflow(tuple((row["from_s"], row["flow_m3s"]) for row in given["inflow"])),
        initial_level_m=given["initial_level_m"],
        power_cuts=[(one["from_s"], one["to_s"]) for one in given["power_cuts"]],
    )
    of_pumps: Answers = {}
    for number in (1, 2):
        there = number <= len(pit.pumps)
        of_pumps |= {
            f"starts_pump_{number}": found.starts[number - 1] if there else None,
            f"run_time_pump_{number}_s": found.run_times_s[number - 1] if there else None,
        }
    return vars(found) | of_pumps | {"overflowed": found.overflow_m3 > 0}


def tank_cycle_family(given: Inputs) -> Answers:
    """A pressure tank, its switch, and a pump whose flow falls with pressure."""
    tank = TankAndSwitch(
        tank_volume_m3=given["tank_volume_m3"],
        precharge_pa=given["precharge_pa_gauge"],
        cut_in_pa=given["cut_in_pa_gauge"],
        cut_out_pa=given["cut_out_pa_gauge"],
        pump=Pump(given["shutoff_head_m"], given["curve_b_s2_m5"]),
        lift_m=given["lift_m"],
        pipe_k_s2_m5=given["pipe_k_s2_m5"],
        density_kg_m3=given["density_kg_m3"],
        atmosphere_pa=given["atmosphere_pa"],
        air_exponent=given["air_exponent"],
    )
    stops = tank.flow_m3s(tank.cut_out_pa) > 0
    worst, least = worst_draw_m3s(tank), given["minimum_run_time_s"]
    found = cycling(tank, given["draw_m3s"], given["hunting_run_time_s"])
    return {
        "drawdown_m3": tank.drawdown_m3,
        "drawdown_fraction": tank.drawdown_m3 / tank.tank_volume_m3,
        "precharge_above_cut_in": tank.precharge_pa > tank.cut_in_pa,
        "flow_at_cut_in_m3s": tank.flow_m3s(tank.cut_in_pa),
        "flow_at_cut_out_m3s": tank.flow_m3s(tank.cut_out_pa),
        "outcome_no_draw": "stops" if stops else "never_stops",
        "run_time_no_draw_s": tank.fill_time_s(0.0) if stops else None,
        "worst_draw_m3s": worst,
        "worst_starts_per_h": None
        if worst is None
        else SECONDS_PER_HOUR / (tank.fill_time_s(worst) + tank.drawdown_m3 / worst),
        "tank_volume_needed_mid_m3": quick_tank_volume_m3(tank, least) if stops else None,
        "tank_volume_needed_m3": tank_volume_for_m3(tank, least),
        "outcome_with_draw": found.outcome,
        "run_time_s": found.run_time_s,
        "rest_time_s": found.rest_time_s,
        "starts_per_h": found.starts_per_s * SECONDS_PER_HOUR,
        "settle_pressure_pa_gauge": found.settle_pressure_pa,
    }


def power_cut_family(given: Inputs) -> Answers:
    """A power cut, with a battery pump or without."""
    battery = None
    if given["backup_flow_m3s"] is not None:
        battery = Battery(
            start_m=given["backup_start_level_m"],
            stop_m=given["backup_stop_level_m"],
            flow_m3s=given["backup_flow_m3s"],
            current_a=given["backup_current_a"],
            capacity_ah=given["battery_capacity_ah"],
            peukert_exponent=given["peukert_exponent"],
            usable_share=given["usable_share"],
            temperature_factor=given["temperature_factor"],
        )
    found = power_cut(
        plan_area_m2=given["plan_area_m2"],
        level_m=given["level_at_cut_m"],
        rim_m=given["rim_level_m"],
        inflow_m3s=given["inflow_m3s"],
        outage_s=given["outage_s"],
        drain_back_m3=0.0 if given["check_valve_holds"] else given["drain_back_m3"],
        battery=battery,
    )
    mean = found.mean_time_until_flat_s
    return vars(found) | {
        "survives_no_backup": found.overflow_no_backup_m3 <= 0,
        "current_20h_a": battery and battery.current_20h_a,
        "capacity_at_pump_current_ah": battery and battery.capacity_at_current_ah,
        "pumping_time_s": battery and battery.pumping_time_s,
        "mean_hours_until_flat_h": None if mean is None else mean / SECONDS_PER_HOUR,
        "backup_keeps_up": found.keeps_up,
        "pump_starts_in_outage": found.starts,
        "survives": found.overflow_m3 <= 0,
        "longest_outage_survived_s": found.time_to_overflow_s,
    }


def two_tanks_family(given: Inputs) -> Answers:
    """From a lower into an upper tank over a day."""
    upper, lower = (
        {
            name.removeprefix(f"{which}_").replace("_level_m", "_m"): given[name]
            for name in given
            if name.startswith(f"{which}_") and "initial" not in name and "inflow" not in name
        }
        for which in ("upper", "lower")
    )
    tanks = TwoTanks(
        Upper(**upper),
        Lower(**lower),
        Pump(given["shutoff_head_m"], given["curve_b_s2_m5"]),
        given["system_k_s2_m5"],
        given["entry_level_m"] if given["entry"] == "top" else None,
    )
    return vars(
        run_two_tanks(
            tanks,
            upper_m=given["upper_initial_level_m"],
            lower_m=given["lower_initial_level_m"],
            draws=((0.0, given["draw_m3s"]),),
            inflows=((0.0, given["lower_inflow_m3s"]),),
            efficiency=given["efficiency"],
            density_kg_m3=given["density_kg_m3"],
        )
    )


def basin_design_family(given: Inputs) -> Answers:
    """The smallest round basin that does."""
    names: tuple[str, ...] = (
        "alternating",
        "allowed_starts_per_h",
        "minimum_run_time_s",
        "peak_inflow_m3s",
    )
    names += ("reserve_time_s", "inlet_below_cover_m", "least_float_travel_m", "alarm_above_m")
    names += ("inlet_above_alarm_m", "least_diameter_m", "lag_above_start_m")
    wanted = Wanted(
        pump_flows_m3s=tuple(given["pump_flows_m3s"]),
        submergence_m=given["pump_submergence_m"],
        least_stop_m=given["least_stop_level_m"],
        **{name: given[name] for name in names},
    )
    found = smallest(wanted, on_sale(given["diameters_m"], given["depths_m"]))
    asked: tuple[str, ...] = (
        "diameter_m",
        "depth_m",
        "stop_level_m",
        "start_level_m",
        "lag_level_m",
    )
    asked += ("alarm_level_m", "inlet_level_m", "working_volume_m3", "starts_per_pump_per_h")
    asked += ("run_time_no_inflow_s", "wasted_depth_m", "wasted_volume_m3", "spare_depth_m")
    none = dict.fromkeys((*asked, "reserve_time_available_s"))
    answers = {"storage_needed_m3": wanted.storage_m3, "basin": "none"} | none
    if found is None:
        return answers
    return answers | {
        "basin": f"{found.diameter_m:g} x {found.depth_m:g}",
        "diameter_m": found.diameter_m,
        "depth_m": found.depth_m,
        "stop_level_m": found.stop_m,
        "start_level_m": found.start_m,
        "lag_level_m": found.lag_m,
        "alarm_level_m": found.alarm_m,
        "inlet_level_m": found.inlet_m,
        "working_volume_m3": found.working_volume_m3,
        "starts_per_pump_per_h": found.starts_per_pump_per_h(wanted),
        "run_time_no_inflow_s": found.run_time_no_inflow_s(wanted),
        "wasted_depth_m": wanted.inlet_below_cover_m,
        "wasted_volume_m3": found.wasted_volume_m3,
        "spare_depth_m": found.spare_m,
        "reserve_time_available_s": found.reserve_time_s(wanted),
    }


def pipe_reading_family(given: Inputs) -> Answers:
    """What people type for a pipe: the family and size, or all that fit."""
    answers: Answers = {}
    for reading in given["readings"]:
        fits, name = pipe_words.find(reading["text"]), reading["name"]
        families = sorted(one.series for one in fits)
        answers |= {
            f"{name}_series": families[0]
            if len(families) == 1
            else ("ambiguous" if families else "unknown"),
            f"{name}_size": fits[0].nominal if fits else None,
            f"{name}_candidates": "+".join(families) if len(families) > 1 else None,
        }
    return answers


_SUFFIX = {
    "flow": "m3s",
    "volume": "m3",
    "length": "m",
    "pressure": "pa",
    "power": "w",
    "time": "s",
    "temperature": "c",
    "frequency": "per_h",
    "latitude": "deg",
}


def figure_reading_family(given: Inputs) -> Answers:
    """What people type into a field: a figure, a range, or why it cannot be read."""
    answers: Answers = {}
    for reading in given["readings"]:
        name, dimension = reading["name"], reading["quantity"]
        how = (reading["text"], dimension, reading["default_unit"], reading["style"])
        each = SECONDS_PER_HOUR if dimension == "frequency" else 1.0
        try:
            between = quantity.read_range(*how)
            found = between or (quantity.read(*how),)
        except UnreadableQuantity as problem:
            answers[f"{name}_error"] = problem.code
            continue
        names: tuple[str, ...] = ("low_", "high_") if between else ("",)
        for end, one in zip(names, found, strict=True):
            answers[f"{name}_{end}{_SUFFIX[dimension]}"] = one.si * each
    return answers


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "basin_day": basin_day_family,
    "basin_design": basin_design_family,
    "power_cut": power_cut_family,
    "starts": starts_family,
    "tank_cycle": tank_cycle_family,
    "two_tanks": two_tanks_family,
    "pipe_reading": pipe_reading_family,
    "figure_reading": figure_reading_family,
}
