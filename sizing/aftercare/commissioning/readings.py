"""Readings at a pump and what follows from them, each figure with its uncertainty.

Uncertainty of a figure y: sqrt(sum over readings x of (dy/dx u_x)^2), first order, every reading
once however often it enters (derivatives by central differences). One sigma throughout.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import partial

import scipy

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.pump.curve import PumpCurve

_STEP = 1e-3  # of a reading's uncertainty, for its derivative
_SLOWEST, _FASTEST, _TRIED = 0.5, 1.5, 200


@dataclass(frozen=True)
class Reading:
    """A figure as read, with one sigma of it."""

    value: float
    sigma: float = 0.0


@dataclass(frozen=True)
class Gauge:
    """A pressure gauge: its reading [Pa], the height of its centre and the bore it sits on [m]."""

    pressure_pa: Reading
    height_m: float
    bore_m: float


@dataclass(frozen=True)
class Promised:
    """What was promised: the pump's curve with its input power, and the system it runs on.

    The shares are one sigma of the curve itself; ``possible_efficiency`` is wire to water and what
    no such pump exceeds. What is None was not promised: nothing is said of it.
    """

    curve: PumpCurve
    static_m: float
    k_s2_m5: float
    possible_efficiency: float
    head_share: float
    power_share: float
    voltage_v: float | None = None  # of the supply
    water_level_m: float | None = None  # lowest while it runs
    suction_k_s2_m5: float | None = None  # of the pipe before the pump
    deep: bool = False  # it hangs in a well: flow and pressure are read at the top

    def __post_init__(self) -> None:
        if self.curve.powers_w is None:
            raise SizingError("the curve has no power: what the pump draws cannot be judged")


@dataclass(frozen=True)
class Readings:
    """What was read at the pump. The flow by a bucket (volume and time) or a meter.

    ``inlet`` None: it is taken to draw from the open surface. ``motor_v`` are the volts at the
    motor while it runs, where they were read (a power meter alone tells none).
    """

    density_kg_m3: float
    volume_m3: Reading | None
    time_s: Reading | None
    meter_m3s: Reading | None
    outlet: Gauge
    inlet: Gauge | None
    water_level_m: Reading
    discharge_level_m: float
    phases: int
    voltage_v: Reading
    current_a: Reading
    power_factor: Reading
    unsteady: bool = False
    motor_v: Reading | None = None

    def __post_init__(self) -> None:
        if (self.meter_m3s is None) == (self.volume_m3 is None or self.time_s is None):
            raise SizingError("give the flow by a bucket, its volume and time, or by a meter")
        check_range("density", self.density_kg_m3, 1.0, 5000.0, "kg/m³")
        if self.phases not in (1, 3):
            raise SizingError("a motor has one phase or three")

    @property
    def weight_n_m3(self) -> float:
        """Rho g."""
        return self.density_kg_m3 * GRAVITY_M_S2

    @property
    def flow_m3s(self) -> float:
        """Volume over time, or the meter."""
        if self.meter_m3s is not None:
            return self.meter_m3s.value
        assert self.volume_m3 is not None  # one of the two ways was given
        assert self.time_s is not None
        return self.volume_m3.value / self.time_s.value

    @property
    def head_m(self) -> float:
        """Total head over the pump."""
        before = self.water_level_m.value if self.inlet is None else self._head_at_m(self.inlet)
        return self._head_at_m(self.outlet) - before

    def _head_at_m(self, gauge: Gauge) -> float:
        """Pressure, height and speed at a gauge as a head [m]."""
        speed = 4 * self.flow_m3s / (math.pi * gauge.bore_m**2)
        pressure = gauge.pressure_pa.value / self.weight_n_m3
        return pressure + gauge.height_m + speed**2 / (2 * GRAVITY_M_S2)

    @property
    def suction_loss_m(self) -> float:
        """What is lost before the pump; nothing where no gauge tells it."""
        if self.inlet is None:
            return 0.0
        return self.water_level_m.value - self._head_at_m(self.inlet)

    @property
    def static_m(self) -> float:
        """The height that is lifted, as measured."""
        return self.discharge_level_m - self.water_level_m.value

    @property
    def input_w(self) -> float:
        """M U I cos phi."""
        ways = math.sqrt(3.0) if self.phases == 3 else 1.0
        return ways * self.voltage_v.value * self.current_a.value * self.power_factor.value

    @property
    def hydraulic_w(self) -> float:
        """Rho g Q H."""
        return self.weight_n_m3 * self.flow_m3s * self.head_m

    @property
    def efficiency(self) -> float:
        """Wire to water."""
        return self.hydraulic_w / self.input_w

    @property
    def k_s2_m5(self) -> float:
        """Of the run; below zero where the head is less than the height."""
        return (self.head_m - self.static_m) / self.flow_m3s**2

    def sigma(self, figure: Callable[[Readings], float]) -> float:
        """One sigma of a figure, from all readings."""
        return math.sqrt(self.covariance(figure, figure))

    def covariance(
        self, one: Callable[[Readings], float], other: Callable[[Readings], float]
    ) -> float:
        """Of two figures, from all readings; of one with itself its variance."""
        pairs = zip(self._parts(one), self._parts(other), strict=True)
        return sum(here * there for here, there in pairs)

    def _parts(self, figure: Callable[[Readings], float]) -> list[float]:
        found = []
        for field in fields(self):
            one = getattr(self, field.name)
            if isinstance(one, Reading) and one.sigma > 0:
                found.append(_part(one, partial(self._with, field.name), figure))
            elif isinstance(one, Gauge) and one.pressure_pa.sigma > 0:
                changed = partial(self._with_gauge, field.name, one)
                found.append(_part(one.pressure_pa, changed, figure))
        return found

    def _with(self, name: str, value: Reading | Gauge) -> Readings:
        return replace(self, **{name: value})  # type: ignore[arg-type]

    def _with_gauge(self, name: str, gauge: Gauge, pressure: Reading) -> Readings:
        return self._with(name, replace(gauge, pressure_pa=pressure))


def _part(
    one: Reading, changed: Callable[[Reading], Readings], figure: Callable[[Readings], float]
) -> float:
    """What one reading adds: the figure's derivative times its sigma."""
    step = one.sigma * _STEP
    up, down = (figure(changed(Reading(one.value + by, one.sigma))) for by in (step, -step))
    return (up - down) / (2 * _STEP)


