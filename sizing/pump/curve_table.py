"""The curves of a whole catalogue as arrays, so that one sweep answers for all pumps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sizing.pipework.friction import Array
from sizing.pump.curve import PumpCurve

Indices = NDArray[np.intp]


@dataclass(frozen=True)
class CurveTable:
    """N curves of up to P points: flows, heads and PCHIP slopes of shape (N, P), rows padded with their last point."""

    flows_m3s: Array
    heads_m: Array
    slopes: Array
    last: Indices
    droops: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.last)

    def rows(self, which: Indices | slice) -> CurveTable:
        """The same table with only some of its rows."""
        return CurveTable(self.flows_m3s[which], self.heads_m[which], self.slopes[which], self.last[which], self.droops[which])


def padded(columns: Sequence[Sequence[float]]) -> tuple[Array, Indices]:
    """Ragged rows as one array, each row filled up with its last value; and the index of that value."""
    counts = np.array([len(column) for column in columns], dtype=np.intp)
    width = int(counts.max(initial=1))
    flat = np.fromiter((value for column in columns for value in column), dtype=float, count=int(counts.sum()))
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    at = starts[:, None] + np.minimum(np.arange(width), counts[:, None] - 1)
    return flat[at], counts - 1


def pchip_slopes(x: Array, y: Array) -> Array:
    """Slopes at the points of many curves of equal length, as scipy's ``PchipInterpolator`` has them.

    Inner points: weighted harmonic mean of the two neighbouring differences, nought where they
    differ in sign (Fritsch and Butland 1984). Ends: three-point formula, kept shape-preserving.
    """
    step, difference = np.diff(x), np.diff(y) / np.diff(x)
    if x.shape[1] == 2:
        return np.repeat(difference, 2, axis=1)
    before, after = difference[:, :-1], difference[:, 1:]
    w1, w2 = 2 * step[:, 1:] + step[:, :-1], step[:, 1:] + 2 * step[:, :-1]
    agree = before * after > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        inner = np.where(agree, (w1 + w2) / (w1 / before + w2 / after), 0.0)
    first = _end_slope(step[:, 0], step[:, 1], difference[:, 0], difference[:, 1])
    final = _end_slope(step[:, -1], step[:, -2], difference[:, -1], difference[:, -2])
    return np.concatenate([first[:, None], inner, final[:, None]], axis=1)


def _end_slope(step: Array, next_step: Array, difference: Array, next_difference: Array) -> Array:
    slope = ((2 * step + next_step) * difference - step * next_difference) / (step + next_step)
    slope = np.where(np.sign(slope) != np.sign(difference), 0.0, slope)
    steep = (np.sign(difference) != np.sign(next_difference)) & (np.abs(slope) > 3 * np.abs(difference))
    return np.where(steep, 3 * difference, slope)


def curve_table(curves: Sequence[PumpCurve]) -> CurveTable:
    """The table of some curves, in their order."""
    if not curves:
        empty = np.zeros((0, 2))
        return CurveTable(empty, empty, empty, np.zeros(0, dtype=np.intp), np.zeros(0, dtype=bool))
    flows, last = padded([curve.flows_m3s for curve in curves])
    heads, _ = padded([curve.heads_m for curve in curves])
    return from_arrays(flows, heads, last)


def from_arrays(flows_m3s: Array, heads_m: Array, last: Indices) -> CurveTable:
    """The table of padded arrays: adds slopes, and whether a curve anywhere rises."""
    slopes = np.zeros_like(flows_m3s)
    for final in np.unique(last):
        rows = np.flatnonzero(last == final)
        end = int(final) + 1
        slopes[rows, :end] = pchip_slopes(flows_m3s[rows, :end], heads_m[rows, :end])
    return CurveTable(flows_m3s, heads_m, slopes, last, np.any(np.diff(heads_m) > 0, axis=1))


def read_at(table: CurveTable, values: Array, slopes: Array, flow_m3s: Array) -> Array:
    """Values (heads, powers) of every row at its own flow, by the row's cubics; NaN outside the curve."""
    each = np.arange(len(table))
    cell = np.sum(table.flows_m3s <= flow_m3s[:, None], axis=1) - 1
    cell = np.clip(np.minimum(cell, table.last - 1), 0, None)
    left, width = table.flows_m3s[each, cell], table.flows_m3s[each, cell + 1] - table.flows_m3s[each, cell]
    start, rise = values[each, cell], values[each, cell + 1] - values[each, cell]
    d0, d1, t = slopes[each, cell] * width, slopes[each, cell + 1] * width, (flow_m3s - left) / width
    read = start + t * (d0 + t * ((3 * rise - 2 * d0 - d1) + t * (d0 + d1 - 2 * rise)))
    inside = (flow_m3s >= table.flows_m3s[:, 0]) & (flow_m3s <= table.flows_m3s[each, table.last])
    return np.where(inside, read, np.nan)
