"""Rain on surfaces: the rational method."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range


@dataclass(frozen=True)
class Surface:
    """A catchment: the share of its rain that runs off (0 to 1) and its area in plan."""

    runoff_coefficient: float
    area_m2: float


@dataclass(frozen=True)
class Rational:
    flow_m3s: float
    mean_runoff_coefficient: float
    total_area_m2: float


def rational(rain_m_s: float, surfaces: Sequence[Surface]) -> Rational:
    """Peak flow [m3/s] = sum(C A) x rain intensity (rational method, Kuichling 1889).

    Holds for small catchments, where the rain lasts longer than the water takes to arrive.

    Raises
    ------
    SizingError
        No surface, a coefficient outside 0 to 1, an area or a rain that is negative.
    """
    if not surfaces:
        raise SizingError("name at least one surface that the rain falls on")
    check_range("rain", rain_m_s, 0.0, 1e-3, "m/s")
    for surface in surfaces:
        check_range("runoff coefficient", surface.runoff_coefficient, 0.0, 1.0, "")
        check_range("area", surface.area_m2, 0.0, 1e8, "m²")
    total = sum(surface.area_m2 for surface in surfaces)
    shed = sum(surface.runoff_coefficient * surface.area_m2 for surface in surfaces)
    return Rational(shed * rain_m_s, shed / total if total else 0.0, total)