@dataclass(frozen=True)
class Deviation:
    """How far a figure is from what was promised: in its unit, in percent, and in sigmas."""

    amount: float
    percent: float
    sigmas: float

    def low(self, percent: float = 5.0) -> bool:
        """Under the promise by so much, and by two sigmas."""
        return self.percent <= -percent and self.sigmas <= -2.0

    def high(self, percent: float = 5.0) -> bool:
        """Over the promise by so much, and by two sigmas."""
        return self.percent >= percent and self.sigmas >= 2.0


@dataclass(frozen=True)
class Compared:
    """Readings against the promise."""

    readings: Readings
    promised: Promised
    predicted_flow_m3s: float
    predicted_head_m: float
    predicted_input_w: float
    head: Deviation
    system: Deviation
    power: Deviation
    speed_ratio: float | None
    speed_power_percent: float | None
    voltage: Deviation | None = None
    level: Deviation | None = None  # of the water, in percent of the height lifted
    suction: Deviation | None = None  # in percent of the head
    leak_power_percent: float | None = None  # power against that of the flow that has this head

    @property
    def flow_percent(self) -> float:
        """How far the flow is from the one predicted."""
        return 100 * (self.readings.flow_m3s / self.predicted_flow_m3s - 1)

    @property
    def curve_head_m(self) -> float:
        """Of the promised curve at the measured flow."""
        return self.readings.head_m - self.head.amount

    @property
    def system_head_m(self) -> float:
        """Of the promised run at the measured flow."""
        return self.readings.head_m - self.system.amount

    @property
    def curve_input_w(self) -> float:
        """Of the promised curve at the measured flow."""
        return self.readings.input_w - self.power.amount


