"""A day of draws: taps opened at random by the hour of the day, the same again for a seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.base.errors import check_range
from sizing.base.units import SECONDS_PER_HOUR

_SHORTEST, _LONGEST = 0.5, 1.5  # of the usual use


@dataclass(frozen=True)
class Tap:
    """Like outlets: how many, the flow of each, how long a use lasts.

    ``busy_share`` is the chance that one of them runs at any moment of the busiest hour.
    """

    count: float
    flow_m3s: float
    busy_share: float
    use_s: float

    def __post_init__(self) -> None:
        check_range("number of outlets", self.count, 0.0, 1e5, "")
        check_range("flow of an outlet", self.flow_m3s, 0.0, 10.0, "m³/s")
        check_range("share of the time that it runs", self.busy_share, 0.0, 1.0, "")
        check_range("length of a use", self.use_s, 1.0, SECONDS_PER_HOUR, "s")


def day_of_taps(
    taps: Sequence[Tap], shares_by_hour: Sequence[float], *, seed: int
) -> tuple[tuple[float, float], ...]:
    """Rows of (from [s], draw [m3/s]), each held until the next; the first from 0.

    Uses begin at random (Poisson) at each hour's share of the busiest hour's rate, and last half to
    one and a half times the usual. A use is cut off at midnight.
    """
    chance = np.random.default_rng(seed)
    end_s = len(shares_by_hour) * SECONDS_PER_HOUR
    changes: dict[float, float] = {0.0: 0.0}
    for tap in taps:
        rate = tap.count * tap.busy_share / tap.use_s  # uses begun a second, in the busiest hour
        for hour, share in enumerate(shares_by_hour):
            uses = chance.poisson(rate * share * SECONDS_PER_HOUR)
            begins = (hour + chance.random(uses)) * SECONDS_PER_HOUR
            lasts = tap.use_s * chance.uniform(_SHORTEST, _LONGEST, uses)
            for begin, last in zip(begins.tolist(), lasts.tolist(), strict=True):
                changes[begin] = changes.get(begin, 0.0) + tap.flow_m3s
                if begin + last < end_s:
                    changes[begin + last] = changes.get(begin + last, 0.0) - tap.flow_m3s
    rows, flow = [], 0.0
    for time in sorted(changes):
        flow += changes[time]
        rows.append((time, max(flow, 0.0) if flow > 1e-12 else 0.0))
    return tuple(rows)


def drawn_m3(rows: Sequence[tuple[float, float]], end_s: float) -> float:
    """What rows of draws come to until an end."""
    ends = [*(time for time, _ in rows[1:]), end_s]
    return sum(flow * (end - begin) for (begin, flow), end in zip(rows, ends, strict=True))
