"""How a pump wears over the years, from readings at it, and when it will miss its duty.

Wear is the share by which the head at the measured flow is under the curve that was promised. A
straight line through it by weighted least squares gives the rate; it misses its duty where the
curve, lowered by that share, no longer gives the flow that is needed on the run as promised.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.readings import Compared, Readings
from sizing.base.errors import SizingError
from sizing.pump.curve import PumpCurve

LEAST_READINGS = 3
_SURE = 2.0  # sigmas of the rate before anything is foretold
_LEAST_SIGMA = 0.002  # no gauge and bucket are surer than that


@dataclass(frozen=True)
class Wear:
    """One reading's wear as a share of the head, with one sigma of what was read."""

    years: float
    share: float
    sigma: float


@dataclass(frozen=True)
class Trend:
    """The straight line through several readings.

    ``misses_in_years`` counts from the last reading, None where the rate is not sure or the pump
    does not sink so far; ``allowed`` is the wear at which it misses its duty.
    """

    rate_per_year: float
    rate_sigma: float
    now: float
    allowed: float | None
    misses_in_years: float | None
    misses_sigma: float | None
    count: int

    @property
    def is_sure(self) -> bool:
        """Whether it wears at all, beyond the error of the readings."""
        return self.rate_per_year > _SURE * self.rate_sigma


def wear_of(compared: Compared, years: float) -> Wear:
    """The wear that a reading shows, ``years`` after the pump went in."""
    promised = compared.curve_head_m
    curve = compared.promised.curve
    low, high = curve.flows_m3s[0], curve.last_flow_m3s

    def short(one: Readings) -> float:
        return one.head_m - float(curve.head_m(min(max(one.flow_m3s, low), high)))

    sigma = compared.readings.sigma(short) / promised
    return Wear(years, -compared.head.amount / promised, sigma)


def allowed_wear(promise: Promise, curve: PumpCurve) -> float | None:
    """The share of its head that the pump may lose and still give the flow that is needed.

    None where the flow needed is beyond its curve, or it never gave it.
    """
    flow = promise.needed_flow_m3s
    if not curve.flows_m3s[0] <= flow <= curve.last_flow_m3s:
        return None
    needed = promise.static_m + promise.k_s2_m5 * flow**2
    found = 1.0 - needed / float(curve.head_m(flow))
    return found if found > 0.0 else None


def trend(readings: Sequence[Wear], allowed: float | None) -> Trend:
    """The line through readings, and when it passes what is allowed.

    Raises
    ------
    SizingError
        Fewer than three readings, or all of one day.
    """
    if len(readings) < LEAST_READINGS:
        raise SizingError(f"a trend needs {LEAST_READINGS} readings, there are {len(readings)}")
    years = np.array([one.years for one in readings])
    shares = np.array([one.share for one in readings])
    weights = 1.0 / np.maximum([one.sigma for one in readings], _LEAST_SIGMA) ** 2
    middle = float(np.average(years, weights=weights))
    spread = float(np.sum(weights * (years - middle) ** 2))
    if spread <= 0.0 or float(np.ptp(years)) < 1e-3:
        raise SizingError("a trend needs readings of different days")
    level = float(np.average(shares, weights=weights))
    rate = float(np.sum(weights * (years - middle) * (shares - level))) / spread
    rate_sigma, level_sigma = math.sqrt(1.0 / spread), math.sqrt(1.0 / float(np.sum(weights)))
    last = float(np.max(years))
    now = level + rate * (last - middle)
    sure = rate > _SURE * rate_sigma
    left, left_sigma = None, None
    if sure and allowed is not None:
        # years until allowed = level + rate (t - middle): level and rate are independent
        span = (allowed - level) / rate
        left = max(middle + span - last, 0.0)
        left_sigma = math.hypot(level_sigma / rate, span * rate_sigma / rate)
    return Trend(rate, rate_sigma, now, allowed, left, left_sigma, len(readings))
