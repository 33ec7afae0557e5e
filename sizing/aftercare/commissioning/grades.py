"""How far a pump may lie beside its printed curve: tolerances of ISO 9906:2012, by grade."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sizing.base.errors import UnknownName
from sizing.hydraulics.friction import Array
from sizing.pump.curve import PumpCurve

_POINTS = 40


@dataclass(frozen=True)
class Grade:
    """The shares by which flow and head of a point may lie beside the curve."""

    code: str
    flow: float
    head: float


# ISO 9906:2012, table 8: both ways, on the flow and on the head of the point that is promised.
GRADES = {
    one.code: one
    for one in (
        Grade("1B", 0.05, 0.03),
        Grade("2B", 0.08, 0.05),
        Grade("3B", 0.09, 0.07),
    )
}
USUAL = "2B"  # what a maker's catalogue curve is taken for, where it names none


def grade(code: str) -> Grade:
    """A grade by its code.

    Raises
    ------
    UnknownName
    """
    if code not in GRADES:
        raise UnknownName("grade of ISO 9906", code, GRADES)
    return GRADES[code]


def band(curve: PumpCurve, of: Grade) -> tuple[Array, Array, Array, Array]:
    """The band within which a pump is as promised: flows and heads of its low and high edge."""
    flows = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, _POINTS)
    heads = curve.head_m(flows)
    return (
        flows * (1.0 - of.flow),
        heads * (1.0 - of.head),
        flows * (1.0 + of.flow),
        heads * (1.0 + of.head),
    )
