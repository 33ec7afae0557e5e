"""One pipe under pressure to a far end: how far, how high, and how long the water stands in it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.water import Water
from sizing.hydraulics import friction

_HOURS_PER_DAY = 24.0


@dataclass(frozen=True)
class ForceMain:
    """What a force main does at one flow.

    ``longest_run_m`` is infinite where nothing is lost on the way.
    """

    velocity_m_s: float
    flow_for_minimum_velocity_m3s: float
    pipe_volume_m3: float
    retention_time_h: float
    friction_head_m: float
    fitting_loss_m: float
    total_head_m: float
    longest_run_m: float
    highest_lift_m: float


def force_main(
    *,
    inside_diameter_m: float,
    roughness_m: float,
    length_m: float,
    k_sum: float,
    water: Water,
    flow_m3s: float,
    daily_volume_m3: float,
    static_lift_m: float,
    available_head_m: float,
    minimum_velocity_m_s: float,
) -> ForceMain:
    """A force main of one size by Darcy-Weisbach with Colebrook.

    ``longest_run_m`` is the length at which lift, friction and fittings take the whole available
    head (lift and K unchanged; zero where there is none left), ``highest_lift_m`` what is left
    over for lift.

    Raises
    ------
    OutOfRange
        A flow, bore or daily volume of zero.
    """
    check_range("inside diameter", inside_diameter_m, 1e-4, 20.0, "m")
    check_range("flow", flow_m3s, 1e-9, 1e3, "m³/s")
    check_range("daily volume", daily_volume_m3, 1e-9, 1e9, "m³")
    area = math.pi / 4 * inside_diameter_m**2
    velocity = flow_m3s / area
    per_metre = float(
        friction.darcy_weisbach_m(
            flow_m3s, inside_diameter_m, 1.0, roughness_m, water.kinematic_viscosity_m2_s
        )
    )
    fittings = k_sum * float(friction.velocity_head_m(velocity))
    left = available_head_m - fittings
    return ForceMain(
        velocity_m_s=velocity,
        flow_for_minimum_velocity_m3s=minimum_velocity_m_s * area,
        pipe_volume_m3=area * length_m,
        retention_time_h=area * length_m / daily_volume_m3 * _HOURS_PER_DAY,
        friction_head_m=per_metre * length_m,
        fitting_loss_m=fittings,
        total_head_m=static_lift_m + per_metre * length_m + fittings,
        longest_run_m=max(left - static_lift_m, 0.0) / per_metre if per_metre > 0 else math.inf,
        highest_lift_m=left - per_metre * length_m,
    )
