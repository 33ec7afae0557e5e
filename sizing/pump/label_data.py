"""A pump known by a few figures on its box: a curve of its family's usual shape through them.

    H = H0 (1 - (Q / Q0)^n)

with the highest head H0, the open flow Q0 and the exponent n, which each family has within bounds
(``data/curve_shapes.csv``). What comes out is rough and is said to be.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
import scipy

from sizing.base import numbers, tables, units
from sizing.base.errors import SizingError
from sizing.base.quantity import Quantity
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3, PumpCurve

FEWEST, MOST = 2, 12
_STEPS = 13
_SHAPE_WEIGHT = 0.02  # how far the figures may pull the shape from its family's
_BOX_SHARE = 0.05  # boxes round in their own favour
_ALIKE = 1e-3
_BETWEEN = re.compile(r"(?<![a-z])(?:at|bei|with)(?![a-z])|[@:=|]", re.IGNORECASE)
_CUBED = re.compile(r"(?<=[a-z])3(?!\d)", re.IGNORECASE)  # the 3 of m3/h is no figure
_PART = re.compile(rf"(?P<number>{numbers.TOKEN})\s*(?P<unit>[^\d]*)", re.ASCII)
_PA_PER_M = REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2


@dataclass(frozen=True)
class Shape:
    """The exponent of a family: the least, the usual, the most."""

    low: float
    usual: float
    high: float


@dataclass(frozen=True)
class RoughCurve:
    """The likeliest curve and the two that bound it; heads [m] at common ``flows_m3s``."""

    curve: PumpCurve
    flows_m3s: tuple[float, ...]
    low_m: tuple[float, ...]
    high_m: tuple[float, ...]


Point = tuple[float, float]  # flow [m3/s], head [m]
Printed = tuple[Quantity, Quantity]  # a flow, and a head or a pressure


@lru_cache
def shapes() -> dict[str, Shape]:
    """The shape of every family."""
    return {
        row["family"]: Shape(float(row["low"]), float(row["usual"]), float(row["high"]))
        for row in tables.rows("curve_shapes")
    }


def read_points(text: str, flow_unit: str, head_unit: str) -> tuple[Printed, ...]:
    """Points as printed on a box: '6 ft 2450 gph, 12 ft 1300', in any order and unit.

    Parameters
    ----------
    text : points parted by commas, semicolons or lines, each a flow and a head or a pressure.
    flow_unit, head_unit : of bare numbers, until a point names its own; then that one goes on.

    Returns
    -------
    The flow and the head of each, in the units they came in.

    Raises
    ------
    SizingError
        A point that is not a flow and a head.
    """
    found: list[Printed] = []
    order = ("head", "flow")
    known = {"flow": flow_unit, "head": head_unit}
    for part in re.split(r"[;\n]+|,(?!\d{3}(?!\d))\s*", text):
        if not part.strip():
            continue
        plain = _CUBED.sub("³", _BETWEEN.sub(" ", numbers.plainly(part)))
        pieces = list(_PART.finditer(plain))
        if len(pieces) != 2:
            raise SizingError(
                f"'{part.strip()}' is not a flow and a head; write each point like 6 ft 2450 gph"
            )
        roles = [_role(piece["unit"].strip()) for piece in pieces]
        order = _order(roles, order, part)
        amounts = {}
        for role, piece in zip(order, pieces, strict=True):
            unit = piece["unit"].strip() or known[role]
            known[role] = unit
            amounts[role] = _amount(piece["number"], unit, role, part)
        found.append((amounts["flow"], amounts["head"]))
    return tuple(found)


def _role(unit: str) -> str:
    if not unit:
        return ""
    if units.find(unit, "flow"):
        return "flow"
    if units.find(unit, "length") or units.find(unit, "pressure"):
        return "head"
    raise SizingError(f"'{unit}' is neither a unit of flow nor of head; write gph, l/min, ft, m")


def _order(roles: list[str], before: tuple[str, str], part: str) -> tuple[str, str]:
    """Which of two figures is the head: by their units, else as in the point before."""
    if roles[0] and roles[0] == roles[1]:
        raise SizingError(f"'{part.strip()}' gives two of the same; a point is a flow and a head")
    if "flow" in roles:
        return ("flow", "head") if roles[0] == "flow" else ("head", "flow")
    if "head" in roles:
        return ("head", "flow") if roles[0] == "head" else ("flow", "head")
    return before


def head_m(value: float, unit: str) -> float:
    """A head or a pressure as printed, as a head of water [m]."""
    if pressure := units.find(unit, "pressure"):
        return pressure.to_si(value) / _PA_PER_M
    return units.unit(unit, "length").to_si(value)


def _amount(number: str, unit: str, role: str, part: str) -> Quantity:
    value = numbers.number(number.strip())
    if value is None:
        raise SizingError(f"'{part.strip()}' holds a number that can be read in two ways")
    ways = ("flow",) if role == "flow" else ("length", "pressure")
    found = next(known for way in ways if (known := units.find(unit, way)))
    return Quantity(value, found, part.strip())


def rough_curve(points: Sequence[Point], family: str) -> RoughCurve:
    """The curve of a family's usual shape through a few points, with its bounds.

    Parameters
    ----------
    points : flow [m3/s] and head [m]; (flow, 0) is the open flow, (0, head) the highest head.

    Raises
    ------
    SizingError
        Fewer than two points apart from one another, or heads that do not fall as flows rise.
    """
    if family not in shapes():
        raise SizingError("choose the family of the pump from the list")
    given = sorted(set(points))
    if not FEWEST <= len(given) <= MOST:
        raise SizingError("two figures at least are needed: the open flow and the highest head")
    if any(flow < 0 or head < 0 for flow, head in given):
        raise SizingError("neither a flow nor a head can be less than nothing")
    for (q1, h1), (q2, h2) in pairwise(given):
        if h2 >= h1 or q2 - q1 <= _ALIKE * given[-1][0]:
            raise SizingError("the head has to fall as the flow rises; look at the points again")
    shape = shapes()[family]
    flows, heads = np.array(given).T
    likely = _fitted(flows, heads, shape.usual, free=True)
    along = np.linspace(0.0, likely[1], _STEPS)
    lowest = _heads(along, *_fitted(flows, heads, shape.low, free=False))
    highest = _heads(along, *_fitted(flows, heads, shape.high, free=False))
    curve = PumpCurve(tuple(along.tolist()), tuple(_heads(along, *likely).tolist()))
    middle = np.array(curve.heads_m)
    return RoughCurve(
        curve,
        curve.flows_m3s,
        tuple((np.minimum.reduce([lowest, highest, middle]) * (1 - _BOX_SHARE)).tolist()),
        tuple((np.maximum.reduce([lowest, highest, middle]) * (1 + _BOX_SHARE)).tolist()),
    )


def _heads(flows: Array, highest_m: float, open_m3s: float, exponent: float) -> Array:
    share = np.minimum(flows / open_m3s, 1.0)
    return np.asarray(highest_m * (1.0 - share**exponent))


def _fitted(flows: Array, heads: Array, exponent: float, *, free: bool) -> tuple[float, ...]:
    """Highest head, open flow and exponent of least squares; ``free``: the exponent may move."""
    start = [1.05 * float(heads.max()) or 1.0, 1.05 * float(flows.max()) or 1.0]

    def gaps(logs: Array) -> Array:
        highest, most = np.exp(logs[:2])
        n = float(logs[2]) if free else exponent
        off = (highest * (1.0 - (flows / most) ** n) - heads) / heads.max()
        return np.append(off, _SHAPE_WEIGHT * (n - exponent) / exponent)

    first = [*np.log(start), *([exponent] if free else [])]
    low = [-np.inf, np.log(float(flows.max()) * 0.999), *([0.6] if free else [])]
    high = [np.inf, np.inf, *([4.0] if free else [])]
    found = scipy.optimize.least_squares(gaps, first, bounds=(low, high), xtol=1e-12, ftol=1e-12).x
    return float(np.exp(found[0])), float(np.exp(found[1])), float(found[2]) if free else exponent
