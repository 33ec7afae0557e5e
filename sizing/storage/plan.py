"""The plan of a pit with upright walls."""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import UnknownName, check_range


@dataclass(frozen=True)
class Plan:
    """A round pit (``diameter_m``) or a rectangular one (``length_m`` by ``width_m``)."""

    diameter_m: float | None = None
    length_m: float | None = None
    width_m: float | None = None

    def __post_init__(self) -> None:
        if self.diameter_m is not None:
            check_range("diameter", self.diameter_m, 1e-3, 100.0, "m")
        else:
            check_range("length", self.length_m or 0.0, 1e-3, 1000.0, "m")
            check_range("width", self.width_m or 0.0, 1e-3, 1000.0, "m")

    @property
    def area_m2(self) -> float:
        """Area in plan [m2]."""
        if self.diameter_m is not None:
            return math.pi / 4.0 * self.diameter_m**2
        assert self.length_m is not None
        assert self.width_m is not None
        return self.length_m * self.width_m

    @property
    def narrowest_m(self) -> float:
        """The widest round thing that still goes in [m]."""
        return min(
            side for side in (self.diameter_m, self.length_m, self.width_m) if side is not None
        )


def plan(
    shape: str,
    *,
    diameter_m: float | None = None,
    length_m: float | None = None,
    width_m: float | None = None,
) -> Plan:
    """The plan of a shape named 'round' or 'rectangular'; sizes that do not apply are left aside.

    Raises
    ------
    SizingError
        A shape that is neither, or a size missing or out of range.
    """
    if shape == "round":
        return Plan(diameter_m=diameter_m or 0.0)
    if shape == "rectangular":
        return Plan(length_m=length_m, width_m=width_m)
    raise UnknownName("shape of pit", shape, ("round", "rectangular"))
