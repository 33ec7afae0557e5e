"""Families of the reference cases on pipes under surge, cables and nameplates."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.over_time.simulation.surge import Line, derated, surge
from sizing.pump.cable import (
    Breaker,
    Copper,
    Load,
    longest_m,
    resistance_ohm_per_km,
    smallest_area_mm2,
)
from sizing.pump.nameplate import Life, Plate, energy_cost_per_year, frame, ranked

Inputs = dict[str, Any]
Answers = dict[str, Any]


def surge_family(given: Inputs) -> Answers:
    """A closing valve and a tripping pump."""
    names: tuple[str, ...] = ("density_kg_m3", "bulk_modulus_pa", "inside_diameter_m", "wall_m")
    names += ("pipe_modulus_pa", "restraint_c1", "length_m")
    line = Line(**{name: given[name] for name in names})
    rows = [(row["temperature_c"], row["factor"]) for row in given["derating"]]
    rest: tuple[str, ...] = (
        "velocity_m_s",
        "closure_time_s",
        "operating_pressure_pa",
        "stop_time_s",
    )
    rest += ("static_grade_m", "summit_elevation_m", "atmosphere_pa", "vapour_pressure_pa")
    rating = given["rating_23c_pa"] * derated(rows, given["temperature_c"])
    found = surge(line, rating_pa=rating, **{name: given[name] for name in rest})
    return vars(found) | {
        "peak_pressure_pa_gauge": found.peak_pressure_pa,
        "rating_at_temperature_pa": found.rating_pa,
        "summit_pressure_pa_gauge": found.summit_pressure_pa,
    }


def cable_family(given: Inputs) -> Answers:
    """A motor's cable: running, starting, and whether the breaker trips at its end."""
    names: tuple[str, ...] = (
        "phases",
        "supply_voltage_v",
        "current_a",
        "power_factor",
        "starting_multiple",
    )
    names += ("starting_power_factor", "reactance_ohm_per_km")
    load = Load(**{name: given[name] for name in names})
    copper = Copper(
        given["resistivity_20c_ohm_m"],
        given["temperature_coefficient_per_k"],
        given["conductor_temperature_c"],
    )
    area, length = given["conductor_area_mm2"], given["length_m"]
    resistance = resistance_ohm_per_km(area, copper.resistivity_ohm_m)
    running = load.drop(length, resistance, starting=False)
    starting = load.drop(length, resistance, starting=True)
    limits = {False: given["running_limit"], True: given["starting_limit"]}
    smallest_for = {
        name: smallest_area_mm2(given["areas_mm2"], load, copper, length, kept)
        for name, kept in (
            ("running", {False: limits[False]}),
            ("starting", {True: limits[True]}),
            ("both", limits),
        )
    }
    answers = {
        "resistivity_hot_ohm_m": copper.resistivity_ohm_m,
        "conductor_resistance_ohm_per_km": resistance,
        "running_drop_v": running.voltage_drop_v,
        "running_drop_fraction": running.voltage_drop_fraction,
        "starting_current_a": load.starting_current_a,
        "starting_drop_v": starting.voltage_drop_v,
        "starting_drop_fraction": starting.voltage_drop_fraction,
        **{f"smallest_for_{name}_mm2": found for name, found in smallest_for.items()},
        "longest_for_both_m": longest_m(load, resistance, limits),
        "trip_current_a": None,
        "loop_impedance_limit_ohm": None,
        "longest_for_breaker_m": None,
        "breaker_trips_at_length": None,
    }
    if given["breaker_rating_a"] is None:
        return answers
    breaker = Breaker(
        given["breaker_rating_a"],
        given["breaker_multiple"],
        given["voltage_to_earth_v"],
        given["voltage_factor"],
        given["supply_loop_impedance_ohm"],
    )
    earth = resistance_ohm_per_km(given["earth_conductor_area_mm2"], copper.resistivity_ohm_m)
    longest = breaker.longest_m(resistance, earth)
    return answers | {
        "trip_current_a": breaker.trip_current_a,
        "loop_impedance_limit_ohm": breaker.loop_limit_ohm,
        "longest_for_breaker_m": longest,
        "breaker_trips_at_length": longest >= length,
    }


def nameplate_family(given: Inputs) -> Answers:
    """A plate, what replaces it, and how long models lived."""
    names: tuple[str, ...] = ("phases", "voltage_v", "current_a", "power_factor")
    names += ("motor_efficiency", "service_factor", "label_power_hp")
    plate, price = Plate(**{name: given[name] for name in names}), given["energy_price_cur_per_kwh"]
    ratings = given["standard_ratings_hp"]
    energy = energy_cost_per_year(plate.input_power_w, given["hours_per_year"], price)
    models = [
        Life(
            one["model"],
            one["price_cur"],
            one["input_power_w"],
            one["hours_per_year"],
            tuple(record["years"] for record in one["records"]),
            sum(1 for record in one["records"] if record["failed"]),
        )
        for one in given["models"]
    ]
    ranking, without = ranked(models, price)
    answers: Answers = {
        "input_power_w": plate.input_power_w,
        "shaft_power_w": plate.shaft_power_w,
        "shaft_power_hp": plate.shaft_power_hp,
        "nearest_rating_hp": plate.nearest_rating_hp(ratings),
        "smallest_rating_that_carries_hp": plate.rating_that_carries_hp(ratings),
        "load_of_label_share": plate.load_of_label,
        "within_service_factor": plate.within_service_factor,
        "frame": frame(given["bolt_spacing_m"], given["frame_limit_m"]),
        "energy_cost_cur_per_year": energy,
        "cost_cur_per_year": given["price_cur"] / given["age_years"] + energy,
        "ranking": "+".join(ranking) or "none",
        "without_failure": "+".join(without) or "none",
    }
    for one in models:
        answers[f"{one.model}_mean_life_years"] = one.mean_life_years
        answers[f"{one.model}_cost_cur_per_year"] = one.cost_per_year(price)
    return answers


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "cable": cable_family,
    "nameplate": nameplate_family,
    "surge": surge_family,
}
