"""Answers to the practice families, by the same public functions as the application."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA, water
from sizing.demand.openings import Orifice, jets, orifices_m3s, weir
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.demand.statistical import Group, statistical
from sizing.demand.sun import solar_day
from sizing.demand.volume import fill_m3s, per_head_by_factor, per_head_by_hours, turnover_m3s
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.operating_point.group import group
from sizing.pump.cable import cable, resistance_ohm_per_km
from sizing.pump.curve import PumpCurve
from sizing.selection.cost import break_even, cost
from sizing.storage.basin import Levels, basin, pipe_volume_m3
from sizing.storage.plan import Plan, plan
from sizing.storage.pressure_tank import pressure_tank
from sizing.storage.return_sump import return_sump
from sizing.storage.well import cooling, draw

Inputs = dict[str, Any]
Answers = dict[str, Any]
_MM_PER_HOUR = 1e-3 / 3600.0


def _plan(given: Inputs) -> Plan:
    return plan(
        given["shape"],
        diameter_m=given["diameter_m"],
        length_m=given["length_m"],
        width_m=given["width_m"],
    )


def demand_rise(given: Inputs) -> Answers:
    """Inflow from a timed rise."""
    return dict(vars(rise(_plan(given), given["level_rise_m"], given["time_s"])))


def demand_rational(given: Inputs) -> Answers:
    """Run-off of rain on surfaces."""
    surfaces = [Surface(**surface) for surface in given["surfaces"]]
    return dict(vars(rational(given["rain_mm_h"] * _MM_PER_HOUR, surfaces)))


def basin_family(given: Inputs) -> Answers:
    """Cycles, storage and overflow of a pit."""
    levels = Levels(
        *(given[f"{name}_level_m"] for name in ("stop", "start", "inlet", "alarm", "overflow"))
    )
    drains = (
        0.0
        if given["check_valve_holds"]
        else pipe_volume_m3(given["drain_line_length_m"], given["drain_line_inside_diameter_m"])
    )
    found = basin(
        _plan(given),
        levels,
        pump_flow_m3s=given["pump_flow_m3s"],
        inflow_m3s=given["inflow_m3s"],
        allowed_starts_per_h=given["allowed_starts_per_h"],
        pump_count=given["pump_count"],
        alternating=given["alternating"],
        drain_line_volume_m3=drains,
        level_at_failure_m=given["level_at_failure_m"],
        line_full_at_failure=given["line_full_at_failure"],
    )
    return dict(vars(found))


def demand_statistical(given: Inputs) -> Answers:
    """Peak by probability."""
    groups = [Group(**group) for group in given["groups"]]
    return dict(
        vars(
            statistical(
                groups, percentile=given["percentile"], zero_truncated=given["zero_truncated"]
            )
        )
    )


def demand_turnover(given: Inputs) -> Answers:
    """A volume turned over."""
    return {"flow_m3s": turnover_m3s(given["volume_m3"], given["turnovers_per_h"])}


def demand_jets(given: Inputs) -> Answers:
    """Jets shared by pumps."""
    return dict(
        vars(jets([(jet["count"], jet["flow_m3s"]) for jet in given["jets"]], given["pump_count"]))
    )


def demand_per_head(given: Inputs) -> Answers:
    """People and a day."""
    people, volume = given["people"], given["volume_per_person_m3_d"]
    if given["peaking"] == "factor":
        return dict(vars(per_head_by_factor(people, volume, given["peak_factor"])))
    return dict(
        vars(per_head_by_hours(people, volume, given["peak_hours_h"], given["share_in_peak_hours"]))
    )


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


def pressure_tank_family(given: Inputs) -> Answers:
    """A pressure tank between its switch pressures."""
    found = pressure_tank(
        tank_volume_m3=given["tank_volume_m3"],
        precharge_pa=given["precharge_pa_gauge"],
        cut_in_pa=given["cut_in_pa_gauge"],
        cut_out_pa=given["cut_out_pa_gauge"],
        pump_flow_m3s=given["pump_flow_m3s"],
        minimum_run_time_s=given["minimum_run_time_s"],
        draw_flow_m3s=given["draw_flow_m3s"],
        atmosphere_pa=STANDARD_AIR_PA if given["atmosphere_pa"] is None else given["atmosphere_pa"],
    )
    return dict(vars(found))


def well_family(given: Inputs) -> Answers:
    """What a well gives."""
    renamed = {**given, "specific_capacity_m2s": given["specific_capacity_m3s_per_m"]}
    del renamed["specific_capacity_m3s_per_m"]
    return dict(vars(draw(**renamed)))


def well_cable_family(given: Inputs) -> Answers:
    """The cable down a well."""
    resistance = given["resistance_ohm_per_km"] or resistance_ohm_per_km(
        given["conductor_area_mm2"], given["resistivity_ohm_m"]
    )
    names = (
        "phases",
        "supply_voltage_v",
        "current_a",
        "length_m",
        "reactance_ohm_per_km",
        "power_factor",
    )
    return dict(
        vars(cable(resistance_ohm_per_km=resistance, **{name: given[name] for name in names}))
    )


def well_cooling_family(given: Inputs) -> Answers:
    """Speed past a motor."""
    return dict(vars(cooling(**given)))


def solar_day_family(given: Inputs) -> Answers:
    """A day of sun."""
    value = "flow_m3s" if given["model"] == "flow_table" else "efficiency"
    table = [(row["power_w"], row[value]) for row in given["table"]]
    rest = {
        key: given[key]
        for key in (
            "panel_peak_w",
            "derating",
            "maximum_power_w",
            "start_power_w",
            "model",
            "head_m",
            "density_kg_m3",
        )
    }
    found = solar_day(given["irradiance_w_m2"], table=table, **rest)
    hours = {f"hour_{hour:02}_flow_m3s": flow for hour, flow in enumerate(found.hourly_flow_m3s)}
    return {
        **hours,
        "daily_volume_m3": found.daily_volume_m3,
        "pumping_hours_h": found.pumping_hours_h,
    }


def return_sump_family(given: Inputs) -> Answers:
    """What runs back in a power cut."""
    pipes = sum(
        pipe_volume_m3(pipe["length_m"], pipe["inside_diameter_m"]) for pipe in given["pipes"]
    )
    levels = {
        key: given[key]
        for key in (
            "other_volume_m3",
            "sump_plan_area_m2",
            "sump_rim_level_m",
            "sump_running_level_m",
        )
    }
    return dict(
        vars(
            return_sump(
                drained=[(one["area_m2"], one["depth_m"]) for one in given["drained"]],
                pipes_m3=pipes,
                **levels,
            )
        )
    )


def cost_family(given: Inputs) -> Answers:
    """Cost of owning over a life."""
    return dict(vars(cost(**given)))


def cost_break_even_family(given: Inputs) -> Answers:
    """When the dearer of two pumps has paid for itself."""
    keys = ("energy_price_cur_per_kwh", "hours_per_year", "discount_rate")
    a, b = (
        cost(life_years=1.0, **{key: given[key] for key in keys}, **given[name])
        for name in ("pump_a", "pump_b")
    )
    extra = given["pump_b"]["capital_cost_cur"] - given["pump_a"]["capital_cost_cur"]
    found = break_even(
        extra, a.running_cost_cur_per_year - b.running_cost_cur_per_year, given["discount_rate"]
    )
    return {
        "running_cost_a_cur_per_year": a.running_cost_cur_per_year,
        "running_cost_b_cur_per_year": b.running_cost_cur_per_year,
        "simple_break_even_years": found.simple_years,
        "discounted_break_even_years": found.discounted_years,
    }


def redundancy(given: Inputs) -> Answers:
    """Equal pumps in parallel on a system H = Hs + K Q2, given as one fitting of that loss."""
    needed, bore = given["needed_flow_m3s"], 0.1
    k_sum = given["system_k_s2_m5"] * 2.0 * GRAVITY_M_S2 * (math.pi / 4 * bore**2) ** 2
    system = SystemCurve(
        Route((Leg(bore, 0.0, 0.0, k_sum, given["static_head_m"]),), 0.0), water(15.0)
    )
    curve = PumpCurve(
        tuple(point["flow_m3s"] for point in given["curve"]),
        tuple(point["head_m"] for point in given["curve"]),
    )
    found = group(curve, system, needed, given["pump_count"])
    return {
        "head_at_needed_m": found.head_at_needed_m,
        "flow_each_m3s": found.flow_each_m3s,
        "speed_ratio_both": found.speed_ratio_all,
        "flow_both_full_speed_m3s": found.flow_all_m3s,
        "flow_one_full_speed_m3s": found.flow_one_m3s,
        "head_one_full_speed_m": found.head_one_m,
        "share_of_needed_one_full_speed": (
            None if found.flow_one_m3s is None else found.flow_one_m3s / needed
        ),
        "one_alone_meets_needed": found.one_alone_meets_needed,
        "speed_ratio_one_alone": found.speed_ratio_one_alone,
    }


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "demand_rise": demand_rise,
    "demand_rational": demand_rational,
    "basin": basin_family,
    "demand_statistical": demand_statistical,
    "demand_turnover": demand_turnover,
    "demand_jets": demand_jets,
    "demand_per_head": demand_per_head,
    "demand_fill": demand_fill,
    "demand_weir": demand_weir,
    "demand_orifices": demand_orifices,
    "pressure_tank": pressure_tank_family,
    "well": well_family,
    "well_cable": well_cable_family,
    "well_cooling": well_cooling_family,
    "solar_day": solar_day_family,
    "return_sump": return_sump_family,
    "cost": cost_family,
    "cost_break_even": cost_break_even_family,
    "redundancy": redundancy,
}
