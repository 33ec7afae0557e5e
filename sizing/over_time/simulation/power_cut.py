"""A power cut: how long until the pit overflows, and what a battery pump makes of it.

Capacity at the pump's current by Peukert: C ((C / 20) / I)^(k - 1), C at the 20 hour rate; the
battery empties only while the pump runs and does not recover in the rests.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range
from sizing.base.units import SECONDS_PER_HOUR
from sizing.over_time.simulation.timeline import MOST_EVENTS

_RATE_H = 20.0  # hours of the rate at which capacities are printed


@dataclass(frozen=True)
class Battery:
    """A battery and the pump on it."""

    start_m: float
    stop_m: float
    flow_m3s: float
    current_a: float
    capacity_ah: float
    peukert_exponent: float
    usable_share: float
    temperature_factor: float

    def __post_init__(self) -> None:
        if not self.stop_m < self.start_m:
            raise SizingError("the battery pump must start above its stop level")
        check_range("battery pump's flow", self.flow_m3s, 1e-9, 10.0, "m³/s")
        check_range("battery pump's current", self.current_a, 1e-3, 1e4, "A")
        check_range("battery's capacity", self.capacity_ah, 1e-3, 1e6, "Ah")

    @property
    def current_20h_a(self) -> float:
        """The current at which the printed capacity holds."""
        return self.capacity_ah / _RATE_H

    @property
    def capacity_at_current_ah(self) -> float:
        """What it gives at the pump's current."""
        share = self.current_20h_a / self.current_a
        return self.capacity_ah * math.pow(share, self.peukert_exponent - 1)

    @property
    def pumping_time_s(self) -> float:
        """How long the pump runs on it, all in all."""
        whole = self.capacity_at_current_ah * self.usable_share * self.temperature_factor
        return whole / self.current_a * SECONDS_PER_HOUR


@dataclass(frozen=True)
class PowerCut:
    """What came of it; None: never, or nothing to tell of."""

    storage_to_rim_m3: float
    time_to_overflow_no_backup_s: float | None
    overflow_no_backup_m3: float
    time_to_overflow_s: float | None
    overflow_m3: float
    starts: int | None = None
    time_until_flat_s: float | None = None
    duty_share: float | None = None
    mean_time_until_flat_s: float | None = None
    keeps_up: bool | None = None
    levels: tuple[tuple[float, float], ...] = ()  # straight lines between (time [s], level [m])
    runs: tuple[tuple[float, float], ...] = ()  # of the battery pump, from and to [s]


def power_cut(
    *,
    plan_area_m2: float,
    level_m: float,
    rim_m: float,
    inflow_m3s: float,
    outage_s: float,
    drain_back_m3: float = 0.0,
    battery: Battery | None = None,
) -> PowerCut:
    """A pit of upright walls while the power is away; levels above the floor [m].

    ``drain_back_m3`` is what the line gives back at the cut (0 where a check valve holds).

    Raises
    ------
    OutOfRange, SizingError
        An area of nothing, a level over the rim.
    """
    check_range("plan area", plan_area_m2, 1e-9, 1e6, "m²")
    if level_m > rim_m:
        raise SizingError("the water cannot stand above the rim when the power goes")
    after = level_m + drain_back_m3 / plan_area_m2
    spilt = max(after - rim_m, 0.0) * plan_area_m2
    begin = min(after, rim_m)
    storage = plan_area_m2 * (rim_m - begin)
    fill = storage / inflow_m3s if inflow_m3s > 0 else None
    alone = spilt + max(outage_s - fill, 0.0) * inflow_m3s if fill is not None else spilt
    if battery is None:
        first = 0.0 if spilt > 0 else fill
        return PowerCut(storage, fill, alone, first, alone)
    if not battery.start_m < rim_m:
        raise SizingError("the battery pump must start below the rim")
    run = _Run(battery, plan_area_m2, rim_m, inflow_m3s, outage_s, begin, spilt)
    run.go()
    duty = min(1.0, inflow_m3s / battery.flow_m3s)
    return PowerCut(
        storage_to_rim_m3=storage,
        time_to_overflow_no_backup_s=fill,
        overflow_no_backup_m3=alone,
        time_to_overflow_s=run.first_overflow_s,
        overflow_m3=run.overflow_m3,
        starts=run.starts,
        time_until_flat_s=run.flat_s,
        duty_share=duty,
        mean_time_until_flat_s=battery.pumping_time_s / duty if inflow_m3s > 0 else None,
        keeps_up=battery.flow_m3s > inflow_m3s,
        levels=tuple(run.levels),
        runs=tuple(run.runs),
    )


class _Run:
    """Cycle by cycle until the battery is flat and the rim reached, or nothing more happens."""

    def __init__(
        self,
        battery: Battery,
        area: float,
        rim: float,
        inflow: float,
        outage: float,
        level: float,
        spilt: float,
    ) -> None:
        self.battery, self.area, self.rim, self.inflow = battery, area, rim, inflow
        self.outage, self.level = outage, level
        self.time, self.left = 0.0, battery.pumping_time_s
        self.overflow_m3 = spilt
        self.first_overflow_s: float | None = 0.0 if spilt > 0 else None
        self.flat_s: float | None = None
        self.starts = 0
        self.levels = [(0.0, level)]
        self.runs: list[tuple[float, float]] = []

    def go(self) -> None:
        battery, inflow = self.battery, self.inflow
        on = self.level >= battery.start_m
        while True:
            self._trace()
            if on and self.left > 0:
                begun = self.time
                self._pump()
                self.runs.append((begun, self.time))
                if self.left <= 0:
                    continue
                on = False
            elif self.left > 0:
                if inflow <= 0:
                    return
                self._rise(battery.start_m, inflow)
                on = True
            else:
                if self.flat_s is None:
                    self.flat_s = self.time
                self._fill_up(inflow)
                return

    def _trace(self) -> None:
        if len(self.levels) < MOST_EVENTS:
            self.levels.append((self.time, self.level))

    def _pump(self) -> None:
        """Until its stop level, or flat."""
        if self.time < self.outage:
            self.starts += 1
        net = self.inflow - self.battery.flow_m3s
        if net >= 0:  # it cannot keep up: it runs until it is flat
            lasts, self.left = self.left, 0.0
            begun = self.time
            until_rim = self.area * (self.rim - self.level) / net if net > 0 else math.inf
            if until_rim < lasts:
                self.levels.append((begun + until_rim, self.rim))
                self._over(begun + until_rim, begun + lasts, net)
                self.level = self.rim
            else:
                self.level += net * lasts / self.area
            self.time = begun + lasts
            return
        falls = self.area * (self.level - self.battery.stop_m) / -net
        lasts = min(falls, self.left)
        self.level += net * lasts / self.area
        self.time, self.left = self.time + lasts, self.left - lasts

    def _rise(self, to: float, net: float) -> None:
        if to > self.level:
            self.time += self.area * (to - self.level) / net
            self.level = to

    def _fill_up(self, inflow: float) -> None:
        """Nothing pumps any more."""
        if inflow <= 0:
            return
        self._rise(self.rim, inflow)
        self._trace()
        self._over(self.time, math.inf, inflow)

    def _over(self, begin: float, end: float, net: float) -> None:
        if self.first_overflow_s is None:
            self.first_overflow_s = begin
        self.overflow_m3 += max(min(end, self.outage) - begin, 0.0) * net
