"""The timed rise: how fast a pit fills with its pump off."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.storage.plan import Plan


@dataclass(frozen=True)
class Rise:
    plan_area_m2: float
    inflow_m3s: float


def rise(plan: Plan, level_rise_m: float, time_s: float) -> Rise:
    """Inflow [m3/s] = plan area x rise / time, with the pump off and nothing else in the pit.

    Raises
    ------
    OutOfRange
        A rise or a time that is not above zero.
    """
    check_range("rise of the level", level_rise_m, 1e-6, 100.0, "m")
    check_range("time of the rise", time_s, 1e-3, 1e8, "s")
    return Rise(plan.area_m2, plan.area_m2 * level_rise_m / time_s)
