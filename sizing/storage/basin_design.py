"""The smallest round basin that does, from the pumps, the inflow and what is on sale.

Storage from start to stop is the larger of Q T / (4 m), the usual rule at allowed starts (T between
them, m pumps taking turns), and Q t for the least run time. Floats are stacked from the lowest stop
upward as low as may be; the inlet must lie high enough above the alarm.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from sizing.base.errors import check_range
from sizing.base.units import SECONDS_PER_HOUR

_HALVINGS, _FASTEST_M3S = 50, 100.0


@dataclass(frozen=True)
class Wanted:
    """What a basin has to do; levels above its floor [m]."""

    pump_flows_m3s: tuple[float, ...]
    alternating: bool
    allowed_starts_per_h: float
    minimum_run_time_s: float
    peak_inflow_m3s: float
    reserve_time_s: float
    inlet_below_cover_m: float
    submergence_m: float
    least_stop_m: float
    least_float_travel_m: float
    alarm_above_m: float
    inlet_above_alarm_m: float
    least_diameter_m: float
    lag_above_start_m: float | None = None
    drain_back_m3: float = 0.0
    # starts a second by storage and pump flow, where a job says what comes in; else the usual rule
    rate: Callable[[float, float], float] | None = None
    reserve_inflow_m3s: float | None = None  # that a reserve is reckoned with; else the peak

    def __post_init__(self) -> None:
        check_range("allowed starts", self.allowed_starts_per_h, 1e-3, 3600.0, "/h")
        check_range("peak inflow", self.peak_inflow_m3s, 1e-12, 1e3, "m³/s")
        for flow in self.pump_flows_m3s:
            check_range("pump flow", flow, 1e-12, 1e3, "m³/s")

    @property
    def turns(self) -> int:
        """How many pumps take turns."""
        return len(self.pump_flows_m3s) if self.alternating else 1

    @property
    def working_flow_m3s(self) -> float:
        """The largest flow of the pumps that take turns, else the first's."""
        return max(self.pump_flows_m3s) if self.alternating else self.pump_flows_m3s[0]

    @property
    def reserve_by_m3s(self) -> float:
        """The inflow that a reserve lasts against."""
        return self.reserve_inflow_m3s or self.peak_inflow_m3s

    @cached_property
    def storage_m3(self) -> float:
        """From start to stop, that starts and run time ask for."""
        if self.rate is not None:
            by_run = max(self.pump_flows_m3s) * self.minimum_run_time_s + self.drain_back_m3
            return max(self._storage_by_rate(self.rate), by_run)
        between = SECONDS_PER_HOUR / self.allowed_starts_per_h
        by_starts = self.working_flow_m3s * between / (4 * self.turns)
        by_run = max(self.pump_flows_m3s) * self.minimum_run_time_s
        return max(by_starts, by_run) + self.drain_back_m3

    def _storage_by_rate(self, rate: Callable[[float, float], float]) -> float:
        """The least storage with which it starts no oftener than it may."""
        flow, most = self.working_flow_m3s, self.allowed_starts_per_h / SECONDS_PER_HOUR
        low, high = self.drain_back_m3, self.drain_back_m3 + flow
        while rate(high, flow) > most:
            low, high = high, 2 * high
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if rate(middle, flow) > most else (low, middle)
        return high


@dataclass(frozen=True)
class Candidate:
    """A basin with its floats; ``short_m`` is how much too low its inlet lies, 0 when it does."""

    diameter_m: float
    depth_m: float
    stop_m: float
    start_m: float
    lag_m: float | None
    alarm_m: float
    inlet_m: float
    asked_above_alarm_m: float
    wide_enough: bool

    @property
    def area_m2(self) -> float:
        """Plan area."""
        return math.pi * self.diameter_m**2 / 4

    @property
    def spare_m(self) -> float:
        """What the inlet lies higher than asked."""
        return self.inlet_m - self.alarm_m - self.asked_above_alarm_m

    @property
    def short_m(self) -> float:
        """How much too low its inlet lies, 0 where it does."""
        return max(-self.spare_m, 0.0)

    @property
    def does(self) -> bool:
        """Whether it does all that is asked."""
        return self.wide_enough and self.spare_m >= -1e-12

    @property
    def working_volume_m3(self) -> float:
        """From start to stop."""
        return self.area_m2 * (self.start_m - self.stop_m)

    @property
    def wasted_volume_m3(self) -> float:
        """Over the inlet, up to the cover: dug and paid for, and never filled."""
        return self.area_m2 * (self.depth_m - self.inlet_m)

    def starts_per_pump_per_h(self, wanted: Wanted) -> float:
        """As the job's inflow makes it start; without one by the usual rule, at half its flow."""
        flow = wanted.working_flow_m3s
        if wanted.rate is not None:
            return wanted.rate(self.working_volume_m3, flow) * SECONDS_PER_HOUR
        return SECONDS_PER_HOUR * flow / (4 * self.working_volume_m3 * wanted.turns)

    def run_time_no_inflow_s(self, wanted: Wanted) -> float:
        """The shortest run of the strongest pump."""
        return self.working_volume_m3 / max(wanted.pump_flows_m3s)

    def reserve_time_s(self, wanted: Wanted) -> float:
        """From alarm to inlet, the pumps failed."""
        return self.area_m2 * (self.inlet_m - self.alarm_m) / wanted.reserve_by_m3s


