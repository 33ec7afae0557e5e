"""The operating points of a whole catalogue on one system, in a few sweeps of numpy.

The same answers as :func:`~sizing.operating_point.one.operating_point` gives pump by pump. What
makes it fast: the system curve is tabulated once as piecewise cubics, so that no friction factor
is solved inside the search.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.one import Status, operating_point
from sizing.pump.curve import PumpCurve
from sizing.pump.curve_table import CurveTable, Indices

STATUSES: tuple[Status, ...] = ("operates", "off_end", "cannot_lift")
OPERATES, OFF_END, CANNOT_LIFT = range(3)
_CELLS = 1024
_BLOCK = 8192  # rows at a time: the working arrays stay in the processor's cache
_STEPS = 4  # of safeguarded Newton for all rows at once; those not settled then go on
_MOST_STEPS = 60  # further steps at most: bisection alone would be at the last digit by then
_SETTLED = 1e-8  # of the flow: Newton's next step would be a hundred times smaller still
_POLISHING = 3  # steps on the exact curve for flows that may not be turbulent
_CLOSE_STEPS = 64  # steps of a closer look at a piece in which two crossings might hide


@dataclass(frozen=True)
class OperatingPoints:
    """One row a pump.

    An index into :data:`STATUSES`, and flow and head where it operates (else NaN).
    """

    status: NDArray[np.int8]
    flow_m3s: Array
    head_m: Array
    shutoff_margin_m: Array


class SystemTable:
    """A system curve as piecewise cubics on flows spaced by their square root.

    So they are fine where flows are small.

    Each point that may govern has its own cubics, and the head is the largest: a kink where the
    governing point changes falls between two smooth tables and is not smeared over.
    """

    def __init__(self, system: SystemCurve, most_flow_m3s: float, cells: int = _CELLS) -> None:
        u = np.linspace(0.0, 1.0, cells + 1)
        self._flows = most_flow_m3s * u * u
        self._per_flow = cells * cells / most_flow_m3s
        self._cells = cells
        heads, slopes = _heads_and_slopes(system, self._flows)
        governs = np.unique(np.argmax(heads, axis=0))
        self._cubics = [_cubics(self._flows, heads[row], slopes[row]) for row in governs]

    def _place(self, flow_m3s: Array) -> tuple[Indices, Array]:
        """The cell of each flow, and how far into the cell it lies."""
        cell = np.sqrt(flow_m3s * self._per_flow).astype(np.intp)
        np.minimum(cell, self._cells - 1, out=cell)
        return cell, flow_m3s - self._flows.take(cell)

    def head_and_slope(self, flow_m3s: Array) -> tuple[Array, Array]:
        """Head [m] and its slope [m per m3/s] at flows within the table."""
        cell, s = self._place(flow_m3s)
        best, slope = _evaluate(self._cubics[0], cell, s)
        for cubics in self._cubics[1:]:
            other, other_slope = _evaluate(cubics, cell, s)
            higher = other > best
            best, slope = np.where(higher, other, best), np.where(higher, other_slope, slope)
        return best, slope

    def head(self, flow_m3s: Array) -> Array:
        """Head [m] at flows within the table."""
        cell, s = self._place(flow_m3s)
        best = _value(self._cubics[0], cell, s)
        for cubics in self._cubics[1:]:
            np.maximum(best, _value(cubics, cell, s), out=best)
        return best


Cubics = tuple[Array, Array, Array, Array]


def _heads_and_slopes(system: SystemCurve, flows: Array) -> tuple[Array, Array]:
    """Heads to every point and their slopes by a central difference.

    The error is about 1e-8 of the slope.
    """
    step = np.maximum(flows * 1e-4, flows[1] * 1e-2)
    low = np.maximum(flows - step, 0.0)
    heads = system.heads_to_points_m(np.concatenate([flows, low, flows + step]))
    here, below, above = np.split(heads, 3, axis=1)
    return here, (above - below) / (flows + step - low)


def _cubics(flows: Array, heads: Array, slopes: Array) -> Cubics:
    """Hermite cubics of each cell in the flow from the cell's start."""
    width, rise = np.diff(flows), np.diff(heads)
    c2 = (3 * rise / width - 2 * slopes[:-1] - slopes[1:]) / width
    c3 = (slopes[:-1] + slopes[1:] - 2 * rise / width) / (width * width)
    return heads[:-1], slopes[:-1], c2, c3


