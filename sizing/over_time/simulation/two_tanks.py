"""A pump that lifts from a lower into an upper tank, with floats in both, over a day.

Q = sqrt((a - s) / (b + k)), 0 when a <= s; s the static head between the levels, or up to where the
pipe goes in over the top. While the pump runs both levels move:

    d(s)/dt = draw-and-inflow + Q x (1 / Au, when it goes in below, + 1 / Al)

which is linear in Q, so that the time from one Q to another is a closed form and the volume pumped
in it as well.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import scipy

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.over_time.simulation.delivery import Pump
from sizing.over_time.simulation.timeline import MOST_EVENTS, Event, TooMuchHappens

_JOULES_PER_KWH = 3.6e6
_TINY = 1e-15


@dataclass(frozen=True)
class Upper:
    """The upper tank; levels above one datum [m]."""

    area_m2: float
    floor_m: float
    start_m: float
    stop_m: float


@dataclass(frozen=True)
class Lower:
    """The lower tank; levels above the same datum [m]."""

    area_m2: float
    dry_stop_m: float
    restart_m: float
    rim_m: float


@dataclass(frozen=True)
class TwoTanks:
    """Both tanks and the pump between; ``entry_m`` None: it goes in below the water."""

    upper: Upper
    lower: Lower
    pump: Pump
    system_k_s2_m5: float
    entry_m: float | None

    def __post_init__(self) -> None:
        check_range("upper tank's area", self.upper.area_m2, 1e-9, 1e6, "m²")
        check_range("lower tank's area", self.lower.area_m2, 1e-9, 1e6, "m²")
        if not self.upper.floor_m <= self.upper.start_m < self.upper.stop_m:
            raise SizingError("the upper float must switch on below where it switches off")
        if not self.lower.dry_stop_m < self.lower.restart_m <= self.lower.rim_m:
            raise SizingError("the lower float must free the pump above where it stops it")

    def static_m(self, upper_m: float, lower_m: float) -> float:
        """The height that is lifted."""
        return (upper_m if self.entry_m is None else self.entry_m) - lower_m

    @property
    def c(self) -> float:
        """B + k."""
        return self.pump.curve_b_s2_m5 + self.system_k_s2_m5

    def flow_m3s(self, static_m: float) -> float:
        """What is pumped against a static head."""
        return math.sqrt(max(self.pump.shutoff_head_m - static_m, 0.0) / self.c)


@dataclass
class TwoTanksRun:
    """What came of it; None: it never happened."""

    starts: int = 0
    run_time_s: float = 0.0
    pumped_m3: float = 0.0
    first_full_s: float | None = None
    lower_level_at_first_full_m: float | None = None
    dry_run_stops: int = 0
    lowest_lower_level_m: float = math.inf
    upper_final_level_m: float = 0.0
    lower_final_level_m: float = 0.0
    first_empty_s: float | None = None
    unmet_draw_m3: float = 0.0
    lower_overflow_m3: float = 0.0
    energy_kwh: float | None = None
    drawn_m3: float = 0.0
    inflow_m3: float = 0.0
    events: list[Event] = field(default_factory=list)
    levels: list[tuple[float, float, float]] = field(default_factory=list)  # time, upper, lower


def run_two_tanks(
    tanks: TwoTanks,
    *,
    upper_m: float,
    lower_m: float,
    draws: tuple[tuple[float, float], ...],
    inflows: tuple[tuple[float, float], ...],
    end_s: float = 86_400.0,
    efficiency: float | None = None,
    density_kg_m3: float = 998.2,
) -> TwoTanksRun:
    """Run both tanks from 0 to an end.

    Parameters
    ----------
    upper_m, lower_m : levels at the beginning.
    draws, inflows : rows of (from [s], flow [m3/s]) out of the upper and into the lower tank, each
        held until the next; the first from 0.
    efficiency : wire to water; None asks for no energy.
    """
    return _Run(tanks, upper_m, lower_m, draws, inflows, end_s, efficiency, density_kg_m3).go()


class _Run:
    def __init__(
        self,
        tanks: TwoTanks,
        upper: float,
        lower: float,
        draws: tuple[tuple[float, float], ...],
        inflows: tuple[tuple[float, float], ...],
        end_s: float,
        efficiency: float | None,
        density: float,
    ) -> None:
        self.tanks, self.upper, self.lower, self.end_s = tanks, upper, lower, end_s
        self.efficiency, self.density = efficiency, density
        self.draws, self.inflows = draws, inflows
        self.time = 0.0
        self.wants = upper <= tanks.upper.start_m
        self.blocked = lower <= tanks.lower.dry_stop_m
        self.running = False
        self.out = TwoTanksRun(lowest_lower_level_m=lower)
        self.work = 0.0  # integral of Q H

    def go(self) -> TwoTanksRun:
        changes = {time for rows in (self.draws, self.inflows) for time, _ in rows}
        changes = {time for time in changes if 0 < time < self.end_s} | {self.end_s}
        self._switch()
        for until in sorted(changes):
            self.draw = _held(self.draws, self.time)
            self.inflow = _held(self.inflows, self.time)
            while self.time < until:
                self._step(until)
                if len(self.out.levels) > MOST_EVENTS:
                    raise TooMuchHappens("the floats switch on and off without end")
        out = self.out
        out.upper_final_level_m, out.lower_final_level_m = self.upper, self.lower
        if self.efficiency is not None:
            joules = self.density * GRAVITY_M_S2 * self.work / self.efficiency
            out.energy_kwh = joules / _JOULES_PER_KWH
        return out

    def _switch(self) -> None:
        upper, lower = self.tanks.upper, self.tanks.lower
        if self.upper <= upper.start_m:
            self.wants = True
        if self.upper >= upper.stop_m:
            self.wants = False
            if self.out.first_full_s is None:
                self.out.first_full_s = self.time
                self.out.lower_level_at_first_full_m = self.lower
        if self.lower <= lower.dry_stop_m:
            if self.running and not self.blocked and self.wants:
                self.out.dry_run_stops += 1
            self.blocked = True
        elif self.lower >= lower.restart_m:
            self.blocked = False
        runs = self.wants and not self.blocked
        if runs != self.running:
            self.out.starts += runs
            self.out.events.append(Event(self.time, "start 1" if runs else "stop 1", self.upper))
        self.running = runs
        self.out.levels.append((self.time, self.upper, self.lower))
        if self.upper <= upper.floor_m and self.out.first_empty_s is None:
            self.out.first_empty_s = self.time
            self.out.events.append(Event(self.time, "empty", self.upper))

    def _step(self, until: float) -> None:
        left = until - self.time
        if self.running:
            self._pump(left)
        else:
            self._rest(left)
        self.out.lowest_lower_level_m = min(self.out.lowest_lower_level_m, self.lower)
        self._switch()

    # --- the pump off: straight lines

    def _rest(self, left: float) -> None:
        upper, lower, out = self.tanks.upper, self.tanks.lower, self.out
        falls = self.draw if self.upper > upper.floor_m else 0.0
        rises = self.inflow if self.lower < lower.rim_m else 0.0
        times = [left]
        if falls > 0:
            marks = [one for one in (upper.start_m, upper.floor_m) if one < self.upper]
            times += [(self.upper - one) * upper.area_m2 / falls for one in marks]
        if rises > 0:
            marks = [one for one in (lower.restart_m, lower.rim_m) if one > self.lower]
            times += [(one - self.lower) * lower.area_m2 / rises for one in marks]
        took = min(times)
        out.unmet_draw_m3 += (self.draw - falls) * took
        out.drawn_m3 += falls * took
        out.lower_overflow_m3 += (self.inflow - rises) * took
        out.inflow_m3 += self.inflow * took
        self.time += took
        self.upper = _settled(
            self.upper - falls * took / upper.area_m2, (upper.start_m, upper.floor_m)
        )
        self.lower = _settled(
            self.lower + rises * took / lower.area_m2, (lower.restart_m, lower.rim_m)
        )

    # --- the pump on: linear in Q

    def _pump(self, left: float) -> None:
        """To the first of: a float, a floor, a rim, the time."""
        upper, lower = self.tanks.upper, self.tanks.lower
        took, pumped = left, self._pumped(left)
        marks: list[tuple[str, float]] = [
            ("upper", upper.stop_m),
            ("upper", upper.floor_m),
            ("lower", lower.dry_stop_m),
            ("lower", lower.restart_m),
            ("lower", lower.rim_m),
        ]
        for which, mark in marks:
            when = self._reaches(which, mark, took)
            if when is not None and when < took:
                took, pumped = when, self._pumped(when)
        turn = self._leaves_its_bound(took)
        if turn is not None:
            took, pumped = turn, self._pumped(turn)
        self._advance(took, pumped)

    def _leaves_its_bound(self, within: float) -> float | None:
        """When the flow outgrows the draw at the upper floor, or the inflow at the lower rim."""
        draw, inflow, empty, full = self._rates()

        def over(seconds: float, limit: float) -> float:
            levels = self._levels(seconds, self._pumped(seconds))
            return self.tanks.flow_m3s(self.tanks.static_m(*levels)) - limit

        for stands, limit in ((empty, draw), (full, inflow)):
            if stands and over(within, limit) > 0 > over(0.0, limit):
                return float(scipy.optimize.brentq(over, 0.0, within, args=(limit,), xtol=1e-9))
        return None

    def _rates(self) -> tuple[float, float, bool, bool]:
        """Draw and inflow that count, and whether a tank stands at its bound."""
        flow = self.tanks.flow_m3s(self.tanks.static_m(self.upper, self.lower))
        empty = self.upper <= self.tanks.upper.floor_m and flow <= self.draw
        full = self.lower >= self.tanks.lower.rim_m and flow <= self.inflow
        return self.draw, self.inflow, empty, full

    def _pumped(self, seconds: float) -> float:
        """Volume pumped in so many seconds from now."""
        draw, inflow, empty, full = self._rates()
        tanks = self.tanks
        pull = 0.0 if tanks.entry_m is not None or empty else 1.0 / tanks.upper.area_m2
        push = 0.0 if full else 1.0 / tanks.lower.area_m2
        drift = -draw * pull - inflow * push  # of the static head, without the pump
        return _pumped(
            tanks, self.tanks.static_m(self.upper, self.lower), pull + push, drift, seconds
        )

    def _levels(self, seconds: float, pumped: float) -> tuple[float, float]:
        draw, inflow, empty, full = self._rates()
        upper, lower = self.tanks.upper, self.tanks.lower
        up = self.upper if empty else self.upper + (pumped - draw * seconds) / upper.area_m2
        down = self.lower if full else self.lower + (inflow * seconds - pumped) / lower.area_m2
        return up, down

    def _reaches(self, which: str, mark: float, within: float) -> float | None:
        """When a level comes to a mark; levels bend at most once, so that the turn is looked at."""
        at = 0 if which == "upper" else 1
        now = (self.upper, self.lower)[at]

        def off(seconds: float) -> float:
            return self._levels(seconds, self._pumped(seconds))[at] - mark

        if now == mark:  # it stands there, or leaves it
            return None
        sign = math.copysign(1.0, now - mark)
        grid = [within * one / 8 for one in range(1, 9)]
        before = 0.0
        for one in grid:
            if off(one) * sign <= 0:
                return float(scipy.optimize.brentq(off, before, one, xtol=1e-9))
            before = one
        return None

    def _advance(self, seconds: float, pumped: float) -> None:
        tanks, out = self.tanks, self.out
        _draw, _inflow, empty, full = self._rates()
        begin = tanks.flow_m3s(tanks.static_m(self.upper, self.lower))
        before = (self.upper, self.lower)
        up, down = self._levels(seconds, pumped)
        if empty:
            out.unmet_draw_m3 += self.draw * seconds - pumped
            out.drawn_m3 += pumped
        else:
            out.drawn_m3 += self.draw * seconds
        if full:
            out.lower_overflow_m3 += self.inflow * seconds - pumped
        out.inflow_m3 += self.inflow * seconds
        upper, lower = tanks.upper, tanks.lower
        self.upper = _settled(up, (upper.stop_m, upper.floor_m))
        self.lower = _settled(down, (lower.dry_stop_m, lower.restart_m, lower.rim_m))
        out.pumped_m3 += pumped
        out.run_time_s += seconds
        self.work += self._work(before, seconds, pumped, begin)
        self.time += seconds

    def _work(
        self, before: tuple[float, float], seconds: float, pumped: float, begin: float
    ) -> float:
        """Integral of Q H = a Q - b Q3 by Gauss and Legendre over the flow's smooth course."""
        if self.efficiency is None or pumped <= 0:
            return 0.0
        after = (self.upper, self.lower)
        self.upper, self.lower = before
        tanks, whole = self.tanks, 0.0
        for node, weight in _GAUSS:
            done = self._pumped(seconds * node)
            static = tanks.static_m(*self._levels(seconds * node, done))
            flow = tanks.flow_m3s(static)
            whole += weight * (
                tanks.pump.shutoff_head_m * flow - tanks.pump.curve_b_s2_m5 * flow**3
            )
        self.upper, self.lower = after
        return whole * seconds


