"""What pumps in a pit deliver as the water falls, and how long a change of level takes.

One pump, or equal ones side by side: H = a - b Q2 against H = (zd - z) + k Q2 gives
Q = sqrt((z - e) / c) with e = zd - a, c = b + k; then, with A = A0 + m z,

    t = integral of A dz / (q - Q) = integral of 2 c s (A0 + m e + m c s2) / (q - s) ds,  s = Q,

in closed form. Unequal pumps, each with its own check valve, stand at one head; their integral is
done by adaptive quadrature (relative error 1e-10).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import scipy

from sizing.over_time.simulation.plan_area import AreaByLevel

_RELATIVE = 1e-10
_LEVEL_TOLERANCE_M = 1e-12


@dataclass(frozen=True)
class Pump:
    """A pump's curve H = a - b Q2 [m, s2/m5]."""

    shutoff_head_m: float
    curve_b_s2_m5: float


@dataclass(frozen=True)
class Against:
    """What pumps lift against: H = (discharge level - level) + k Q2 [m, s2/m5]."""

    discharge_level_m: float
    system_k_s2_m5: float


class Off:
    """No pump runs."""

    floor_m = -math.inf
    idle = True

    def flow_m3s(self, level_m: float) -> float:
        """None."""
        return 0.0

    def balance_level_m(self, inflow_m3s: float) -> float:
        """Where inflow and delivery are equal: nowhere."""
        return math.inf if inflow_m3s > 0 else -math.inf

    def time_s(self, area: AreaByLevel, inflow_m3s: float, from_m: float, to_m: float) -> float:
        """How long the level takes from one to another within which no wall bends."""
        return (area.volume_m3(to_m) - area.volume_m3(from_m)) / inflow_m3s


class Alike(Off):
    """One pump, or equal ones."""

    idle = False

    def __init__(self, pump: Pump, count: int, against: Against) -> None:
        self.floor_m = against.discharge_level_m - pump.shutoff_head_m
        self.c = pump.curve_b_s2_m5 / count**2 + against.system_k_s2_m5

    def flow_m3s(self, level_m: float) -> float:
        return math.sqrt(max(level_m - self.floor_m, 0.0) / self.c)

    def balance_level_m(self, inflow_m3s: float) -> float:
        return self.floor_m + self.c * inflow_m3s**2

    def time_s(self, area: AreaByLevel, inflow_m3s: float, from_m: float, to_m: float) -> float:
        if max(from_m, to_m) <= self.floor_m:
            return super().time_s(area, inflow_m3s, from_m, to_m)
        first, slope = area.line(from_m, to_m)
        begin, end = self.flow_m3s(from_m), self.flow_m3s(to_m)
        gone = inflow_m3s - begin
        logs = -math.log1p((begin - end) / gone)  # of the integral of ds / (q - s)
        one = begin - end + inflow_m3s * logs
        found = (first + slope * self.floor_m) * one
        if slope:
            two = (begin**2 - end**2) / 2 + inflow_m3s * one
            three = (begin**3 - end**3) / 3 + inflow_m3s * two
            found += slope * self.c * three
        return 2 * self.c * found


