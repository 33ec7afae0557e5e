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
from sizing.base.rounding import at_most
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import CANNOT_LIFT, OFF_END, OPERATES, STATUSES
from sizing.pump.catalogue import Catalogue, Pump, efficiency
from sizing.pump.curve_table import Indices
from sizing.selection.limit import FAILS
from sizing.selection.order import in_order, order_in_words
from sizing.selection.reasons import ask_reasons, fit_reasons, miss_reasons, short_of
from sizing.selection.requirement import FamilyIn
from sizing.selection.sweep import Judged, Sweep, Wanted, costs_per_year, judged, sweep_of

MOST_NEAR_MISSES = 6
MOST_TO_ASK = 6
_MOST_TRIED = 2000  # pumps that are looked through for a best try when all fail by far


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
    chance: float | None = None  # that it makes its duty, whatever is in doubt; None: not known
    might_do: bool = False  # if its maker said what the record does not
    excess_m: float = 0.0  # head over what the run asks for, where the outlets hold the flow


@dataclass(frozen=True)
class Match:
    """Fits in order, near misses, the nearest first, and the rules of the order.

    ``to_ask`` might do, if their makers said what the record does not. How many there are of
    each, and how many fell out for which reason; ``nearest`` is the best try when nothing fits.
    """

    fits: tuple[Candidate, ...]
    near_misses: tuple[Candidate, ...]
    fit_count: int
    considered: int
    near_count: int = 0
    out: tuple[tuple[str, int], ...] = field(default=())
    order: tuple[tuple[str, Message], ...] = field(default=())
    to_ask: tuple[Candidate, ...] = ()
    ask_count: int = 0
    nearest: Candidate | None = None

    def find(self, pump_id: str) -> Candidate | None:
        """The candidate with that pump, if it fits, might do or nearly does."""
        named = (*self.fits, *self.to_ask, *self.near_misses)
        return next((one for one in named if one.pump.pump_id == pump_id), None)


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
    found = judged(catalogue, wanted)
    lack = _lack(catalogue, wanted, found, rules.value("CHO-04"))
    rows = np.flatnonzero(np.isfinite(lack))
    sweep = sweep_of(catalogue, rows, system, wanted, rules, found)
    fit, ask = np.flatnonzero(sweep.fits), np.flatnonzero(sweep.might_do)
    near = _near_misses(sweep, lack[rows])
    fits = _candidates(sweep, fit[in_order(sweep, fit)][:most], fit_reasons)
    to_ask = _candidates(sweep, ask[in_order(sweep, ask)][:MOST_TO_ASK], ask_reasons)
    near_misses = _candidates(sweep, near[:MOST_NEAR_MISSES], miss_reasons)
    return Match(
        fits=fits,
        near_misses=near_misses,
        fit_count=len(fit),
        considered=len(catalogue),
        near_count=len(near),
        out=_fallen_out(sweep, found, near, ask),
        order=order_in_words(wanted, rules),
        to_ask=to_ask,
        ask_count=len(ask),
        nearest=None
        if fits
        else next(
            iter((*to_ask, *near_misses, *_best_try(sweep), *_of_the_rest(sweep, found))), None
        ),
    )


def _of_the_rest(sweep: Sweep, found: Judged) -> tuple[Candidate, ...]:
    """The best try where every pump fails a requirement by far: those of the family first.

    Of those that fail fewest; nothing where none is of the family.
    """
    if len(sweep.rows):
        return ()
    catalogue, wanted = sweep.catalogue, sweep.wanted
    family, fails = np.ones(len(catalogue), dtype=bool), np.zeros(len(catalogue), dtype=int)
    for requirement, failed in zip(wanted.requirements, found.failed, strict=True):
        fails += failed
        if isinstance(requirement, FamilyIn):
            family &= ~failed
    if not family.any():
        return ()
    rows = np.flatnonzero(family & (fails == fails[family].min()))[:_MOST_TRIED]
    return _best_try(sweep_of(catalogue, rows, sweep.system, wanted, sweep.rules, found))


