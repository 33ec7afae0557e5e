"""How many pumps of a pressure sewer run at once, over a day or after a cut.

Each dwelling has a pit that fills by the hours of a household and is emptied from start to stop by
its own pump. What a pump gives hangs on how many run: solved anew for each number. Between two
events everything is steady. Where pits stand at first, and how much each house uses, is drawn by
lot (seeded): the chance of a number is the share of the time that it runs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.base.errors import SizingError, check_range
from sizing.over_time.simulation.timeline import MOST_EVENTS, TooMuchHappens

MOST_DWELLINGS = 400
_SPREAD = 0.4  # of a house's water about the mean, log-normal (assumed)


@dataclass(frozen=True)
class Pits:
    """Equal pits: what each holds from stop to start, and from start to its rim [m3]."""

    count: int
    storage_m3: float
    reserve_m3: float
    flows_m3s: tuple[float, ...]  # of each pump while 1, 2, ... run

    def __post_init__(self) -> None:
        if not 1 <= self.count <= MOST_DWELLINGS:
            raise SizingError(f"a run takes 1 to {MOST_DWELLINGS} dwellings")
        check_range("storage of a pit", self.storage_m3, 1e-9, 1e3, "m³")
        if len(self.flows_m3s) != self.count:
            raise SizingError("what a pump gives is wanted for every number of pumps")


@dataclass
class DwellingsRun:
    """What came of it; ``running`` holds (time [s], how many run), each until the next."""

    running: list[tuple[float, int]]
    seconds_by_number: dict[int, float]
    inflow_m3: float = 0.0
    pumped_m3: float = 0.0
    stored_m3: float = 0.0  # at the end over the beginning
    starts: int = 0
    overflowing: int = 0
    all_done_s: float | None = None  # after a cut: when for the first time none runs

    @property
    def most_at_once(self) -> int:
        """The largest number that ran at one time."""
        return max(self.seconds_by_number, default=0)

    def share_over(self, number: int) -> float:
        """Share of the time in which more than so many run."""
        whole = sum(self.seconds_by_number.values())
        return sum(s for n, s in self.seconds_by_number.items() if n > number) / whole


def run_dwellings(
    pits: Pits,
    mean_inflow_m3s: float,
    shares_by_hour: Sequence[float],
    *,
    cut_s: float = 0.0,
    seed: int,
) -> DwellingsRun:
    """A day of all pits together, or the day that begins when the power is back after a cut.

    Parameters
    ----------
    mean_inflow_m3s : into one pit, over the day.
    shares_by_hour : of the day's water, by their ratio to each other.
    cut_s : no pump ran so long before the beginning.

    Raises
    ------
    TooMuchHappens
        A pump that gives less than what comes in never stops, and others start without end.
    """
    chance = np.random.default_rng(seed)
    spread = chance.lognormal(-(_SPREAD**2) / 2, _SPREAD, pits.count)
    mean = np.asarray(shares_by_hour, dtype=float)
    by_hour = np.outer(spread, mean / mean.mean() * mean_inflow_m3s)  # (pits, hours)
    filled = chance.random(pits.count) * pits.storage_m3 + cut_s * mean_inflow_m3s * spread
    full = pits.storage_m3 + pits.reserve_m3
    out = DwellingsRun([], {})
    out.overflowing = int((filled >= full).sum())
    begun_with, on = filled.sum(), filled >= pits.storage_m3
    out.starts = int(on.sum())
    alarmed = filled >= full
    time, end = 0.0, len(mean) * 3600.0
    while time < end:
        number = int(on.sum())
        if not out.running or out.running[-1][1] != number:
            out.running.append((time, number))
            if number == 0 and out.all_done_s is None:
                out.all_done_s = time
        inflow = by_hour[:, min(int(time // 3600), len(mean) - 1)]
        net = inflow - np.where(on, pits.flows_m3s[number - 1] if number else 0.0, 0.0)
        target = np.where(on, 0.0, pits.storage_m3)
        with np.errstate(divide="ignore", invalid="ignore"):
            due = np.where(on & (net >= 0), math.inf, (target - filled) / net)
        due = np.where(np.isfinite(due) & (due >= 0), due, math.inf)
        took = min(float(due.min()), (math.floor(time / 3600) + 1) * 3600.0 - time)
        filled = filled + net * took
        out.inflow_m3 += float(inflow.sum()) * took
        out.pumped_m3 += float((inflow - net).sum()) * took
        out.seconds_by_number[number] = out.seconds_by_number.get(number, 0.0) + took
        time += took
        stops, begins = on & (due <= took * (1 + 1e-12)), ~on & (due <= took * (1 + 1e-12))
        filled = np.where(stops, 0.0, np.where(begins, pits.storage_m3, filled))
        on = (on & ~stops) | begins
        out.starts += int(begins.sum())
        rose = (filled >= full) & ~alarmed
        out.overflowing += int(rose.sum())
        alarmed = (alarmed | rose) & (filled >= pits.storage_m3)
        if len(out.running) > MOST_EVENTS:
            raise TooMuchHappens("the pumps start and stop without end")
    out.stored_m3 = float(filled.sum() - begun_with)
    return out