# nodes and weights of five points on 0 to 1
_GAUSS = (
    (0.046910077030668, 0.118463442528095),
    (0.230765344947158, 0.239314335249683),
    (0.5, 0.284444444444444),
    (0.769234655052842, 0.239314335249683),
    (0.953089922969332, 0.118463442528095),
)


def _pumped(tanks: TwoTanks, static: float, share: float, drift: float, seconds: float) -> float:
    """Volume pumped in a time while the static head moves by share x Q + drift a second.

    With s = a - c Q2: -2 c Q dQ/dt = share Q + drift, so that dt = -2 c Q dQ / (share Q + drift).
    """
    c, a = tanks.c, tanks.pump.shutoff_head_m
    begin = tanks.flow_m3s(static)
    if seconds <= 0:
        return 0.0
    if static >= a:  # nothing is delivered until the levels come nearer
        if drift >= 0:
            return 0.0
        waits = (static - a) / -drift
        return 0.0 if waits >= seconds else _pumped(tanks, a, share, drift, seconds - waits)
    if share <= _TINY and abs(drift) <= _TINY:
        return begin * seconds
    if share <= _TINY:
        spare = a - static  # moves in a straight line
        return _straight(spare, -drift, c, seconds)
    balance = -drift / share  # the flow at which the static head stands still

    def time_to(flow: float) -> float:
        if balance == 0:
            return 2 * c / share * (begin - flow)
        gone, to = begin - balance, flow - balance
        return -2 * c / share * ((flow - begin) + balance * math.log(abs(to / gone)))

    if abs(begin - balance) <= 1e-14 * max(begin, 1e-9):
        return begin * seconds
    low = max(balance, 0.0) if begin > balance else begin
    high = begin if begin > balance else balance
    edge = low if begin > balance else high
    near = edge + (begin - edge) * 1e-13
    if begin > balance and balance <= 0 and time_to(0.0) <= seconds:
        flow = 0.0  # it delivers nothing any more, and the head goes on growing
        seconds = time_to(0.0)
    elif (edge == balance) and time_to(near) <= seconds:
        flow = near
    else:
        flow = float(
            scipy.optimize.brentq(lambda one: time_to(one) - seconds, near, begin, xtol=1e-18)
        )
    moved = (begin**2 - flow**2) * c  # of the static head
    return (moved - drift * seconds) / share


def _straight(spare: float, pace: float, c: float, seconds: float) -> float:
    """Integral of sqrt((spare + pace t) / c), nothing below zero."""
    end = max(spare + pace * seconds, 0.0)
    return 2.0 / (3.0 * pace * math.sqrt(c)) * (math.pow(end, 1.5) - math.pow(spare, 1.5))


def _held(rows: tuple[tuple[float, float], ...], time: float) -> float:
    return [flow for begin, flow in rows if begin <= time][-1]


def _settled(level: float, marks: tuple[float, ...]) -> float:
    """A level on a mark is on it, not a rounding beside it."""
    return next((mark for mark in marks if abs(level - mark) < 1e-9), level)
