"""Whether a basin can be built and worked in: room for pumps and floats, the hatch, the ground.

Pumps stand in a row on a diameter, the floats hang beside them on arms as long as their travel asks
(a tethered float swings through a quarter of a turn: arm = travel / sqrt 2). Where ground water
stands it lifts an empty basin: weight of the water displaced against its own and a collar's weight
under water, with rule-of-thumb safety of a tenth.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.water import GRAVITY_M_S2

FLOAT_M = 0.09  # across, of a usual float
GAP_M = 0.05  # between a float and what it must not touch, and between two pumps
_WALL_M = 0.1  # of a basin where nobody says
_WATER_KG_M3, _CONCRETE_KG_M3 = 1000.0, 2400.0
_SAFE = 1.1
_USUAL_PUMP_M = 0.25


@dataclass(frozen=True)
class Room:
    """What stands where in plan [m]: pumps in a row, and what is left beside them."""

    pump_width_m: float
    pumps: int
    diameter_m: float
    float_arm_m: float

    @property
    def row_m(self) -> float:
        """Length of the row of pumps."""
        return self.pumps * self.pump_width_m + (self.pumps - 1) * GAP_M

    @property
    def pump_places_m(self) -> tuple[float, ...]:
        """Middle of each pump along the row, from the basin's middle."""
        step = self.pump_width_m + GAP_M
        return tuple((at - (self.pumps - 1) / 2) * step for at in range(self.pumps))

    @property
    def pumps_fit(self) -> bool:
        """Whether the row of pumps lies within the wall, corners too."""
        return math.hypot(self.row_m / 2, self.pump_width_m / 2) <= self.diameter_m / 2

    @property
    def beside_m(self) -> float:
        """From the row of pumps to the wall, where the floats hang."""
        return self.diameter_m / 2 - self.pump_width_m / 2

    @property
    def float_needs_m(self) -> float:
        """What a float on its arm takes beside the pumps, clear of both sides."""
        return self.float_arm_m + FLOAT_M + 2 * GAP_M

    @property
    def floats_spare_m(self) -> float:
        """What is left beside the float; below zero it touches."""
        return self.beside_m - self.float_needs_m


def room(pump_width_m: float | None, pumps: int, diameter_m: float, travel_m: float) -> Room:
    """The plan of a basin; a pump whose width nobody states is taken as 250 mm."""
    check_range("basin's diameter", diameter_m, 1e-3, 100.0, "m")
    return Room(pump_width_m or _USUAL_PUMP_M, pumps, diameter_m, travel_m / math.sqrt(2))


def passes_hatch(pump_width_m: float | None, hatch_m: float) -> float:
    """What the hatch leaves beside a pump on its rails [m]; below zero it does not pass."""
    return hatch_m - (pump_width_m or _USUAL_PUMP_M) - GAP_M


@dataclass(frozen=True)
class Flotation:
    """An empty basin in ground water."""

    lift_n: float
    weight_n: float
    collar_m3: float  # of concrete round its foot, 0 where its own weight holds it

    @property
    def holds(self) -> bool:
        """Whether its own weight holds it, a tenth to spare."""
        return self.weight_n >= _SAFE * self.lift_n


def flotation(
    diameter_m: float,
    depth_m: float,
    ground_water_m: float,
    basin_kg: float,
    wall_m: float = _WALL_M,
) -> Flotation:
    """What lifts an empty basin, and the collar that holds it.

    Parameters
    ----------
    ground_water_m : how far under the cover it stands at its highest.
    basin_kg : what the basin weighs.

    Soil on a collar helps and is not counted.
    """
    check_range("basin's depth", depth_m, 1e-3, 100.0, "m")
    stands = max(depth_m + wall_m - max(ground_water_m, 0.0), 0.0)
    displaced = math.pi * (diameter_m + 2 * wall_m) ** 2 / 4 * stands
    lift, weight = displaced * _WATER_KG_M3 * GRAVITY_M_S2, basin_kg * GRAVITY_M_S2
    short = max(_SAFE * lift - weight, 0.0)
    return Flotation(lift, weight, short / ((_CONCRETE_KG_M3 - _WATER_KG_M3) * GRAVITY_M_S2))
