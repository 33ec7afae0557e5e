"""The cable to a motor: what it drops and what it loses."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range

_MM2 = 1e-6
_M_PER_KM = 1000.0


@dataclass(frozen=True)
class Cable:
    conductor_resistance_ohm_per_km: float
    voltage_drop_v: float
    voltage_drop_fraction: float
    voltage_at_motor_v: float
    cable_loss_w: float


def resistance_ohm_per_km(area_mm2: float, resistivity_ohm_m: float) -> float:
    """Resistance of one conductor [ohm/km] = resistivity / area.

    At the conductor's running temperature.
    """
    check_range("area of the conductor", area_mm2, 1e-3, 1e4, "mm²")
    check_range("resistivity", resistivity_ohm_m, 1e-9, 1e-5, "Ω m")
    return resistivity_ohm_m / (area_mm2 * _MM2) * _M_PER_KM


def cable(
    *,
    phases: int,
    supply_voltage_v: float,
    current_a: float,
    length_m: float,
    resistance_ohm_per_km: float,
    reactance_ohm_per_km: float = 0.0,
    power_factor: float = 1.0,
) -> Cable:
    """Voltage drop b I L (R cos phi + X sin phi) and loss m I2 R L of a cable.

    It is ``length_m`` long one way.

    b = 2, m = 2 for single phase (out and back); b = sqrt 3, m = 3 for three phase, line to line.

    Raises
    ------
    SizingError
        Phases other than 1 or 3, or a figure that cannot be.
    """
    if phases not in (1, 3):
        raise SizingError(f"a motor has one phase or three, not {phases}")
    check_range("supply voltage", supply_voltage_v, 1.0, 1e5, "V")
    check_range("power factor", power_factor, 0.0, 1.0, "")
    check_range("current", current_a, 0.0, 1e5, "A")
    check_range("length of the cable", length_m, 0.0, 1e5, "m")
    check_range("resistance of the conductor", resistance_ohm_per_km, 0.0, 1e5, "Ω/km")
    check_range("reactance of the conductor", reactance_ohm_per_km, 0.0, 1e4, "Ω/km")
    ways, conductors = (2.0, 2.0) if phases == 1 else (math.sqrt(3.0), 3.0)
    sine = math.sqrt(1.0 - power_factor**2)
    length_km = length_m / _M_PER_KM
    drop = (
        ways
        * current_a
        * length_km
        * (resistance_ohm_per_km * power_factor + reactance_ohm_per_km * sine)
    )
    loss = conductors * current_a**2 * resistance_ohm_per_km * length_km
    return Cable(
        resistance_ohm_per_km, drop, drop / supply_voltage_v, supply_voltage_v - drop, loss
    )


@dataclass(frozen=True)
class Copper:
    """What conductors are of: resistivity at 20 °C, its rise per kelvin, and how warm they are."""

    resistivity_20c_ohm_m: float
    per_k: float
    temperature_c: float

    @property
    def resistivity_ohm_m(self) -> float:
        """At its temperature."""
        return self.resistivity_20c_ohm_m * (1 + self.per_k * (self.temperature_c - 20.0))


@dataclass(frozen=True)
class Load:
    """A motor on its supply, running and starting.

    The drop of a cable is told as a share of the supply; the current is not changed by the lower
    voltage.
    """

    phases: int
    supply_voltage_v: float
    current_a: float
    power_factor: float
    starting_multiple: float
    starting_power_factor: float
    reactance_ohm_per_km: float = 0.0

    @property
    def starting_current_a(self) -> float:
        """What it draws in the moment of starting."""
        return self.current_a * self.starting_multiple

    def drop(self, length_m: float, resistance: float, *, starting: bool) -> Cable:
        """The cable's drop in one of the two."""
        return cable(
            phases=self.phases,
            supply_voltage_v=self.supply_voltage_v,
            current_a=self.starting_current_a if starting else self.current_a,
            length_m=length_m,
            resistance_ohm_per_km=resistance,
            reactance_ohm_per_km=self.reactance_ohm_per_km,
            power_factor=self.starting_power_factor if starting else self.power_factor,
        )


def smallest_area_mm2(
    areas_mm2: Iterable[float],
    load: Load,
    copper: Copper,
    length_m: float,
    limits: Mapping[bool, float],
) -> float | None:
    """The smallest area on sale that keeps every limit; None where none does.

    Parameters
    ----------
    limits : share of the supply by ``starting``: False running, True starting.
    """
    for area in sorted(areas_mm2):
        resistance = resistance_ohm_per_km(area, copper.resistivity_ohm_m)
        if all(
            load.drop(length_m, resistance, starting=starting).voltage_drop_fraction <= share
            for starting, share in limits.items()
        ):
            return area
    return None


def longest_m(load: Load, resistance: float, limits: Mapping[bool, float]) -> float:
    """The length at which a conductor just keeps every limit [m]."""
    per_m = {
        starting: load.drop(1.0, resistance, starting=starting).voltage_drop_fraction
        for starting in limits
    }
    return min(share / per_m[starting] for starting, share in limits.items())


@dataclass(frozen=True)
class Breaker:
    """A breaker that must trip at an earth fault at the far end, and what leads there."""

    rating_a: float
    multiple: float  # of the rating, at which it trips at once
    voltage_to_earth_v: float
    voltage_factor: float
    supply_loop_ohm: float

    @property
    def trip_current_a(self) -> float:
        """At which it trips at once."""
        return self.rating_a * self.multiple

    @property
    def loop_limit_ohm(self) -> float:
        """The loop's impedance up to which a fault trips it."""
        return self.voltage_factor * self.voltage_to_earth_v / self.trip_current_a

    def longest_m(self, resistance: float, earth_resistance: float) -> float:
        """The longest cable at whose end it still trips; ohms a kilometre, added as numbers."""
        spare = self.loop_limit_ohm - self.supply_loop_ohm
        return max(spare, 0.0) / ((resistance + earth_resistance) / _M_PER_KM)
