"""What a pump's other printed curves say at the flows of its head curve.

Power, NPSH and efficiency are traced on axes of their own, over flows of their own.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from sizing.base.water import GRAVITY_M_S2
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3
from sizing.pump.digitise import Traced, TraceError

_BEYOND = 0.06  # of the range: so far a curve may end short of the head curve, by the hand's slip


def at_flows(traced: Traced, flows: Sequence[float], what: str) -> tuple[float, ...]:
    """A traced curve at the flows of the head curve, in the units of its axis.

    Below its first point it keeps that value: printed NPSH curves often begin at some flow, and
    are lowest there. Flows in the unit of the flow axis.

    Raises
    ------
    TraceError
        It ends well short of the head curve: what it does beyond is not guessed.
    """
    xs, ys = (np.array(column) for column in zip(*traced.points, strict=True))
    if flows[-1] > xs[-1] + _BEYOND * (flows[-1] - flows[0]):
        raise TraceError(
            f"the curve of {what} ends at {xs[-1]:.4g}, the head curve at {flows[-1]:.4g}: follow"
            " it to the end, or the head curve no further"
        )
    found = scipy.interpolate.PchipInterpolator(xs, ys)(np.clip(flows, xs[0], xs[-1]))
    return tuple(float(one) for one in np.maximum(found, 0.0))


def powers_w(
    flows_m3s: Sequence[float], heads_m: Sequence[float], efficiencies: Sequence[float]
) -> tuple[float, ...]:
    """Input power [W] at the points of a head curve, from the efficiency there: rho g Q H / eta.

    ``efficiencies`` are shares of pump and motor together. At no flow both water power and
    efficiency are nothing; there their ratio's limit is taken, from the first point with flow.

    Raises
    ------
    TraceError
        An efficiency above 1, or of nothing where water is lifted.
    """
    if max(efficiencies) > 1.0:
        raise TraceError(
            f"an efficiency of {max(efficiencies):.0%}: look at the ruler of the efficiency"
        )
    found: list[float | None] = []
    for flow, head, share in zip(flows_m3s, heads_m, efficiencies, strict=True):
        water_w = REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2 * flow * head
        if flow <= 0.0:
            found.append(None)
        elif share <= 0.0:
            raise TraceError("an efficiency of nothing where there is flow: no power follows")
        else:
            found.append(water_w / share)
    with_flow = [one for one in found if one is not None]
    if not with_flow:
        raise TraceError("the efficiency is known at no flow")
    # eta is near k Q there, so that P -> rho g H / k: the head alone tells the two points apart.
    first = next(at for at, one in enumerate(found) if one is not None)
    limit = with_flow[0] * heads_m[0] / heads_m[first] if heads_m[first] > 0 else with_flow[0]
    return tuple(limit if one is None else one for one in found)
