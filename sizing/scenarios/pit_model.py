"""A job's pit as it can be run, with the pump that was chosen.

The pump's own curve meets the run's own system curve at the stop level and at the rim; between the
two Q2 is taken as linear in the level (exact where both are parabolas; on the demo jobs within
0.3 % of the flow solved anew at each level).
"""

from __future__ import annotations

from scipy.optimize import brentq

from sizing.checks.base import Running
from sizing.checks.pit import drain_back_m3, levels, turns
from sizing.kinds.pit import pit_plan
from sizing.simulation.delivery import Against, Pump
from sizing.simulation.pit import Pit
from sizing.simulation.plan_area import AreaByLevel


def pit_of(running: Running) -> Pit:
    """The pit of a job with the pump that was chosen.

    Two units where one stands by: they take turns, and both run from the alarm level on.
    """
    at = levels(running.facts)
    units = 2 if turns(running) > 1 else 1
    pump, against = _local(running, at.stop_m, at.overflow_m, units)
    lag = at.alarm_m if units == 2 and at.start_m < at.alarm_m < at.overflow_m else None
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
        lag_start_m=lag,
        alternating=units == 2,
        drain_back_m3=drain_back_m3(running),
    )


def flow_at_level(running: Running, level_m: float, stop_m: float, units: int = 1) -> float:
    """What the pump gives with the water at a level, its curve against the run's [m3/s].

    Nothing where it would run left of the curve's first point: what it gives there is not stated.
    """
    curve, rise = running.curve, level_m - stop_m

    def spare(flow: float) -> float:
        return float(curve.head_m(flow / units)) - running.system.head_at(flow) + rise

    first, last = curve.flows_m3s[0] * units, curve.last_flow_m3s * units
    if spare(first) <= 0:
        return 0.0
    return last if spare(last) >= 0 else float(brentq(spare, first, last, xtol=1e-12))


def _local(running: Running, stop_m: float, rim_m: float, units: int) -> tuple[Pump, Against]:
    """A parabola through what the pump gives at the stop level and at the rim.

    With two units, what both give together parts it into the pump's share and the run's.
    """
    low = max(flow_at_level(running, stop_m, stop_m), 1e-9)
    high = max(flow_at_level(running, rim_m, stop_m), low * (1 + 1e-6))
    c = (rim_m - stop_m) / (high**2 - low**2)
    floor = stop_m - c * low**2
    b, k = c, 0.0
    if units == 2:
        both = max(flow_at_level(running, stop_m, stop_m, 2), low * (1 + 1e-9))
        together = (stop_m - floor) / both**2  # b / 4 + k
        b = min(max((c - together) * 4 / 3, 1e-9), c)
        k = c - b
    return Pump(0.0, b), Against(floor, k)
