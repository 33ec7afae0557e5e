"""A catalogue against a job: what fits, what nearly does and by how much it misses, and in which order.

The order is by rules that can be read, one after the other, with no hidden weights:

1. less than twice the flow needed (CHO-09) before more;
2. runs in the preferred part of its curve (rule HI-01) before beside it;
3. not much more flow than needed (CHO-02) before too big;
4. enough reserve at shut-off (CHO-03) before little;
5. the smaller yearly cost of owning first; then the name.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sizing.cost import annuity_factor
from sizing.duty_many import CANNOT_LIFT, OFF_END, OPERATES, STATUSES, DutyTable, duties
from sizing.errors import check_range
from sizing.pipework.friction import Array
from sizing.pipework.route import SystemCurve
from sizing.pump.catalogue import Catalogue, Pump
from sizing.requirement import Requirement
from sizing.rules import Rules
from sizing.said import Measure, Said, said

_JOULES_PER_KWH = 3.6e6
MOST_NEAR_MISSES = 6


@dataclass(frozen=True)
class Wanted:
    """What the job asks of a pump, besides the system curve."""

    flow_m3s: float
    requirements: tuple[Requirement, ...] = ()
    volume_per_year_m3: float = 0.0
    energy_price_per_kwh: float = 0.0
    life_years: float = 1.0
    discount_rate: float = 0.0


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
    cost_per_year: float | None
    reasons: tuple[Said, ...]


@dataclass(frozen=True)
class Match:
    """Fits in order, near misses (nearest first), and how many fell out for which reason."""

    fits: tuple[Candidate, ...]
    near_misses: tuple[Candidate, ...]
    fit_count: int
    considered: int
    out: tuple[tuple[str, int], ...] = field(default=())

    def find(self, pump_id: str) -> Candidate | None:
        """The candidate with that pump, if it fits or nearly does."""
        return next((one for one in (*self.fits, *self.near_misses) if one.pump.pump_id == pump_id), None)


@dataclass(frozen=True)
class _Sweep:
    """Everything of every pump as arrays, before any is described in words."""

    catalogue: Catalogue
    system: SystemCurve
    wanted: Wanted
    rules: Rules
    duty: DutyTable
    misses: NDArray[np.int_]

    @cached_property
    def share(self) -> Array:
        """Flow of every pump as a share of its best flow; NaN where it does not operate."""
        return self.duty.flow_m3s / np.maximum(self.catalogue.best_flow_m3s, 1e-12)

    @cached_property
    def surplus(self) -> Array:
        """Flow over the needed flow, as a share of it; NaN where it does not operate."""
        return self.duty.flow_m3s / self.wanted.flow_m3s - 1.0

    @cached_property
    def enough(self) -> NDArray[np.bool_]:
        """Operates with at least the needed flow."""
        with np.errstate(invalid="ignore"):
            return np.asarray((self.duty.status == OPERATES) & (self.duty.flow_m3s >= self.wanted.flow_m3s))

    @cached_property
    def fits(self) -> NDArray[np.bool_]:
        """Gives the flow and meets every requirement."""
        return np.asarray(self.enough & (self.misses == 0))

    @cached_property
    def preferred(self) -> NDArray[np.bool_]:
        """Runs in the preferred part of its curve."""
        with np.errstate(invalid="ignore"):
            return (self.share >= self.rules.low("HI-01")) & (self.share <= self.rules.high("HI-01"))

    @cached_property
    def too_big(self) -> NDArray[np.bool_]:
        """Gives much more flow than needed."""
        with np.errstate(invalid="ignore"):
            return np.asarray(self.surplus > self.rules.value("CHO-02"))

    @cached_property
    def far_too_big(self) -> NDArray[np.bool_]:
        """Gives so much more flow than needed that no place on its curve makes up for it."""
        with np.errstate(invalid="ignore"):
            return np.asarray(self.surplus > self.rules.value("CHO-09"))

    @cached_property
    def reserve_enough(self) -> NDArray[np.bool_]:
        """Has head to spare at shut-off."""
        return np.asarray(self.duty.shutoff_margin_m >= self.rules.value("CHO-03") * abs(self.system.static_head_m))


def match(catalogue: Catalogue, system: SystemCurve, wanted: Wanted, rules: Rules, *, most: int = 50) -> Match:
    """Every pump of the catalogue on the job; the best ``most`` fits and a handful of near misses in words.

    Raises
    ------
    OutOfRange
        When the wanted flow is not above nought.
    """
    check_range("wanted flow", wanted.flow_m3s, 1e-12, 1e4, "m³/s")
    if not len(catalogue):
        return Match((), (), 0, 0)
    misses = np.zeros(len(catalogue), dtype=np.int_)
    for requirement in wanted.requirements:
        misses += ~requirement.met(catalogue)
    sweep = _Sweep(catalogue, system, wanted, rules, duties(catalogue.table, system), misses)
    fit = np.flatnonzero(sweep.fits)
    ordered = fit[_order(sweep, fit)]
    near, gaps = _near_misses(sweep)
    return Match(
        fits=_candidates(sweep, ordered[:most], _fit_reasons),
        near_misses=_candidates(sweep, near[np.argsort(gaps, kind="stable")][:MOST_NEAR_MISSES], _miss_reasons),
        fit_count=len(fit), considered=len(catalogue), out=_fallen_out(sweep, set(near.tolist())),
    )  # fmt: skip


def candidate(catalogue: Catalogue, system: SystemCurve, wanted: Wanted, rules: Rules, row: int) -> Candidate:
    """One pump on the job, whether it fits or not: for a pump that a person picked."""
    single = Catalogue(catalogue.pumps[row : row + 1])
    misses = sum((~requirement.met(single)).astype(np.int_) for requirement in wanted.requirements)
    sweep = _Sweep(single, system, wanted, rules, duties(single.table, system), np.atleast_1d(misses))
    reasons = _fit_reasons(sweep, 0) if sweep.fits[0] else _miss_reasons(sweep, 0)
    return _candidates(sweep, np.array([0]), lambda sweep, row: reasons)[0]


def _order(sweep: _Sweep, rows: NDArray[np.intp]) -> NDArray[np.intp]:
    """Order of some rows by the rules in this module's heading."""
    names = np.array([sweep.catalogue.pumps[row].pump_id for row in rows], dtype=str)
    cost = np.nan_to_num(costs_per_year(sweep.catalogue, rows, sweep.duty.flow_m3s[rows], sweep.wanted), nan=np.inf)
    return np.lexsort((names, cost, ~sweep.reserve_enough[rows], sweep.too_big[rows], ~sweep.preferred[rows], sweep.far_too_big[rows]))