def _value(cubics: Cubics, cell: Indices, s: Array) -> Array:
    c0, c1, c2, c3 = cubics
    value = c3.take(cell)
    for c in (c2, c1, c0):
        value *= s
        value += c.take(cell)
    return value


def _evaluate(cubics: Cubics, cell: Indices, s: Array) -> tuple[Array, Array]:
    c0, c1, c2, c3 = (c.take(cell) for c in cubics)
    return ((c3 * s + c2) * s + c1) * s + c0, (3 * c3 * s + 2 * c2) * s + c1


def operating_points(table: CurveTable, system: SystemCurve) -> OperatingPoints:
    """The stable operating point of every curve of a table on one system.

    Returns
    -------
    OperatingPoints
        In the table's order; flows agree with those found one by one to 1e-6.
    """
    count = len(table)
    found = OperatingPoints(
        np.full(count, CANNOT_LIFT, dtype=np.int8),
        np.full(count, np.nan),
        np.full(count, np.nan),
        np.full(count, np.nan),
    )
    if not count:
        return found
    heads = SystemTable(system, float(table.last_flow_m3s.max()) * (1 + 1e-12))
    cells = np.full(count, -1, dtype=np.intp)
    for start in range(0, count, _BLOCK):
        rows = slice(start, min(start + _BLOCK, count))
        cells[rows], part = _block(table.rows(rows), heads, system)
        for name in ("status", "flow_m3s", "head_m", "shutoff_margin_m"):
            getattr(found, name)[rows] = getattr(part, name)
    slow = np.flatnonzero((cells >= 0) & (found.flow_m3s < system.turbulent_from_m3s))
    if len(slow):
        found.flow_m3s[slow], found.head_m[slow] = _polished(
            table, heads, system, slow, cells[slow], found.flow_m3s[slow]
        )
    return found


def _block(
    table: CurveTable, system: SystemTable, exact: SystemCurve
) -> tuple[Indices, OperatingPoints]:
    """The piece of its curve in which each pump runs, and what came of it.

    A piece of -1: none was looked for.
    """
    count, finals = len(table), table.starts + table.last
    first = table.heads_m[table.starts] - system.head(table.first_flow_m3s)
    end = table.heads_m[finals] - system.head(table.last_flow_m3s)
    status = np.where(end > 0, OFF_END, np.where(first > 0, OPERATES, CANNOT_LIFT)).astype(np.int8)
    cell, ends = np.full(count, -1, dtype=np.intp), np.stack([first, end])
    _bisect(table, system, np.flatnonzero((status == OPERATES) & ~table.droops), cell, ends)
    unsure = _look_at_droops(table, system, np.flatnonzero(table.droops), status, cell, ends)
    flow, head = np.full(count, np.nan), np.full(count, np.nan)
    runs = np.flatnonzero(cell >= 0)
    flow[runs], head[runs] = _newton(table, system, runs, cell[runs], ends[:, runs])
    for row in unsure:
        status[row], flow[row], head[row] = _one_by_one(table, int(row), exact)
    return cell, OperatingPoints(status, flow, head, first)


def _bisect(
    table: CurveTable, system: SystemTable, rows: Indices, cell: Indices, ends: Array
) -> None:
    """For falling curves.

    The piece in which the excess head changes from above to below, and the excess at both its ends.
    """
    low, high = np.zeros(len(rows), dtype=np.intp), np.asarray(table.last[rows], dtype=np.intp)
    base, over, under = table.starts[rows], ends[0, rows], ends[1, rows]
    for _ in range(int(high.max(initial=0)).bit_length()):
        middle = (low + high) >> 1
        at = base + middle
        excess = table.heads_m.take(at) - system.head(table.flows_m3s.take(at))
        up = (high - low > 1) & (excess > 0)
        down = (high - low > 1) & ~up
        low, over = np.where(up, middle, low), np.where(up, excess, over)
        high, under = np.where(down, middle, high), np.where(down, excess, under)
    cell[rows], ends[0, rows], ends[1, rows] = low, over, under


