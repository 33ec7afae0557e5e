"""How a day's water is spread over its hours: an instant's peak is not an hour's mean.

The shares by the hour are of the largest hour, from midnight (``data/day_patterns.csv``, with where
each is from).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base import tables
from sizing.base.units import SECONDS_PER_HOUR

Shares = tuple[float, ...]


@dataclass(frozen=True)
class DayPattern:
    """The hours of one use: 24 shares of its largest hour."""

    code: str
    label: str
    shares: Shares
    source: str


PATTERNS = tuple(
    DayPattern(
        row["pattern"],
        row["label"],
        tuple(float(share) for share in row["shares"].split(";")),
        row["source"],
    )
    for row in tables.rows("day_patterns")
)
_BY_CODE = {one.code: one for one in PATTERNS}
HOUSEHOLD = _BY_CODE["household"].shares


def shares_of(code: str) -> Shares:
    """The hours of a use by its code."""
    return _BY_CODE[code].shares


def busiest_hour_m3s(daily_volume_m3: float, shares: Sequence[float] = HOUSEHOLD) -> float:
    """Mean flow of the busiest hour of a day [m3/s].

    >>> round(busiest_hour_m3s(2.4) * 3600, 3)
    0.2
    """
    return daily_volume_m3 * max(shares) / sum(shares) / SECONDS_PER_HOUR
