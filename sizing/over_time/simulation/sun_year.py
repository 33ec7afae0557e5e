"""The sun on a panel, hour by hour through a typical year made up from monthly clearness.

Days differ as real ones do: the clearness of a month's days follows Bendt, Collares-Pereira and
Rabl 1981 with the highest by Hollands and Huget 1983, in an order that runs on from day to day
(first-order, 0.29: Graham and Hollands 1990), the same for a seed. A day's sun is spread over its
hours by Collares-Pereira and Rabl 1979; the diffuse share by hour is that of Erbs, Klein and Duffie
1982; on the slope by Hay and Davies 1980. Declination and distance by Spencer 1971. Solar time, so
that noon is the sun's. The air's temperature is rough, by latitude (assumed).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
import scipy

from sizing.base.errors import check_range
from sizing.hydraulics.friction import Array

MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
DAYS, HOURS = 365, 8760
_SOLAR_CONSTANT_W_M2 = 1361.0
_GROUND_REFLECTS = 0.2
_LEAST_CLEAR = 0.05
_RUNS_ON = 0.29
_PARTS = 6  # of an hour
_SEED = 8760
_LOWEST_SINE = 0.0523  # three degrees up: lower, all counts as diffuse


@dataclass(frozen=True)
class SunYear:
    """Hour by hour of a year, each of shape (8760,)."""

    flat_w_m2: Array  # global on the flat
    slope_w_m2: Array  # on the panel
    air_c: Array


@lru_cache(maxsize=64)
def sun_year(
    latitude_deg: float, tilt_deg: float, clearness: tuple[float, ...], seed: int = _SEED
) -> SunYear:
    """A year of sun on a panel that faces the equator.

    Parameters
    ----------
    clearness : of each month, the share of the sun outside the air that reaches the ground.

    Raises
    ------
    OutOfRange
        Beyond the polar circles, or a clearness that no place has.
    """
    check_range("latitude", latitude_deg, -66.0, 66.0, "°")
    check_range("tilt", tilt_deg, 0.0, 90.0, "°")
    for one in clearness:
        check_range("clearness", one, 0.05, 0.85, "")
    latitude, tilt = math.radians(latitude_deg), math.radians(tilt_deg)
    seen = latitude - math.copysign(tilt, latitude_deg)
    angle = 2 * np.pi * np.arange(DAYS) / DAYS
    declination = _declination(angle)[:, None, None]
    hours = np.arange(24)[:, None] + (np.arange(_PARTS) + 0.5) / _PARTS
    hour_angle = np.radians(15.0 * (hours - 12.0))[None]
    up = _sine(latitude, declination, hour_angle)
    at_panel = np.where(up > 0, _sine(seen, declination, hour_angle), 0.0)
    outside = (_SOLAR_CONSTANT_W_M2 * _distance(angle))[:, None, None]
    shape = _spread(latitude, declination, hour_angle)
    daily = np.concatenate(
        [_days(month, mean, seed) for month, mean in zip(range(1, 13), clearness, strict=True)]
    )
    sun_a_day = (outside * up).sum(axis=(1, 2))
    spread_sum = shape.sum(axis=(1, 2))
    flat = shape * (daily * sun_a_day / np.where(spread_sum > 0, spread_sum, 1))[:, None, None]
    clear = np.clip(np.divide(flat, outside * up, out=np.zeros_like(flat), where=up > 0), 0.0, 1.0)
    diffuse = np.where(up > _LOWEST_SINE, flat * _diffuse_share(clear), flat)
    beam = flat - diffuse
    ratio = np.clip(at_panel, 0, None) / np.maximum(up, _LOWEST_SINE)
    straight = np.divide(beam, outside * up, out=np.zeros_like(flat), where=up > 0)
    straight = np.clip(straight, 0.0, 1.0)  # how much of the diffuse comes from near the sun
    sky, ground = (1 + math.cos(tilt)) / 2, (1 - math.cos(tilt)) / 2 * _GROUND_REFLECTS
    slope = beam * ratio + diffuse * (straight * ratio + (1 - straight) * sky) + flat * ground
    return SunYear(
        flat_w_m2=flat.mean(axis=2).ravel(),
        slope_w_m2=slope.mean(axis=2).ravel(),
        air_c=_air_c(latitude_deg, angle),
    )


def _sine(latitude: float, declination: Array, hour_angle: Array) -> Array:
    sine = math.sin(latitude) * np.sin(declination)
    return np.asarray(
        np.maximum(sine + math.cos(latitude) * np.cos(declination) * np.cos(hour_angle), 0.0)
    )


def _declination(angle: Array) -> Array:
    """Spencer 1971 [rad]."""
    return np.asarray(
        0.006918
        - 0.399912 * np.cos(angle)
        + 0.070257 * np.sin(angle)
        - 0.006758 * np.cos(2 * angle)
        + 0.000907 * np.sin(2 * angle)
        - 0.002697 * np.cos(3 * angle)
        + 0.00148 * np.sin(3 * angle)
    )


def _distance(angle: Array) -> Array:
    """Square of mean over present distance of the sun, Spencer 1971."""
    return np.asarray(
        1.00011
        + 0.034221 * np.cos(angle)
        + 0.00128 * np.sin(angle)
        + 0.000719 * np.cos(2 * angle)
        + 0.000077 * np.sin(2 * angle)
    )


def _spread(latitude: float, declination: Array, hour_angle: Array) -> Array:
    """How a day's sun lies over its hours, up to a factor (Collares-Pereira and Rabl 1979)."""
    sunset = np.arccos(np.clip(-math.tan(latitude) * np.tan(declination), -1.0, 1.0))
    a = 0.409 + 0.5016 * np.sin(sunset - math.pi / 3)
    b = 0.6609 - 0.4767 * np.sin(sunset - math.pi / 3)
    height = np.cos(hour_angle) - np.cos(sunset)
    return np.asarray(np.maximum((a + b * np.cos(hour_angle)) * np.maximum(height, 0.0), 0.0))


