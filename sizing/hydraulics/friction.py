"""Head lost to friction in a full round pipe: Darcy-Weisbach with Colebrook, and Hazen-Williams.

All functions work on numpy arrays that broadcast together, and on plain floats.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from sizing.base.errors import OutOfRange, check_each, check_range
from sizing.base.water import GRAVITY_M_S2

Array = NDArray[np.float64]

LAMINAR_BELOW = 2000.0  # Reynolds number; laminar flow for certain below (Hagen-Poiseuille)
TURBULENT_FROM = 4000.0  # Reynolds number from which Colebrook's equation was fitted
# Colebrook is C1 and concave in 1/sqrt(f): Newton from a good start doubles its digits every step.
_NEWTON_STEPS = 3


@dataclass(frozen=True)
class Validity:
    """Where a friction method holds: a pipe, water and speed outside it carry a warning."""

    method: str
    label: str
    temperature_c: tuple[float, float]
    inside_diameter_m: tuple[float, float]
    velocity_m_s: tuple[float, float]
    source: str


VALIDITY = {
    "darcy_weisbach": Validity(
        method="darcy_weisbach",
        label="Darcy-Weisbach with Colebrook",
        temperature_c=(0.0, 99.9),
        inside_diameter_m=(0.002, 3.0),
        velocity_m_s=(0.0, 12.0),
        source="Colebrook 1939; Moody 1944",
    ),
    "hazen_williams": Validity(
        method="hazen_williams",
        label="Hazen-Williams",
        temperature_c=(4.0, 30.0),
        inside_diameter_m=(0.05, 2.0),
        velocity_m_s=(0.3, 3.0),
        source="Williams and Hazen 1905; customary range of use",
    ),
}


_DIAMETERS_M = (1e-4, 20.0)
_LONGEST_M = 1e6
_ROUGHEST = 0.25  # of the bore: beyond it there is no pipe left


def velocity_m_s(flow_m3s: ArrayLike, inside_diameter_m: ArrayLike) -> Array:
    """Mean velocity [m/s] = flow / (pi d2 / 4).

    Raises
    ------
    OutOfRange
        A diameter that no pipe has.
    """
    check_each("inside diameter", inside_diameter_m, *_DIAMETERS_M, "m")
    return np.asarray(
        np.asarray(flow_m3s, dtype=float)
        / (np.pi / 4.0 * np.square(np.asarray(inside_diameter_m, dtype=float)))
    )


def reynolds(
    velocity_m_s: ArrayLike, inside_diameter_m: ArrayLike, kinematic_viscosity_m2_s: float
) -> Array:
    """Reynolds number v d / nu; raises OutOfRange for a viscosity that no water has."""
    check_range("kinematic viscosity", kinematic_viscosity_m2_s, 1e-8, 1e-1, "m²/s")
    return np.asarray(
        np.asarray(velocity_m_s, dtype=float) * inside_diameter_m / kinematic_viscosity_m2_s
    )


def colebrook(reynolds_number: ArrayLike, relative_roughness: ArrayLike) -> Array:
    """Darcy friction factor of turbulent flow, Colebrook's equation solved to machine precision.

    ``1/sqrt(f) = -2 log10(roughness/(3.7 d) + 2.51/(Re sqrt(f)))`` (Colebrook 1939), started from
    Haaland's explicit form (1983) and refined by Newton's method on 1/sqrt(f).
    """
    re = np.asarray(reynolds_number, dtype=float)
    rough = np.asarray(relative_roughness, dtype=float) / 3.7
    smooth = 2.51 / re
    x = -1.8 * np.log10(np.power(rough, 1.11) + 6.9 / re)
    for _ in range(_NEWTON_STEPS):
        inside = rough + smooth * x
        x = x - (x + 2.0 * np.log10(inside)) / (1.0 + (2.0 / np.log(10.0)) * smooth / inside)
    return np.asarray(1.0 / np.square(x))


def darcy_friction_factor(reynolds_number: ArrayLike, relative_roughness: ArrayLike) -> Array:
    """Darcy friction factor at any Reynolds number above 0.

    64/Re below 2000; Colebrook from 4000. Between them no law holds: a smooth step from one to the
    other keeps the head loss and its slope free of jumps, so a pump never hangs on a step that
    nature does not have. Reynolds numbers of zero are treated as the smallest that matters.

    Raises
    ------
    OutOfRange
        A roughness of more than a quarter of the bore.
    """
    check_each("relative roughness", relative_roughness, 0.0, _ROUGHEST, "")
    re = np.maximum(np.asarray(reynolds_number, dtype=float), 1e-6)
    laminar = 64.0 / re
    turbulent = colebrook(np.maximum(re, LAMINAR_BELOW), relative_roughness)
    along = np.clip((re - LAMINAR_BELOW) / (TURBULENT_FROM - LAMINAR_BELOW), 0.0, 1.0)
    share = along * along * (3.0 - 2.0 * along)
    return np.asarray(laminar + share * (turbulent - laminar))


def darcy_weisbach_m(
    flow_m3s: ArrayLike,
    inside_diameter_m: ArrayLike,
    length_m: ArrayLike,
    roughness_m: ArrayLike,
    kinematic_viscosity_m2_s: float,
) -> Array:
    """Friction head [m] = f L/d v2/2g (Darcy-Weisbach).

    Raises
    ------
    OutOfRange
        A length, diameter, roughness or viscosity that no pipe and no water has.
    """
    check_each("length", length_m, 0.0, _LONGEST_M, "m")
    velocity = velocity_m_s(flow_m3s, inside_diameter_m)
    factor = darcy_friction_factor(
        reynolds(velocity, inside_diameter_m, kinematic_viscosity_m2_s),
        np.asarray(roughness_m) / np.asarray(inside_diameter_m),
    )
    return np.asarray(factor * np.asarray(length_m) / inside_diameter_m * velocity_head_m(velocity))


def velocity_head_m(velocity_m_s: ArrayLike) -> Array:
    """Velocity head [m] = v2 / 2g."""
    return np.asarray(np.square(np.asarray(velocity_m_s, dtype=float)) / (2.0 * GRAVITY_M_S2))


def hazen_williams_m(
    flow_m3s: ArrayLike,
    inside_diameter_m: ArrayLike,
    length_m: ArrayLike,
    hazen_williams_c: ArrayLike,
) -> Array:
    """Friction head [m] = 10.67 L Q^1.852 / (C^1.852 d^4.8704), SI form of Hazen-Williams.

    Empirical for cold water in turbulent flow; see :data:`VALIDITY`.

    Raises
    ------
    OutOfRange
        A coefficient outside 20 to 170, a length or diameter that no pipe has.
    """
    check_each("length", length_m, 0.0, _LONGEST_M, "m")
    check_each("inside diameter", inside_diameter_m, *_DIAMETERS_M, "m")
    c = np.asarray(hazen_williams_c, dtype=float)
    if not np.all((c >= 20.0) & (c <= 170.0)):
        raise OutOfRange("Hazen-Williams C", float(c.flat[0]), 20.0, 170.0, "")
    return np.asarray(
        10.67
        * np.asarray(length_m)
        * np.power(np.asarray(flow_m3s) / c, 1.852)
        / np.power(inside_diameter_m, 4.8704)
    )
