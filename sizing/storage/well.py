"""A drilled well: what it gives, how far its level sinks, and whether the water cools the motor."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from sizing.base.errors import check_range

LimitedBy = Literal["wanted", "yield", "cover"]


@dataclass(frozen=True)
class Draw:
    flow_m3s: float
    limited_by: LimitedBy
    drawdown_m: float
    pumping_level_m: float
    cover_over_pump_m: float
    drawdown_at_wanted_m: float


def draw(
    *,
    wanted_flow_m3s: float,
    tested_yield_m3s: float,
    specific_capacity_m2s: float,
    static_level_m: float,
    pump_setting_m: float,
    minimum_cover_m: float,
) -> Draw:
    """What may be drawn.

    The least of what is wanted, the tested yield, and what leaves enough water over the pump.

    Drawdown = flow / specific capacity, taken as constant (m3/s for each m), as a well's test gives
    it. Depths are below ground.

    Raises
    ------
    OutOfRange
        A pump set so that the standing water does not even cover it, or a figure not above zero.
    """
    check_range("specific capacity", specific_capacity_m2s, 1e-9, 10.0, "m³/s for each m")
    check_range("tested yield", tested_yield_m3s, 1e-9, 10.0, "m³/s")
    check_range("depth of the pump", pump_setting_m, static_level_m + minimum_cover_m, 2000.0, "m")
    limits: dict[LimitedBy, float] = {
        "wanted": wanted_flow_m3s,
        "yield": tested_yield_m3s,
        "cover": specific_capacity_m2s * (pump_setting_m - minimum_cover_m - static_level_m),
    }
    limited_by = min(limits, key=lambda name: limits[name])
    flow = limits[limited_by]
    drawdown = flow / specific_capacity_m2s
    level = static_level_m + drawdown
    return Draw(
        flow_m3s=flow,
        limited_by=limited_by,
        drawdown_m=drawdown,
        pumping_level_m=level,
        cover_over_pump_m=pump_setting_m - level,
        drawdown_at_wanted_m=wanted_flow_m3s / specific_capacity_m2s,
    )


@dataclass(frozen=True)
class Cooling:
    annulus_area_m2: float
    velocity_ms: float
    cooled: bool
    flow_needed_m3s: float
    largest_sleeve_inside_diameter_m: float


def cooling(
    *,
    casing_inside_diameter_m: float,
    motor_diameter_m: float,
    flow_m3s: float,
    required_velocity_ms: float,
) -> Cooling:
    """Speed of the water past a submersible motor, and the widest sleeve that still cools it.

    By continuity.

    Raises
    ------
    OutOfRange
        A motor that does not go into the casing, or a speed not above zero.
    """
    check_range(
        "diameter of the motor", motor_diameter_m, 1e-3, casing_inside_diameter_m * (1 - 1e-9), "m"
    )
    check_range("speed wanted past the motor", required_velocity_ms, 1e-6, 10.0, "m/s")
    area = math.pi / 4 * (casing_inside_diameter_m**2 - motor_diameter_m**2)
    velocity = flow_m3s / area
    sleeve = math.sqrt(motor_diameter_m**2 + 4 * flow_m3s / (math.pi * required_velocity_ms))
    return Cooling(
        area, velocity, velocity >= required_velocity_ms, required_velocity_ms * area, sleeve
    )


@dataclass(frozen=True)
class Storage:
    volume_m3: float
    fill_time_s: float


def storage_for_peak(
    *, peak_flow_m3s: float, peak_time_s: float, refill_flow_m3s: float
) -> Storage:
    """Storage for a well that gives less than the peak.

    What the peak takes beyond it, and how long it takes to come back.

    Raises
    ------
    OutOfRange
        A refill not above zero.
    """
    check_range("refill", refill_flow_m3s, 1e-12, 10.0, "m³/s")
    volume = max(peak_flow_m3s - refill_flow_m3s, 0.0) * peak_time_s
    return Storage(volume, volume / refill_flow_m3s)


def storage_for_day(*, day_volume_m3: float, drawn_in_s: float, refill_flow_m3s: float) -> Storage:
    """Storage that hands out a day's water in a few hours: what does not come in meanwhile.

    Raises
    ------
    OutOfRange
        A refill not above zero.
    """
    check_range("refill", refill_flow_m3s, 1e-12, 10.0, "m³/s")
    volume = max(day_volume_m3 - refill_flow_m3s * drawn_in_s, 0.0)
    return Storage(volume, volume / refill_flow_m3s)
