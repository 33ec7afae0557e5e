"""How fast a pump slows down when its power goes."""

from __future__ import annotations

import math

from sizing.base.errors import check_range


def inertia_kg_m2(shaft_power_w: float, speed_rpm: float) -> float:
    """Moment of inertia of a pump with its motor, the water in the impeller included [kg m2].

    Regressions over many pumps and motors, P in kW and N in turns a minute: pump 1.5e7
    (P / N3)^0.9556, motor 118 (P / N)^1.48 (Wylie and Streeter, Fluid Transients in Systems,
    chapter 7). Motors under water are slimmer: theirs is less, which nobody states.

    Raises
    ------
    OutOfRange
    """
    check_range("shaft power", shaft_power_w, 1.0, 1e7, "W")
    check_range("speed", speed_rpm, 50.0, 2e4, "1/min")
    power_kw = shaft_power_w / 1000.0
    pump = 1.5e7 * (power_kw / speed_rpm**3) ** 0.9556
    return float(pump + 118.0 * (power_kw / speed_rpm) ** 1.48)


def halves_its_speed_s(shaft_power_w: float, speed_rpm: float) -> float:
    """Time T in which a pump without power comes to half its speed: n = 1 / (1 + t / T).

    I w dw/dt = - P (w / w0)2, its torque as the square of its speed: T = I w0^2 / P.

    Raises
    ------
    OutOfRange
    """
    turns = speed_rpm / 60.0 * 2.0 * math.pi
    return inertia_kg_m2(shaft_power_w, speed_rpm) * turns**2 / shaft_power_w
