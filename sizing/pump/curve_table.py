"""The curves of a whole catalogue as arrays, so that one sweep answers for all pumps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sizing.hydraulics.friction import Array
from sizing.pump.curve import PumpCurve

Indices = NDArray[np.intp]


@dataclass(frozen=True)
class CurveTable:
    """N curves, their M points one curve after the other.

    Flows, heads and PCHIP slopes of shape (M,).

    ``starts`` says at which point each curve begins, ``last`` how many points further on it ends,
    shape (N,). One curve of sixty points does not make the others any longer, and some rows of a
    table are no copy.
    """

    flows_m3s: Array
    heads_m: Array
    slopes: Array
    starts: Indices
    last: Indices
    droops: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.last)

    def rows(self, which: Indices | slice) -> CurveTable:
        """The same points with only some of the curves."""
        return CurveTable(
            flows_m3s=self.flows_m3s,
            heads_m=self.heads_m,
            slopes=self.slopes,
            starts=self.starts[which],
            last=self.last[which],
            droops=self.droops[which],
        )

    @property
    def first_flow_m3s(self) -> Array:
        """Flow at the first point of every curve."""
        return np.asarray(self.flows_m3s[self.starts])

    @property
    def last_flow_m3s(self) -> Array:
        """Flow at the last point of every curve."""
        return np.asarray(self.flows_m3s[self.starts + self.last])

    def padded(self, values: Array) -> Array:
        """Values of the points as one row a curve, filled up with its last value."""
        width = int(self.last.max(initial=0)) + 1
        return np.asarray(
            values[self.starts[:, None] + np.minimum(np.arange(width), self.last[:, None])]
        )

    def scaled(self, flow: float, head: float) -> CurveTable:
        """The table with flows and heads multiplied; PCHIP commutes with that."""
        return CurveTable(
            flows_m3s=self.flows_m3s * flow,
            heads_m=self.heads_m * head,
            slopes=self.slopes * (head / flow),
            starts=self.starts,
            last=self.last,
            droops=self.droops,
        )


def joined(columns: Sequence[Sequence[float]]) -> Array:
    """The values of many columns, one column after the other."""
    return np.fromiter(
        (value for column in columns for value in column), dtype=float, count=sum(map(len, columns))
    )


def pchip_slopes(x: Array, y: Array, first: Indices, final: Indices, at: Indices) -> Array:
    """Slopes at some points of many curves that lie one after the other.

    As scipy's ``PchipInterpolator`` has them.

    ``first`` and ``final`` are the first and last point of the curve that the point ``at`` belongs
    to. Inner points: weighted harmonic mean of the two neighbouring differences, zero where they
    differ in sign (Fritsch and Butland 1984). Ends: three-point formula, kept shape-preserving.
    """
    left = np.maximum(
        np.minimum(at - 1, final - 2), first
    )  # of the two neighbouring pieces that count
    middle, right = left + 1, np.minimum(left + 2, final)
    h0, h1 = x[middle] - x[left], x[right] - x[middle]
    d0 = (y[middle] - y[left]) / h0
    with np.errstate(divide="ignore", invalid="ignore"):
        d1 = (y[right] - y[middle]) / h1
        w1, w2 = 2 * h1 + h0, h1 + 2 * h0
        inner = np.where(d0 * d1 > 0, (w1 + w2) / (w1 / d0 + w2 / d1), 0.0)
        ends = np.where(at == first, _end_slope(h0, h1, d0, d1), _end_slope(h1, h0, d1, d0))
    slopes = np.where((at == first) | (at == final), ends, inner)
    return np.asarray(np.where(final - first == 1, d0, slopes))


def _end_slope(step: Array, next_step: Array, difference: Array, next_difference: Array) -> Array:
    slope = ((2 * step + next_step) * difference - step * next_difference) / (step + next_step)
    slope = np.where(np.sign(slope) != np.sign(difference), 0.0, slope)
    steep = (np.sign(difference) != np.sign(next_difference)) & (
        np.abs(slope) > 3 * np.abs(difference)
    )
    return np.where(steep, 3 * difference, slope)


def curve_table(curves: Sequence[PumpCurve]) -> CurveTable:
    """The table of some curves, in their order."""
    counts = np.array([len(curve.flows_m3s) for curve in curves], dtype=np.intp)
    return from_points(
        joined([curve.flows_m3s for curve in curves]),
        joined([curve.heads_m for curve in curves]),
        counts,
    )


def from_points(flows_m3s: Array, heads_m: Array, counts: Indices) -> CurveTable:
    """The table of points that lie one curve after the other.

    Adds slopes, and whether a curve anywhere rises.
    """
    starts, last, curve = (
        np.cumsum(counts) - counts,
        counts - 1,
        np.repeat(np.arange(len(counts)), counts),
    )
    rises = (np.diff(heads_m) > 0) & (curve[1:] == curve[:-1])
    droops = np.bincount(curve[:-1], rises, len(counts)) > 0
    bare = CurveTable(
        flows_m3s=flows_m3s,
        heads_m=heads_m,
        slopes=heads_m,
        starts=starts,
        last=last,
        droops=droops,
    )
    return replace(bare, slopes=slopes_of(bare, heads_m))


def slopes_of(table: CurveTable, values: Array) -> Array:
    """Slopes of some values of the points at every point."""
    if not len(table):
        return np.zeros(0)
    counts = table.last + 1
    return pchip_slopes(
        table.flows_m3s,
        values,
        np.repeat(table.starts, counts),
        np.repeat(table.starts + table.last, counts),
        np.arange(len(values)),
    )


def read_at(
    table: CurveTable, values: Array, flow_m3s: Array, slopes: Array | None = None
) -> Array:
    """Values of the points (heads, powers) read on every curve at its own flow.

    NaN outside the curve.

    Without ``slopes`` those of the one piece that counts are worked out.
    """
    if not len(table):
        return np.zeros(0)
    first, final, flows = table.starts, table.starts + table.last, table.flows_m3s
    at = first + _piece(table, flow_m3s)
    following = at + 1
    d0, d1 = (
        slopes[end] if slopes is not None else pchip_slopes(flows, values, first, final, end)
        for end in (at, following)
    )
    width, rise = flows[following] - flows[at], values[following] - values[at]
    d0, d1, t = d0 * width, d1 * width, (flow_m3s - flows[at]) / width
    read = values[at] + t * (d0 + t * ((3 * rise - 2 * d0 - d1) + t * (d0 + d1 - 2 * rise)))
    inside = (flow_m3s >= flows[first]) & (flow_m3s <= flows[final])
    return np.where(inside, read, np.nan)


def _piece(table: CurveTable, flow_m3s: Array) -> Indices:
    """The piece of every curve in which its own flow lies, the first or last one outside."""
    low, high = np.zeros(len(table), dtype=np.intp), np.asarray(table.last, dtype=np.intp)
    for _ in range(int(table.last.max()).bit_length()):
        middle = (low + high) >> 1
        wide, reached = high - low > 1, table.flows_m3s[table.starts + middle] <= flow_m3s
        low, high = np.where(wide & reached, middle, low), np.where(wide & ~reached, middle, high)
    return low
