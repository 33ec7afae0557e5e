"""Flows from a volume and a time.

People in a day, a tank to fill, a tank turned over, a timed bucket.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR


@dataclass(frozen=True)
class PerHead:
    daily_volume_m3: float
    mean_flow_m3s: float
    peak_flow_m3s: float


def _per_head(people: float, volume_per_person_m3_d: float) -> tuple[float, float]:
    check_range("people", people, 0.0, 1e7, "")
    check_range("volume per person and day", volume_per_person_m3_d, 0.0, 100.0, "m³")
    daily = people * volume_per_person_m3_d
    return daily, daily / SECONDS_PER_DAY


def per_head_by_factor(people: float, volume_per_person_m3_d: float, peak_factor: float) -> PerHead:
    """Crude demand: peak = factor x the mean of the day.

    Raises
    ------
    OutOfRange
        A negative figure, or a factor under 1.
    """
    check_range("peak factor", peak_factor, 1.0, 100.0, "")
    daily, mean = _per_head(people, volume_per_person_m3_d)
    return PerHead(daily, mean, peak_factor * mean)


def per_head_by_hours(
    people: float, volume_per_person_m3_d: float, peak_hours_h: float, share_in_peak_hours: float
) -> PerHead:
    """Crude demand: a share of the day's volume flows evenly within the peak hours.

    Raises
    ------
    OutOfRange
        Hours outside a day or a share outside 0 to 1.
    """
    check_range("peak hours", peak_hours_h, 1e-3, 24.0, "h")
    check_range("share in the peak hours", share_in_peak_hours, 0.0, 1.0, "")
    daily, mean = _per_head(people, volume_per_person_m3_d)
    return PerHead(daily, mean, daily * share_in_peak_hours / (peak_hours_h * SECONDS_PER_HOUR))


def fill_m3s(volume_m3: float, time_s: float, draw_off_m3s: float = 0.0) -> float:
    """Flow [m3/s] that fills a volume in a time while some is drawn off.

    A timed bucket is the same sum.

    Raises
    ------
    OutOfRange
        A time not above zero or a negative volume or draw-off.
    """
    check_range("volume", volume_m3, 0.0, 1e6, "m³")
    check_range("time", time_s, 1e-3, 1e9, "s")
    check_range("draw-off", draw_off_m3s, 0.0, 1e3, "m³/s")
    return volume_m3 / time_s + draw_off_m3s


def turnover_m3s(volume_m3: float, turnovers_per_h: float) -> float:
    """Flow [m3/s] = volume x turnovers an hour / 3600.

    Raises
    ------
    OutOfRange
        A negative volume or rate.
    """
    check_range("volume", volume_m3, 0.0, 1e6, "m³")
    check_range("turnovers per hour", turnovers_per_h, 0.0, 1e3, "/h")
    return volume_m3 * turnovers_per_h / SECONDS_PER_HOUR
