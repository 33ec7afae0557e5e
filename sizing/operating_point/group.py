"""Two equal pumps side by side: together, at part speed, and when one has failed."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.one import operating_point, speed_for_flow
from sizing.pump.curve import PumpCurve, arranged


@dataclass(frozen=True)
class Group:
    """Equal pumps in parallel on one system, the idle one shut off by its check valve.

    None where something cannot be.
    """

    count: int
    head_at_needed_m: float
    flow_each_m3s: float
    speed_ratio_all: float | None
    flow_all_m3s: float | None
    flow_one_m3s: float | None
    head_one_m: float | None
    one_alone_meets_needed: bool
    speed_ratio_one_alone: float | None


def group(curve: PumpCurve, system: SystemCurve, needed_flow_m3s: float, count: int = 2) -> Group:
    """How equal pumps share a needed flow, and what one of them does alone at full speed.

    ``speed_ratio_one_alone`` is at most 1: the speed at which one pump gives the whole needed flow.

    Raises
    ------
    SizingError
        A needed flow not above zero.
    """
    together = arranged(curve, "parallel", count)
    all_running, one = operating_point(together, system).point, operating_point(curve, system).point
    alone = speed_for_flow(curve, system, needed_flow_m3s)
    return Group(
        count,
        system.head_at(needed_flow_m3s),
        needed_flow_m3s / count,
        speed_for_flow(together, system, needed_flow_m3s),
        all_running.flow_m3s if all_running else None,
        one.flow_m3s if one else None,
        one.head_m if one else None,
        one is not None and one.flow_m3s >= needed_flow_m3s,
        alone if alone is not None and alone <= 1.0 else None,
    )