def costs_per_year(catalogue: Catalogue, rows: NDArray[np.intp], flow_m3s: Array, wanted: Wanted) -> Array:
    """Price spread over its life (discounted) plus energy for the year's water, some pumps each at its own flow; NaN where unknown."""
    power = catalogue.power_at(rows, flow_m3s)
    energy = power * (wanted.volume_per_year_m3 / flow_m3s) / _JOULES_PER_KWH * wanted.energy_price_per_kwh
    return np.asarray(catalogue.column("price")[rows] / annuity_factor(wanted.life_years, wanted.discount_rate) + energy)


def _near_misses(sweep: _Sweep) -> tuple[NDArray[np.intp], Array]:
    """Pumps a little short of flow, or missing one requirement by a little; with how far they miss."""
    short = np.nan_to_num(1.0 - sweep.duty.flow_m3s / sweep.wanted.flow_m3s, nan=1.0)
    little_flow = (sweep.duty.status == OPERATES) & ~sweep.enough & (short <= 1.0 - sweep.rules.value("CHO-01")) & (sweep.misses == 0)
    gap = np.where(little_flow, short, np.inf)
    for requirement in sweep.wanted.requirements:
        lack = requirement.shortfall(sweep.catalogue)
        nearly = sweep.enough & (sweep.misses == 1) & (lack > 0) & (lack <= sweep.rules.value("CHO-04"))
        gap = np.where(nearly, lack, gap)
    rows = np.flatnonzero(np.isfinite(gap))
    return rows, gap[rows]


