"""A catalogue against a job.

What fits, what nearly does and by how much it misses, and in which order.

The order is by rules that can be read, one after the other, with no hidden weights:
:func:`order_in_words`.
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
from sizing.pump.catalogue import Catalogue, Pump, efficiency
from sizing.pump.curve_table import Indices
from sizing.requirement import Requirement, Truths
from sizing.rules import Rules
from sizing.said import Measure, Said, said

_JOULES_PER_KWH = 3.6e6
MOST_NEAR_MISSES = 6


@dataclass(frozen=True)
class Wanted:
    """What the job asks of a pump, besides the system curve.

    A pump that has so much water to move in a year stops when it is moved; one that goes by the
    clock (``clock_s_per_year``) runs all that time, however much it moves.
    """

    flow_m3s: float
    requirements: tuple[Requirement, ...] = ()
    volume_per_year_m3: float = 0.0
    energy_price_per_kwh: float = 0.0
    life_years: float = 1.0
    discount_rate: float = 0.0
    quiet: bool = False  # people live beside it: noise counts
    clock_s_per_year: float | None = None

    def runs_s_per_year(self, flow_m3s: Array) -> Array:
        """How long a pump of that flow runs in a year [s]."""
        if self.clock_s_per_year is not None:
            return np.full_like(flow_m3s, self.clock_s_per_year)
        return self.volume_per_year_m3 / flow_m3s

    def energy_cost_per_year(self, power_w: float, flow_m3s: float) -> float:
        """What the electricity of a year costs at one flow and input power."""
        return (
            power_w
            * float(self.runs_s_per_year(np.array(flow_m3s)))
            / _JOULES_PER_KWH
            * self.energy_price_per_kwh
        )


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
    reasons: tuple[Said, ...]
    short_of: tuple[float, float] | None = (
        None  # where it gives too little: the share of flow and the head [m] that it lacks
    )


@dataclass(frozen=True)
class Match:
    """Fits in order, near misses (nearest first), how many there are of both, how many fell out for
    which reason, and the rules of the order.
    """

    fits: tuple[Candidate, ...]
    near_misses: tuple[Candidate, ...]
    fit_count: int
    considered: int
    near_count: int = 0
    out: tuple[tuple[str, int], ...] = field(default=())
    order: tuple[tuple[str, Said], ...] = field(default=())

    def find(self, pump_id: str) -> Candidate | None:
        """The candidate with that pump, if it fits or nearly does."""
        return next(
            (one for one in (*self.fits, *self.near_misses) if one.pump.pump_id == pump_id), None
        )


@dataclass(frozen=True)
class _Sweep:
    """Everything of the rows worth a look as arrays, before any is described in words.

    ``met`` goes with the requirements.
    """

    catalogue: Catalogue
    rows: Indices
    system: SystemCurve
    wanted: Wanted
    rules: Rules
    duty: DutyTable
    met: tuple[Truths, ...]

    @cached_property
    def share(self) -> Array:
        """Flow of every pump as a share of its best flow; NaN where it does not operate."""
        return self.duty.flow_m3s / np.maximum(self.catalogue.best_flow_m3s[self.rows], 1e-12)

    @cached_property
    def surplus(self) -> Array:
        """Flow over the needed flow, as a share of it; NaN where it does not operate."""
        return self.duty.flow_m3s / self.wanted.flow_m3s - 1.0

    @cached_property
    def misses(self) -> NDArray[np.int_]:
        """How many requirements each fails."""
        return _count(self.met, len(self.rows))

    @cached_property
    def enough(self) -> NDArray[np.bool_]:
        """Operates with at least the needed flow."""
        with np.errstate(invalid="ignore"):
            return np.asarray(
                (self.duty.status == OPERATES) & (self.duty.flow_m3s >= self.wanted.flow_m3s)
            )

    @cached_property
    def fits(self) -> NDArray[np.bool_]:
        """Gives the flow and meets every requirement."""
        return np.asarray(self.enough & (self.misses == 0))

    @cached_property
    def preferred(self) -> NDArray[np.bool_]:
        """Runs in the preferred part of its curve."""
        with np.errstate(invalid="ignore"):
            return (self.share >= self.rules.low("HI-01")) & (
                self.share <= self.rules.high("HI-01")
            )

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
        return np.asarray(
            self.duty.shutoff_margin_m
            >= self.rules.value("CHO-03") * abs(self.system.static_head_m)
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
        When the wanted flow is not above nought.
    """
    check_range("wanted flow", wanted.flow_m3s, 1e-12, 1e4, "m³/s")
    if not len(catalogue):
        return Match((), (), 0, 0)
    met = [requirement.met(catalogue) for requirement in wanted.requirements]
    lack = _lack(catalogue, wanted, met, rules.value("CHO-04"))
    rows = np.flatnonzero(np.isfinite(lack))
    sweep = _sweep(catalogue, rows, system, wanted, rules, met)
    fit = np.flatnonzero(sweep.fits)
    near = _near_misses(sweep, lack[rows])
    return Match(
        fits=_candidates(sweep, fit[_order(sweep, fit)][:most], _fit_reasons),
        near_misses=_candidates(sweep, near[:MOST_NEAR_MISSES], _miss_reasons),
        fit_count=len(fit),
        considered=len(catalogue),
        near_count=len(near),
        out=_fallen_out(sweep, met, near),
        order=order_in_words(wanted, rules),
    )


