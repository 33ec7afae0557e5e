"""Water by the sun.

What a panel gets in a day of each month, and what a solar pump makes of it hour by hour.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from sizing.base.errors import SizingError, check_range
from sizing.base.units import SECONDS_PER_HOUR
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array

MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)
# The day of each month whose sun is the month's mean (Klein 1977), as day of the year.
_MEAN_DAYS = (17, 47, 75, 105, 135, 162, 198, 228, 258, 288, 318, 344)
_SOLAR_CONSTANT_W_M2 = 1361.0  # total solar irradiance, Kopp and Lean 2011
_GROUND_REFLECTS = 0.2  # bare ground and grass
_STANDARD_SUN_W_M2 = 1000.0  # at which panels are rated


@lru_cache(maxsize=512)
def day_profile_w_m2(
    latitude_deg: float, tilt_deg: float, month: int, clearness: float
) -> tuple[float, ...]:
    """Irradiance [W/m2] on a panel that faces the equator, in each of 24 solar hours.

    Of a month's mean day.

    Extraterrestrial sun by declination (Cooper 1969); global on the flat = clearness x that, split
    over the hours in proportion to it (simpler than Collares-Pereira and Rabl, and within a few per
    cent of a day's sum); the diffuse share by the month's clearness (Page 1961, 1 - 1.13 K); on the
    slope by the isotropic sky (Liu and Jordan 1963).

    Parameters
    ----------
    month : 1 to 12.
    clearness : share of the sun outside the air that reaches the ground: 0.3 dull to 0.7 desert.

    Raises
    ------
    OutOfRange
        Beyond the polar circles, where months without a day need more than this.
    """
    check_range("latitude", latitude_deg, -66.0, 66.0, "°")
    check_range("tilt", tilt_deg, 0.0, 90.0, "°")
    check_range("clearness", clearness, 0.05, 0.85, "")
    day = _MEAN_DAYS[month - 1]
    declination = math.radians(23.45) * math.sin(2 * math.pi * (284 + day) / 365)
    outside = _SOLAR_CONSTANT_W_M2 * (1 + 0.033 * math.cos(2 * math.pi * day / 365))
    latitude, tilt = math.radians(latitude_deg), math.radians(tilt_deg)
    seen_latitude = latitude - math.copysign(
        tilt, latitude_deg
    )  # a slope towards the equator sees the sun as the flat does there
    diffuse_share = min(max(1.0 - 1.13 * clearness, 0.1), 1.0)
    sky, ground = (1 + math.cos(tilt)) / 2, (1 - math.cos(tilt)) / 2 * _GROUND_REFLECTS
    profile = []
    for hour in range(24):
        angles = np.radians(15.0 * (hour + (np.arange(12) + 0.5) / 12 - 12.0))
        flat = _height(latitude, declination, angles)
        slope = np.where(flat > 0, _height(seen_latitude, declination, angles), 0.0)
        beam, diffuse = (
            clearness * (1 - diffuse_share) * slope,
            clearness * diffuse_share * flat * sky,
        )
        profile.append(float(outside * (beam + diffuse + clearness * flat * ground).mean()))
    return tuple(profile)


def _height(latitude: float, declination: float, angles: Array) -> Array:
    """Sine of the sun's height over the plane, zero below the horizon."""
    height = math.sin(latitude) * math.sin(declination) + math.cos(latitude) * math.cos(
        declination
    ) * np.cos(angles)
    return np.asarray(np.maximum(height, 0.0))


def sun_hours_h(profile_w_m2: Sequence[float]) -> float:
    """Hours of full sun (1000 W/m2) that a day is worth: kWh/m2 and day."""
    return sum(profile_w_m2) / _STANDARD_SUN_W_M2


@dataclass(frozen=True)
class SolarDay:
    hourly_flow_m3s: tuple[float, ...]
    daily_volume_m3: float
    pumping_hours_h: int


def solar_day(
    irradiance_w_m2: Sequence[float],
    *,
    panel_peak_w: float,
    derating: float,
    maximum_power_w: float,
    start_power_w: float,
    model: Literal["flow_table", "efficiency_table"],
    table: Sequence[tuple[float, float]],
    head_m: float | None = None,
    density_kg_m3: float | None = None,
) -> SolarDay:
    """A day hour by hour: power = min(peak x sun x derating, maximum).

    Below the start power nothing flows.

    Parameters
    ----------
    irradiance_w_m2 : 24 values on the panel's plane.
    table : (power [W], flow [m3/s]) or (power [W], water power / electrical power), straight
        between its rows, held above the last.
    head_m, density_kg_m3 : for the efficiency model, Q = eta P / (rho g H).

    Raises
    ------
    SizingError
        No table, or an efficiency model without head or density.
    """
    if not table:
        raise SizingError("a solar pump needs a table of flow or efficiency over power")
    if model == "efficiency_table" and not (head_m and density_kg_m3):
        raise SizingError("the efficiency model needs the head and the water's density")
    powers, values = (np.array(column, dtype=float) for column in zip(*table, strict=True))
    watts = np.minimum(
        panel_peak_w * np.asarray(irradiance_w_m2, dtype=float) / _STANDARD_SUN_W_M2 * derating,
        maximum_power_w,
    )
    read = np.interp(watts, powers, values)
    flow = (
        read
        if model == "flow_table"
        else read * watts / ((density_kg_m3 or 1.0) * GRAVITY_M_S2 * (head_m or 1.0))
    )
    flow = np.where(watts >= start_power_w, flow, 0.0)
    return SolarDay(
        tuple(flow.tolist()), float(flow.sum() * SECONDS_PER_HOUR), int((flow > 0).sum())
    )
