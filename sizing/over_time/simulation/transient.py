"""Water hammer in a line of legs, by the method of characteristics with steady friction.

dH/dt + a2/(g A) dQ/dx = 0, dQ/dt + g A dH/dx + f Q|Q|/(2 D A) = 0 along dx/dt = +-a, Courant
number 1: every leg gets a whole number of reaches and its wave speed moves by what that takes
(Wylie and Streeter, Fluid Transients in Systems, chapter 3). At a joint head and flow are one; an
air valve there lets air in at the pipe's height and out again before the water meets. The end is a
fixed head, a valve before it of area times coefficient by time, and the beginning a fixed level, a
pump that runs on or down, or one whose flow dies away, behind a check valve, with or without a
vessel of air beside it.

Nothing is limited at vapour pressure: from where the column parts on it is beyond this.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array

_MOST_REACHES = 6000
_Boundary = Callable[[float, float], tuple[float, float]]  # characteristic and time: head and flow


@dataclass(frozen=True)
class Leg:
    """One pipe of the line; ``ground`` holds (share of its length, height of its axis [m])."""

    length_m: float
    inside_diameter_m: float
    wave_speed_m_s: float
    friction_factor: float
    ground: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        check_range("length", self.length_m, 1e-3, 1e6, "m")
        check_range("inside diameter", self.inside_diameter_m, 1e-4, 10.0, "m")
        check_range("wave speed", self.wave_speed_m_s, 1.0, 2000.0, "m/s")

    @property
    def area_m2(self) -> float:
        """Of its bore."""
        return math.pi / 4 * self.inside_diameter_m**2

    def loss_m(self, flow_m3s: float) -> float:
        """Friction at a steady flow."""
        speed = flow_m3s / self.area_m2
        head = speed * abs(speed) / (2 * GRAVITY_M_S2)
        return self.friction_factor * self.length_m / self.inside_diameter_m * head


@dataclass(frozen=True)
class Runs:
    """A pump over a level: H = level + n2 a - b Q2, behind a check valve.

    Its speed n is 1; or from the start on it falls evenly to nothing within ``runs_down_s`` (a soft
    stop), or as 1 / (1 + t / ``inertia_s``) by its own inertia. Standing still it lets water
    through that the line draws, for what b takes. A level that holds by itself has neither head nor
    curve.
    """

    level_m: float
    shutoff_head_m: float = 0.0
    curve_b_s2_m5: float = 0.0
    checked: bool = False
    runs_down_s: float | None = None
    inertia_s: float | None = None

    def speed(self, time_s: float) -> float:
        """Share of its speed that is left at a time."""
        if self.runs_down_s is not None:
            return 1.0 - time_s / self.runs_down_s if time_s < self.runs_down_s else 0.0
        return 1.0 if self.inertia_s is None else 1.0 / (1.0 + time_s / self.inertia_s)

    def head_at_rest_m(self, time_s: float) -> float:
        """What it makes without flow at a time."""
        return self.shutoff_head_m * self.speed(time_s) ** 2

    def flow_m3s(self, head_m: float, time_s: float) -> float:
        """What it moves against a head."""
        spare = self.level_m + self.head_at_rest_m(time_s) - head_m
        if self.checked and spare <= 0:
            return 0.0
        return math.copysign(math.sqrt(abs(spare) / self.curve_b_s2_m5), spare)


@dataclass(frozen=True)
class Trips:
    """A pump that stops: its flow as a share of the steady one, linear between (time [s], share).

    A check valve holds what would run back.
    """

    rows: tuple[tuple[float, float], ...] = ()

    def share(self, time_s: float) -> float:
        """At a time; nothing after the last row."""
        if not self.rows or time_s >= self.rows[-1][0]:
            return 0.0
        times, shares = zip(*self.rows)
        return float(np.interp(time_s, times, shares))


@dataclass(frozen=True)
class Vessel:
    """A vessel at the beginning, behind the check valve: its air as the line runs [m3].

    The air follows p V^n = const (n = 1.2, between slow and sudden; Wylie and Streeter), ``air_m``
    is the air's pressure outside as a head. Nothing throttles its mouth.
    """

    air_m3: float
    air_m: float
    exponent: float = 1.2

    def __post_init__(self) -> None:
        check_range("air in the vessel", self.air_m3, 1e-6, 1e3, "m3")


@dataclass(frozen=True)
class Valve:
    """A valve at the end that closes: rows of (share of the time, area, coefficient).

    Without rows its area goes linearly and its coefficient stays. Area and coefficient are each
    linear between rows, and their product counts.
    """

    closes_s: float
    rows: tuple[tuple[float, float, float], ...] = ()

    def opening(self, time_s: float) -> float:
        """Product of area and coefficient over that before it closed."""
        if time_s >= self.closes_s:
            return 0.0
        share = time_s / self.closes_s
        if not self.rows:
            return 1.0 - share
        shares, areas, coefficients = zip(*self.rows)
        now = np.interp(share, shares, areas) * np.interp(share, shares, coefficients)
        return float(now / (areas[0] * coefficients[0]))


@dataclass(frozen=True)
class Transient:
    """What heads came to along the line; places are those of the grid, joints twice.

    ``separates`` is when and where the pressure first came to vapour; None: it did not.
    """

    distance_m: Array
    axis_m: Array
    steady_m: Array
    highest_m: Array
    lowest_m: Array
    ends: tuple[int, ...]  # index of each leg's last place
    separates: tuple[float, float] | None
    least_air_m3: float | None = None  # of a vessel, and the most it comes to
    most_air_m3: float | None = None

    @property
    def lowest_over_pipe_m(self) -> Array:
        """The least head over the pipe's axis."""
        return np.asarray(self.lowest_m - self.axis_m)

    @property
    def highest_over_pipe_m(self) -> Array:
        """The most head over the pipe's axis."""
        return np.asarray(self.highest_m - self.axis_m)