def _sweep(
    catalogue: Catalogue,
    rows: Indices,
    system: SystemCurve,
    wanted: Wanted,
    rules: Rules,
    met: Sequence[Truths],
) -> _Sweep:
    return _Sweep(
        catalogue,
        rows,
        system,
        wanted,
        rules,
        duties(catalogue.table.rows(rows), system),
        tuple(one[rows] for one in met),
    )


def candidate(
    catalogue: Catalogue, system: SystemCurve, wanted: Wanted, rules: Rules, row: int
) -> Candidate:
    """One pump on the job, whether it fits or not: for a pump that a person picked."""
    sweep = _sweep(
        catalogue,
        np.array([row]),
        system,
        wanted,
        rules,
        [requirement.met(catalogue) for requirement in wanted.requirements],
    )
    return _candidates(sweep, np.array([0]), _fit_reasons if sweep.fits[0] else _miss_reasons)[0]


def _count(met: Sequence[Truths], pumps: int) -> NDArray[np.int_]:
    """How many requirements each pump fails."""
    misses = np.zeros(pumps, dtype=np.int_)
    for one in met:
        misses += ~one
    return misses


def _lack(catalogue: Catalogue, wanted: Wanted, met: Sequence[Truths], most: float) -> Array:
    """By what share each pump misses the one requirement that it fails.

    Nought when it fails none, infinite when it is out.
    """
    misses = _count(met, len(catalogue))
    lack = np.where(misses == 0, 0.0, np.inf)
    for requirement, one in zip(wanted.requirements, met, strict=True):
        alone = np.flatnonzero((misses == 1) & ~one)
        share = requirement.shortfall(catalogue)[alone] if len(alone) else np.zeros(0)
        lack[alone] = np.where((share > 0) & (share <= most), share, np.inf)
    return lack


def order_in_words(wanted: Wanted, rules: Rules) -> tuple[tuple[str, Said], ...]:
    """The rules of the order, the first first, each with the id of the house rule that holds its
    threshold ('' for none).
    """

    def share(rule_id: str) -> Measure:
        return Measure(rules.value(rule_id), "ratio")

    lines = [
        (
            "CHO-09",
            said(
                "less than {limit} over the flow needed, before those that give more",
                limit=share("CHO-09"),
            ),
        ),
        (
            "HI-01",
            said(
                "run between {low} and {high} of their best flow, before those beside it",
                low=Measure(rules.low("HI-01"), "ratio"),
                high=Measure(rules.high("HI-01"), "ratio"),
            ),
        ),
        (
            "CHO-02",
            said("at most {limit} over the flow needed, before bigger ones", limit=share("CHO-02")),
        ),
        (
            "CHO-03",
            said(
                "at shut-off at least {limit} of the static head to spare, before those with less",
                limit=share("CHO-03"),
            ),
        ),
        (
            "CHO-11",
            said(
                "cost of owning for a year, in steps of {limit} over the cheapest",
                limit=share("CHO-11"),
            ),
        ),
    ]
    if wanted.quiet:
        lines.append(
            (
                "CHO-12",
                said(
                    "quieter first, in steps of {step} dB(A); noise counts here",
                    step=f"{rules.value('CHO-12'):g}",
                ),
            )
        )
    return (
        *lines,
        ("", said("on the shelf, before those that must be ordered")),
        ("", said("the cheaper to own; then the name")),
    )