def _best_try(sweep: Sweep) -> tuple[Candidate, ...]:
    """What comes nearest when nothing fits, might do or nearly fits: fewest limits broken.

    Of those that meet the requirements or nearly do; one that runs before one that does not.
    """
    if not len(sweep.rows):
        return ()
    runs = sweep.operating_point.status == OPERATES
    keys = (
        sweep.catalogue.rank_by_id[sweep.rows],
        sweep.short,
        sweep.broken,
        ~sweep.enough,
        sweep.misses,
        ~runs,
    )
    return _candidates(sweep, np.lexsort(keys)[:1], miss_reasons)


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
        judged(catalogue, wanted),
    )
    words = fit_reasons if sweep.fits[0] else ask_reasons if sweep.might_do[0] else miss_reasons
    return _candidates(sweep, np.array([0]), words)[0]


def _lack(catalogue: Catalogue, wanted: Wanted, found: Judged, most: float) -> Array:
    """By what share each pump misses the one requirement that it fails.

    Zero when it is known to fail none, infinite when it is out.
    """
    failed = found.failed
    misses = sum((one.astype(int) for one in failed), np.zeros(len(catalogue), dtype=int))
    lack = np.where(misses == 0, 0.0, np.inf)
    for requirement, one in zip(wanted.requirements, failed, strict=True):
        alone = np.flatnonzero((misses == 1) & one)
        share = requirement.shortfall(catalogue)[alone] if len(alone) else np.zeros(0)
        lack[alone] = np.where((share > 0) & at_most(share, most), share, np.inf)
    return lack


def _near_misses(sweep: Sweep, lack: Array) -> Indices:
    """Pumps a little short of flow, or missing one requirement by a little; the nearest first."""
    short = sweep.short
    little_flow = (
        (sweep.operating_point.status == OPERATES)
        & ~sweep.enough
        & at_most(short, 1.0 - sweep.rules.value("CHO-01"))
        & (lack == 0)
    )
    gap = np.where(little_flow, short, np.where(sweep.enough & (lack > 0), lack, np.inf))
    gap = np.where(sweep.broken == 0, gap, np.inf)
    near = np.flatnonzero(np.isfinite(gap))
    return near[np.lexsort((sweep.catalogue.rank_by_id[sweep.rows[near]], gap[near]))]


def _fallen_out(
    sweep: Sweep, found: Judged, near: Indices, ask: Indices
) -> tuple[tuple[str, int], ...]:
    """Why the others fell out, the commonest reason first.

    The first reason counts: requirements, then whether it gives the flow, then the limits.
    """
    left = np.ones(len(sweep.catalogue), dtype=bool)
    left[sweep.rows[near]] = False
    left[sweep.rows[ask]] = False
    counts: Counter[str] = Counter()
    for requirement, one in zip(sweep.wanted.requirements, found.failed, strict=True):
        counts[requirement.label] += int((left & one).sum())
        left &= ~one
    here = left[sweep.rows]
    for status, label in (
        (CANNOT_LIFT, "cannot lift it"),
        (OFF_END, "would run off the end of its curve"),
    ):
        counts[label] += int((here & (sweep.operating_point.status == status)).sum())
    here = here & (sweep.operating_point.status == OPERATES)
    counts["too little flow"] += int((here & ~sweep.enough).sum())
    here = here & sweep.enough
    for limit, states in zip(sweep.wanted.limits, sweep.states, strict=True):
        counts[limit.label] += int((here & (states == FAILS)).sum())
        here = here & (states != FAILS)
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
            might_do=bool(sweep.might_do[at]),
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
            excess_m=_excess_m(sweep, int(at)),
        )
        for at, (power, share, npsh, cost) in zip(which, read, strict=True)
    )


def _excess_m(sweep: Sweep, at: int) -> float:
    return float(sweep.excess_m[at]) if sweep.wanted.held_by_outlets and sweep.enough[at] else 0.0


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)