def _diffuse_share(clear: Array) -> Array:
    """Erbs, Klein and Duffie 1982."""
    middle = 0.9511 - 0.1604 * clear + 4.388 * clear**2 - 16.638 * clear**3 + 12.336 * clear**4
    return np.asarray(
        np.where(clear <= 0.22, 1 - 0.09 * clear, np.where(clear <= 0.8, middle, 0.165))
    )


def _days(month: int, mean: float, seed: int) -> Array:
    """The clearness of each day of a month, their mean as told."""
    count = MONTH_DAYS[month - 1]
    most = max(0.6313 + 0.267 * mean - 11.9 * (mean - 0.75) ** 8, mean + 0.02)
    parts = (np.arange(count) + 0.5) / count
    sorted_days = _quantiles(parts, min(most, 0.9), mean)
    chance = np.random.default_rng([seed, month])
    noise, value = chance.standard_normal(count), 0.0
    walk = np.empty(count)
    for day in range(count):
        value = _RUNS_ON * value + math.sqrt(1 - _RUNS_ON**2) * noise[day]
        walk[day] = value
    found = np.empty(count)
    found[np.argsort(walk)] = sorted_days
    return np.asarray(found + (mean - found.mean()))


def _quantiles(parts: Array, most: float, mean: float) -> Array:
    """Of the distribution of Bendt and others between the least and the most clear day."""
    low = min(_LEAST_CLEAR, mean - 0.02)

    def at(gamma: float) -> Array:
        if abs(gamma) < 1e-6:
            return np.asarray(low + parts * (most - low))
        first, last = math.exp(gamma * low), math.exp(gamma * most)
        return np.asarray(np.log(first - parts * (first - last)) / gamma)

    gamma = scipy.optimize.brentq(lambda one: float(at(one).mean()) - mean, -200.0, 200.0)
    return at(float(gamma))


def _air_c(latitude_deg: float, angle: Array) -> Array:
    """The air by hour [C]: warm at the equator, swinging with the latitude, five degrees a day."""
    far = abs(latitude_deg)
    mean, swing = 27.0 - 0.4 * max(far - 15.0, 0.0), 0.24 * far
    coldest = math.radians(20.0) if latitude_deg >= 0 else math.radians(200.0)
    by_day = mean - swing * np.cos(angle - coldest)
    by_hour = 5.0 * np.cos(2 * np.pi * (np.arange(24) - 15.0) / 24)
    return np.asarray((by_day[:, None] + by_hour[None]).ravel())


def monthly(values: Array) -> Array:
    """Means of an hourly year by month, of shape (12,)."""
    days = values.reshape(DAYS, 24).mean(axis=1)
    ends = np.cumsum((0, *MONTH_DAYS))
    return np.array([days[a:b].mean() for a, b in pairwise(ends)])


def by_hour_of_year(by_month: Sequence[float] | Array) -> Array:
    """A figure of each month, held through its hours."""
    return np.repeat(np.asarray(by_month, dtype=float), np.array(MONTH_DAYS) * 24)