def _order(sweep: _Sweep, which: Indices) -> Indices:
    """Order of some pumps of a sweep by the rules of :func:`order_in_words`."""
    catalogue, rows = sweep.catalogue, sweep.rows[which]
    cost = costs_per_year(catalogue, rows, sweep.duty.flow_m3s[which], sweep.wanted)
    cheapest = max(float(np.fmin.reduce(cost, initial=np.inf)), 1e-9)
    step = np.floor(
        np.log(np.maximum(cost / cheapest, 1.0)) / np.log1p(sweep.rules.value("CHO-11")) + 1e-9
    )
    absent = ~(catalogue.column("stock")[rows] >= catalogue.bought)
    keys = [
        catalogue.rank_by_id[rows],
        np.nan_to_num(cost, nan=np.inf),
        absent,
        _loudness(sweep, rows),
        np.nan_to_num(step, nan=np.inf),
    ]
    keys += [
        ~sweep.reserve_enough[which],
        sweep.too_big[which],
        ~sweep.preferred[which],
        sweep.far_too_big[which],
    ]
    return np.lexsort(keys)


def _loudness(sweep: _Sweep, rows: Indices) -> Array:
    """Noise in steps, those that nobody measured last; nought for all where it does not count."""
    if not sweep.wanted.quiet:
        return np.zeros(len(rows))
    return np.nan_to_num(
        np.floor(sweep.catalogue.column("noise_db")[rows] / sweep.rules.value("CHO-12")), nan=np.inf
    )


def costs_per_year(
    catalogue: Catalogue, rows: NDArray[np.intp], flow_m3s: Array, wanted: Wanted
) -> Array:
    """Price spread over its life (discounted) plus energy for the year's water, some pumps each at
    its own flow; NaN where unknown.
    """
    power = catalogue.power_at(rows, flow_m3s)
    energy = (
        power * wanted.runs_s_per_year(flow_m3s) / _JOULES_PER_KWH * wanted.energy_price_per_kwh
    )
    return np.asarray(
        catalogue.column("price")[rows] / annuity_factor(wanted.life_years, wanted.discount_rate)
        + energy
    )


def _near_misses(sweep: _Sweep, lack: Array) -> Indices:
    """Pumps a little short of flow, or missing one requirement by a little; the nearest first."""
    short = np.nan_to_num(1.0 - sweep.duty.flow_m3s / sweep.wanted.flow_m3s, nan=1.0)
    little_flow = (
        (sweep.duty.status == OPERATES)
        & ~sweep.enough
        & (short <= 1.0 - sweep.rules.value("CHO-01"))
        & (lack == 0)
    )
    gap = np.where(little_flow, short, np.where(sweep.enough & (lack > 0), lack, np.inf))
    near = np.flatnonzero(np.isfinite(gap))
    return near[np.lexsort((sweep.catalogue.rank_by_id[sweep.rows[near]], gap[near]))]


def _fallen_out(sweep: _Sweep, met: Sequence[Truths], near: Indices) -> tuple[tuple[str, int], ...]:
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
        counts[label] += int((here & (sweep.duty.status == status)).sum())
    counts["too little flow"] += int((here & (sweep.duty.status == OPERATES) & ~sweep.enough).sum())
    return tuple((label, count) for label, count in counts.most_common() if count)