def reaches(legs: Sequence[Leg], least: int, most_off: float) -> tuple[float, list[int]]:
    """Time step [s] and reaches of each leg, so that no wave speed moves by more than a share.

    Raises
    ------
    SizingError
        Legs so unequal that no grid of a sensible size does.
    """
    times = [leg.length_m / leg.wave_speed_m_s for leg in legs]
    whole = sum(times)
    for count in range(least, _MOST_REACHES):
        step = whole / count
        found = [max(round(one / step), 1) for one in times]
        if all(
            abs(one / (number * step) - 1.0) <= most_off
            for one, number in zip(times, found, strict=True)
        ):
            return step, found
    raise SizingError("one leg of the line is too short beside the others for its waves to be run")


def run_line(
    legs: Sequence[Leg],
    *,
    flow_m3s: float,
    begins: Runs | Trips,
    beyond_m: float,
    duration_s: float,
    vapour_m: float,
    valve: Valve | None = None,
    before_valve_m: float | None = None,
    start_m: float | None = None,
    vessel: Vessel | None = None,
    air_valves: Sequence[int] = (),
    least_reaches: int = 40,
    most_off: float = 0.05,
    halved: bool = False,
) -> Transient:
    """Run a line from its steady flow.

    Parameters
    ----------
    beyond_m : head beyond the end.
    vapour_m : head over the axis at which water boils (minus).
    before_valve_m, start_m : steady head before the valve, or at the beginning; one of them where
        there is a valve. Without one the line ends at ``beyond_m``.
    vessel : beside the beginning, which then has a curve or a flow of its own.
    air_valves : numbers of the legs at whose ends one sits, the last leg's left out.
    least_reaches, most_off : the grid; ``halved``: its time step once more.

    Raises
    ------
    SizingError
        A figure out of range, a valve that takes nothing, or legs too unequal.
    """
    step, counts = reaches(legs, least_reaches, most_off)
    if halved:
        step, counts = step / 2, [2 * one for one in counts]
    losses = [leg.loss_m(flow_m3s) for leg in legs]
    first_m = start_m
    if first_m is None:
        first_m = (beyond_m if before_valve_m is None else before_valve_m) + sum(losses)
    grid = _Grid(legs, counts, step, first_m, losses)
    beside = None if vessel is None else _Beside(vessel, begins, grid, flow_m3s)
    first = beside or _beginning(begins, flow_m3s, grid.b[0])
    last = _end(beyond_m, valve, flow_m3s, float(grid.steady_m[-1]) - beyond_m, grid.b[-1])
    valves = _AirValves(grid, sorted(one for one in air_valves if one < len(legs) - 1))
    found = _march(grid, flow_m3s, first, last, valves, duration_s, vapour_m)
    if beside is None:
        return found
    return replace(found, least_air_m3=beside.least_m3, most_air_m3=beside.most_m3)


