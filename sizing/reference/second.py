"""Second round of families: a pit's day, lives with late entry, drooping tanks."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from sizing.aftercare.reliability.survival import Spell, lifetimes
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.base.water import GRAVITY_M_S2, air_pressure_pa
from sizing.over_time.simulation.delivery import Against, Pump
from sizing.over_time.simulation.pit import Inflow, Pit, PitRun, run_pit
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.over_time.simulation.pressure_tank import TankAndSwitch, run_tank
from sizing.over_time.simulation.transient import Leg, Runs, Trips, Valve, run_line

Inputs = dict[str, Any]
Answers = dict[str, Any]
_STIFF_M = 1e7  # a pump of so much head gives one flow, whatever the level


def day_volume_family(given: Inputs) -> Answers:
    """A pit's day from one daily volume and an hourly pattern."""
    shares = given["hourly_shares"]
    inflows = [
        given["daily_volume_m3"] * share / sum(shares) / SECONDS_PER_HOUR for share in shares
    ]
    flow, rim = given["pump_flow_m3s"], given["rim_level_m"]
    between = (given["start_level_m"] + rim) / 2  # neither is asked for
    pit = Pit(
        area=AreaByLevel.of([(0.0, given["plan_area_m2"])]),
        stop_m=given["stop_level_m"],
        start_m=given["start_level_m"],
        lag_start_m=None,
        alarm_m=between,
        inlet_m=between,
        rim_m=rim,
        pumps=(Pump(_STIFF_M, _STIFF_M / flow**2),),
        against=Against(0.0, 0.0),
        alternating=False,
        drain_back_m3=0.0,
    )
    inflow = Inflow(tuple((hour * SECONDS_PER_HOUR, one) for hour, one in enumerate(inflows)))
    away = [(given["failed_from_h"] * SECONDS_PER_HOUR, given["failed_to_h"] * SECONDS_PER_HOUR)]
    sound, failed = (
        run_pit(
            pit,
            inflow,
            end_s=SECONDS_PER_DAY,
            initial_level_m=given["initial_level_m"],
            power_cuts=cuts,
        )
        for cuts in ([], away)
    )
    busiest = max(inflows)
    storage = given["plan_area_m2"] * (given["start_level_m"] - given["stop_level_m"])
    reserve = given["plan_area_m2"] * (rim - given["start_level_m"])
    mean = given["daily_volume_m3"] / SECONDS_PER_DAY
    by_hour = _starts_by_hour(sound)
    most = max(by_hour)
    return {
        "mean_inflow_m3s": mean,
        "busiest_inflow_m3s": busiest,
        "busiest_inflow_hour": inflows.index(busiest),
        "starts": sum(sound.starts),
        "run_time_s": sum(sound.run_times_s),
        "pumped_m3": sound.pumped_m3,
        "overflow_m3": sound.overflow_m3,
        "max_level_m": sound.max_level_m,
        "final_level_m": sound.timeline.samples(2)[-1][1],
        "busiest_hour_starts": most if most else None,
        "busiest_starts_hour": by_hour.index(most) if most else None,
        "starts_per_h_worst": max(
            SECONDS_PER_HOUR * q * (flow - q) / (storage * flow) if q < flow else 0.0
            for q in inflows
        ),
        "pump_keeps_up": flow > busiest,
        "failed_starts": sum(failed.starts),
        "failed_pumped_m3": failed.pumped_m3,
        "failed_overflow_m3": failed.overflow_m3,
        "failed_max_level_m": failed.max_level_m,
        "failed_final_level_m": failed.timeline.samples(2)[-1][1],
        "failed_first_overflow_s": failed.first_overflow_s,
        "reserve_volume_m3": reserve,
        "reserve_time_mean_s": reserve / mean,
        "reserve_time_busiest_s": reserve / busiest,
    }