def _candidates(
    sweep: _Sweep, which: Indices, reasons: Callable[[_Sweep, int], Sequence[Said]]
) -> tuple[Candidate, ...]:
    """Some pumps of a sweep described, in their order."""
    catalogue, rows, flows, heads = (
        sweep.catalogue,
        sweep.rows[which],
        sweep.duty.flow_m3s[which],
        sweep.duty.head_m[which],
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
            status=STATUSES[sweep.duty.status[at]],
            flow_m3s=float(sweep.duty.flow_m3s[at]),
            head_m=float(sweep.duty.head_m[at]),
            share_of_best_flow=float(sweep.share[at]),
            surplus=float(sweep.surplus[at]),
            shutoff_margin_m=float(sweep.duty.shutoff_margin_m[at]),
            power_w=_known(power),
            efficiency=_known(share),
            npsh_required_m=_known(npsh),
            cost_per_year=_known(cost),
            reasons=tuple(reasons(sweep, int(at))),
            short_of=_short_of(sweep, int(at)),
        )
        for at, (power, share, npsh, cost) in zip(which, read, strict=True)
    )


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def _short_of(sweep: _Sweep, at: int) -> tuple[float, float] | None:
    """The share of flow and the head that a pump lacks which runs, but gives too little.

    The head is NaN where its curve ends before.
    """
    if sweep.duty.status[at] != OPERATES or sweep.enough[at]:
        return None
    wanted = sweep.wanted.flow_m3s
    head = float(sweep.catalogue.head_at(sweep.rows[[at]], np.array([wanted]))[0])
    return -float(sweep.surplus[at]), sweep.system.head_at(wanted) - head


def _fit_reasons(sweep: _Sweep, at: int) -> list[Said]:
    share, surplus = (
        Measure(float(sweep.share[at]), "ratio"),
        Measure(float(sweep.surplus[at]), "ratio"),
    )
    where = (
        "in the middle of"
        if sweep.preferred[at]
        else "far left on"
        if sweep.share[at] < 1
        else "far right on"
    )
    reasons = [said(where + " its curve ({share} of its best flow)", share=share)]
    if sweep.too_big[at]:
        reasons.append(said("bigger than need be: {surplus} more than needed", surplus=surplus))
    else:
        reasons.append(said("{surplus} more flow than needed", surplus=surplus))
    if not sweep.reserve_enough[at]:
        reasons.append(
            said(
                "only {reserve} of head in reserve at shut-off",
                reserve=Measure(float(sweep.duty.shutoff_margin_m[at]), "length"),
            )
        )
    pump = sweep.catalogue.pumps[sweep.rows[at]]
    if sweep.wanted.quiet and pump.noise_db is not None:
        reasons.append(said("{noise} dB(A) at 1 m", noise=f"{pump.noise_db:g}"))
    return reasons + _in_stock(pump, sweep.catalogue.bought)


def _in_stock(pump: Pump, bought: int) -> list[Said]:
    if pump.stock is not None and pump.stock >= bought:
        return [said("in stock")]
    return (
        [] if pump.lead_days is None else [said("comes in {days} days", days=f"{pump.lead_days:g}")]
    )


def _miss_reasons(sweep: _Sweep, at: int) -> list[Said]:
    pump, short = sweep.catalogue.pumps[sweep.rows[at]], _short_of(sweep, at)
    reasons = [
        requirement.miss(pump)
        for requirement, met in zip(sweep.wanted.requirements, sweep.met, strict=True)
        if not met[at]
    ]
    if sweep.duty.status[at] == CANNOT_LIFT:
        lack = Measure(-float(sweep.duty.shutoff_margin_m[at]), "length")
        reasons.append(
            said("cannot lift it: {lack} too little head with no flow at all", lack=lack)
        )
    elif sweep.duty.status[at] == OFF_END:
        reasons.append(
            said("would run off the end of its curve: the pipe holds too little against it")
        )
    elif short:
        reasons.append(said("{short} short of the flow", short=Measure(short[0], "ratio", 1)))
    return reasons