@dataclass
class Unlike(Off):
    """Two pumps of different curves at one head."""

    idle = False
    pumps: Sequence[Pump]
    against: Against
    floor_m: float = field(init=False)

    def __post_init__(self) -> None:
        highest = max(pump.shutoff_head_m for pump in self.pumps)
        self.floor_m = self.against.discharge_level_m - highest

    def _flow_at_head(self, head_m: float) -> float:
        return sum(
            math.sqrt(max(pump.shutoff_head_m - head_m, 0.0) / pump.curve_b_s2_m5)
            for pump in self.pumps
        )

    def _level_at_head(self, head_m: float) -> float:
        flow = self._flow_at_head(head_m)
        against = self.against
        return against.discharge_level_m + against.system_k_s2_m5 * flow**2 - head_m

    def _head(self, level_m: float) -> float:
        highest = max(pump.shutoff_head_m for pump in self.pumps)
        if level_m <= self.floor_m:
            return highest
        low = self.against.discharge_level_m - level_m
        return float(
            scipy.optimize.brentq(
                lambda head: self._level_at_head(head) - level_m, low, highest, xtol=1e-13
            )
        )

    def flow_m3s(self, level_m: float) -> float:
        return self._flow_at_head(self._head(level_m))

    def balance_level_m(self, inflow_m3s: float) -> float:
        lowest = min(pump.shutoff_head_m for pump in self.pumps)
        highest = max(pump.shutoff_head_m for pump in self.pumps)
        if inflow_m3s <= 0:
            return self.floor_m
        while self._flow_at_head(lowest) < inflow_m3s:
            lowest -= 10.0
        head = scipy.optimize.brentq(
            lambda one: self._flow_at_head(one) - inflow_m3s, lowest, highest, xtol=1e-13
        )
        return self._level_at_head(float(head))

    def time_s(self, area: AreaByLevel, inflow_m3s: float, from_m: float, to_m: float) -> float:
        if max(from_m, to_m) <= self.floor_m:
            return super().time_s(area, inflow_m3s, from_m, to_m)
        first, slope = area.line(from_m, to_m)
        low, high = self._head(max(from_m, to_m)), self._head(min(from_m, to_m))
        bends = sorted(pump.shutoff_head_m for pump in self.pumps)
        ends = [low, *(one for one in bends if low < one < high), high]
        whole = sum(self._time_between(first, slope, inflow_m3s, *two) for two in pairwise(ends))
        return whole if to_m > from_m else -whole

    def _time_between(
        self, first: float, slope: float, inflow_m3s: float, low: float, high: float
    ) -> float:
        """Over heads, written as high - u2: where a pump begins to deliver nothing is steep."""
        k = self.against.system_k_s2_m5

        def pace(u: float) -> float:
            head, flow, falls = high - u * u, 0.0, 0.0  # falls: -dQ/dH x u
            for pump in self.pumps:
                spare = pump.shutoff_head_m - head
                if spare > 0:
                    one = math.sqrt(spare / pump.curve_b_s2_m5)
                    flow += one
                    falls += u / (2 * pump.curve_b_s2_m5 * one)
            level = self.against.discharge_level_m + k * flow * flow - head
            rises = 2 * u + 4 * k * flow * falls  # dz / du
            return (first + slope * level) * rises / (inflow_m3s - flow)

        top = math.sqrt(max(high - low, 0.0))
        # told with its details, quad warns of nothing: near the balance it need only be large
        found = scipy.integrate.quad(
            pace, 0.0, top, epsabs=0, epsrel=_RELATIVE, limit=200, full_output=1
        )
        return float(found[0])


Delivery = Off | Alike | Unlike


def delivery(pumps: Sequence[Pump], against: Against) -> Delivery:
    """What these pumps deliver together."""
    if not pumps:
        return Off()
    if all(pump == pumps[0] for pump in pumps):
        return Alike(pumps[0], len(pumps), against)
    return Unlike(pumps, against)


def level_after(
    how: Delivery, area: AreaByLevel, inflow_m3s: float, from_m: float, to_m: float, after_s: float
) -> float:
    """The level after a time, on the way towards a level that it does not reach sooner."""
    if after_s <= 0:
        return from_m
    if how.idle:
        return area.level_m(area.volume_m3(from_m) + inflow_m3s * after_s)
    # near the balance the time grows without end: stay short of it
    balance = how.balance_level_m(inflow_m3s)
    if (balance - from_m) * (to_m - from_m) > 0 and abs(balance - from_m) <= abs(to_m - from_m):
        to_m = from_m + (balance - from_m) * (1 - 1e-13)
    try:
        if how.time_s(area, inflow_m3s, from_m, to_m) <= after_s:
            return to_m
    except (ValueError, ZeroDivisionError):
        return to_m
    return float(
        scipy.optimize.brentq(
            lambda level: how.time_s(area, inflow_m3s, from_m, level) - after_s,
            from_m,
            to_m,
            xtol=_LEVEL_TOLERANCE_M,
        )
    )
