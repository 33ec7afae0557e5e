"""A pit over a day, a storm, a year: levels, starts, run times, overflow.

A(z) dz/dt = Qi(t) - Qp(z); the pumps follow the level at once. Between two events the inflow, the
floats and the power are the same, so that the time to the next level that matters is exact (see
``delivery.py``). Floats, as they are built: the duty float is on from the start level until the
stop level, the lag float from the lag level until the stop level; both follow the level through a
power cut and hold their state where nothing moves them. What runs back when pumping ceases is in
the pit at once.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise
from typing import Any, NamedTuple

from sizing.base.errors import SizingError
from sizing.over_time.simulation.delivery import Against, Delivery, Pump, delivery, level_after
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.over_time.simulation.timeline import MOST_EVENTS, Event, Piece, Timeline, TooMuchHappens

_AT_ONCE_S = 1e-9
_MOST_AT_ONCE = 1000  # starts without a moment between them: it goes on for ever


@dataclass(frozen=True)
class Pit:
    """A pit with its floats; levels above the floor [m]."""

    area: AreaByLevel
    stop_m: float
    start_m: float
    inlet_m: float
    alarm_m: float
    rim_m: float
    pumps: tuple[Pump, ...]
    against: Against
    lag_start_m: float | None = None
    alternating: bool = False
    drain_back_m3: float = 0.0  # what the line gives back at each stop; 0 where a valve holds

    def __post_init__(self) -> None:
        if not 1 <= len(self.pumps) <= 2:
            raise SizingError("a pit is run with one pump or two")
        if not self.stop_m < self.start_m:
            raise SizingError("the start level must lie above the stop level")
        if self.lag_start_m is not None and self.lag_start_m <= self.start_m:
            raise SizingError("the second pump must start above the first")
        others = [self.start_m, self.inlet_m, self.alarm_m]
        if self.lag_start_m is not None:
            others.append(self.lag_start_m)
        if self.rim_m <= max(others):
            raise SizingError("the rim must lie above every other level")


@dataclass(frozen=True)
class Inflow:
    """Rows of (from [s], flow [m3/s]), each held until the next; the first from 0."""

    rows: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        times = [time for time, _ in self.rows]
        if not times or times[0] != 0 or any(b <= a for a, b in pairwise(times)):
            raise SizingError("the inflow must begin at 0 and its times must rise")
        if any(not 0 <= flow < math.inf for _, flow in self.rows):
            raise SizingError("an inflow must be zero or more")


@dataclass
class PitRun:
    """What came of it; None where it never happened or there is no such pump."""

    end_s: float
    starts: list[int]
    run_times_s: list[float]
    inflow_m3: float = 0.0
    pumped_m3: float = 0.0
    drained_back_m3: float = 0.0
    overflow_m3: float = 0.0
    max_level_m: float = -math.inf
    final_level_m: float = 0.0
    first_alarm_s: float | None = None
    first_overflow_s: float | None = None
    longest_above_inlet_s: float = 0.0
    total_above_inlet_s: float = 0.0
    above_inlet_at_end: bool = False
    stored_m3: float = 0.0  # at the end over the beginning
    timeline: Timeline = field(default_factory=Timeline)
    starts_by_hour: dict[int, int] = field(default_factory=dict)

    @property
    def imbalance_m3(self) -> float:
        """Inflow + drained back - pumped - overflow - stored: nothing but rounding."""
        gained = self.inflow_m3 + self.drained_back_m3 - self.pumped_m3 - self.overflow_m3
        return gained - self.stored_m3

    @property
    def most_starts_in_an_hour(self) -> int:
        """Starts of all pumps in the busiest hour of the clock."""
        return max(self.starts_by_hour.values(), default=0)


def run_pit(
    pit: Pit,
    inflow: Inflow,
    *,
    end_s: float = 86_400.0,
    initial_level_m: float,
    power_cuts: Sequence[tuple[float, float]] = (),
    failed: Iterable[int] = (),
    keep: bool = True,
) -> PitRun:
    """Run a pit from 0 to an end.

    Parameters
    ----------
    power_cuts : from and to [s]; no pump runs in between.
    failed : numbers of pumps, from 1, that never run though their turn comes.
    keep : events and states too, not only the sums.

    Raises
    ------
    TooMuchHappens
        What runs back starts the pump again without end.
    SizingError
        A level at the beginning above the rim.
    """
    if initial_level_m > pit.rim_m:
        raise SizingError("the water cannot stand above the rim at the beginning")
    return _Run(pit, inflow, end_s, initial_level_m, power_cuts, frozenset(failed), keep).go()


class _Way(NamedTuple):
    """The way from a level to the next that matters; ``to_m`` None: it stands."""

    how: Delivery
    net_m3s: float
    to_m: float | None
    took_s: float
    pumped_m3: float


class _Run:
    """One run: the state, and the way to the next event."""

    def __init__(
        self,
        pit: Pit,
        inflow: Inflow,
        end_s: float,
        level_m: float,
        cuts: Sequence[tuple[float, float]],
        failed: frozenset[int],
        keep: bool,
    ) -> None:
        self.pit, self.inflow, self.end_s, self.failed, self.keep = pit, inflow, end_s, failed, keep
        self.time_s, self.level_m = 0.0, level_m
        self.duty = level_m >= pit.start_m
        self.lag = pit.lag_start_m is not None and level_m >= pit.lag_start_m
        self.lead, self.power = 0, True
        self.running: tuple[int, ...] = ()
        self.above_since: float | None = 0.0 if level_m > pit.inlet_m else None
        count = len(pit.pumps)
        self.out = PitRun(end_s, [0] * count, [0.0] * count, max_level_m=level_m)
        self.changes = sorted(
            {time for time, _ in inflow.rows if time < end_s}
            | {one for cut in cuts for one in cut if 0 <= one < end_s}
            | {end_s}
        )
        self.cuts = sorted(cuts)
        self.deliveries: dict[tuple[int, ...], Delivery] = {}
        self.ways: dict[tuple[Any, ...], _Way] = {}
        self.at_once = 0
        levels = {pit.stop_m, pit.start_m, pit.inlet_m, pit.alarm_m, pit.rim_m, *pit.area.breaks_m}
        if pit.lag_start_m is not None:
            levels.add(pit.lag_start_m)
        self.marks = sorted(levels)

    def go(self) -> PitRun:
        out, begun_with = self.out, self.pit.area.volume_m3(self.level_m)
        if self.level_m >= self.pit.alarm_m:
            self._alarm()
        row = -1
        for until in self.changes:
            if until > self.time_s:
                self._through(until)
            while row + 1 < len(self.inflow.rows) and self.inflow.rows[row + 1][0] <= until:
                row += 1
            self.flow = self.inflow.rows[row][1]
            self._power(until)
        self._leave_inlet(self.end_s)
        out.above_inlet_at_end = self.level_m > self.pit.inlet_m
        out.final_level_m = self.level_m
        out.stored_m3 = self.pit.area.volume_m3(self.level_m) - begun_with
        return out

    # --- what is switched

    def _power(self, now: float) -> None:
        there = not any(begin <= now < end for begin, end in self.cuts)
        if there != self.power:
            self.power = there
            self._note("power on" if there else "power off")
        if now < self.end_s:
            self._switch()

    def _wanted(self) -> tuple[int, ...]:
        if not (self.duty and self.power):
            return ()
        both = self.lag and len(self.pit.pumps) == 2
        turns = (0, 1) if both else (self.lead,)
        return tuple(one for one in turns if one + 1 not in self.failed)

    def _switch(self) -> None:
        """Start and stop what the floats say; what runs back may start it again at once."""
        for _ in range(_MOST_AT_ONCE):
            wanted, before = self._wanted(), self.running
            if wanted == before:
                return
            self.running = wanted
            for one in wanted:
                if one not in before:
                    self.out.starts[one] += 1
                    hour = int(self.time_s // 3600)
                    self.out.starts_by_hour[hour] = self.out.starts_by_hour.get(hour, 0) + 1
                    self._note(f"start {one + 1}")
            for one in before:
                if one not in wanted:
                    self._note(f"stop {one + 1}")
            if not wanted and before and self.pit.drain_back_m3 > 0:
                self._drain_back()
        raise TooMuchHappens("what runs back starts the pump again at once, without end")

    def _drain_back(self) -> None:
        pit, area = self.pit, self.pit.area
        volume = area.volume_m3(self.level_m) + pit.drain_back_m3
        over = volume - area.volume_m3(pit.rim_m)
        self.out.drained_back_m3 += pit.drain_back_m3
        if over > 0:
            self.out.overflow_m3 += over
            self._overflow()
        self._reach(min(area.level_m(volume), pit.rim_m))

    def _reach(self, level_m: float) -> None:
        """The water stands at a level: floats, alarm and inlet follow."""
        pit, before = self.pit, self.level_m
        self.level_m = level_m
        if level_m > self.out.max_level_m:
            self.out.max_level_m = level_m
        if level_m <= pit.stop_m and before > pit.stop_m and self.duty:
            self.duty = self.lag = False
            if pit.alternating and len(pit.pumps) == 2:
                self.lead = 1 - self.lead
        if level_m >= pit.start_m:
            self.duty = True
        if pit.lag_start_m is not None and level_m >= pit.lag_start_m:
            self.lag = True
        if level_m >= pit.alarm_m > before:
            self._alarm()
        if level_m > pit.inlet_m:
            if self.above_since is None:
                self.above_since = self.time_s
        else:
            self._leave_inlet(self.time_s)

    # --- what is noted

    def _note(self, code: str) -> None:
        if self.keep:
            self.out.timeline.events.append(Event(self.time_s, code, self.level_m))
            if len(self.out.timeline.events) > MOST_EVENTS:
                raise TooMuchHappens(f"over {MOST_EVENTS:,} events: run a shorter time")

    def _alarm(self) -> None:
        if self.out.first_alarm_s is None:
            self.out.first_alarm_s = self.time_s
        self._note("alarm")

    def _overflow(self) -> None:
        if self.out.first_overflow_s is None:
            self.out.first_overflow_s = self.time_s
        self._note("overflow")

    def _leave_inlet(self, now: float) -> None:
        if self.above_since is not None:
            stood = now - self.above_since
            self.out.total_above_inlet_s += stood
            self.out.longest_above_inlet_s = max(self.out.longest_above_inlet_s, stood)
            self.above_since = None

    # --- the way on

    def _through(self, until: float) -> None:
        """From event to event until inflow or power change."""
        while self.time_s < until:
            self._step(until)

    def _step(self, until: float) -> None:
        left = until - self.time_s
        way = self._way()
        if way.to_m is None:
            self._stand(left, way.net_m3s)
            return
        if way.took_s <= left:
            self._move(way, way.took_s, way.to_m, way.pumped_m3)
            self._reach_mark(way.to_m, way.net_m3s > 0)
        else:
            area, begin = self.pit.area, self.level_m
            level = level_after(way.how, area, self.flow, begin, way.to_m, left)
            gained = area.volume_m3(level) - area.volume_m3(begin)
            self._move(way, left, level, 0.0 if way.how.idle else self.flow * left - gained)
            self._reach(level)
        self._switch()

    def _way(self) -> _Way:
        """From here to the next level that matters; the same again and again, so it is kept."""
        key = (self.running, self.flow, self.level_m)
        found = self.ways.get(key)
        if found is None:
            found = self.ways[key] = self._found_way()
        return found

    def _found_way(self) -> _Way:
        how, area = self._delivery(), self.pit.area
        net = self.flow - how.flow_m3s(self.level_m)
        if net == 0 or (net > 0 and self.level_m >= self.pit.rim_m):
            return _Way(how, net, None, math.inf, 0.0)
        to = self._next(how, net > 0)
        took = self._took(how, to)
        pumped = 0.0
        if not how.idle and took < math.inf:
            pumped = self.flow * took - (area.volume_m3(to) - area.volume_m3(self.level_m))
        return _Way(how, net, to, took, pumped)

    def _reach_mark(self, level_m: float, rising: bool) -> None:
        """Just past a level: above the inlet the water stands from the moment it rises over it."""
        self._reach(level_m)
        if level_m == self.pit.inlet_m and rising and self.above_since is None:
            self.above_since = self.time_s

    def _delivery(self) -> Delivery:
        found = self.deliveries.get(self.running)
        if found is None:
            pumps = [self.pit.pumps[one] for one in self.running]
            found = self.deliveries[self.running] = delivery(pumps, self.pit.against)
        return found

    def _next(self, how: Delivery, rising: bool) -> float:
        """The next level that matters on the way; far off where none does."""
        marks = self.marks
        if how.floor_m > -math.inf:
            marks = [*marks, how.floor_m]
        if rising:
            return min(one for one in marks if one > self.level_m)
        return max((one for one in marks if one < self.level_m), default=self.level_m - 1e3)

    def _took(self, how: Delivery, to: float) -> float:
        """Seconds to a level, infinite where inflow and delivery balance before it."""
        balance = how.balance_level_m(self.flow)
        if min(self.level_m, to) <= balance <= max(self.level_m, to):
            return math.inf
        return how.time_s(self.pit.area, self.flow, self.level_m, to)

    def _stand(self, seconds: float, net: float) -> None:
        """Level at rest: in balance, or at the rim with what is too much going over."""
        out = self.out
        if net > 0:
            if not out.overflow_m3 or self.keep:
                self._overflow()
            out.overflow_m3 += net * seconds
        self._sum(seconds, (self.flow - net) * seconds)
        self._piece(seconds, self.level_m, lambda _, level=self.level_m: level)
        self.time_s += seconds

    def _move(self, way: _Way, seconds: float, level: float, pumped: float) -> None:
        self._sum(seconds, pumped)
        if self.keep:
            to = level if way.to_m is None else way.to_m
            after = partial(level_after, way.how, self.pit.area, self.flow, self.level_m, to)
            self._piece(seconds, level, after)
        self.time_s += seconds
        self.at_once = self.at_once + 1 if seconds < _AT_ONCE_S else 0
        if self.at_once > _MOST_AT_ONCE:
            raise TooMuchHappens("the pump starts and stops without a moment between")

    def _sum(self, seconds: float, pumped: float) -> None:
        self.out.inflow_m3 += self.flow * seconds
        self.out.pumped_m3 += pumped
        for one in self.running:
            self.out.run_times_s[one] += seconds

    def _piece(self, seconds: float, level: float, after: Any) -> None:
        if self.keep:
            numbers = tuple(one + 1 for one in self.running)
            begin, end = self.time_s, self.time_s + seconds
            self.out.timeline.pieces.append(
                Piece(begin, end, self.level_m, level, numbers, self.flow, after)
            )
