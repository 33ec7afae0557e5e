"""The chance that each of some pumps makes its duty, with the error of the sampling."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known, changed_demand, changed_system
from sizing.analysis.sensitivity import uncertain_figures
from sizing.base.errors import SizingError
from sizing.base.rules import Rules
from sizing.document.job import JobDocument
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.curve import PumpCurve
from sizing.selection import chance as sampled
from sizing.selection.chance import SAMPLES, Sampler, met_by, off_end

_DEVIATIONS = 1.959964  # standard deviations that hold nineteen times in twenty


@dataclass(frozen=True)
class Chance:
    """The chance that a pump makes its duty, with the error of the sampling.

    The error holds nineteen times in twenty. How often it runs off its curve's end goes with it.
    """

    pump_name: str
    share: float
    error: float
    off_end_share: float
    samples: int


def sampler(base: Known, rules: Rules) -> Sampler:
    """The job's doubts as directions in which its route may lie."""

    def moved(job: JobDocument) -> tuple[SystemCurve, float] | None:
        try:
            return changed_system(base, job), changed_demand(base, job).needed_m3s
        except SizingError:
            return None

    return sampled.sampler(
        base.system,
        base.demand.needed_m3s,
        base.sizing.legs,
        base.sizing.job,
        uncertain_figures(base),
        moved,
        rules.value("TRU-09"),
    )


def chances(
    base: Known, curves: Sequence[tuple[str, PumpCurve]], count: int = SAMPLES
) -> tuple[Chance, ...]:
    """The chance of each pump, the first the chosen one, over the same routes."""
    drawn = sampler(base, base.rules)
    routes, factor, met = met_by(base.sizing.wanted, drawn, [curve for _, curve in curves], count)
    count = met.shape[1]
    found = []
    for (name, curve), row in zip(curves, met, strict=True):
        share = float(row.mean())
        error = max(
            _DEVIATIONS * float(np.sqrt(share * (1 - share) / count)), 3.0 / count
        )  # none in n: up to 3 in n may yet (rule of three)
        found.append(
            Chance(name, share, error, float(off_end(curve, routes, factor).mean()), count)
        )
    return tuple(found)
