"""From head and flow to watts at the shaft and at the meter."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.units import JOULES_PER_KWH, SECONDS_PER_HOUR
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array

HOURS_PER_YEAR = 8760.0


@dataclass(frozen=True)
class Power:
    hydraulic_power_w: float
    shaft_power_w: float
    motor_input_w: float
    volume_per_year_m3: float
    energy_per_year_kwh: float
    energy_per_m3_kwh: float


def hydraulic_power_w(flow_m3s: float, head_m: float, density_kg_m3: float) -> float:
    """Power [W] that the water takes up: rho g Q H."""
    return density_kg_m3 * GRAVITY_M_S2 * flow_m3s * head_m


def power(
    *,
    flow_m3s: float,
    head_m: float,
    density_kg_m3: float,
    pump_efficiency: float,
    motor_efficiency: float,
    drive_efficiency: float = 1.0,
    running_hours_per_year: float = 0.0,
) -> Power:
    """Power and energy of a pump at one working point.

    Shaft = hydraulic / pump efficiency; input (what the meter sees) = shaft / (motor x drive
    efficiency).

    Raises
    ------
    OutOfRange
        An efficiency not above 0 and at most 1, hours beyond a year, a flow not above 0.
    """
    tiny = 1e-9
    for name, efficiency in (
        ("pump", pump_efficiency),
        ("motor", motor_efficiency),
        ("drive", drive_efficiency),
    ):
        check_range(f"{name} efficiency", efficiency, tiny, 1.0, "")
    check_range("running hours", running_hours_per_year, 0.0, HOURS_PER_YEAR + 24, "h/year")
    check_range("flow", flow_m3s, tiny * tiny, 1e3, "m³/s")
    hydraulic = hydraulic_power_w(flow_m3s, head_m, density_kg_m3)
    shaft = hydraulic / pump_efficiency
    motor_input = shaft / (motor_efficiency * drive_efficiency)
    volume_m3 = flow_m3s * SECONDS_PER_HOUR * running_hours_per_year
    energy_kwh = motor_input * running_hours_per_year / 1000.0
    return Power(
        hydraulic_power_w=hydraulic,
        shaft_power_w=shaft,
        motor_input_w=motor_input,
        volume_per_year_m3=volume_m3,
        energy_per_year_kwh=energy_kwh,
        energy_per_m3_kwh=motor_input / 1000.0 / (flow_m3s * SECONDS_PER_HOUR),
    )


@dataclass(frozen=True)
class Year:
    energy_j: float
    cost: float


def energy_of_year(input_power_w: float, time_s: float, price_per_kwh: float) -> Year:
    """Energy [J] of a constant input power over a year's running time [s], and its cost."""
    return Year(input_power_w * time_s, float(energy_cost(input_power_w, time_s, price_per_kwh)))


def energy_cost(
    input_power_w: float | Array, time_s: float | Array, price_per_kwh: float
) -> float | Array:
    """What a constant input power [W] over some time [s] costs at a price a kWh; arrays too."""
    return input_power_w * time_s / JOULES_PER_KWH * price_per_kwh
