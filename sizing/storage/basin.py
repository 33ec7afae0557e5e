"""A pit between two switch levels: how often the pump starts, how long it runs, when it spills."""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range
from sizing.base.units import SECONDS_PER_HOUR
from sizing.storage.plan import Plan


@dataclass(frozen=True)
class Levels:
    """Levels above the floor of the pit [m]."""

    stop_m: float
    start_m: float
    inlet_m: float
    alarm_m: float
    overflow_m: float

    def __post_init__(self) -> None:
        if not self.start_m > self.stop_m:
            raise SizingError("the start level must lie above the stop level")


@dataclass(frozen=True)
class Basin:
    """Constant inflow, upright walls, no allowance for the pump's own volume. Times [s], None.

    Never.
    """

    plan_area_m2: float
    storage_m3: float
    volume_stop_to_inlet_m3: float
    pump_keeps_up: bool
    run_time_s: float | None
    rest_time_s: float | None
    cycles_per_h_at_inflow: float
    starts_per_pump_per_h_at_inflow: float
    cycles_per_h_with_drain_back: float
    worst_cycles_per_h: float
    worst_starts_per_pump_per_h: float
    shortest_run_time_s: float
    minimum_storage_m3: float
    storage_enough: bool
    drain_back_volume_m3: float
    drain_back_rise_m: float
    time_start_to_alarm_s: float
    time_alarm_to_overflow_s: float
    time_to_overflow_s: float
    time_to_overflow_running_s: float | None


def basin(
    plan: Plan,
    levels: Levels,
    *,
    pump_flow_m3s: float,
    inflow_m3s: float,
    allowed_starts_per_h: float,
    pump_count: int = 1,
    alternating: bool = False,
    drain_line_volume_m3: float = 0.0,
    level_at_failure_m: float | None = None,
    line_full_at_failure: bool = True,
) -> Basin:
    """Cycles, run time and time to overflow of a pit.

    One pump at a time: a cycle lasts ``V/Qi + V/(Qp - Qi)``; it is shortest at Qi = Qp/2, which
    gives the usual minimum storage ``Qp T / 4`` (T the least time between starts; alternating pumps
    share it). ``drain_line_volume_m3`` is what runs back at every stop (0 when the check valve
    holds).

    Raises
    ------
    OutOfRange, SizingError
        Flows not above zero, levels out of order.
    """
    check_range("inflow", inflow_m3s, 1e-12, 1e3, "m³/s")
    check_range("pump flow", pump_flow_m3s, 1e-12, 1e3, "m³/s")
    check_range("allowed starts per hour", allowed_starts_per_h, 1e-3, 3600.0, "/h")
    area, turns = plan.area_m2, pump_count if alternating else 1
    storage = area * (levels.start_m - levels.stop_m)
    keeps_up = pump_flow_m3s > inflow_m3s
    run = storage / (pump_flow_m3s - inflow_m3s) if keeps_up else None
    rest = storage / inflow_m3s if keeps_up else None
    cycles = _cycles(storage, pump_flow_m3s, inflow_m3s, 0.0)
    worst = SECONDS_PER_HOUR * pump_flow_m3s / (4.0 * storage)
    least = pump_flow_m3s * SECONDS_PER_HOUR / allowed_starts_per_h / (4.0 * turns)
    from_level = levels.start_m if level_at_failure_m is None else level_at_failure_m
    room = area * (levels.overflow_m - from_level) - (
        drain_line_volume_m3 if line_full_at_failure else 0.0
    )
    running_out = (
        None
        if keeps_up
        else _ratio(area * (levels.overflow_m - levels.start_m), inflow_m3s - pump_flow_m3s)
    )
    return Basin(
        plan_area_m2=area,
        storage_m3=storage,
        volume_stop_to_inlet_m3=area * (levels.inlet_m - levels.stop_m),
        pump_keeps_up=keeps_up,
        run_time_s=run,
        rest_time_s=rest,
        cycles_per_h_at_inflow=cycles,
        starts_per_pump_per_h_at_inflow=cycles / turns,
        cycles_per_h_with_drain_back=_cycles(
            storage, pump_flow_m3s, inflow_m3s, drain_line_volume_m3
        ),
        worst_cycles_per_h=worst,
        worst_starts_per_pump_per_h=worst / turns,
        shortest_run_time_s=storage / pump_flow_m3s,
        minimum_storage_m3=least,
        storage_enough=storage >= least,
        drain_back_volume_m3=drain_line_volume_m3,
        drain_back_rise_m=drain_line_volume_m3 / area,
        time_start_to_alarm_s=area * (levels.alarm_m - levels.start_m) / inflow_m3s,
        time_alarm_to_overflow_s=area * (levels.overflow_m - levels.alarm_m) / inflow_m3s,
        time_to_overflow_s=room / inflow_m3s,
        time_to_overflow_running_s=running_out,
    )


def _ratio(above: float, below: float) -> float:
    return above / below if below > 0 else math.inf


def _cycles(
    storage_m3: float, pump_flow_m3s: float, inflow_m3s: float, drain_back_m3: float
) -> float:
    """Starts an hour; 0 when the pump never stops.

    A line that fills the pit at once restarts the pump.
    """
    if pump_flow_m3s <= inflow_m3s:
        return 0.0
    rest = max(storage_m3 - drain_back_m3, 0.0) / inflow_m3s
    return SECONDS_PER_HOUR / (rest + storage_m3 / (pump_flow_m3s - inflow_m3s))


def pipe_volume_m3(length_m: float, inside_diameter_m: float) -> float:
    """Water in a full pipe [m3] = pi d2/4 x length."""
    return math.pi / 4.0 * inside_diameter_m**2 * length_m
