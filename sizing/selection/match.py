"""A catalogue against a job.

What fits, what nearly does and by how much it misses, and in which order.

The order is by rules that can be read, one after the other, with no hidden weights:
:func:`order_in_words`.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from sizing.base.errors import check_range
from sizing.base.message import Message
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import CANNOT_LIFT, OFF_END, OPERATES, STATUSES
from sizing.pump.catalogue import Catalogue, Pump, efficiency
from sizing.pump.curve_table import Indices
from sizing.selection.order import in_order, order_in_words
from sizing.selection.reasons import fit_reasons, miss_reasons, short_of
from sizing.selection.requirement import Truths
from sizing.selection.sweep import Sweep, Wanted, costs_per_year, count_misses, sweep_of

MOST_NEAR_MISSES = 6


@dataclass(frozen=True)
class Candidate:
    """One pump on this job. ``reasons`` say in words why it stands where it stands."""

    row: int
    pump: Pump
    fits: bool
    status: str
    flow_m3s: float
    head_m: float
    share_of_best_flow: float
    surplus: float
    shutoff_margin_m: float
    power_w: float | None
    efficiency: float | None
    npsh_required_m: float | None
    cost_per_year: float | None
    reasons: tuple[Message, ...]
    # where it gives too little: the share of flow and the head [m] that it lacks
    short_of: tuple[float, float] | None = None


@dataclass(frozen=True)
class Match:
    """Fits in order, near misses, the nearest first, and the rules of the order.

    How many there are of both, and how many fell out for which reason.
    """

    fits: tuple[Candidate, ...]
    near_misses: tuple[Candidate, ...]
    fit_count: int
    considered: int
    near_count: int = 0
    out: tuple[tuple[str, int], ...] = field(default=())
    order: tuple[tuple[str, Message], ...] = field(default=())

    def find(self, pump_id: str) -> Candidate | None:
        """The candidate with that pump, if it fits or nearly does."""
        return next(
            (one for one in (*self.fits, *self.near_misses) if one.pump.pump_id == pump_id), None
        )


def match(
    catalogue: Catalogue, system: SystemCurve, wanted: Wanted, rules: Rules, *, most: int = 50
) -> Match:
    """Every pump of the catalogue on the job.

    The best ``most`` fits and a handful of near misses in words.

    Only pumps that meet all requirements, or fail one by so little that they may be a near miss,
    are put on the system.

    Raises
    ------
    OutOfRange
        When the wanted flow is not above zero.
    """
    check_range("wanted flow", wanted.flow_m3s, 1e-12, 1e4, "m³/s")
    if not len(catalogue):
        return Match((), (), 0, 0)
    met = [requirement.met(catalogue) for requirement in wanted.requirements]
    lack = _lack(catalogue, wanted, met, rules.value("CHO-04"))
    rows = np.flatnonzero(np.isfinite(lack))
    sweep = sweep_of(catalogue, rows, system, wanted, rules, met)
    fit = np.flatnonzero(sweep.fits)
    near = _near_misses(sweep, lack[rows])
    return Match(
        fits=_candidates(sweep, fit[in_order(sweep, fit)][:most], fit_reasons),
        near_misses=_candidates(sweep, near[:MOST_NEAR_MISSES], miss_reasons),
        fit_count=len(fit),
        considered=len(catalogue),
        near_count=len(near),
        out=_fallen_out(sweep, met, near),
        order=order_in_words(wanted, rules),
    )


def candidate(
    catalogue: Catalogue, system: SystemCurve, wanted: Wanted, rules: Rules, row: int
) -> Candidate:
    """One pump on the job, whether it fits or not: for a pump that a person picked."""
    sweep = sweep_of(
        catalogue,
        np.array([row]),
        system,
        wanted,
        rules,
        [requirement.met(catalogue) for requirement in wanted.requirements],
    )
    return _candidates(sweep, np.array([0]), fit_reasons if sweep.fits[0] else miss_reasons)[0]


def _lack(catalogue: Catalogue, wanted: Wanted, met: Sequence[Truths], most: float) -> Array:
    """By what share each pump misses the one requirement that it fails.

    Zero when it fails none, infinite when it is out.
    """
    misses = count_misses(met, len(catalogue))
    lack = np.where(misses == 0, 0.0, np.inf)
    for requirement, one in zip(wanted.requirements, met, strict=True):
        alone = np.flatnonzero((misses == 1) & ~one)
        share = requirement.shortfall(catalogue)[alone] if len(alone) else np.zeros(0)
        lack[alone] = np.where((share > 0) & (share <= most), share, np.inf)
    return lack


def _near_misses(sweep: Sweep, lack: Array) -> Indices:
    """Pumps a little short of flow, or missing one requirement by a little; the nearest first."""
    short = np.nan_to_num(1.0 - sweep.operating_point.flow_m3s / sweep.wanted.flow_m3s, nan=1.0)
    little_flow = (
        (sweep.operating_point.status == OPERATES)
        & ~sweep.enough
        & (short <= 1.0 - sweep.rules.value("CHO-01"))
        & (lack == 0)
    )
    gap = np.where(little_flow, short, np.where(sweep.enough & (lack > 0), lack, np.inf))
    near = np.flatnonzero(np.isfinite(gap))
    return near[np.lexsort((sweep.catalogue.rank_by_id[sweep.rows[near]], gap[near]))]


def _fallen_out(sweep: Sweep, met: Sequence[Truths], near: Indices) -> tuple[tuple[str, int], ...]:
    """Why the others fell out, the commonest reason first; the first requirement missed counts."""
    left = np.ones(len(sweep.catalogue), dtype=bool)
    left[sweep.rows[near]] = False
    counts: Counter[str] = Counter()
    for requirement, one in zip(sweep.wanted.requirements, met, strict=True):
        counts[requirement.label] += int((left & ~one).sum())
        left &= one
    here = left[sweep.rows]
    for status, label in (
        (CANNOT_LIFT, "cannot lift it"),
        (OFF_END, "would run off the end of its curve"),
    ):
        counts[label] += int((here & (sweep.operating_point.status == status)).sum())
    counts["too little flow"] += int(
        (here & (sweep.operating_point.status == OPERATES) & ~sweep.enough).sum()
    )
    return tuple((label, count) for label, count in counts.most_common() if count)


def _candidates(
    sweep: Sweep, which: Indices, reasons: Callable[[Sweep, int], Sequence[Message]]
) -> tuple[Candidate, ...]:
    """Some pumps of a sweep described, in their order."""
    catalogue, rows, flows, heads = (
        sweep.catalogue,
        sweep.rows[which],
        sweep.operating_point.flow_m3s[which],
        sweep.operating_point.head_m[which],
    )
    powers = catalogue.power_at(rows, flows)
    read = zip(
        powers,
        efficiency(flows, heads, powers),
        catalogue.npsh_required_at(rows, flows),
        costs_per_year(catalogue, rows, flows, sweep.wanted),
        strict=True,
    )
    return tuple(
        Candidate(
            row=int(sweep.rows[at]),
            pump=catalogue.pumps[sweep.rows[at]],
            fits=bool(sweep.fits[at]),
            status=STATUSES[sweep.operating_point.status[at]],
            flow_m3s=float(sweep.operating_point.flow_m3s[at]),
            head_m=float(sweep.operating_point.head_m[at]),
            share_of_best_flow=float(sweep.share[at]),
            surplus=float(sweep.surplus[at]),
            shutoff_margin_m=float(sweep.operating_point.shutoff_margin_m[at]),
            power_w=_known(power),
            efficiency=_known(share),
            npsh_required_m=_known(npsh),
            cost_per_year=_known(cost),
            reasons=tuple(reasons(sweep, int(at))),
            short_of=short_of(sweep, int(at)),
        )
        for at, (power, share, npsh, cost) in zip(which, read, strict=True)
    )


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)
