"""Families of the reference cases on readings at a pump and on somebody else's sum."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.aftercare.calculation_review.explain import explain, possible, slipped
from sizing.aftercare.calculation_review.hand_sum import QUANTITIES, HandLeg, HandSum, right
from sizing.aftercare.commissioning.diagnosis import diagnose
from sizing.aftercare.commissioning.readings import Gauge, Promised, Reading, Readings, compare
from sizing.base.units import unit
from sizing.base.water import water
from sizing.pump.curve import PumpCurve

Inputs = dict[str, Any]
Answers = dict[str, Any]
_WRITTEN = {  # as the cases write units: the dimension, and what we call them
    "gpm": ("flow", "gpm"),
    "gph": ("flow", "gph"),
    "imp_gpm": ("flow", "imp gpm"),
    "L/min": ("flow", "l/min"),
    "L/s": ("flow", "l/s"),
    "m3/h": ("flow", "m³/h"),
    "m3/s": ("flow", "m³/s"),
    "ft": ("length", "ft"),
    "in": ("length", "in"),
    "m": ("length", "m"),
    "mm": ("length", "mm"),
    "psi": ("pressure", "psi"),
    "kPa": ("pressure", "kPa"),
    "Pa": ("pressure", "Pa"),
    "W": ("power", "W"),
    "kW": ("power", "kW"),
    "hp": ("power", "hp"),
}


def _si(quantity: dict[str, Any]) -> float:
    dimension, symbol = _WRITTEN[quantity["unit"]]
    return unit(symbol, dimension).to_si(float(quantity["value"]))


def _hand_sum(given: Inputs) -> HandSum:
    pump = given["pump"]
    points = [] if pump is None else [(_si(one["flow"]), _si(one["head"])) for one in pump["curve"]]
    return HandSum(
        flow_m3s=_si(given["flow"]),
        flow_unit=given["flow"]["unit"],
        water=water(given["temperature"]["value"]),
        water_level_m=_si(given["water_level"]),
        pump_outlet_level_m=_si(given["pump_outlet_level"]),
        discharge_level_m=_si(given["discharge_level"]),
        pressure_pa=_si(given["delivery_pressure"]),
        pressure_unit=given["delivery_pressure"]["unit"],
        closed_loop=given["closed_loop"],
        legs=tuple(
            HandLeg(
                leg["role"],
                _si(leg["length"]),
                _si(leg["fittings_equivalent_length"]),
                _si(leg["nominal_size"]),
                _si(leg["inside_diameter"]),
                _si(leg["roughness"]),
            )
            for leg in given["legs"]
        ),
        pump_efficiency=given["pump_efficiency"],
        motor_efficiency=given["motor_efficiency"],
        curve=(
            PumpCurve(tuple(flow for flow, _ in points), tuple(head for _, head in points))
            if given["task"] == "working_point"
            else None
        ),
        open_flow_m3s=None if pump is None else _si(pump["open_flow"]),
    )


_SUFFIX = {
    "flow": "flow_m3s",
    "head": "head_m",
    "hydraulic_power": "hydraulic_power_w",
    "shaft_power": "shaft_power_w",
    "input_power": "input_power_w",
}


def hand_slip(given: Inputs) -> Answers:
    """The right sum, what each slip makes of it, and what explains each figure."""
    facts = _hand_sum(given)
    steps = right(facts)
    done = steps.figures()
    answers: Answers = {f"right_{_SUFFIX[name]}": done.of(name) for name in QUANTITIES}
    for slip in possible(facts):
        found = slipped(steps, (slip,))
        if found is not None:
            for name in QUANTITIES:
                answers[f"wrong_{slip.code}_{_SUFFIX[name]}"] = found.of(name)
    for one in given["hand_results"]:
        explained = explain(facts, one["quantity"], _si(one))
        answers[f"explains_{one['id']}"] = explained.code
    return answers


def _reading(given: Inputs, name: str, sigma: str) -> Reading | None:
    return None if given[name] is None else Reading(given[name], given[sigma])


def _told(given: Inputs, name: str, sigma: str) -> Reading:
    return Reading(given[name], given[sigma])


def _gauge(given: Inputs, side: str) -> Gauge | None:
    if given[f"{side}_gauge_pa"] is None:
        return None
    return Gauge(
        _told(given, f"{side}_gauge_pa", f"{side}_gauge_u_pa"),
        given[f"{side}_gauge_height_m"],
        given[f"{side}_bore_m"],
    )


def commission(given: Inputs) -> Answers:
    """Readings at a pump against what was promised."""
    rows = given["curve"]
    promised = Promised(
        curve=PumpCurve(
            tuple(row["flow_m3s"] for row in rows),
            tuple(row["head_m"] for row in rows),
            tuple(row["input_power_w"] for row in rows),
        ),
        static_m=given["design_static_m"],
        k_s2_m5=given["design_k_s2_m5"],
        possible_efficiency=given["possible_efficiency"],
        head_share=given["curve_head_u_fraction"],
        power_share=given["curve_power_u_fraction"],
    )
    outlet = _gauge(given, "outlet")
    assert outlet is not None
    readings = Readings(
        density_kg_m3=given["density_kg_m3"],
        volume_m3=_reading(given, "bucket_volume_m3", "bucket_volume_u_m3"),
        time_s=_reading(given, "bucket_time_s", "bucket_time_u_s"),
        meter_m3s=_reading(given, "meter_flow_m3s", "meter_flow_u_m3s"),
        outlet=outlet,
        inlet=_gauge(given, "inlet"),
        water_level_m=_told(given, "water_level_m", "water_level_u_m"),
        discharge_level_m=given["discharge_level_m"],
        phases=given["phases"],
        voltage_v=_told(given, "voltage_v", "voltage_u_v"),
        current_a=_told(given, "current_a", "current_u_a"),
        power_factor=_told(given, "power_factor", "power_factor_u"),
        unsteady=given["unsteady_readings"],
    )
    found = compare(readings, promised)
    sigma = readings.sigma
    return {
        "measured_flow_m3s": readings.flow_m3s,
        "measured_flow_u_m3s": sigma(lambda one: one.flow_m3s),
        "total_head_m": readings.head_m,
        "total_head_u_m": sigma(lambda one: one.head_m),
        "input_power_w": readings.input_w,
        "input_power_u_w": sigma(lambda one: one.input_w),
        "hydraulic_power_w": readings.hydraulic_w,
        "hydraulic_power_u_w": sigma(lambda one: one.hydraulic_w),
        "efficiency": readings.efficiency,
        "efficiency_u": sigma(lambda one: one.efficiency),
        "measured_k_s2_m5": readings.k_s2_m5,
        "measured_k_u_s2_m5": sigma(lambda one: one.k_s2_m5),
        "predicted_flow_m3s": found.predicted_flow_m3s,
        "predicted_head_m": found.predicted_head_m,
        "predicted_input_power_w": found.predicted_input_w,
        "head_deviation_m": found.head.amount,
        "head_deviation_percent": found.head.percent,
        "head_deviation_sigma": found.head.sigmas,
        "system_deviation_percent": found.system.percent,
        "system_deviation_sigma": found.system.sigmas,
        "power_deviation_percent": found.power.percent,
        "power_deviation_sigma": found.power.sigmas,
        "speed_ratio": found.speed_ratio,
        "speed_power_deviation_percent": found.speed_power_percent,
        "diagnosis": diagnose(found).code,
    }


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "hand_slip": hand_slip,
    "commission": commission,
}
