"""Second round of families: a pit's day, lives with late entry, drooping tanks."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.base.water import air_pressure_pa
from sizing.life.survival import Spell, lifetimes
from sizing.simulation.delivery import Against, Pump
from sizing.simulation.pit import Inflow, Pit, PitRun, run_pit
from sizing.simulation.plan_area import AreaByLevel
from sizing.simulation.pressure_tank import TankAndSwitch, run_tank

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


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "day_volume": day_volume_family,
    "life_truncated": life_truncated_family,
    "pressure_tank_droop": pressure_tank_droop_family,
}