def _fallen_out(sweep: _Sweep, near: set[int]) -> tuple[tuple[str, int], ...]:
    """Why the others fell out, the commonest reason first; the first requirement missed counts."""
    left = np.ones(len(sweep.catalogue), dtype=bool)
    left[list(near)] = False
    counts: Counter[str] = Counter()
    for requirement in sweep.wanted.requirements:
        missed = left & ~requirement.met(sweep.catalogue)
        counts[requirement.label] += int(missed.sum())
        left &= ~missed
    for status, label in ((CANNOT_LIFT, "cannot lift it"), (OFF_END, "would run off the end of its curve")):
        counts[label] += int((left & (sweep.duty.status == status)).sum())
    counts["too little flow"] += int((left & (sweep.duty.status == OPERATES) & ~sweep.enough).sum())
    return tuple((label, count) for label, count in counts.most_common() if count)


def _candidates(sweep: _Sweep, rows: NDArray[np.intp], reasons: Callable[[_Sweep, int], Sequence[Said]]) -> tuple[Candidate, ...]:
    """Some rows described, in their order."""
    powers = sweep.catalogue.power_at(rows, sweep.duty.flow_m3s[rows])
    costs = costs_per_year(sweep.catalogue, rows, sweep.duty.flow_m3s[rows], sweep.wanted)
    return tuple(
        Candidate(
            row=int(row), pump=sweep.catalogue.pumps[row], fits=bool(sweep.fits[row]), status=STATUSES[sweep.duty.status[row]], flow_m3s=float(sweep.duty.flow_m3s[row]),
            head_m=float(sweep.duty.head_m[row]), share_of_best_flow=float(sweep.share[row]), surplus=float(sweep.surplus[row]),
            shutoff_margin_m=float(sweep.duty.shutoff_margin_m[row]), power_w=_known(power), cost_per_year=_known(cost),
            reasons=tuple(reasons(sweep, int(row))),
        )
        for row, power, cost in zip(rows, powers, costs, strict=True)
    )  # fmt: skip


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def _fit_reasons(sweep: _Sweep, row: int) -> list[Said]:
    share = Measure(float(sweep.share[row]), "ratio")
    surplus = Measure(float(sweep.surplus[row]), "ratio")
    reasons = []
    if sweep.preferred[row]:
        reasons.append(said("in the middle of its curve ({share} of its best flow)", share=share))
    else:
        side = "far left on" if sweep.share[row] < 1 else "far right on"
        reasons.append(said(side + " its curve ({share} of its best flow)", share=share))
    if sweep.too_big[row]:
        reasons.append(said("bigger than need be: {surplus} more than needed", surplus=surplus))
    else:
        reasons.append(said("{surplus} more flow than needed", surplus=surplus))
    if not sweep.reserve_enough[row]:
        reasons.append(said("only {reserve} of head in reserve at shut-off", reserve=Measure(float(sweep.duty.shutoff_margin_m[row]), "length")))
    return reasons


def _miss_reasons(sweep: _Sweep, row: int) -> list[Said]:
    reasons = [requirement.miss(sweep.catalogue.pumps[row]) for requirement in sweep.wanted.requirements if not requirement.met(sweep.catalogue)[row]]
    status = sweep.duty.status[row]
    if status == CANNOT_LIFT:
        reasons.append(
            said("cannot lift it: {lack} too little head with no flow at all", lack=Measure(-float(sweep.duty.shutoff_margin_m[row]), "length"))
        )
    elif status == OFF_END:
        reasons.append(said("would run off the end of its curve: the pipe holds too little against it"))
    elif sweep.duty.flow_m3s[row] < sweep.wanted.flow_m3s:
        reasons.append(_short_of_flow(sweep, row))
    return reasons


def _short_of_flow(sweep: _Sweep, row: int) -> Said:
    rows, wanted = np.array([row]), sweep.wanted.flow_m3s
    head = float(sweep.catalogue.head_at(rows, np.array([wanted]))[0])
    lack = sweep.system.head_at(wanted) - head
    if np.isnan(lack):
        return said("{short} short of the flow", short=Measure(-float(sweep.surplus[row]), "ratio"))
    return said(
        "{short} short of the flow; {lack} less head to overcome would close it",
        short=Measure(-float(sweep.surplus[row]), "ratio", 1), lack=Measure(lack, "length"),
    )  # fmt: skip
