"""What a logger wrote down of a pit, and what follows from it: inflow, and the K of the run.

While no pump runs the level rises at the inflow over the plan area: a straight line through each
rest by least squares gives it, with its error. While the pump runs the level falls at pump less
inflow: that gives the pump's flow, and with its curve the head that the run takes from it, so that
K = (H(Q) - static) / Q2.
"""

from __future__ import annotations

import csv
import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from sizing.base import units
from sizing.base.errors import SizingError
from sizing.hydraulics.friction import Array

Mask = NDArray[np.bool_]
MOST_ROWS = 200_000
_MOST_COLUMNS = 20
_LEAST_POINTS = 4
_NIGHT_H = (0, 5)
# Words in a heading by what they mean: its dimension, and the unit where it names none.
_WORDS = {
    "level": ("length", "m", ("level", "depth", "stage")),
    "flow": ("flow", "m³/h", ("flow", "discharge")),
    "pressure": ("pressure", "bar", ("pressure", "gauge")),
    "power": ("power", "W", ("power", "watt")),
}
_TIME = ("time", "date", "stamp", "second", "clock")


@dataclass(frozen=True)
class Log:
    """Times [s] from the first row, and by quantity its values [SI], NaN where nothing came.

    ``starts_h`` is the hour of the day of the first row, where the times say it.
    """

    times_s: Array
    values: dict[str, Array]
    starts_h: float | None = None

    @property
    def lasts_s(self) -> float:
        """From the first row to the last."""
        return float(self.times_s[-1] - self.times_s[0])


@dataclass(frozen=True)
class Fitted:
    """A figure with its standard error, and from how many stretches or points."""

    value: float
    error: float
    count: int


def read_log(text: str) -> Log:
    """A logger's CSV: a column of times, and columns of level, flow, pressure or power.

    Times are seconds, or dates with a clock (ISO). Headings name the quantity, and its unit in
    brackets. Cells that hold nothing are drop-outs.

    Raises
    ------
    SizingError
        Saying which column or row cannot be read.
    """
    sample = text[:4096]
    try:
        dialect: type[csv.Dialect] | csv.Dialect = csv.Sniffer().sniff(sample, ",;\t")
    except csv.Error:
        dialect = csv.excel
    rows = [row for row in csv.reader(text.splitlines(), dialect) if any(map(str.strip, row))]
    if len(rows) < 3:
        raise SizingError("a log has a row of headings and two rows of readings at least")
    if len(rows) > MOST_ROWS:
        raise SizingError(f"that log has {len(rows):,} rows; thin it to {MOST_ROWS:,}")
    heads = rows[0][:_MOST_COLUMNS]
    time_at = next((at for at, head in enumerate(heads) if _is_time(head)), 0)
    columns = _columns(heads, time_at)
    if not columns:
        raise SizingError(
            "no heading names a level, flow, pressure or power: name one such as 'level [m]'"
        )
    times, starts_h = _times([row[time_at] if time_at < len(row) else "" for row in rows[1:]])
    values = {
        name: np.array([_value(row, at, unit) for row in rows[1:]])
        for name, (at, unit) in columns.items()
    }
    return Log(times, values, starts_h)


def _is_time(head: str) -> bool:
    return any(word in head.lower() for word in _TIME)


def _columns(heads: Sequence[str], time_at: int) -> dict[str, tuple[int, units.Unit]]:
    found: dict[str, tuple[int, units.Unit]] = {}
    for at, head in enumerate(heads):
        if at == time_at:
            continue
        low = head.lower()
        for name, (dimension, usual, words) in _WORDS.items():
            if name not in found and any(word in low for word in words):
                symbol = _bracketed(head) or usual
                unit = units.find(symbol, dimension)
                if unit is None:
                    raise SizingError(f"'{head.strip()[:40]}': '{symbol}' is no unit of a {name}")
                found[name] = (at, unit)
    return found


def _bracketed(head: str) -> str:
    for begin, end in (("[", "]"), ("(", ")")):
        if begin in head and end in head:
            return head.split(begin, 1)[1].split(end, 1)[0].strip()
    return ""


def _times(cells: Sequence[str]) -> tuple[Array, float | None]:
    """Seconds from the first."""
    try:
        found = np.array([float(cell) for cell in cells])
        starts_h = None
    except ValueError:
        moments = [_moment(cell, row) for row, cell in enumerate(cells, 2)]
        first = moments[0]
        found = np.array([(one - first).total_seconds() for one in moments])
        starts_h = first.hour + first.minute / 60
    if not np.isfinite(found).all() or not (np.diff(found) > 0).all():
        raise SizingError("the times of a log rise from row to row")
    return found - found[0], starts_h


def _moment(cell: str, row: int) -> datetime:
    try:
        return datetime.fromisoformat(cell.strip()).replace(tzinfo=None)
    except ValueError:
        raise SizingError(
            f"row {row}: '{cell[:40]}' is no time; write seconds or 2026-11-26 14:30:00"
        ) from None


def _value(row: Sequence[str], at: int, unit: units.Unit) -> float:
    cell = row[at].strip() if at < len(row) else ""
    if not cell:
        return math.nan
    try:
        value = float(cell.replace(",", ".")) if cell.count(",") <= 1 else math.nan
    except ValueError:
        return math.nan
    return unit.to_si(value) if math.isfinite(value) else math.nan