def _look_at_droops(
    table: CurveTable,
    system: SystemTable,
    rows: Indices,
    status: NDArray[np.int8],
    cell: Indices,
    ends: Array,
) -> Indices:
    """Curves that rise somewhere.

    Look at every point, and name those that only a closer look can settle.
    """
    if not len(rows):
        return rows
    some = table.rows(rows)
    flows, heads, last = some.padded(table.flows_m3s), some.padded(table.heads_m), some.last
    needed = system.head(flows)
    above = heads > needed
    falls = above[:, :-1] & ~above[:, 1:]
    crosses = falls.any(axis=1)
    at = falls.shape[1] - 1 - np.argmax(falls[:, ::-1], axis=1)
    status[rows] = np.where(
        crosses, OPERATES, np.where(above[np.arange(len(rows)), last], OFF_END, CANNOT_LIFT)
    )
    cell[rows] = np.where(crosses, at, -1)
    each = np.arange(len(rows))
    ends[:, rows] = heads[each, at] - needed[each, at], heads[each, at + 1] - needed[each, at + 1]
    # Between two points a curve stays under the higher one and the system over its lower one, so a
    # hidden pair of crossings needs this to be positive in a piece that shows no change of sign.
    could = np.maximum(heads[:, :-1], heads[:, 1:]) > needed[:, :-1]
    hidden = could & ~above[:, :-1] & ~above[:, 1:]
    # The other way round, a piece above at both ends may dip under where the curve rises.
    dips = (np.minimum(heads[:, :-1], heads[:, 1:]) < needed[:, 1:]) & above[:, :-1] & above[:, 1:]
    pieces = np.arange(falls.shape[1])
    which, piece = np.nonzero((hidden | dips) & (pieces > np.where(crosses, at, -1)[:, None]))
    # And where it runs may be a piece that rises: it may come back over the system, and fall again.
    rising, its = np.nonzero(falls & (heads[:, 1:] > heads[:, :-1]) & (pieces == at[:, None]))
    unsure = np.unique(
        np.concatenate(
            [
                rows[which[_still_open(table.rows(rows[which]), system, piece)]],
                rows[rising[_comes_back(table.rows(rows[rising]), system, its)]],
            ]
        )
    )
    cell[unsure] = -1
    return unsure


def _in_small_steps(table: CurveTable, system: SystemTable, piece: Indices) -> tuple[Array, Array]:
    """The pump's heads and the system's, of shape (N, steps + 1), over one piece of each row."""
    c0, c1, c2, c3, left, width = _pieces(table, np.arange(len(table)), piece)
    s = width[:, None] * np.linspace(0.0, 1.0, _CLOSE_STEPS + 1)
    heads = ((c3[:, None] * s + c2[:, None]) * s + c1[:, None]) * s + c0[:, None]
    return heads, system.head(left[:, None] + s)


def _comes_back(table: CurveTable, system: SystemTable, piece: Indices) -> NDArray[np.bool_]:
    """Whether a piece that starts above and ends below may cross more than once."""
    heads, needed = _in_small_steps(table, system, piece)
    return np.asarray((np.diff(heads - needed, axis=1) >= 0).any(axis=1))


def _still_open(table: CurveTable, system: SystemTable, piece: Indices) -> NDArray[np.bool_]:
    """Whether a hidden crossing is still possible, with one piece looked at in small steps."""
    heads, needed = _in_small_steps(table, system, piece)
    over = np.maximum(heads[:, :-1], heads[:, 1:]) > needed[:, :-1]
    under = np.minimum(heads[:, :-1], heads[:, 1:]) < needed[:, 1:]
    starts_above = heads[:, 0] > needed[:, 0]
    return np.asarray(np.where(starts_above, under.any(axis=1), over.any(axis=1)))


