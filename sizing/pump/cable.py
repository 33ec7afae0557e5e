"""The cable to a motor: what it drops and what it loses."""

from __future__ import annotations

import math
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