class _Grid:
    """The places of all legs in one array, with what the characteristics need of each."""

    def __init__(
        self,
        legs: Sequence[Leg],
        counts: Sequence[int],
        step_s: float,
        first_m: float,
        losses_m: Sequence[float],
    ) -> None:
        self.step_s = step_s
        impedance, resistance, distance, axis, steady = [], [], [], [], []
        along, head = 0.0, first_m
        self.ends: list[int] = []
        for leg, count, loss in zip(legs, counts, losses_m, strict=True):
            shares = np.linspace(0.0, 1.0, count + 1)
            speed = leg.length_m / (count * step_s)
            area, reach = leg.area_m2, leg.length_m / count
            impedance.append(np.full(count + 1, speed / (GRAVITY_M_S2 * area)))
            per_reach = leg.friction_factor * reach / (2 * GRAVITY_M_S2 * area**2)
            resistance.append(np.full(count + 1, per_reach / leg.inside_diameter_m))
            distance.append(along + shares * leg.length_m)
            at, heights = zip(*leg.ground)
            axis.append(np.interp(shares, at, heights))
            steady.append(head - shares * loss)
            along, head = along + leg.length_m, head - loss
            self.ends.append(sum(len(one) for one in distance) - 1)
        self.b, self.r, self.distance_m, self.axis_m, self.steady_m = (
            np.concatenate(one) for one in (impedance, resistance, distance, axis, steady)
        )
        ends = np.array(self.ends)
        inner = np.ones(len(self.b), dtype=bool)
        inner[[0, *ends, *(ends[:-1] + 1)]] = False
        self.inner: NDArray[np.intp] = np.flatnonzero(inner)
        self.left, self.right = ends[:-1], ends[:-1] + 1


class _AirValves:
    """Joints at which air comes in where the head would fall under the pipe, and goes out again.

    While there is air the head is the pipe's height; its volume is what both sides leave or bring.
    """

    def __init__(self, grid: _Grid, joints: Sequence[int]) -> None:
        self.grid, self.air_m3 = grid, dict.fromkeys(joints, 0.0)

    def let_in(self, head: Array, flow: Array, before: Array, after: Array) -> None:
        """Set head and flows at the joints that air stands in, or comes into now."""
        grid = self.grid
        for joint, air in self.air_m3.items():
            left, right = grid.left[joint], grid.right[joint]
            level = grid.axis_m[left]
            if air <= 0 and head[left] >= level:
                continue
            head[left] = head[right] = level
            flow[left] = (before[joint] - level) / grid.b[left]
            flow[right] = (level - after[joint]) / grid.b[right]
            gained = grid.step_s * float(flow[right] - flow[left])
            self.air_m3[joint] = max(air + gained, 0.0)


def _march(
    grid: _Grid,
    flow_m3s: float,
    first: _Boundary,
    last: _Boundary,
    valves: _AirValves,
    duration_s: float,
    vapour_m: float,
) -> Transient:
    head, flow = grid.steady_m.copy(), np.full(len(grid.b), flow_m3s)
    highest, lowest, separates = head.copy(), head.copy(), None
    inner, left, right = grid.inner, grid.left, grid.right
    joint = 1 / grid.b[left] + 1 / grid.b[right]
    steps = math.ceil(duration_s / grid.step_s - 1e-9)
    for number in range(1, steps + 1):
        time = number * grid.step_s
        carried, lost = grid.b * flow, grid.r * flow * np.abs(flow)
        plus, minus = head + carried - lost, head - carried + lost
        head, flow = np.empty_like(head), np.empty_like(flow)
        before, after = plus[inner - 1], minus[inner + 1]
        head[inner] = (before + after) / 2
        flow[inner] = (before - after) / (2 * grid.b[inner])
        if len(left):
            before, after = plus[left - 1], minus[right + 1]
            met = (before / grid.b[left] + after / grid.b[right]) / joint
            head[left] = head[right] = met
            flow[left] = flow[right] = (before - met) / grid.b[left]
            valves.let_in(head, flow, before, after)
        head[0], flow[0] = first(float(minus[1]), time)
        head[-1], flow[-1] = last(float(plus[-2]), time)
        np.maximum(highest, head, out=highest)
        np.minimum(lowest, head, out=lowest)
        if separates is None:
            over = head - grid.axis_m - vapour_m
            if float(over.min()) <= 0:
                separates = (time, float(grid.distance_m[int(over.argmin())]))
    return Transient(
        distance_m=grid.distance_m,
        axis_m=grid.axis_m,
        steady_m=grid.steady_m,
        highest_m=highest,
        lowest_m=lowest,
        ends=tuple(grid.ends),
        separates=separates,
    )


