"""A pump on panels with a tank, hour by hour through a year.

Power = array x sun x share that arrives x what the panel's warmth leaves (the share is taken to
hold at 45 degrees of the cell; the cell stands (45 - 20) / 800 K per W/m2 over the air); no more
than the pump takes, nothing below its start. The well gives no more than its yield. Within an hour
sun and need are steady, so that water is short only as far as tank and pump together cannot.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.base.errors import SizingError, check_range
from sizing.base.units import SECONDS_PER_HOUR
from sizing.hydraulics.friction import Array
from sizing.over_time.simulation.sun_year import DAYS, HOURS

_STANDARD_SUN_W_M2 = 1000.0
_LOSS_PER_K, _SHARE_HOLDS_AT_C = 0.004, 45.0
_WARMS_K_M2_W = (45.0 - 20.0) / 800.0
_SHORT_M3 = 1e-4  # less is no shortage


@dataclass(frozen=True)
class Panels:
    """An array and what becomes of its power."""

    array_w: float
    share_that_arrives: float

    def power_w(self, sun_w_m2: Array, air_c: Array) -> Array:
        """Power at the pump by the hour."""
        cell_c = air_c + _WARMS_K_M2_W * sun_w_m2
        warm = 1 - _LOSS_PER_K * (cell_c - _SHARE_HOLDS_AT_C)
        return np.asarray(
            self.array_w * sun_w_m2 / _STANDARD_SUN_W_M2 * self.share_that_arrives * warm
        )


@dataclass(frozen=True)
class SolarYears:
    """Of N pumps at once: what is pumped, stored and short by the hour, of shape (N, 8760) [m3]."""

    pumped_m3: Array
    stored_m3: Array
    short_m3: Array
    spilt_m3: Array
    begun_with_m3: float

    @property
    def days_short(self) -> Array:
        """How many days each pump leaves somebody without water."""
        by_day = self.short_m3.reshape(-1, DAYS, 24).sum(axis=2)
        return np.asarray((by_day > _SHORT_M3).sum(axis=1))


def flows_m3s(
    power_w: Array, table: Sequence[tuple[float, float]], start_share: float, yield_m3s: Array
) -> Array:
    """What a pump gives by the hour, from its table of (power [W], flow [m3/s]).

    Raises
    ------
    SizingError
        No table: its maker gives no power.
    """
    if not table:
        raise SizingError("the pump's maker gives no power: its water cannot be worked out")
    powers, flows = (np.array(column, dtype=float) for column in zip(*table, strict=True))
    given = np.interp(power_w, powers, flows, left=0.0)
    given = np.where(power_w >= start_share * powers[-1], given, 0.0)
    return np.asarray(np.minimum(given, yield_m3s))


def solar_years(flow_m3s: Array, need_m3: Array, tank_m3: float) -> SolarYears:
    """The tank through the year, full at its beginning.

    Parameters
    ----------
    flow_m3s : by the hour, of shape (N, 8760) for N pumps.
    need_m3 : of each hour, of shape (8760,).

    Raises
    ------
    OutOfRange
        A tank of nothing.
    """
    check_range("tank", tank_m3, 1e-9, 1e7, "m³")
    pumped = np.atleast_2d(flow_m3s) * SECONDS_PER_HOUR
    stored = np.empty_like(pumped)
    spilt, short = np.zeros_like(pumped), np.zeros_like(pumped)
    need = need_m3.tolist()
    for row, given in enumerate(pumped.tolist()):
        level, levels, over, under = tank_m3, [0.0] * HOURS, [0.0] * HOURS, [0.0] * HOURS
        for hour in range(HOURS):  # plain floats: quicker than arrays of a few pumps
            level += given[hour] - need[hour]
            if level > tank_m3:
                over[hour], level = level - tank_m3, tank_m3
            elif level < 0.0:
                under[hour], level = -level, 0.0
            levels[hour] = level
        stored[row], spilt[row], short[row] = levels, over, under
    return SolarYears(pumped, stored, short, spilt, tank_m3)