def stretches(log: Log, still_m: float = 0.005) -> tuple[tuple[int, int, bool], ...]:
    """The log parted into rises and falls: (from row, to row, whether it falls).

    A turn counts only where the level goes back by more than the noise.
    """
    level = log.values.get("level")
    if level is None:
        raise SizingError("the log has no level: neither inflow nor K can be told from it")
    rows = np.flatnonzero(np.isfinite(level))
    if len(rows) < _LEAST_POINTS:
        raise SizingError("the log has too few readings of the level")
    found: list[tuple[int, int, bool]] = []
    begin, turn, falls = int(rows[0]), int(rows[0]), False
    for row in rows.tolist():
        onwards = level[row] <= level[turn] if falls else level[row] >= level[turn]
        if onwards:
            turn = row
        elif abs(level[row] - level[turn]) > still_m:
            if turn > begin:
                found.append((begin, turn, falls))
            begin, turn, falls = turn, row, not falls
    if turn > begin:
        found.append((begin, turn, falls))
    return tuple(found)


def _slope(log: Log, begin: int, end: int, only: Mask) -> tuple[float, float, int] | None:
    """The level's slope [m/s] by least squares, its standard error and the points."""
    rows = slice(begin, end + 1)
    here = np.isfinite(log.values["level"][rows]) & only[rows]
    level, times = log.values["level"][rows][here], log.times_s[rows][here]
    if len(level) < _LEAST_POINTS:
        return None
    middle = times - times.mean()
    spread = float((middle**2).sum())
    slope = float((middle * (level - level.mean())).sum()) / spread
    left = level - level.mean() - slope * middle
    sigma = math.sqrt(float((left**2).sum()) / (len(level) - 2) / spread)
    return slope, sigma, len(level)


def _together(found: Sequence[tuple[float, float]]) -> Fitted:
    """The mean weighed by what each is sure of; its error from that and from their scatter."""
    values = np.array([value for value, _ in found])
    errors = np.maximum(np.array([error for _, error in found]), 1e-12)
    weights = 1 / errors**2
    mean = float((weights * values).sum() / weights.sum())
    own = math.sqrt(1 / float(weights.sum()))
    scatter = float(values.std(ddof=1)) / math.sqrt(len(values)) if len(values) > 1 else own
    return Fitted(mean, max(own, scatter), len(values))


def inflow(log: Log, area_m2: float, *, at_night: bool = False) -> Fitted | None:
    """What comes in [m3/s], from the rises; None where there is none (at night)."""
    only = _night(log) if at_night else np.ones(len(log.times_s), dtype=bool)
    found = []
    for begin, end, falls in stretches(log):
        slope = None if falls else _slope(log, begin, end, only)
        if slope is not None and slope[0] > 0:
            found.append((area_m2 * slope[0], area_m2 * slope[1]))
    return _together(found) if found else None


def inflow_by_rise(log: Log, area_m2: float) -> tuple[tuple[float, float], ...]:
    """Rows of (from [s], inflow [m3/s]), each held until the next: what each rise says of itself.

    The first holds from the beginning. Empty where the level never rises.
    """
    every = np.ones(len(log.times_s), dtype=bool)
    found: list[tuple[float, float]] = []
    for begin, end, falls in stretches(log):
        slope = None if falls else _slope(log, begin, end, every)
        if slope is not None and slope[0] > 0:
            found.append((float(log.times_s[begin]) if found else 0.0, area_m2 * slope[0]))
    return tuple(found)


def _night(log: Log) -> Mask:
    """Which rows are of the night; none where nobody knows when they were."""
    if log.starts_h is None:
        return np.zeros(len(log.times_s), dtype=bool)
    hours = (log.starts_h + log.times_s / 3600) % 24
    return np.asarray((hours >= _NIGHT_H[0]) & (hours < _NIGHT_H[1]))


def pumped(log: Log, area_m2: float, inflow_m3s: float) -> Fitted | None:
    """What the pump gives [m3/s], from the falls; None where the level never falls."""
    found, every = [], np.ones(len(log.times_s), dtype=bool)
    for begin, end, falls in stretches(log):
        slope = _slope(log, begin, end, every) if falls else None
        if slope is not None and slope[0] < 0:
            found.append((inflow_m3s - area_m2 * slope[0], area_m2 * slope[1]))
    return _together(found) if found else None


def run_k(flow: Fitted, head_at_flow_m: float, static_m: float, slope_s_m2: float) -> Fitted:
    """K of the run [s2/m5] from the pump's flow, with its error.

    Parameters
    ----------
    head_at_flow_m : of the pump's curve at that flow.
    slope_s_m2 : of the curve there (below zero): a flow that is off moves the head too.
    """
    k = (head_at_flow_m - static_m) / flow.value**2
    per_flow = slope_s_m2 / flow.value**2 - 2 * k / flow.value
    return Fitted(k, abs(per_flow) * flow.error, flow.count)


def thinned(log: Log, most: int) -> Log:
    """Every so many rows, so that at most so many are left; the first and the last stay."""
    if len(log.times_s) <= most:
        return log
    keep = np.unique(np.linspace(0, len(log.times_s) - 1, most).round().astype(int))
    return Log(
        log.times_s[keep], {name: one[keep] for name, one in log.values.items()}, log.starts_h
    )
