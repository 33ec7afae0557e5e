"""A job's pit as it can be run, with the pump that was chosen.

The pump's own curve meets the run's own system curve at the stop level and at the rim; between the
two Q2 is taken as linear in the level (exact where both are parabolas; on the demo jobs within
0.3 % of the flow solved anew at each level).
"""

from __future__ import annotations

import math

import scipy

from sizing.checks.base import Running
from sizing.checks.pit import drain_back_m3, levels, turns
from sizing.checks.pit_levels import lag_level_m
from sizing.kinds.pit import pit_plan
from sizing.over_time.simulation.delivery import Against, Pump
from sizing.over_time.simulation.pit import Pit
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.pump.curve import PumpCurve, one_of
from sizing.storage.basin import Levels

_AT_ONCE_M = 1e-6  # over the start level: both start together


def pit_of(running: Running) -> Pit:
    """The pit of a job with the pump that was chosen, or two of it.

    Two that run together, or one where one stands by, take turns. The second starts at its own
    level where that is told; else with the first, or where it stands by at the alarm. More than two
    together start and stop as one.
    """
    at = levels(running.facts)
    curve, units, second_m = _units(running, at)
    pump, against = _local(running, curve, at.stop_m, at.overflow_m, units)
    area = AreaByLevel.upright(pit_plan(running.facts).area_m2)
    inlet = min(at.inlet_m, at.overflow_m - 1e-6)
    return Pit(
        area=area,
        stop_m=at.stop_m,
        start_m=at.start_m,
        inlet_m=inlet,
        alarm_m=min(at.alarm_m, at.overflow_m - 1e-6),
        rim_m=at.overflow_m,
        pumps=(pump,) * units,
        against=against,
        lag_start_m=second_m if at.start_m < second_m < at.overflow_m else None,
        alternating=units == 2,
        drain_back_m3=drain_back_m3(running),
    )


def _units(running: Running, at: Levels) -> tuple[PumpCurve, int, float]:
    """The curve of one unit, how many there are, and where the second starts [m]."""
    job, told = running.job, lag_level_m(running.facts)
    if job.arrangement == "parallel" and running.running == 2 and not job.standby:
        one = one_of(running.curve, "parallel", 2)
        return one, 2, at.start_m + _AT_ONCE_M if told is None else told
    if turns(running) > 1:
        return running.curve, 2, at.alarm_m if told is None else told
    return running.curve, 1, math.nan


def flow_at_level(
    running: Running,
    level_m: float,
    stop_m: float,
    units: int = 1,
    curve: PumpCurve | None = None,
) -> float:
    """What the pump gives with the water at a level, its curve against the run's [m3/s].

    Nothing where it would run left of the curve's first point: what it gives there is not stated.
    """
    curve, rise = curve or running.curve, level_m - stop_m

    def spare(flow: float) -> float:
        return float(curve.head_m(flow / units)) - running.system.head_at(flow) + rise

    first, last = curve.flows_m3s[0] * units, curve.last_flow_m3s * units
    if spare(first) <= 0:
        return 0.0
    return (
        last if spare(last) >= 0 else float(scipy.optimize.brentq(spare, first, last, xtol=1e-12))
    )


def _local(
    running: Running, curve: PumpCurve, stop_m: float, rim_m: float, units: int
) -> tuple[Pump, Against]:
    """A parabola through what the pump gives at the stop level and at the rim.

    With two units, what both give together parts it into the pump's share and the run's.
    """
    low = max(flow_at_level(running, stop_m, stop_m, 1, curve), 1e-9)
    high = max(flow_at_level(running, rim_m, stop_m, 1, curve), low * (1 + 1e-6))
    c = (rim_m - stop_m) / (high**2 - low**2)
    floor = stop_m - c * low**2
    b, k = c, 0.0
    if units == 2:
        both = max(flow_at_level(running, stop_m, stop_m, 2, curve), low * (1 + 1e-9))
        together = (stop_m - floor) / both**2  # b / 4 + k
        b = min(max((c - together) * 4 / 3, 1e-9), c)
        k = c - b
    return Pump(0.0, b), Against(floor, k)