def compare(readings: Readings, promised: Promised) -> Compared:
    """Readings against what was promised.

    Raises
    ------
    SizingError
        The promised curve does not meet the promised system.
    """
    curve, flow = promised.curve, readings.flow_m3s
    predicted = _meets(promised)
    at_flow, power_there = _head(curve, flow), _power(curve, flow)
    return Compared(
        readings=readings,
        promised=promised,
        predicted_flow_m3s=predicted,
        predicted_head_m=_head(curve, predicted),
        predicted_input_w=_power(curve, predicted),
        head=_deviation(
            readings,
            lambda one: one.head_m - _head(curve, one.flow_m3s),
            at_flow,
            promised.head_share * at_flow,
        ),
        system=_deviation(
            readings,
            lambda one: one.head_m - one.static_m - promised.k_s2_m5 * one.flow_m3s**2,
            readings.static_m + promised.k_s2_m5 * flow**2,
            0.0,
        ),
        power=_deviation(
            readings,
            lambda one: one.input_w - _power(curve, one.flow_m3s),
            power_there,
            promised.power_share * power_there,
        ),
        speed_ratio=(ratio := _speed(readings, curve)),
        speed_power_percent=(
            None
            if ratio is None
            else 100 * (readings.input_w / (ratio**3 * _power(curve, flow / ratio)) - 1)
        ),
        voltage=_voltage(readings, promised),
        level=_level(readings, promised),
        suction=_suction(readings, promised),
        leak_power_percent=_leak_power_percent(readings, curve),
    )


def _voltage(readings: Readings, promised: Promised) -> Deviation | None:
    nominal, read = promised.voltage_v, readings.motor_v
    if nominal is None or read is None:
        return None
    off = read.value - nominal
    return Deviation(off, 100 * off / nominal, off / read.sigma if read.sigma else 0.0)


def _level(readings: Readings, promised: Promised) -> Deviation | None:
    sized, read = promised.water_level_m, readings.water_level_m
    if sized is None or promised.static_m <= 0:
        return None
    off = read.value - sized
    return Deviation(off, 100 * off / promised.static_m, off / read.sigma if read.sigma else 0.0)


def _suction(readings: Readings, promised: Promised) -> Deviation | None:
    k = promised.suction_k_s2_m5
    if k is None or readings.inlet is None or readings.head_m <= 0:
        return None
    return _deviation(
        readings, lambda one: one.suction_loss_m - k * one.flow_m3s**2, readings.head_m, 0.0
    )


def _leak_power_percent(readings: Readings, curve: PumpCurve) -> float | None:
    """Power against the curve's at the larger flow that has the head as read; None without one."""
    flow, head = readings.flow_m3s, readings.head_m
    first, last = max(flow, curve.flows_m3s[0]), curve.last_flow_m3s
    if first >= last or not _head(curve, first) > head > _head(curve, last):
        return None
    larger = float(
        scipy.optimize.brentq(lambda one: _head(curve, one) - head, first, last, xtol=1e-12)
    )
    return 100 * (readings.input_w / _power(curve, larger) - 1)


def _head(curve: PumpCurve, flow: float) -> float:
    """The curve's head; held beyond its ends, where it says nothing."""
    inside = min(max(flow, curve.flows_m3s[0]), curve.last_flow_m3s)
    return float(curve.head_m(inside))


def _power(curve: PumpCurve, flow: float) -> float:
    inside = min(max(flow, curve.flows_m3s[0]), curve.last_flow_m3s)
    return float(curve.powers_at([inside])[0])


def _deviation(
    readings: Readings, off: Callable[[Readings], float], of: float, own: float
) -> Deviation:
    amount, sigma = off(readings), math.hypot(readings.sigma(off), own)
    return Deviation(amount, 100 * amount / of, amount / sigma if sigma else 0.0)


def _meets(promised: Promised) -> float:
    curve = promised.curve

    def spare(flow: float) -> float:
        return _head(curve, flow) - promised.static_m - promised.k_s2_m5 * flow**2

    first, last = curve.flows_m3s[0], curve.last_flow_m3s
    if not spare(first) > 0 > spare(last):
        raise SizingError("the promised curve does not meet the promised system")
    return float(scipy.optimize.brentq(spare, first, last, xtol=1e-15))


def _speed(readings: Readings, curve: PumpCurve) -> float | None:
    """The speed at which the promised curve passes through what was measured; nearest to 1."""
    flow, head = readings.flow_m3s, readings.head_m
    if head <= 0:
        return None

    def off(ratio: float) -> float:
        return ratio**2 * _head(curve, flow / ratio) - head

    slowest = max(_SLOWEST, flow / curve.last_flow_m3s)
    if slowest >= _FASTEST:
        return None
    width = (_FASTEST - slowest) / _TRIED
    tried = [slowest + width * at for at in range(_TRIED + 1)]
    values = [off(one) for one in tried]
    found = [
        float(scipy.optimize.brentq(off, tried[at], tried[at + 1], xtol=1e-12))
        for at in range(_TRIED)
        if (values[at] <= 0) != (values[at + 1] <= 0)
    ]
    return min(found, key=lambda one: abs(one - 1.0), default=None)