def candidate(wanted: Wanted, diameter_m: float, depth_m: float) -> Candidate:
    """A basin of that size with its floats stacked as low as may be."""
    area = math.pi * diameter_m**2 / 4
    stop = max(wanted.submergence_m, wanted.least_stop_m)
    start = stop + max(wanted.storage_m3 / area, wanted.least_float_travel_m)
    lag = None if wanted.lag_above_start_m is None else start + wanted.lag_above_start_m
    alarm = (start if lag is None else lag) + wanted.alarm_above_m
    return Candidate(
        diameter_m=diameter_m,
        depth_m=depth_m,
        stop_m=stop,
        start_m=start,
        lag_m=lag,
        alarm_m=alarm,
        inlet_m=depth_m - wanted.inlet_below_cover_m,
        asked_above_alarm_m=max(
            wanted.inlet_above_alarm_m, wanted.reserve_time_s * wanted.reserve_by_m3s / area
        ),
        wide_enough=diameter_m >= wanted.least_diameter_m,
    )


def candidates(wanted: Wanted, sizes_m: Iterable[tuple[float, float]]) -> tuple[Candidate, ...]:
    """Every (diameter, depth) on sale, the smallest diameter first, then the smallest depth."""
    return tuple(candidate(wanted, *size) for size in sorted(sizes_m))


def smallest(wanted: Wanted, sizes_m: Iterable[tuple[float, float]]) -> Candidate | None:
    """The first that does; None where no basin on sale does."""
    return next((one for one in candidates(wanted, sizes_m) if one.does), None)


def largest_pump_m3s(wanted: Wanted, diameter_m: float, depth_m: float) -> float | None:
    """The other way round: the largest equal pumps that an existing basin keeps from short cycling.

    None where not even the floats find room in it.
    """
    area = math.pi * diameter_m**2 / 4
    none = candidate(wanted, diameter_m, depth_m)
    stacked = (none.lag_m or none.start_m) - none.start_m + wanted.alarm_above_m
    top = none.inlet_m - none.asked_above_alarm_m - stacked
    volume = area * (top - none.stop_m) - wanted.drain_back_m3
    if volume <= 0 or top - none.stop_m < wanted.least_float_travel_m:
        return None
    if wanted.rate is not None:
        return _largest_by_rate(wanted, wanted.rate, volume)
    by_starts = volume * 4 * wanted.turns * wanted.allowed_starts_per_h / SECONDS_PER_HOUR
    by_run = math.inf
    if wanted.minimum_run_time_s > 0:
        by_run = volume / wanted.minimum_run_time_s
    return min(by_starts, by_run)


def _largest_by_rate(
    wanted: Wanted, rate: Callable[[float, float], float], volume_m3: float
) -> float:
    most, whole = wanted.allowed_starts_per_h / SECONDS_PER_HOUR, volume_m3 + wanted.drain_back_m3

    def bears(flow_m3s: float) -> bool:
        return rate(whole, flow_m3s) <= most and volume_m3 / flow_m3s >= wanted.minimum_run_time_s

    low, high = 0.0, wanted.working_flow_m3s
    while bears(high) and high < _FASTEST_M3S:
        low, high = high, 2 * high
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if bears(middle) else (low, middle)
    return low


def on_sale(diameters_m: Sequence[float], depths_m: Sequence[float]) -> list[tuple[float, float]]:
    """Every diameter in every depth."""
    return [(diameter, depth) for diameter in diameters_m for depth in depths_m]