def _starts_by_hour(run: PitRun) -> list[int]:
    found = [0] * 24
    for one in run.timeline.events:
        if one.code == "start 1":
            found[min(int(one.time_s // SECONDS_PER_HOUR), 23)] += 1
    return found


def life_truncated_family(given: Inputs) -> Answers:
    """How long pumps live when many were in use before anybody kept records."""
    spells = [
        Spell(one["age_years"], one["failed"], one["entry_age_years"]) for one in given["spells"]
    ]
    found = lifetimes(spells)
    fit = found.weibull
    return {
        "spells": found.count,
        "failures": found.failed,
        "years_watched": found.years,
        "fewest_at_risk": min((step.at_risk for step in found.curve), default=None),
        "survival_breaks_off": found.breaks_off,
        "restricted_mean_years": found.restricted_mean_years(given["restricted_to_years"]),
        "median_years": found.median.years,
        "weibull_shape": fit and fit.shape,
        "weibull_scale_years": fit and fit.scale_years,
        "weibull_mean_years": fit and fit.mean_years,
        "weibull_log_likelihood": fit and fit.log_likelihood,
        **{
            f"survival_{number}": found.share_at(age)
            for number, age in enumerate(given["survival_at_years"], 1)
        },
    }


def pressure_tank_droop_family(given: Inputs) -> Answers:
    """A pressure tank whose pump cannot always keep up."""
    tank = TankAndSwitch(
        tank_volume_m3=given["tank_volume_m3"],
        precharge_pa=given["precharge_pa_gauge"],
        cut_in_pa=given["cut_in_pa_gauge"],
        cut_out_pa=given["cut_out_pa_gauge"],
        pump=Pump(given["shutoff_head_m"], given["curve_b_s2_m5"]),
        lift_m=given["lift_m"],
        pipe_k_s2_m5=given["pipe_k_s2_m5"],
        density_kg_m3=given["density_kg_m3"],
        atmosphere_pa=air_pressure_pa(given["altitude_m"]),
    )
    found = run_tank(
        tank,
        tuple((one["from_s"], one["flow_m3s"]) for one in given["draws"]),
        end_s=given["duration_s"],
        initial_pa=given["initial_pressure_pa_gauge"],
    )
    return {
        "atmosphere_pa": tank.atmosphere_pa,
        "drawdown_m3": tank.drawdown_m3,
        "flow_at_cut_in_m3s": tank.flow_m3s(tank.cut_in_pa),
        "flow_at_zero_m3s": tank.flow_m3s(0.0),
        "starts": len(found.starts),
        "run_time_s": sum(one.run_time_s for one in found.starts),
        "lowest_pressure_pa_gauge": found.lowest_pa,
        "final_pressure_pa_gauge": found.final_pa,
        "wanted_m3": found.delivered_m3 + found.short_m3,
        "delivered_m3": found.delivered_m3,
        "short_m3": found.short_m3,
        "pumped_m3": found.pumped_m3,
        "first_short_s": found.first_short_s,
        "short_time_s": found.short_s,
        "below_cut_in_s": found.below_cut_in_s,
        "tank_empty_s": found.empty_s,
        "water_at_start_m3": found.water_at_start_m3,
        "water_at_end_m3": found.water_at_end_m3,
    }


def surge_line_family(given: Inputs) -> Answers:
    """Water hammer in a line of legs, by characteristics on the grid of the reference."""
    density = given["density_kg_m3"]
    weight = density * GRAVITY_M_S2
    legs = [_leg_of(one, density, given["bulk_modulus_pa"]) for one in given["legs"]]
    flow, end_m = given["steady_flow_m3s"], given["legs"][-1]["end_elevation_m"]
    beyond = {
        "free_outlet": end_m,
        "reservoir": given["outlet_level_m"],
        "main": end_m + (given["outlet_pressure_pa_gauge"] or 0.0) / weight,
    }[given["outlet_kind"]]
    trips, closes_s = given["event"] == "pump_trips", given["closure_time_s"]
    begins, start = _begins(given, flow)
    losses = sum(leg.loss_m(flow) for leg in legs)
    start = beyond + losses if start is None else start
    rows = tuple(
        (row["time_share"], row["relative_area"], row["discharge_coefficient"])
        for row in given["valve_rows"] or ()
    )
    found = run_line(
        legs,
        flow_m3s=flow,
        begins=begins,
        beyond_m=beyond,
        duration_s=given["duration_s"],
        vapour_m=(given["vapour_pressure_pa"] - given["atmosphere_pa"]) / weight,
        valve=None if trips else Valve(closes_s, rows),
        start_m=start,
        least_reaches=300,
        most_off=0.001,
        halved=True,
    )
    at = 0 if trips else -1
    rise = float(found.highest_m[at] - found.steady_m[at])
    speeds = [flow / leg.area_m2 for leg in legs]
    slow = None
    if not trips and closes_s > 0:
        moving = sum(leg.length_m * speed for leg, speed in zip(legs, speeds, strict=True))
        slow = 2 * moving / (GRAVITY_M_S2 * closes_s)
    answers: Answers = {
        f"leg_{number}_wave_speed_m_s": leg.wave_speed_m_s for number, leg in enumerate(legs, 1)
    }
    for name, heads, most in (
        ("highest", found.highest_m, True),
        ("lowest", found.lowest_m, False),
    ):
        over = heads - found.axis_m
        place, under = (int(one.argmax() if most else one.argmin()) for one in (heads, over))
        answers |= {
            f"{name}_head_m": float(heads[place]),
            f"{name}_head_at_m": float(found.distance_m[place]),
            f"{name}_pressure_pa_gauge": weight * float(over[under]),
            f"{name}_pressure_at_m": float(found.distance_m[under]),
        }
        for number, index in enumerate((0, *found.ends)):
            answers[f"point_{number}_{name}_head_m"] = float(heads[index])
            answers[f"point_{number}_{name}_pressure_pa_gauge"] = weight * float(over[index])
    apart = found.separates
    return answers | {
        "pipe_period_s": 2 * sum(leg.length_m / leg.wave_speed_m_s for leg in legs),
        "instant_change_m": legs[at].wave_speed_m_s * speeds[at] / GRAVITY_M_S2,
        "steady_start_head_m": float(found.steady_m[0]),
        "steady_end_head_m": float(found.steady_m[-1]),
        "slow_rule_change_m": slow,
        "column_separates": apart is not None,
        "separation_time_s": None if apart is None else apart[0],
        "separation_at_m": None if apart is None else apart[1],
        "rise_at_event_m": rise,
        "fall_at_event_m": float(found.steady_m[at] - found.lowest_m[at]),
        "rise_over_slow_rule": None if slow is None else rise / slow,
    }


def _leg_of(given: Inputs, density_kg_m3: float, bulk_modulus_pa: float) -> Leg:
    speed = given["wave_speed_m_s"]
    if speed is None:
        soft = bulk_modulus_pa / given["pipe_modulus_pa"]
        soft *= given["inside_diameter_m"] / given["wall_m"]
        speed = math.sqrt(bulk_modulus_pa / density_kg_m3) / math.sqrt(1 + soft)
    return Leg(
        length_m=given["length_m"],
        inside_diameter_m=given["inside_diameter_m"],
        wave_speed_m_s=speed,
        friction_factor=given["friction_factor"],
        ground=((0.0, given["start_elevation_m"]), (1.0, given["end_elevation_m"])),
    )


def _begins(given: Inputs, flow_m3s: float) -> tuple[Runs | Trips, float | None]:
    """What stands at the beginning, and its steady head; None: it follows from the end."""
    if given["event"] == "pump_trips":
        rows = tuple((row["time_s"], row["relative_flow"]) for row in given["trip_rows"] or ())
        return Trips(rows), None
    level = given["upstream_level_m"]
    if given["upstream_kind"] == "reservoir":
        return Runs(level), level
    head, curve = given["pump_shutoff_head_m"], given["pump_curve_b_s2_m5"]
    runs = Runs(level, head, curve, checked=True)
    return runs, level + head - curve * flow_m3s**2


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "surge_line": surge_line_family,
    "day_volume": day_volume_family,
    "life_truncated": life_truncated_family,
    "pressure_tank_droop": pressure_tank_droop_family,
}