def _pieces(
    table: CurveTable, rows: Indices, cell: Indices
) -> tuple[Array, Array, Array, Array, Array, Array]:
    """Cubic of one piece of each row in the flow from its start, with start and width."""
    at = table.starts[rows] + cell
    following = at + 1
    left, ha, da, db = (
        table.flows_m3s.take(at),
        table.heads_m.take(at),
        table.slopes.take(at),
        table.slopes.take(following),
    )
    width = table.flows_m3s.take(following) - left
    mean = (table.heads_m.take(following) - ha) / width
    return (
        ha,
        da,
        (3 * mean - 2 * da - db) / width,
        (da + db - 2 * mean) / (width * width),
        left,
        width,
    )


def _newton(
    table: CurveTable, system: SystemTable, rows: Indices, cell: Indices, ends: Array
) -> tuple[Array, Array]:
    """Flow and head where the cubic of the piece meets the system.

    Bisection wherever Newton would leave it.

    ``ends`` holds the excess head at both ends of each piece, of shape (2, N).

    Most pumps are there after four steps; the few that are not (flat curves under a kinked system)
    go on alone.
    """
    ha, da, c2, c3, left, width = _pieces(table, rows, cell)
    low, high = left.copy(), left + width
    fa, fb = ends
    flow = left + width * np.clip(fa / np.where(fa != fb, fa - fb, 1.0), 0.0, 1.0)
    going: Indices = np.arange(len(rows))
    for steps in (_STEPS, *[1] * _MOST_STEPS):
        cubic = (ha[going], da[going], c2[going], c3[going], left[going])
        before, flow[going], low[going], high[going] = _steps(
            system, cubic, flow[going], low[going], high[going], steps
        )
        going = going[np.abs(flow[going] - before) > _SETTLED * flow[going]]
        if not len(going):
            break
    return flow, system.head(flow)


def _steps(
    system: SystemTable,
    cubic: tuple[Array, Array, Array, Array, Array],
    flow: Array,
    low: Array,
    high: Array,
    steps: int,
) -> tuple[Array, Array, Array, Array]:
    """Some steps of safeguarded Newton: the flow before the last, the flow, its bracket."""
    ha, da, c2, c3, left = cubic
    before = flow
    for _ in range(steps):
        s, before = flow - left, flow
        needed, slope = system.head_and_slope(flow)
        excess = ((c3 * s + c2) * s + da) * s + ha - needed
        above = excess > 0
        low, high = np.where(above, flow, low), np.where(above, high, flow)
        steepness = (3 * c3 * s + 2 * c2) * s + da - slope
        flow = flow - excess / np.where(steepness < 0, steepness, -np.inf)
        flow = np.where((flow >= low) & (flow <= high) & (steepness < 0), flow, 0.5 * (low + high))
    return before, flow, low, high


def _polished(
    table: CurveTable,
    system: SystemTable,
    exact: SystemCurve,
    rows: Indices,
    cell: Indices,
    flow: Array,
) -> tuple[Array, Array]:
    """Flow and head by further steps on the exact curve.

    Where flow turns laminar the tabulated one is a few millionths off.
    """
    ha, da, c2, c3, left, width = _pieces(table, rows, cell)
    for _ in range(_POLISHING):
        s = flow - left
        steepness = (3 * c3 * s + 2 * c2) * s + da - system.head_and_slope(flow)[1]
        excess = ((c3 * s + c2) * s + da) * s + ha - exact.head_m(flow)
        flow = np.clip(
            flow - excess / np.where(steepness < 0, steepness, -np.inf), left, left + width
        )
    return flow, exact.head_m(flow)


def _one_by_one(table: CurveTable, row: int, system: SystemCurve) -> tuple[int, float, float]:
    points = slice(int(table.starts[row]), int(table.starts[row] + table.last[row]) + 1)
    found = operating_point(
        PumpCurve(tuple(table.flows_m3s[points]), tuple(table.heads_m[points])), system
    )
    point = found.point
    flow, head = (point.flow_m3s, point.head_m) if point else (np.nan, np.nan)
    return STATUSES.index(found.status), flow, head
