"""A pressure tank and its switch with a pump whose flow falls as the pressure rises.

Air: p V^n constant, p absolute, V never above the tank. Pump: Q(p) = sqrt((a - lift - p / (rho g))
/ (b + k)). Filling from cut-in to cut-out takes the integral of dW / (Q - draw), W the water in
the tank (adaptive quadrature, relative error 1e-10).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array
from sizing.over_time.simulation.delivery import Pump

_RELATIVE = 1e-11


@dataclass(frozen=True)
class TankAndSwitch:
    """A tank, its switch, and the pump that fills it; pressures gauge at the tank [Pa].

    Raises
    ------
    OutOfRange, SizingError
        A tank of nothing; a cut-out that is not above the cut-in.
    """

    tank_volume_m3: float
    precharge_pa: float
    cut_in_pa: float
    cut_out_pa: float
    pump: Pump
    lift_m: float
    pipe_k_s2_m5: float
    density_kg_m3: float
    atmosphere_pa: float
    air_exponent: float = 1.0  # 1 slow, about 1.2 quick

    def __post_init__(self) -> None:
        check_range("tank volume", self.tank_volume_m3, 1e-9, 1e4, "m³")
        check_range("air exponent", self.air_exponent, 1.0, 1.4, "")
        if not self.cut_in_pa < self.cut_out_pa:
            raise SizingError("the cut-out pressure must lie above the cut-in")
        if not self.precharge_pa < self.cut_out_pa:
            raise SizingError("the precharge must lie below the cut-out: the tank takes no water")

    def air_m3(self, pressure_pa: float) -> float:
        """Volume of the air at a pressure."""
        ratio = (self.precharge_pa + self.atmosphere_pa) / (pressure_pa + self.atmosphere_pa)
        return self.tank_volume_m3 * min(1.0, math.pow(ratio, 1.0 / self.air_exponent))

    def pressure_pa(self, air_m3: float) -> float:
        """The pressure at which the air has a volume."""
        share = math.pow(self.tank_volume_m3 / air_m3, self.air_exponent)
        return (self.precharge_pa + self.atmosphere_pa) * share - self.atmosphere_pa

    def flow_m3s(self, pressure_pa: float) -> float:
        """What the pump gives at a pressure, zero where it gives nothing."""
        head = pressure_pa / (self.density_kg_m3 * GRAVITY_M_S2)
        spare = self.pump.shutoff_head_m - self.lift_m - head
        return math.sqrt(max(spare, 0.0) / (self.pump.curve_b_s2_m5 + self.pipe_k_s2_m5))

    @property
    def drawdown_m3(self) -> float:
        """Water between the two switch pressures."""
        return self.air_m3(self.cut_in_pa) - self.air_m3(self.cut_out_pa)

    @property
    def begin_pa(self) -> float:
        """Where filling begins: with the precharge above cut-in the tank is empty until there."""
        return max(self.cut_in_pa, self.precharge_pa)

    def fill_time_s(self, draw_m3s: float) -> float:
        """From cut-in to cut-out while so much is drawn; infinite where it is never reached."""
        if self.flow_m3s(self.cut_out_pa) <= draw_m3s:
            return math.inf
        high, low = self.air_m3(self.begin_pa), self.air_m3(self.cut_out_pa)
        found, _ = scipy.integrate.quad(
            lambda air: 1.0 / (self.flow_m3s(self.pressure_pa(air)) - draw_m3s),
            low,
            high,
            epsabs=0,
            epsrel=_RELATIVE,
            limit=200,
        )
        return float(found)

    def settle_pa(self, draw_m3s: float) -> float:
        """The pressure at which the pump gives just what is drawn."""
        head = self.pump.shutoff_head_m - self.lift_m
        head -= (self.pump.curve_b_s2_m5 + self.pipe_k_s2_m5) * draw_m3s**2
        return head * self.density_kg_m3 * GRAVITY_M_S2


@dataclass(frozen=True)
class Cycling:
    """What tank, switch and pump do at a steady draw.

    ``outcome``: no_draw, falls_below_cut_in, never_stops, hunts or cycles.
    """

    outcome: str
    run_time_s: float | None
    rest_time_s: float | None
    starts_per_s: float
    settle_pressure_pa: float | None


def cycling(tank: TankAndSwitch, draw_m3s: float, hunting_run_time_s: float) -> Cycling:
    """At a draw; below the hunting run time the switch chatters rather than works."""
    if draw_m3s <= 0:
        return Cycling("no_draw", None, None, 0.0, None)
    settle = tank.settle_pa(draw_m3s)
    if draw_m3s >= tank.flow_m3s(tank.cut_in_pa):
        return Cycling("falls_below_cut_in", None, None, 0.0, settle)
    if draw_m3s >= tank.flow_m3s(tank.cut_out_pa):
        return Cycling("never_stops", None, None, 0.0, settle)
    run, rest = tank.fill_time_s(draw_m3s), tank.drawdown_m3 / draw_m3s
    outcome = "hunts" if run < hunting_run_time_s else "cycles"
    return Cycling(outcome, run, rest, 1.0 / (run + rest), None)


def worst_draw_m3s(tank: TankAndSwitch) -> float | None:
    """The steady draw at which the pump starts most often; None where it never stops."""
    most = tank.flow_m3s(tank.cut_out_pa)
    if most <= 0:
        return None
    found = scipy.optimize.minimize_scalar(
        lambda draw: tank.fill_time_s(draw) + tank.drawdown_m3 / draw,
        bounds=(most * 1e-6, most * (1 - 1e-9)),
        method="bounded",
        options={"xatol": most * 1e-9},
    )
    return float(found.x)


def quick_tank_volume_m3(tank: TankAndSwitch, run_time_s: float) -> float:
    """The quick rule: run time x flow at mid-band / drawdown fraction [m3]."""
    middle = (tank.cut_in_pa + tank.cut_out_pa) / 2
    return run_time_s * tank.flow_m3s(middle) * tank.tank_volume_m3 / tank.drawdown_m3


def tank_volume_for_m3(tank: TankAndSwitch, run_time_s: float) -> float | None:
    """The tank, of this precharge, with which the pump runs so long with no draw [m3].

    None where it never stops.
    """
    without = tank.fill_time_s(0.0)
    return None if math.isinf(without) else tank.tank_volume_m3 * run_time_s / without


@dataclass(frozen=True)
class Start:
    """The pump starts at a moment and runs so long."""

    time_s: float
    run_time_s: float


@dataclass(frozen=True)
class TankDay:
    """What becomes of a tank, its switch and pump under draws; pressures gauge [Pa].

    ``short`` is what was wanted and could not be delivered, ``empty`` the time in which the tank
    stands empty and only the pump's own flow comes.
    """

    starts: tuple[Start, ...]
    lowest_pa: float
    final_pa: float
    delivered_m3: float
    short_m3: float
    pumped_m3: float
    first_short_s: float | None
    short_s: float
    below_cut_in_s: float
    empty_s: float
    water_at_start_m3: float
    water_at_end_m3: float


def run_tank(
    tank: TankAndSwitch,
    draws: tuple[tuple[float, float], ...],
    *,
    end_s: float = 86_400.0,
    initial_pa: float | None = None,
    trace: list[tuple[float, float]] | None = None,
) -> TankDay:
    """A tank under draws, exact in time between events.

    Parameters
    ----------
    draws : rows of (from [s], draw [m3/s]), each held until the next; the first from 0.
    initial_pa : where it stands at the beginning; the cut-out where left away.
    trace : where the way of the pressure is put, as (time [s], pressure [Pa]).

    Where more is drawn than the pump gives, the pressure falls below the cut-in as the tank
    empties; then the pipes hold no water of their own, the pressure is that at which the pump gives
    just what is drawn, and where there is none, the rest is short.
    """
    run = _TankRun(tank, tank.cut_out_pa if initial_pa is None else initial_pa, trace)
    times = [*(time for time, _ in draws), end_s]
    for (_, draw), until in zip(draws, times[1:], strict=True):
        while run.time_s < until - _AT_ONCE_S:
            run.step(draw, until)
    return run.ended(end_s)


_AT_ONCE_S = 1e-9
_FULL = 1.0 - 1e-12  # of the tank's volume: less air than that, and there is water in it


class _TankRun:
    """The state of a tank from event to event."""

    def __init__(
        self, tank: TankAndSwitch, initial_pa: float, trace: list[tuple[float, float]] | None
    ) -> None:
        self.tank, self.way, self.time_s = tank, trace, 0.0
        self.filling = _Filling(tank)
        self.air = tank.air_m3(initial_pa)
        self.pressure = initial_pa
        self.on, self.begun = initial_pa <= tank.cut_in_pa, 0.0
        self.starts: list[Start] = []
        self.lowest = initial_pa
        self.water_at_start = tank.tank_volume_m3 - self.air
        self.delivered = self.short = self.pumped = 0.0
        self.first_short: float | None = None
        self.short_s = self.below_s = self.empty_s = 0.0
        self._mark()

    def _mark(self) -> None:
        if self.way is not None:
            self.way.append((self.time_s, self.pressure))

    def step(self, draw: float, until: float) -> None:
        """To the next event, or to the end of what is drawn now."""
        if not self.on:
            self._rest(draw, until - self.time_s)
        elif self._is_empty and self.tank.flow_m3s(self.tank.precharge_pa) <= draw:
            self._stay_empty(draw, until - self.time_s)
        else:
            self._run(draw, until - self.time_s)

    @property
    def _is_empty(self) -> bool:
        return self.air >= self.tank.tank_volume_m3 * _FULL

    def _rest(self, draw: float, most_s: float) -> None:
        """The pump is off: the tank gives what is drawn, down to where the pump starts."""
        tank = self.tank
        starts_at = tank.air_m3(tank.begin_pa)
        rest = max(starts_at - self.air, 0.0) / draw if draw > 0 else math.inf
        lasts = min(rest, most_s)
        if draw > 0:
            self._curve(draw, lasts)
            self.air += draw * lasts
            self.pressure = tank.pressure_pa(self.air) if lasts > 0 else self.pressure
        self.time_s += lasts
        self.delivered += draw * lasts
        self.lowest = min(self.lowest, self.pressure)
        self._mark()
        if rest <= most_s:
            self.on, self.begun, self.air = True, self.time_s, starts_at
            self.pressure = min(tank.cut_in_pa, tank.pressure_pa(self.air))
            self.lowest = min(self.lowest, tank.cut_in_pa)
            self._mark()

    def _curve(self, draw: float, lasts: float) -> None:
        if self.way is not None:
            self.way += [
                (self.time_s + lasts * part, self.tank.pressure_pa(self.air + draw * lasts * part))
                for part in _PARTS[1:-1]
            ]

    def _stay_empty(self, draw: float, lasts: float) -> None:
        """The tank is empty and stays so: the pump gives what it gives, and no more passes."""
        settle = self.tank.settle_pa(draw)
        passes = draw if settle >= 0 else self.tank.flow_m3s(0.0)
        self.pressure = max(settle, 0.0)
        self.lowest = min(self.lowest, self.pressure)
        self._mark()
        if passes < draw:
            self.first_short = self.time_s if self.first_short is None else self.first_short
            self.short_s += lasts
            self.short += (draw - passes) * lasts
        self.delivered += passes * lasts
        self.pumped += passes * lasts
        self.empty_s += lasts
        self.below_s += lasts if self.pressure < self.tank.cut_in_pa else 0.0
        self.time_s += lasts
        self._mark()

    def _run(self, draw: float, most_s: float) -> None:
        """The pump runs: the tank fills towards the cut-out, or empties where more is drawn."""
        tank, before = self.tank, self.air
        self.pressure = tank.pressure_pa(before)
        stops = tank.flow_m3s(tank.cut_out_pa) > draw
        if stops:
            target = tank.air_m3(tank.cut_out_pa)
        else:
            target = tank.air_m3(max(tank.settle_pa(draw), tank.precharge_pa))
        empties = not stops and tank.flow_m3s(tank.precharge_pa) < draw
        lasts, after = self.filling.fill(before, target, draw, most_s, ends=stops or empties)
        if self.way is not None:
            self.way += [
                (self.time_s, self.pressure),
                *self.filling.between(before, after, draw, self.time_s),
            ]
        self.below_s += self._below(before, after, draw, lasts)
        self.air, self.time_s = after, self.time_s + lasts
        self.pressure = tank.pressure_pa(after)
        self.delivered += draw * lasts
        self.pumped += draw * lasts + before - after
        self.lowest = min(self.lowest, self.pressure, tank.pressure_pa(before))
        self._mark()
        if stops and after <= target * (1 + 1e-12):
            self.on = False
            self.starts.append(Start(self.begun, self.time_s - self.begun))

    def _below(self, before: float, after: float, draw: float, lasts: float) -> float:
        """Seconds of a piece under the cut-in."""
        line = self.tank.air_m3(self.tank.cut_in_pa)
        if max(before, after) <= line * (1 + 1e-12):
            return 0.0
        if min(before, after) >= line:
            return lasts
        crossing = self.filling.seconds(before, line, draw)
        return crossing if before > after else lasts - crossing

    def ended(self, end_s: float) -> TankDay:
        """All of it."""
        if self.on:
            self.starts.append(Start(self.begun, end_s - self.begun))
        return TankDay(
            starts=tuple(self.starts),
            lowest_pa=self.lowest,
            final_pa=self.pressure,
            delivered_m3=self.delivered,
            short_m3=self.short,
            pumped_m3=self.pumped,
            first_short_s=self.first_short,
            short_s=self.short_s,
            below_cut_in_s=self.below_s,
            empty_s=self.empty_s,
            water_at_start_m3=self.water_at_start,
            water_at_end_m3=self.tank.tank_volume_m3 - self.air,
        )


_PARTS = (0.0, 0.25, 0.5, 0.75, 1.0)
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(32)
_STEEP = 0.2  # of the flow left at the beginning: below it the integrand is steep at its end


def _flows_m3s(tank: TankAndSwitch, air_m3: Array) -> Array:
    """:meth:`TankAndSwitch.flow_m3s` at the pressures of many volumes of air."""
    share = (tank.tank_volume_m3 / air_m3) ** tank.air_exponent
    pressures = (tank.precharge_pa + tank.atmosphere_pa) * share - tank.atmosphere_pa
    spare = tank.pump.shutoff_head_m - tank.lift_m - pressures / (tank.density_kg_m3 * GRAVITY_M_S2)
    c = tank.pump.curve_b_s2_m5 + tank.pipe_k_s2_m5
    return np.asarray(np.sqrt(np.maximum(spare, 0.0) / c))


class _Filling:
    """Seconds of filling between two volumes of air at a draw; the same again is looked up."""

    def __init__(self, tank: TankAndSwitch) -> None:
        self.tank = tank
        self._known: dict[tuple[float, float, float], float] = {}

    def seconds(self, air: float, to: float, draw: float) -> float:
        """From one volume of air down to another."""
        if to == air:
            return 0.0
        key = (air, to, draw)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._integral(air, to, draw)
        return found

    def _integral(self, air: float, to: float, draw: float) -> float:
        tank = self.tank
        at_end = tank.flow_m3s(tank.pressure_pa(to)) - draw
        at_begin = tank.flow_m3s(tank.pressure_pa(air)) - draw
        if at_end > _STEEP * at_begin:  # smooth: a fixed rule gives eleven digits
            volumes = (air + to) / 2 + (air - to) / 2 * _NODES
            flows = _flows_m3s(tank, volumes) - draw
            return float((air - to) / 2 * (_WEIGHTS / flows).sum())
        # told with its details, quad warns of nothing: near the balance it need only be large
        pace = self._pace(draw)
        return float(
            scipy.integrate.quad(pace, to, air, epsabs=0, epsrel=1e-9, limit=200, full_output=1)[0]
        )

    def _pace(self, draw: float) -> Callable[[float], float]:
        tank = self.tank
        return lambda air: 1.0 / (tank.flow_m3s(tank.pressure_pa(air)) - draw)

    def fill(
        self, air: float, target: float, draw: float, most_s: float, *, ends: bool
    ) -> tuple[float, float]:
        """Seconds and air after filling towards a volume of air, at most so long.

        ``ends`` says that it is reached in time; else it is only neared.
        """
        reaches = ends
        if not reaches:
            target = air + (target - air) * (1 - 1e-6)
        whole = self.seconds(air, target, draw) if abs(target - air) > 1e-15 else 0.0
        if whole <= most_s:
            return (whole, target) if reaches else (most_s, target)
        found = scipy.optimize.brentq(
            lambda to: self.seconds(air, to, draw) - most_s, air, target, xtol=1e-14
        )
        return most_s, float(found)

    def between(
        self, air: float, air_then: float, draw: float, begin_s: float
    ) -> list[tuple[float, float]]:
        """The way of the pressure while it fills: times and pressures on the way."""
        if air_then == air:
            return []
        found = []
        for part in _PARTS[1:-1]:
            after = air + (air_then - air) * part
            found.append((begin_s + self.seconds(air, after, draw), self.tank.pressure_pa(after)))
        return found
