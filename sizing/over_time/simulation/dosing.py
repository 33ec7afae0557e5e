"""Timed dosing of a field from a tank: a clock starts each dose, a low float forbids it.

Between two events inflow and pump are steady, so that every level is a straight line. A dose ends
when its volume is pumped or at the low float. A high float (the alarm) lets a dose begin out of
turn, and another when it is done, until the water is under it again.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from sizing.base.errors import SizingError, check_range

_TINY_S = 1e-9


@dataclass(frozen=True)
class DosingTank:
    """A tank of upright walls; levels above its floor [m]."""

    area_m2: float
    low_m: float
    high_m: float
    rim_m: float
    pump_flow_m3s: float
    dose_m3: float
    every_s: float

    def __post_init__(self) -> None:
        check_range("plan area", self.area_m2, 1e-9, 1e6, "m²")
        check_range("pump's flow", self.pump_flow_m3s, 1e-9, 10.0, "m³/s")
        check_range("dose", self.dose_m3, 1e-9, 1e4, "m³")
        check_range("time between doses", self.every_s, 1.0, 86_400.0, "s")
        if not self.low_m < self.high_m < self.rim_m:
            raise SizingError("the low float lies under the high one, and that under the rim")
        if self.dose_m3 / self.pump_flow_m3s >= self.every_s:
            raise SizingError(
                "a dose takes longer than the time between two: fewer, or a larger pump"
            )


@dataclass
class DosingRun:
    """What came of it."""

    doses: list[tuple[float, float]] = field(default_factory=list)  # from and to [s]
    out_of_turn: int = 0
    skipped: int = 0
    inflow_m3: float = 0.0
    dosed_m3: float = 0.0
    overflow_m3: float = 0.0
    first_overflow_s: float | None = None
    most_dosed_m3: float = 0.0  # in one dose
    levels: list[tuple[float, float]] = field(default_factory=list)


def run_dosing(
    tank: DosingTank, inflow: Sequence[tuple[float, float]], *, end_s: float, level_m: float
) -> DosingRun:
    """Run the tank from 0 to an end.

    Parameters
    ----------
    inflow : rows of (from [s], flow [m3/s]), each held until the next; the first from 0.
    """
    return _Run(tank, inflow, end_s, level_m).go()


class _Run:
    def __init__(
        self, tank: DosingTank, inflow: Sequence[tuple[float, float]], end_s: float, level: float
    ) -> None:
        self.tank, self.end_s, self.level = tank, end_s, level
        self.rows = [*inflow, (math.inf, 0.0)]
        self.time, self.left_m3, self.begun = 0.0, 0.0, 0.0  # of the dose under way
        self.out = DosingRun(levels=[(0.0, level)])

    def go(self) -> DosingRun:
        tank = self.tank
        clock = [
            (number * tank.every_s, True) for number in range(1, int(self.end_s / tank.every_s) + 1)
        ]
        changes = [(time, False) for time, _ in self.rows[1:-1] if time < self.end_s]
        self.flow = self.rows[0][1]
        for until, rings in sorted([*clock, *changes, (self.end_s, False)]):
            self._through(min(until, self.end_s))
            self.flow = next(
                flow for (begin, flow), (end, _) in pairwise(self.rows) if begin <= self.time < end
            )
            if rings and self.time < self.end_s:
                self._ring()
        if self.left_m3 > 0:
            self._stop()
        return self.out

    def _ring(self) -> None:
        """The clock asks for a dose: given where the low float lets it, and none is under way."""
        if self.left_m3 > 0:
            return
        if self.level <= self.tank.low_m:
            self.out.skipped += 1
        else:
            self._start()

    def _start(self) -> None:
        self.left_m3, self.begun = self.tank.dose_m3, self.time

    def _stop(self) -> None:
        given = self.tank.dose_m3 - self.left_m3
        self.out.doses.append((self.begun, self.time))
        self.out.most_dosed_m3 = max(self.out.most_dosed_m3, given)
        self.left_m3 = 0.0

    def _through(self, until: float) -> None:
        while self.time < until - _TINY_S:
            self._step(until)

    def _step(self, until: float) -> None:
        tank, out = self.tank, self.out
        pumps = tank.pump_flow_m3s if self.left_m3 > 0 else 0.0
        net = (self.flow - pumps) / tank.area_m2
        full = self.level >= tank.rim_m and net > 0
        took = until - self.time
        if pumps:
            took = min(took, self.left_m3 / pumps)
        if net < 0:
            if self.level > tank.low_m and pumps:
                took = min(took, (self.level - tank.low_m) / -net)
        elif net > 0 and not full:
            marks = [one for one in (tank.high_m, tank.rim_m) if one > self.level]
            took = min(took, (marks[0] - self.level) / net)
        rises = 0.0 if full else net * took
        out.inflow_m3 += self.flow * took
        out.dosed_m3 += pumps * took
        if full:
            out.overflow_m3 += net * took * tank.area_m2
        self.left_m3 = max(self.left_m3 - pumps * took, 0.0)
        self.time, self.level = self.time + took, self._settled(self.level + rises)
        out.levels.append((self.time, self.level))
        if self.level >= tank.rim_m and net > 0 and out.first_overflow_s is None:
            out.first_overflow_s = self.time
        if pumps and (self.left_m3 <= 1e-12 or self.level <= tank.low_m):
            self._stop()
        if self.left_m3 <= 0 and self.level >= tank.high_m and self.time < self.end_s:
            self.out.out_of_turn += 1
            self._start()

    def _settled(self, level: float) -> float:
        marks = (self.tank.low_m, self.tank.high_m, self.tank.rim_m)
        return next((mark for mark in marks if abs(level - mark) < 1e-12), level)