class _Beside:
    """A vessel beside the beginning: what the pump does not bring comes out of its air's room."""

    def __init__(
        self, vessel: Vessel, begins: Runs | Trips, grid: _Grid, steady_m3s: float
    ) -> None:
        self.vessel, self.begins, self.steady_m3s = vessel, begins, steady_m3s
        self.step_s, self.b, self.axis_m = grid.step_s, float(grid.b[0]), float(grid.axis_m[0])
        self.air_m3 = self.least_m3 = self.most_m3 = vessel.air_m3
        self.held = self._absolute(float(grid.steady_m[0])) * vessel.air_m3**vessel.exponent

    def _absolute(self, head_m: float) -> float:
        return max(head_m - self.axis_m + self.vessel.air_m, 1e-3)

    def _air_at(self, head_m: float) -> float:
        return float((self.held / self._absolute(head_m)) ** (1 / self.vessel.exponent))

    def _brought(self, head_m: float, time_s: float) -> float:
        if isinstance(self.begins, Trips):
            return self.steady_m3s * self.begins.share(time_s)
        return self.begins.flow_m3s(head_m, time_s)

    def __call__(self, minus: float, time: float) -> tuple[float, float]:
        """Head and flow of the line, from the characteristic that comes to it."""

        def spare(head: float) -> float:
            into = (self.air_m3 - self._air_at(head)) / self.step_s
            return self._brought(head, time) - (head - minus) / self.b - into

        low = self.axis_m - self.vessel.air_m + 1e-3
        high = low + 1.0
        while spare(high) > 0:
            high += 2 * (high - low)
        head = float(scipy.optimize.brentq(spare, low, high, xtol=1e-7)) if spare(low) > 0 else low
        self.air_m3 = self._air_at(head)
        self.least_m3 = min(self.least_m3, self.air_m3)
        self.most_m3 = max(self.most_m3, self.air_m3)
        return head, (head - minus) / self.b


def _beginning(begins: Runs | Trips, steady_m3s: float, b: float) -> _Boundary:
    """Head and flow at the beginning from the characteristic that comes to it: H = C + B Q."""

    def trips(minus: float, time: float) -> tuple[float, float]:
        assert isinstance(begins, Trips)  # chosen below
        flow = steady_m3s * begins.share(time)
        return minus + b * flow, flow

    def runs(minus: float, time: float) -> tuple[float, float]:
        assert isinstance(begins, Runs)  # chosen below
        spare = begins.level_m + begins.head_at_rest_m(time) - minus
        curve = begins.curve_b_s2_m5
        if begins.checked and spare <= 0:
            return minus, 0.0
        if curve == 0:
            return minus + spare, spare / b
        flow = math.copysign((math.sqrt(b * b + 4 * curve * abs(spare)) - b) / (2 * curve), spare)
        return minus + b * flow, flow

    return trips if isinstance(begins, Trips) else runs


def _end(
    beyond_m: float, valve: Valve | None, steady_m3s: float, drop_m: float, b: float
) -> _Boundary:
    """Head and flow at the end from the characteristic that comes to it: H = C - B Q."""
    if valve is None:
        return lambda plus, time: (beyond_m, (plus - beyond_m) / b)
    if drop_m <= 0:
        raise SizingError("a valve at the end must take some head before it can close")
    closing = valve

    def through(plus: float, time: float) -> tuple[float, float]:
        passes = (steady_m3s * closing.opening(time)) ** 2 / drop_m
        over = plus - beyond_m
        part = passes * b
        flow = math.copysign((math.sqrt(part * part + 4 * passes * abs(over)) - part) / 2, over)
        return plus - b * flow, flow

    return through
