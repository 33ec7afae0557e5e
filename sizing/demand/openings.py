"""Flows through openings: a weir's sheet of water, orifices of a network, jets of a tub."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2


@dataclass(frozen=True)
class Weir:
    flow_m3s: float
    head_m: float
    flow_per_width_m2s: float


def weir(
    crest_width_m: float,
    weir_constant_m05_s: float,
    *,
    head_m: float | None = None,
    flow_m3s: float | None = None,
    flow_per_width_m2s: float | None = None,
) -> Weir:
    """Sharp-crested weir over the full width, Q = C b H^1.5, from whichever is known.

    Francis; C is about 1.84 m^0.5/s.

    ``flow_per_width_m2s`` is the trade's rule, so much flow for each unit of width; the head is
    then the equation's for that flow. No end contractions, no velocity of approach.

    Raises
    ------
    SizingError
        Not exactly one of the three, or a figure that cannot be.
    """
    check_range("width of the crest", crest_width_m, 1e-3, 1e3, "m")
    check_range("weir constant", weir_constant_m05_s, 0.5, 3.0, "m^0.5/s")
    if [head_m, flow_m3s, flow_per_width_m2s].count(None) != 2:
        raise SizingError("name one of head, flow and flow per width")
    per_head = weir_constant_m05_s * crest_width_m
    if head_m is not None:
        check_range("head over the weir", head_m, 0.0, 10.0, "m")
        flow = per_head * head_m**1.5
    else:
        flow = flow_m3s if flow_m3s is not None else (flow_per_width_m2s or 0.0) * crest_width_m
        check_range("flow over the weir", flow, 0.0, 1e3, "m³/s")
    return Weir(flow, math.pow(flow / per_head, 2.0 / 3.0), flow / crest_width_m)


@dataclass(frozen=True)
class Orifice:
    """So many equal holes with free discharge; ``head_m`` over the hole's centre."""

    count: int
    diameter_m: float
    head_m: float
    coefficient: float = 0.6


def orifices_m3s(orifices: Sequence[Orifice]) -> float:
    """Flow [m3/s] = sum of n C (pi/4) d2 sqrt(2 g h) (Torricelli with a discharge coefficient).

    Raises
    ------
    OutOfRange
        A hole, head or coefficient that cannot be.
    """
    total = 0.0
    for one in orifices:
        check_range("number of orifices", one.count, 0, 1e6, "")
        check_range("diameter of an orifice", one.diameter_m, 1e-5, 2.0, "m")
        check_range("head on an orifice", one.head_m, 0.0, 1e3, "m")
        check_range("discharge coefficient", one.coefficient, 0.1, 1.0, "")
        total += (
            one.count
            * one.coefficient
            * math.pi
            / 4
            * one.diameter_m**2
            * math.sqrt(2 * GRAVITY_M_S2 * one.head_m)
        )
    return total


def rated_outlet_m3s(rated_flow_m3s: float, rated_head_m: float, head_m: float) -> float:
    """Flow [m3/s] of a turbulent emitter or spray head off its rating.

    Rated x sqrt(head / rated head) (Torricelli).

    Raises
    ------
    OutOfRange
        A flow or head that cannot be.
    """
    check_range("rated flow", rated_flow_m3s, 0.0, 1.0, "m³/s")
    check_range("rated head", rated_head_m, 1e-3, 1e3, "m")
    check_range("head on an outlet", head_m, 0.0, 1e3, "m")
    return rated_flow_m3s * math.sqrt(head_m / rated_head_m)


_NOZZLE = 0.95  # discharge coefficient of a smooth conical nozzle (Torricelli with a small loss)


def nozzle_m3s(bore_m: float, head_m: float) -> float:
    """Flow [m3/s] of a smooth nozzle by the head at it: 0.95 (pi/4) d2 sqrt(2 g H).

    Raises
    ------
    OutOfRange
        A bore or head that cannot be.
    """
    return orifices_m3s([Orifice(1, bore_m, head_m, _NOZZLE)])


@dataclass(frozen=True)
class Jets:
    total_flow_m3s: float
    flow_per_pump_m3s: float


def jets(counted: Sequence[tuple[int, float]], pump_count: int) -> Jets:
    """Jets by (count, flow each [m3/s]), all running, shared equally among the pumps.

    Raises
    ------
    OutOfRange
        No pump, or a negative count or flow.
    """
    check_range("number of pumps", pump_count, 1, 100, "")
    for count, flow in counted:
        check_range("number of jets", count, 0, 1e4, "")
        check_range("flow of a jet", flow, 0.0, 1.0, "m³/s")
    total = sum(count * flow for count, flow in counted)
    return Jets(total, total / pump_count)
