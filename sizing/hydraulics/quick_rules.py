"""The trade's quick rules for head, which know neither flow nor bore: stated here once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sizing.base.rules import Rules
from sizing.hydraulics.system_curve import SystemCurve

_ELBOWS_90 = (
    "elbow_90_glued",
    "elbow_90_std_threaded",
    "elbow_90_long_threaded",
    "elbow_90_street",
)
_ELBOW_45 = "elbow_45"


@dataclass(frozen=True)
class QuickHead:
    """A head by a quick rule [m], with what it is the sum of."""

    static_m: float
    elbows_90: int
    elbows_45: int
    flat_m: float
    loss_m: float

    @property
    def head_m(self) -> float:
        """Static head and loss together [m]."""
        return self.static_m + self.loss_m


def aquarium_rule(system: SystemCurve, fittings: Mapping[str, int], rules: Rules) -> QuickHead:
    """So much for each elbow, and a share of the run that does not climb (AQU-05 to AQU-07).

    Parameters
    ----------
    fittings : how many there are of each, by id.
    """
    static = system.static_head_m
    right = sum(fittings.get(code, 0) for code in _ELBOWS_90)
    half = sum(count for code, count in fittings.items() if code.startswith(_ELBOW_45))
    flat = max(system.route.length_m - max(static, 0.0), 0.0)
    loss = right * rules.value("AQU-05") + half * rules.value("AQU-06")
    return QuickHead(static, right, half, flat, loss + flat * rules.value("AQU-07"))


def pond_rule(system: SystemCurve, rules: Rules) -> QuickHead:
    """A share of the whole length of the tubing (PND-01)."""
    length = system.route.length_m
    return QuickHead(system.static_head_m, 0, 0, length, length * rules.value("PND-01"))
