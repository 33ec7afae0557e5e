"""The way of the water.

Legs in order of flow, what each loses, and the head that the whole asks for.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2, Water
from sizing.hydraulics import friction
from sizing.hydraulics.device import Device
from sizing.hydraulics.friction import Array

FrictionMethod = Literal["darcy_weisbach", "hazen_williams"]


class Top(NamedTuple):
    """High ground within a leg: the share of its length that lies before it, and its elevation."""

    share: float
    elevation_m: float


@dataclass(frozen=True)
class Leg:
    """A stretch of pipe.

    Losses are at its own flow, the pump's flow x ``flow_share``, split over ``parallel`` like
    pipes.

    The share is over 1 where other pumps push their water through the same leg. The fittings' K is
    ``k_sum + k1_sum / Re``. ``tops`` are points within the leg that the water must be pushed over.
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
    k1_sum: float = 0.0
    parallel: int = 1
    devices: tuple[Device, ...] = ()
    tops: tuple[Top, ...] = ()
    loss_share: float = 1.0  # of friction and fittings as built over those reckoned

    def __post_init__(self) -> None:
        check_range("inside diameter", self.inside_diameter_m, 1e-4, 20.0, "m")
        check_range("length", self.length_m, 0.0, 1e6, "m")
        check_range("roughness", self.roughness_m, 0.0, self.inside_diameter_m / 4, "m")
        check_range("sum of K", self.k_sum, 0.0, 1e6, "")
        check_range("equivalent length", self.equivalent_length_m, 0.0, 1e6, "m")
        check_range("share of the flow", self.flow_share, 0.0, 1e4, "")
        check_range("losses as built over those reckoned", self.loss_share, 0.01, 100.0, "")
        check_range("pipes abreast", self.parallel, 1, 100, "")

    @property
    def pipe_share(self) -> float:
        """Flow in one of its pipes over the pump's flow."""
        return self.flow_share / self.parallel

    @property
    def volume_m3(self) -> float:
        """Water that its pipes hold [m3]."""
        return float(np.pi / 4 * self.inside_diameter_m**2 * self.length_m * self.parallel)


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
    fittings_by: str = "k"  # the school that gave K or equivalent lengths; for the working only
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

    @property
    def suction_lift_m(self) -> float:
        """How far the pump draws the water up by itself [m]; 0 where it flows to the pump."""
        if not self.suction_legs or self.closed_loop or self.supply_pressure_pa > 0.0:
            return 0.0
        return max(self.legs[self.suction_legs - 1].end_elevation_m - self.start_level_m, 0.0)


class Point(NamedTuple):
    """A point that the water must be pushed to.

    In which leg, how far along it, and what it asks for at no flow [m].
    """

    leg: int
    static_m: float
    pressure_m: float
    share: float = 1.0


@dataclass(frozen=True)
class LedgerLine:
    """One line of the build-up. A line beyond the governing point is listed but costs nothing."""

    code: Literal[
        "static", "delivery_pressure", "supply_pressure", "drawdown", "pipe", "fittings", "device"
    ]
    leg: int | None
    head_m: float
    velocity_m_s: float | None = None
    counted: bool = True
    name: str = ""  # of a device; of a static line that ends on high ground within its leg: 'top'


@dataclass(frozen=True)
class Ledger:
    """The head at one flow, itemised; ``total_head_m`` is the sum of the counted lines."""

    flow_m3s: float
    lines: tuple[LedgerLine, ...]
    total_head_m: float
    governing_leg: int
    governing_share: float = 1.0  # of that leg's length that lies before the governing point


LOSS_COLUMNS = (
    "inside_diameter_m",
    "length_m",
    "roughness_m",
    "k_sum",
    "k1_sum",
    "pipe_share",
    "equivalent_length_m",
    "hazen_williams_c",
    "loss_share",
)


