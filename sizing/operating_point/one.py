"""Where a pump's curve meets the system's: solved, with several crossings and none told apart."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from sizing.base.errors import SizingError
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.curve import PumpCurve

Status = Literal["operates", "off_end", "cannot_lift"]
_STEPS_PER_PIECE = 12
_FLOW_TOLERANCE = 1e-12  # of the curve's last flow
_TOUCHING_M = 1e-9


@dataclass(frozen=True)
class Crossing:
    """A flow of equal pump and system head; stable where the pump's head falls through it."""

    flow_m3s: float
    head_m: float
    stable: bool


@dataclass(frozen=True)
class OperatingPoint:
    """How a pump runs on a system; ``point`` is the stable crossing of greatest flow, if any."""

    status: Status
    crossings: tuple[Crossing, ...]
    shutoff_margin_m: float
    end_margin_m: float

    @property
    def point(self) -> Crossing | None:
        """The stable crossing of greatest flow, or None."""
        stable = [crossing for crossing in self.crossings if crossing.stable]
        return stable[-1] if stable else None


def operating_point(curve: PumpCurve, system: SystemCurve) -> OperatingPoint:
    """Every crossing of a pump's curve with the system's, to 1e-6 of the flow and better.

    Returns
    -------
    OperatingPoint
        'operates' when there is a stable crossing; else 'off_end' when the pump's head is above
        the system's at the end of its curve, and 'cannot_lift' when it is below all along.
        ``shutoff_margin_m`` is pump head less system head at no flow (at the curve's first point).
    """

    def excess_m(flow_m3s: Array) -> Array:
        return curve.head_m(flow_m3s) - system.head_m(flow_m3s)

    flows = _grid(curve)
    excess = excess_m(flows)
    flows, excess = _with_turning_points(excess_m, flows, excess)
    crossings = tuple(_crossings(excess_m, flows, excess, system))
    status: Status = "cannot_lift"
    if any(crossing.stable for crossing in crossings):
        status = "operates"
    elif excess[-1] > 0:
        status = "off_end"
    return OperatingPoint(status, crossings, float(excess[0]), float(excess[-1]))


def _grid(curve: PumpCurve) -> Array:
    """Flows dense enough that between two of them the excess head turns at most once."""
    nodes = np.asarray(curve.flows_m3s)
    pieces = [
        np.linspace(a, b, _STEPS_PER_PIECE, endpoint=False) for a, b in itertools.pairwise(nodes)
    ]
    return np.concatenate([*pieces, nodes[-1:]])


def _with_turning_points(
    excess_m: Callable[[Array], Array], flows: Array, excess: Array
) -> tuple[Array, Array]:
    """Add the place where the excess almost touches zero between two grid flows.

    Only where it crosses there.
    """
    middle = excess[1:-1]
    peak = (middle < 0) & (middle >= excess[:-2]) & (middle >= excess[2:])
    dip = (middle > 0) & (middle <= excess[:-2]) & (middle <= excess[2:])
    for index in np.flatnonzero(peak | dip) + 1:
        sign = -1.0 if excess[index] < 0 else 1.0
        found = scipy.optimize.minimize_scalar(
            lambda flow, sign=sign: sign * float(excess_m(np.asarray(flow))),
            bounds=(flows[index - 1], flows[index + 1]),
            method="bounded",
            options={"xatol": _FLOW_TOLERANCE * flows[-1]},
        )
        if found.fun < -_TOUCHING_M:
            at = np.searchsorted(flows, found.x)
            flows, excess = np.insert(flows, at, found.x), np.insert(excess, at, sign * found.fun)
    return flows, excess


def _crossings(
    excess_m: Callable[[Array], Array], flows: Array, excess: Array, system: SystemCurve
) -> list[Crossing]:
    found = []
    above = excess > 0
    for index in np.flatnonzero(above[:-1] != above[1:]):
        flow = scipy.optimize.brentq(
            lambda q: float(excess_m(np.asarray(q))),
            flows[index],
            flows[index + 1],
            xtol=_FLOW_TOLERANCE * flows[-1],
        )
        found.append(Crossing(float(flow), system.head_at(float(flow)), bool(above[index])))
    return found


def speed_for_flow(curve: PumpCurve, system: SystemCurve, wanted_flow_m3s: float) -> float | None:
    """Speed ratio at which the pump delivers exactly the wanted flow, by the affinity laws.

    Solves ``n2 H(Q/n) = system head(Q)`` for n; may be above 1. None when the curve, at whatever
    speed, ends before it (it would run off its end).

    Raises
    ------
    SizingError
        When the wanted flow is not above zero.
    """
    if not wanted_flow_m3s > 0:
        raise SizingError(f"the wanted flow is {wanted_flow_m3s:g} m³/s; it must be above zero")
    head_m = system.head_at(wanted_flow_m3s)
    slowest = wanted_flow_m3s / curve.last_flow_m3s * (1 + 1e-12)

    def excess_m(ratio: float) -> float:
        return (
            ratio**2 * float(curve.head_m(max(wanted_flow_m3s / ratio, curve.flows_m3s[0])))
            - head_m
        )

    if excess_m(slowest) > 0:
        return None
    fastest = slowest
    while excess_m(fastest) <= 0:
        fastest *= 1.5
        if fastest > 1e3 * slowest or wanted_flow_m3s / fastest < curve.flows_m3s[0]:
            return None
    return float(scipy.optimize.brentq(excess_m, slowest, fastest, xtol=1e-12))
