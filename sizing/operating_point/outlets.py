"""A pump whose outlets limit the flow: taps, sprinklers and emitters let no more through than open.

Such a pump does not run where its curve meets the system's, as if every tap stood open, but at the
flow that is drawn, with whatever head it then has to spare.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from sizing.base.rounding import at_least
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OPERATES, OperatingPoints
from sizing.operating_point.one import Crossing, OperatingPoint
from sizing.pump.curve import PumpCurve


def held_to(
    points: OperatingPoints, needed_m3s: float, head_m: Array, needed_head_m: float
) -> OperatingPoints:
    """The points of those that reach the need, held to it; the others as they are.

    ``head_m`` is each pump's head at the flow needed [m], NaN beyond its curve.
    """
    with np.errstate(invalid="ignore"):
        reach = np.asarray(at_least(head_m, needed_head_m))
    return replace(
        points,
        status=np.where(reach, OPERATES, points.status).astype(np.int8),
        flow_m3s=np.where(reach, needed_m3s, points.flow_m3s),
        head_m=np.where(reach, head_m, points.head_m),
    )


def held(
    point: OperatingPoint, curve: PumpCurve, system: SystemCurve, needed_m3s: float
) -> OperatingPoint:
    """The same for one pump."""
    if not curve.covers(needed_m3s):
        return point
    head_m = float(curve.head_m(np.asarray(needed_m3s)))
    if not at_least(head_m, system.head_at(needed_m3s)):
        return point
    return replace(point, status="operates", crossings=(Crossing(needed_m3s, head_m, True),))