def losses_of_m(
    columns: Mapping[str, Array],
    flow_m3s: Array,
    method: FrictionMethod,
    kinematic_viscosity_m2_s: float,
) -> tuple[Array, Array]:
    """Pipe friction and fitting loss [m], each of shape (legs, flows).

    ``columns`` hold :data:`LOSS_COLUMNS` of the legs, of shape (legs, 1), or (legs, flows) where
    each flow has a route of its own.
    """
    c = columns
    flow = flow_m3s * c["pipe_share"]
    velocity = friction.velocity_m_s(flow, c["inside_diameter_m"])
    length_m = c["length_m"] + c["equivalent_length_m"]
    if method == "hazen_williams":
        total = friction.hazen_williams_m(
            flow, c["inside_diameter_m"], length_m, c["hazen_williams_c"]
        )
    else:
        total = friction.darcy_weisbach_m(
            flow, c["inside_diameter_m"], length_m, c["roughness_m"], kinematic_viscosity_m2_s
        )
    pipe = total * np.divide(
        c["length_m"], length_m, out=np.ones_like(length_m), where=length_m > 0
    )
    viscous = (
        c["k1_sum"]
        * kinematic_viscosity_m2_s
        / c["inside_diameter_m"]
        * velocity
        / (2.0 * GRAVITY_M_S2)
    )  # K1/Re v2/2g
    fittings = c["k_sum"] * friction.velocity_head_m(velocity) + viscous + (total - pipe)
    return pipe * c["loss_share"], fittings * c["loss_share"]


