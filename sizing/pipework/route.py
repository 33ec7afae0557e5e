"""The way of the water: legs in order of flow, what each loses, and the head that the whole asks for."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from sizing.errors import SizingError, check_range
from sizing.pipework import friction
from sizing.pipework.friction import Array
from sizing.water import Water

FrictionMethod = Literal["darcy_weisbach", "hazen_williams"]


@dataclass(frozen=True)
class Leg:
    """A stretch of one pipe. Losses are at its own flow, the pump's flow x ``flow_share``.

    The share is over 1 where other pumps push their water through the same leg.
    """

    inside_diameter_m: float
    length_m: float
    roughness_m: float
    k_sum: float
    end_elevation_m: float
    flow_share: float = 1.0
    equivalent_length_m: float = 0.0
    hazen_williams_c: float = 150.0
    name: str = ""

    def __post_init__(self) -> None:
        check_range("inside diameter", self.inside_diameter_m, 1e-4, 20.0, "m")
        check_range("length", self.length_m, 0.0, 1e6, "m")
        check_range("roughness", self.roughness_m, 0.0, self.inside_diameter_m / 4, "m")
        check_range("sum of K", self.k_sum, 0.0, 1e6, "")
        check_range("equivalent length", self.equivalent_length_m, 0.0, 1e6, "m")
        check_range("share of the flow", self.flow_share, 0.0, 1e4, "")


@dataclass(frozen=True)
class Device:
    """Something in the last leg whose loss is known at one flow, such as a filter or the jets of a tub; it grows with the flow squared."""

    name: str
    rated_flow_m3s: float
    rated_head_m: float

    def __post_init__(self) -> None:
        check_range("rated flow", self.rated_flow_m3s, 1e-9, 1e3, "m³/s")
        check_range("loss at the rated flow", self.rated_head_m, 0.0, 1e4, "m")

    def loss_m(self, flow_m3s: Array) -> Array:
        """Loss [m] at flows [m3/s]: rated loss x (flow / rated flow) squared."""
        return np.asarray(self.rated_head_m * (flow_m3s / self.rated_flow_m3s) ** 2)


@dataclass(frozen=True)
class Route:
    """From the water drawn from to the point of delivery; pressures are gauge.

    ``suction_legs`` of the first legs lie before the pump. With ``can_siphon`` only the end of the
    last leg counts; otherwise the water has to be pushed over every point after the pump.
    The level drawn from sinks by ``drawdown_s_m2`` [m for each m3/s], as in a well.
    """

    legs: tuple[Leg, ...]
    start_level_m: float
    supply_pressure_pa: float = 0.0
    delivery_pressure_pa: float = 0.0
    closed_loop: bool = False
    can_siphon: bool = False
    suction_legs: int = 0
    method: FrictionMethod = "darcy_weisbach"
    devices: tuple[Device, ...] = ()
    drawdown_s_m2: float = 0.0

    def __post_init__(self) -> None:
        if not self.legs:
            raise SizingError("a route needs at least one leg")
        check_range("number of suction legs", self.suction_legs, 0, len(self.legs), "")

    @property
    def length_m(self) -> float:
        """Length of all pipe [m]."""
        return sum(leg.length_m for leg in self.legs)


@dataclass(frozen=True)
class LedgerLine:
    """One line of the build-up. A line beyond the governing point is listed but costs nothing."""

    code: Literal["static", "delivery_pressure", "supply_pressure", "drawdown", "pipe", "fittings", "device"]
    leg: int | None
    head_m: float
    velocity_m_s: float | None = None
    counted: bool = True
    name: str = ""


@dataclass(frozen=True)
class Ledger:
    """The head at one flow, itemised; ``total_head_m`` is the sum of the counted lines."""

    flow_m3s: float
    lines: tuple[LedgerLine, ...]
    total_head_m: float
    governing_leg: int


@dataclass(frozen=True)
class SystemCurve:
    """What a route asks of a pump at any flow. All methods work on arrays of flow [m3/s]."""

    route: Route
    water: Water
    _columns: dict[str, Array] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        names = ("inside_diameter_m", "length_m", "roughness_m", "k_sum", "flow_share", "equivalent_length_m", "hazen_williams_c")
        columns = {name: np.array([getattr(leg, name) for leg in self.route.legs])[:, None] for name in names}
        object.__setattr__(self, "_columns", columns)

    @cached_property
    def points(self) -> tuple[tuple[int, float, float], ...]:
        """Points that the water must be pushed to: (leg index, static head, pressure head), both [m]."""
        route = self.route
        if route.closed_loop:
            return ((len(route.legs) - 1, 0.0, 0.0),)
        supply_m = self.water.head_m(route.supply_pressure_pa)
        last = len(route.legs) - 1
        inner = () if route.can_siphon else range(route.suction_legs, last)
        ends = [(index, 0.0) for index in inner] + [(last, self.water.head_m(route.delivery_pressure_pa))]
        return tuple((index, route.legs[index].end_elevation_m - route.start_level_m, pressure - supply_m) for index, pressure in ends)

    def losses_m(self, flow_m3s: ArrayLike) -> tuple[Array, Array]:
        """Pipe friction and fitting loss [m], each of shape (legs, flows)."""
        c = self._columns
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float)) * c["flow_share"]
        length_m = c["length_m"] + c["equivalent_length_m"]
        if self.route.method == "hazen_williams":
            total = friction.hazen_williams_m(flow, c["inside_diameter_m"], length_m, c["hazen_williams_c"])
        else:
            total = friction.darcy_weisbach_m(flow, c["inside_diameter_m"], length_m, c["roughness_m"], self.water.kinematic_viscosity_m2_s)
        share = np.divide(c["length_m"], length_m, out=np.ones_like(length_m), where=length_m > 0)
        pipe = total * share
        fittings = c["k_sum"] * friction.velocity_head_m(self.velocities_m_s(flow_m3s)) + (total - pipe)
        return pipe, fittings

    def velocities_m_s(self, flow_m3s: ArrayLike) -> Array:
        """Velocity [m/s] in every leg, shape (legs, flows)."""
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float))
        return friction.velocity_m_s(flow * self._columns["flow_share"], self._columns["inside_diameter_m"])

    def heads_to_points_m(self, flow_m3s: ArrayLike) -> Array:
        """Head [m] that each of :attr:`points` asks for, shape (points, flows)."""
        pipe, fittings = self.losses_m(flow_m3s)
        upto = np.cumsum(pipe + fittings, axis=0)
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float))
        upto[-1] += sum((device.loss_m(flow) for device in self.route.devices), np.zeros_like(flow))
        if not self.route.closed_loop:
            upto += self.route.drawdown_s_m2 * flow
        rows = [upto[index] + static_m + pressure_m for index, static_m, pressure_m in self.points]
        return np.array(rows)

    def head_m(self, flow_m3s: ArrayLike) -> Array:
        """Total head [m]: the largest over the points. Same shape as ``flow_m3s``."""
        heads: Array = self.heads_to_points_m(flow_m3s).max(axis=0)
        return heads.reshape(np.shape(np.asarray(flow_m3s)))

    def head_at(self, flow_m3s: float) -> float:
        """Total head [m] at one flow."""
        return float(self.head_m(flow_m3s))

    @property
    def static_head_m(self) -> float:
        """Head [m] at no flow: lift and pressure alone."""
        return self.head_at(0.0)

    def governing(self, flow_m3s: float) -> tuple[int, float, float]:
        """The point of :attr:`points` that asks for most at one flow; the later one when two ask alike."""
        heads = self.heads_to_points_m(flow_m3s)[:, 0]
        return self.points[len(heads) - 1 - int(np.argmax(heads[::-1]))]

    def ledger(self, flow_m3s: float) -> Ledger:
        """The head at one flow [m3/s] as lines that add up to it."""
        pipe, fittings = self.losses_m(flow_m3s)
        velocities = self.velocities_m_s(flow_m3s)[:, 0]
        governing, static_m, _ = self.governing(flow_m3s)
        lines = [] if self.route.closed_loop else self._fixed_lines(governing, static_m, flow_m3s)
        for index in range(len(self.route.legs)):
            counted, velocity = index <= governing, float(velocities[index])
            lines.append(LedgerLine("pipe", index, float(pipe[index, 0]), velocity, counted))
            if self.route.legs[index].k_sum or self.route.legs[index].equivalent_length_m:
                lines.append(LedgerLine("fittings", index, float(fittings[index, 0]), velocity, counted))
        last = governing == len(self.route.legs) - 1
        for device in self.route.devices:
            lines.append(LedgerLine("device", None, float(device.loss_m(np.asarray(flow_m3s))), None, last, device.name))
        total = sum(line.head_m for line in lines if line.counted)
        return Ledger(flow_m3s, tuple(lines), total, governing)

    def _fixed_lines(self, governing: int, static_m: float, flow_m3s: float) -> list[LedgerLine]:
        route, lines = self.route, [LedgerLine("static", governing, static_m)]
        if route.delivery_pressure_pa and governing == len(route.legs) - 1:
            lines.append(LedgerLine("delivery_pressure", governing, self.water.head_m(route.delivery_pressure_pa)))
        if route.supply_pressure_pa:
            lines.append(LedgerLine("supply_pressure", None, -self.water.head_m(route.supply_pressure_pa)))
        if route.drawdown_s_m2:
            lines.append(LedgerLine("drawdown", None, route.drawdown_s_m2 * flow_m3s))
        return lines
