"""Properties of liquid water by temperature, and of the air by altitude."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from sizing.base.errors import check_range
from sizing.base.units import CELSIUS_ZERO_K

GRAVITY_M_S2 = 9.80665  # standard gravity, exact by definition (CGPM 1901)
STANDARD_AIR_PA = 101325.0  # exact by definition of the standard atmosphere
# below it the saturation line is sublimation; the table holds its value to 0 degC
TRIPLE_POINT_C = 0.01


@dataclass(frozen=True)
class Water:
    """Liquid water at 101.325 kPa and ``temperature_c``."""

    temperature_c: float
    density_kg_m3: float
    dynamic_viscosity_pa_s: float
    vapour_pressure_pa: float

    @property
    def kinematic_viscosity_m2_s(self) -> float:
        """Dynamic viscosity over density [m2/s]."""
        return self.dynamic_viscosity_pa_s / self.density_kg_m3

    @property
    def vapour_head_m(self) -> float:
        """Vapour pressure as a height of this water [m]."""
        return self.head_m(self.vapour_pressure_pa)

    def pressure_pa(self, head_m: float) -> float:
        """Pressure [Pa] at the foot of a height [m] of this water: rho g h."""
        return head_m * self.density_kg_m3 * GRAVITY_M_S2

    def head_m(self, pressure_pa: float) -> float:
        """Height [m] of this water that stands for a pressure [Pa]: p / (rho g)."""
        return pressure_pa / (self.density_kg_m3 * GRAVITY_M_S2)


@lru_cache(maxsize=256)
def water(temperature_c: float) -> Water:
    """Water at a temperature [degC], 0 to 99.9.

    Density and vapour pressure by IAPWS-95, viscosity by IAPWS 2008, all at 101.325 kPa.

    Raises
    ------
    OutOfRange
        Outside 0 to 99.9 degC, where it is ice or steam.
    """
    # here, as it takes a quarter of a second, and scipy with it
    from chemicals.iapws import iapws95_Psat, iapws95_rho
    from chemicals.viscosity import mu_IAPWS

    check_range("water temperature", temperature_c, 0.0, 99.9, "°C")
    kelvin = max(temperature_c, TRIPLE_POINT_C) + CELSIUS_ZERO_K
    density = float(iapws95_rho(kelvin, STANDARD_AIR_PA))  # type: ignore[no-untyped-call]
    vapour_pa = float(iapws95_Psat(kelvin))  # type: ignore[no-untyped-call]
    return Water(temperature_c, density, float(mu_IAPWS(kelvin, density)), vapour_pa)


def air_pressure_pa(altitude_m: float) -> float:
    """Absolute air pressure [Pa] at a geometric altitude [m], -500 to 11 000.

    International Standard Atmosphere (ISO 2533), troposphere:
    ``p = 101325 (1 - 0.0065 H / 288.15)^5.25588`` with the geopotential altitude H.

    Raises
    ------
    OutOfRange
        Outside the troposphere's range.
    """
    check_range("altitude", altitude_m, -500.0, 11_000.0, "m")
    earth_radius_m = 6_356_766.0  # ISO 2533
    geopotential_m = earth_radius_m * altitude_m / (earth_radius_m + altitude_m)
    lapse_k_m, sea_level_k, gas_constant = 0.0065, 288.15, 287.05287  # ISO 2533
    exponent = GRAVITY_M_S2 / (lapse_k_m * gas_constant)
    return STANDARD_AIR_PA * math.pow(1.0 - lapse_k_m * geopotential_m / sea_level_k, exponent)
