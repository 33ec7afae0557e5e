"""Head, power and NPSH of a pump over its flow, through the maker's own points only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np
import scipy
from numpy.typing import ArrayLike

from sizing.base.errors import OutOfRange, SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array

Arrangement = Literal["single", "parallel", "series"]
FEWEST_POINTS = 2  # a straight line; a catalogue asks for more
REFERENCE_DENSITY_KG_M3 = 998.2  # makers give power for cold water, 20 degC


class CurveError(SizingError):
    """Points that make no curve."""


def _column(name: str, values: Sequence[float] | None, count: int) -> tuple[float, ...] | None:
    if values is None:
        return None
    if len(values) != count:
        raise CurveError(f"the curve has {count} flows and {len(values)} values of {name}")
    if not all(map(math.isfinite, values)) or min(values) < 0:
        raise CurveError(f"{name} holds a value that is negative or no number")
    return tuple(float(value) for value in values)


@dataclass(frozen=True)
class PumpCurve:
    """One curve: flows [m3/s] rising, heads [m], optional input power [W] and NPSH required [m].

    Between the points: monotone piecewise cubic (PCHIP, Fritsch and Butland 1984), so it never
    swings beyond them. Outside the first and last flow it says nothing.

    Raises
    ------
    CurveError
        Fewer than two points, flows that do not rise, columns of different length.
    """

    flows_m3s: tuple[float, ...]
    heads_m: tuple[float, ...]
    powers_w: tuple[float, ...] | None = None
    npsh_required_m: tuple[float, ...] | None = None

    def __post_init__(self) -> None:
        count = len(self.flows_m3s)
        if count < FEWEST_POINTS:
            raise CurveError(f"a curve needs at least {FEWEST_POINTS} points; this has {count}")
        for name in ("flows_m3s", "heads_m", "powers_w", "npsh_required_m"):
            object.__setattr__(self, name, _column(name.split("_")[0], getattr(self, name), count))
        if any(later <= earlier for earlier, later in pairwise(self.flows_m3s)):
            raise CurveError("the flows of a curve must rise from point to point")

    @property
    def last_flow_m3s(self) -> float:
        """Flow at the last point [m3/s]."""
        return self.flows_m3s[-1]

    @property
    def shut_off_head_m(self) -> float:
        """Head [m] at the first point (no flow, for a complete curve)."""
        return self.heads_m[0]

    @property
    def highest_head_m(self) -> float:
        """The most head of any point [m]: a drooping curve has it beside no flow."""
        return max(self.heads_m)

    def covers(self, flow_m3s: float) -> bool:
        """Whether the flow lies from the first to the last point."""
        return self.flows_m3s[0] <= flow_m3s <= self.flows_m3s[-1]

    @cached_property
    def _head(self) -> scipy.interpolate.PchipInterpolator:
        return scipy.interpolate.PchipInterpolator(self.flows_m3s, self.heads_m, extrapolate=False)

    def head_m(self, flow_m3s: ArrayLike) -> Array:
        """Head [m] at flows [m3/s]; NaN outside the curve."""
        return np.asarray(self._head(np.asarray(flow_m3s, dtype=float)))

    def head_at(self, flow_m3s: float) -> float:
        """Head [m] at one flow.

        Raises
        ------
        OutOfRange
            Outside the maker's points.
        """
        check_range("flow", flow_m3s, self.flows_m3s[0], self.flows_m3s[-1], "m³/s")
        return float(self.head_m(flow_m3s))

    @cached_property
    def _power(self) -> scipy.interpolate.PchipInterpolator | None:
        return (
            None
            if self.powers_w is None
            else scipy.interpolate.PchipInterpolator(self.flows_m3s, self.powers_w)
        )

    @cached_property
    def _npsh(self) -> scipy.interpolate.PchipInterpolator | None:
        return (
            None
            if self.npsh_required_m is None
            else scipy.interpolate.PchipInterpolator(self.flows_m3s, self.npsh_required_m)
        )

    def power_at(self, flow_m3s: float) -> float | None:
        """Input power [W] at one flow; None where the maker gives none."""
        return (
            None
            if self._power is None or not self.covers(flow_m3s)
            else float(self._power(flow_m3s))
        )

    def powers_at(self, flow_m3s: ArrayLike) -> Array:
        """Input power [W] at many flows within the curve; NaN where the maker gives none."""
        flows = np.asarray(flow_m3s, dtype=float)
        return (
            np.full_like(flows, np.nan) if self._power is None else np.asarray(self._power(flows))
        )

    def npsh_required_at(self, flow_m3s: float) -> float | None:
        """NPSH required [m] at one flow; None where the maker gives none."""
        return (
            None if self._npsh is None or not self.covers(flow_m3s) else float(self._npsh(flow_m3s))
        )

    def efficiency_at(self, flow_m3s: float) -> float | None:
        """Water power over input power at one flow, 0 to 1; None where the maker gives no power."""
        power_w = self.power_at(flow_m3s)
        if not power_w:
            return None
        return REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2 * flow_m3s * self.head_at(flow_m3s) / power_w

    @cached_property
    def best_flow_m3s(self) -> float:
        """Flow of best efficiency [m3/s].

        Without power, of most water power (near it for small pumps).
        """
        flows = np.linspace(self.flows_m3s[0], self.flows_m3s[-1], 201)
        useful = flows * self.head_m(flows)
        if self._power is not None:
            powers = np.asarray(self._power(flows))
            useful = np.divide(useful, powers, out=np.zeros_like(useful), where=powers > 0)
        return float(flows[int(np.argmax(useful))])

    def scaled(self, flow: float, head: float, power: float) -> PumpCurve:
        """The curve with flows, heads and powers multiplied.

        PCHIP commutes with that, so it is exact.
        """
        # NPSH required is kept: it goes down with speed, but by less than the affinity law says.
        powers = None if self.powers_w is None else tuple(value * power for value in self.powers_w)
        return PumpCurve(
            tuple(q * flow for q in self.flows_m3s),
            tuple(h * head for h in self.heads_m),
            powers,
            self.npsh_required_m,
        )


def at_speed(curve: PumpCurve, speed_ratio: float) -> PumpCurve:
    """The curve at another speed by the affinity laws: Q ~ n, H ~ n2, P ~ n3.

    Raises
    ------
    OutOfRange
        A ratio outside 0.05 to 3, where nobody should trust the laws.
    """
    if not 0.05 <= speed_ratio <= 3.0:
        raise OutOfRange("speed ratio", speed_ratio, 0.05, 3.0, "")
    return curve.scaled(speed_ratio, speed_ratio**2, speed_ratio**3)


def arranged(curve: PumpCurve, arrangement: Arrangement, count: int) -> PumpCurve:
    """Several identical pumps as one curve: parallel adds flows, series adds heads.

    Power adds in both.

    Raises
    ------
    SizingError
        Fewer than one pump, or an arrangement that is none of the three.
    """
    check_range("number of pumps", count, 1, 100, "")
    flow, head = times(arrangement, count)
    return curve if arrangement == "single" else curve.scaled(flow, head, count)


def one_of(curve: PumpCurve, arrangement: Arrangement, count: int) -> PumpCurve:
    """The curve of one pump from that of several: the inverse of :func:`arranged`."""
    if arrangement == "single":
        return curve
    flow, head = times(arrangement, count)
    return curve.scaled(1.0 / flow, 1.0 / head, 1.0 / count)


def times(arrangement: Arrangement, count: int) -> tuple[float, float]:
    """By what flows and heads of one pump are multiplied in an arrangement.

    Raises
    ------
    SizingError
        An arrangement that is none of the three.
    """
    if arrangement == "single":
        return 1.0, 1.0
    if arrangement == "parallel":
        return float(count), 1.0
    if arrangement == "series":
        return 1.0, float(count)
    raise SizingError(f"'{arrangement}' is no arrangement: single, parallel or series")