@dataclass(frozen=True)
class SystemCurve:
    """What a route asks of a pump at any flow. All methods work on arrays of flow [m3/s]."""

    route: Route
    water: Water
    _columns: dict[str, Array] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        columns = {
            name: np.array([getattr(leg, name) for leg in self.route.legs])[:, None]
            for name in LOSS_COLUMNS
        }
        object.__setattr__(self, "_columns", columns)

    @cached_property
    def points(self) -> tuple[Point, ...]:
        """Points that the water must be pushed to, in order of flow."""
        route, last = self.route, len(self.route.legs) - 1
        if route.closed_loop:
            return (Point(last, 0.0, 0.0),)
        supply_m, delivery_m = (
            self.water.head_m(route.supply_pressure_pa),
            self.water.head_m(route.delivery_pressure_pa),
        )
        found: list[Point] = []
        for index, leg in enumerate(route.legs):
            if not route.can_siphon and index >= route.suction_legs:
                found += [
                    Point(index, top.elevation_m - route.start_level_m, -supply_m, top.share)
                    for top in leg.tops
                ]
            if index == last:
                found.append(
                    Point(index, leg.end_elevation_m - route.start_level_m, delivery_m - supply_m)
                )
            elif not route.can_siphon and index >= route.suction_legs:
                found.append(Point(index, leg.end_elevation_m - route.start_level_m, -supply_m))
        return tuple(_that_may_govern(found))

    def losses_m(self, flow_m3s: ArrayLike) -> tuple[Array, Array]:
        """Pipe friction and fitting loss [m], each of shape (legs, flows)."""
        return losses_of_m(
            self._columns,
            np.atleast_1d(np.asarray(flow_m3s, dtype=float)),
            self.route.method,
            self.water.kinematic_viscosity_m2_s,
        )

    def velocities_m_s(self, flow_m3s: ArrayLike) -> Array:
        """Velocity [m/s] in every leg, shape (legs, flows)."""
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float))
        return friction.velocity_m_s(
            flow * self._columns["pipe_share"], self._columns["inside_diameter_m"]
        )

    def device_losses_m(self, flow_m3s: ArrayLike) -> Array:
        """What the devices of each leg lose [m], shape (legs, flows).

        Those of the route itself are not among them.
        """
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float))
        none = np.zeros_like(flow)
        return np.array(
            [
                sum((device.loss_m(flow * leg.pipe_share) for device in leg.devices), none)
                for leg in self.route.legs
            ]
        )

    def suction_loss_m(self, flow_m3s: float) -> float:
        """All that is lost before the pump [m] at one flow.

        Pipe, fittings and things with a loss of their own.
        """
        return float(self.suction_losses_m(flow_m3s)[0])

    def suction_losses_m(self, flow_m3s: ArrayLike) -> Array:
        """The same at many flows, shape (flows,)."""
        pipe, fittings = self.losses_m(flow_m3s)
        lost = pipe + fittings + self.device_losses_m(flow_m3s)
        return np.asarray(lost[: self.route.suction_legs].sum(axis=0))

    def heads_to_points_m(self, flow_m3s: ArrayLike) -> Array:
        """Head [m] that each of :attr:`points` asks for, shape (points, flows).

        High ground within a leg has that share of the leg's pipe before it, and all its fittings
        and devices.
        """
        flow = np.atleast_1d(np.asarray(flow_m3s, dtype=float))
        pipe, fittings = self.losses_m(flow)
        upto = np.cumsum(pipe + fittings + self.device_losses_m(flow), axis=0)
        rows = [
            upto[point.leg]
            - (1.0 - point.share) * pipe[point.leg]
            + (point.static_m + point.pressure_m)
            for point in self.points
        ]
        rows[-1] += sum((device.loss_m(flow) for device in self.route.devices), np.zeros_like(flow))
        heads = np.array(rows)
        return heads if self.route.closed_loop else heads + self.route.drawdown_s_m2 * flow

    @cached_property
    def turbulent_from_m3s(self) -> float:
        """The pump's flow from which every pipe runs turbulent for certain."""
        flows = [
            friction.TURBULENT_FROM
            * self.water.kinematic_viscosity_m2_s
            * np.pi
            / 4
            * leg.inside_diameter_m
            / leg.pipe_share
            for leg in self.route.legs
            if leg.pipe_share > 0
        ]
        return float(max(flows, default=0.0)) * 1.01

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

    def governing(self, flow_m3s: float) -> Point:
        """The point of :attr:`points` that asks for most at one flow.

        The later one when two ask alike.
        """
        heads = self.heads_to_points_m(flow_m3s)[:, 0]
        return self.points[len(heads) - 1 - int(np.argmax(heads[::-1]))]

    def ledger(self, flow_m3s: float) -> Ledger:
        """The head at one flow [m3/s] as lines that add up to it."""
        pipe, fittings = self.losses_m(flow_m3s)
        velocities = self.velocities_m_s(flow_m3s)[:, 0]
        governing = self.governing(flow_m3s)
        lines = [] if self.route.closed_loop else self._fixed_lines(governing, flow_m3s)
        for index, leg in enumerate(self.route.legs):
            counted, velocity, along = (
                index <= governing.leg,
                float(velocities[index]),
                float(pipe[index, 0]),
            )
            if index == governing.leg and governing.share < 1:
                lines.append(LedgerLine("pipe", index, along * governing.share, velocity))
                lines.append(
                    LedgerLine("pipe", index, along * (1.0 - governing.share), velocity, False)
                )
            else:
                lines.append(LedgerLine("pipe", index, along, velocity, counted))
            if leg.k_sum or leg.k1_sum or leg.equivalent_length_m:
                lines.append(
                    LedgerLine("fittings", index, float(fittings[index, 0]), velocity, counted)
                )
            for device in leg.devices:
                lines.append(
                    LedgerLine(
                        code="device",
                        leg=index,
                        head_m=float(device.loss_m(np.asarray(flow_m3s * leg.pipe_share))),
                        velocity_m_s=None,
                        counted=counted,
                        name=device.name,
                    )
                )
        at_end = governing.leg == len(self.route.legs) - 1 and governing.share == 1
        for device in self.route.devices:
            lines.append(
                LedgerLine(
                    code="device",
                    leg=None,
                    head_m=float(device.loss_m(np.asarray(flow_m3s))),
                    velocity_m_s=None,
                    counted=at_end,
                    name=device.name,
                )
            )
        total = sum(line.head_m for line in lines if line.counted)
        return Ledger(flow_m3s, tuple(lines), total, governing.leg, governing.share)

    def _fixed_lines(self, governing: Point, flow_m3s: float) -> list[LedgerLine]:
        route = self.route
        lines = [
            LedgerLine(
                "static",
                governing.leg,
                governing.static_m,
                name="top" if governing.share < 1 else "",
            )
        ]
        if (
            route.delivery_pressure_pa
            and governing.leg == len(route.legs) - 1
            and governing.share == 1
        ):
            lines.append(
                LedgerLine(
                    "delivery_pressure",
                    governing.leg,
                    self.water.head_m(route.delivery_pressure_pa),
                )
            )
        if route.supply_pressure_pa:
            lines.append(
                LedgerLine("supply_pressure", None, -self.water.head_m(route.supply_pressure_pa))
            )
        if route.drawdown_s_m2:
            lines.append(LedgerLine("drawdown", None, route.drawdown_s_m2 * flow_m3s))
        return lines


def _that_may_govern(points: list[Point]) -> list[Point]:
    """The points less the high ground that later ground within its leg tops anyway.

    Losses only grow on the way.
    """
    kept: list[Point] = []
    for point in points:
        while (
            kept
            and kept[-1].share < 1
            and kept[-1].leg == point.leg
            and kept[-1].static_m + kept[-1].pressure_m <= point.static_m + point.pressure_m
        ):
            kept.pop()
        kept.append(point)
    return kept
