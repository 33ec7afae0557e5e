"""What a job asks of a pump, and everything of the pumps worth a look as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

import numpy as np
from numpy.typing import NDArray

from sizing.base.rounding import at_least, at_most
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OPERATES, OperatingPoints, operating_points
from sizing.operating_point.outlets import held_to
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve_table import Indices
from sizing.pump.power import energy_cost
from sizing.selection.cost import annuity_factor
from sizing.selection.limit import ASK, FAILS, HOLDS, WATCH, Limit, States
from sizing.selection.requirement import Requirement, Truths

if TYPE_CHECKING:
    from sizing.pump.curve import PumpCurve
    from sizing.selection.chance import Routes


class Served(Protocol):
    """What pumps serve of a need that is not the flow at one point."""

    def __call__(self, sweep: Sweep) -> Array:
        """The share of the need that each pump serves; NaN where that is not known."""

    def met_on(self, curves: Sequence[PumpCurve], routes: Routes, head_factor: Array) -> Array:
        """Whether each pump serves the need on each sampled route, shape (pumps, samples)."""


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
    limits: tuple[Limit, ...] = ()  # what must hold of the pump at work
    # its outlets let no more through than is needed, whatever the pump could give
    held_by_outlets: bool = False
    # what each pump serves of the need, where that is not the flow at one point but a day's water
    served: Served | None = None
    needs_word: str = "flow"  # what a pump that serves too little is short of

    def runs_s_per_year(self, flow_m3s: Array) -> Array:
        """How long a pump of that flow runs in a year [s]."""
        if self.clock_s_per_year is not None:
            return np.full_like(flow_m3s, self.clock_s_per_year)
        return self.volume_per_year_m3 / flow_m3s

    def energy_cost_per_year(self, power_w: float, flow_m3s: float) -> float:
        """What the electricity of a year costs at one flow and input power."""
        runs_s = float(self.runs_s_per_year(np.array(flow_m3s)))
        return float(energy_cost(power_w, runs_s, self.energy_price_per_kwh))

    def owning_per_year(
        self, price: float | None, power_w: float, flow_m3s: float, bought: int = 1
    ) -> float | None:
        """Cost of owning for a year: price spread over the life, and energy; None without price."""
        if price is None:
            return None
        spread = price * bought / annuity_factor(self.life_years, self.discount_rate)
        return spread + self.energy_cost_per_year(power_w, flow_m3s)


@dataclass(frozen=True)
class Sweep:
    """Everything of the rows worth a look as arrays, before any is described in words.

    ``met`` and ``silent`` (the maker does not say) go with the requirements.
    """

    catalogue: Catalogue
    rows: Indices
    system: SystemCurve
    wanted: Wanted
    rules: Rules
    operating_point: OperatingPoints
    met: tuple[Truths, ...]
    silent: tuple[Truths, ...]

    @cached_property
    def share(self) -> Array:
        """Flow of every pump as a share of its best flow; NaN where it does not operate."""
        return self.operating_point.flow_m3s / np.maximum(
            self.catalogue.best_flow_m3s[self.rows], 1e-12
        )

    @cached_property
    def surplus(self) -> Array:
        """What it gives over the need, as a share of it; NaN where it does not operate.

        Of flow; of head where the outlets hold the flow to the need.
        """
        if self.wanted.served is not None:
            return self.served - 1.0
        flow = self.operating_point.flow_m3s / self.wanted.flow_m3s - 1.0
        if not self.wanted.held_by_outlets:
            return flow
        return np.where(self.enough, self.excess_m / max(self.needed_head_m, 1e-9), flow)

    @cached_property
    def served(self) -> Array:
        """The share of the need that each serves; NaN where it does not operate or is not known."""
        if self.wanted.served is not None:
            return self.wanted.served(self)
        return self.operating_point.flow_m3s / self.wanted.flow_m3s

    @property
    def short(self) -> Array:
        """By what share of the need each falls short: nothing to one, one where it gives none."""
        return np.asarray(np.maximum(np.nan_to_num(1.0 - self.served, nan=1.0), 0.0))

    @cached_property
    def needed_head_m(self) -> float:
        """Head that the system asks for at the needed flow [m]."""
        return self.system.head_at(self.wanted.flow_m3s)

    @cached_property
    def excess_m(self) -> Array:
        """Head over what the system asks for where it runs [m]: zero at a crossing."""
        return np.asarray(self.operating_point.head_m - self.needed_head_m)

    @cached_property
    def highest_head_m(self) -> Array:
        """The most head of any point of its curve [m]: at or near no flow."""
        table = self.catalogue.table.rows(self.rows)
        if not len(self.rows):
            return np.zeros(0)
        return np.asarray(table.padded(self.catalogue.table.heads_m).max(axis=1))

    @cached_property
    def misses(self) -> NDArray[np.int_]:
        """How many requirements each fails."""
        return count_misses(self.met, self.silent, len(self.rows))

    @cached_property
    def enough(self) -> NDArray[np.bool_]:
        """Operates and serves the need, or might: where the record does not let anybody say."""
        with np.errstate(invalid="ignore"):
            unsaid = np.isnan(self.served) & (self.wanted.served is not None)
            return np.asarray(
                (self.operating_point.status == OPERATES) & (at_least(self.served, 1.0) | unsaid)
            )

    @cached_property
    def states(self) -> tuple[States, ...]:
        """What each limit says of each pump; one that does not operate has no say."""
        runs = self.operating_point.status == OPERATES
        return tuple(
            np.where(runs, limit.judged(self), HOLDS).astype(np.int8)
            for limit in self.wanted.limits
        )

    @cached_property
    def broken(self) -> NDArray[np.int_]:
        """How many limits each breaks."""
        return self._count(FAILS)

    @cached_property
    def watched(self) -> NDArray[np.bool_]:
        """A limit only just holds."""
        return self._count(WATCH) > 0

    @cached_property
    def unsaid(self) -> NDArray[np.bool_]:
        """The maker is silent on something that decides."""
        silent = sum((one.astype(int) for one in self.silent), np.zeros(len(self.rows), dtype=int))
        return np.asarray((silent > 0) | (self._count(ASK) > 0))

    def _count(self, state: int) -> NDArray[np.int_]:
        counts = np.zeros(len(self.rows), dtype=np.int_)
        for one in self.states:
            counts += one == state
        return counts

    @cached_property
    def able(self) -> NDArray[np.bool_]:
        """Gives the flow, and nothing that is known speaks against it."""
        return np.asarray(self.enough & (self.misses == 0) & (self.broken == 0))

    @cached_property
    def fits(self) -> NDArray[np.bool_]:
        """Gives the flow, meets every requirement and keeps every limit."""
        return np.asarray(self.able & ~self.unsaid)

    @cached_property
    def might_do(self) -> NDArray[np.bool_]:
        """Would fit if the maker said what his record does not."""
        return np.asarray(self.able & self.unsaid)

    @cached_property
    def preferred(self) -> NDArray[np.bool_]:
        """Runs in the preferred part of its curve."""
        with np.errstate(invalid="ignore"):
            return np.asarray(
                at_least(self.share, self.rules.low("HI-01"))
                & at_most(self.share, self.rules.high("HI-01"))
            )

    @cached_property
    def too_big(self) -> NDArray[np.bool_]:
        """Gives much more flow than needed."""
        with np.errstate(invalid="ignore"):
            return np.asarray(~at_most(self.surplus, self.rules.value("CHO-02")))

    @cached_property
    def far_too_big(self) -> NDArray[np.bool_]:
        """Gives so much more flow than needed that no place on its curve makes up for it."""
        with np.errstate(invalid="ignore"):
            return np.asarray(~at_most(self.surplus, self.rules.value("CHO-09")))

    @cached_property
    def reserve_enough(self) -> NDArray[np.bool_]:
        """Has head to spare at shut-off."""
        return np.asarray(
            self.operating_point.shutoff_margin_m
            >= self.rules.value("CHO-03") * abs(self.system.static_head_m)
        )


@dataclass(frozen=True)
class Judged:
    """What a whole catalogue meets of the requirements, and where its makers are silent."""

    met: tuple[Truths, ...]
    silent: tuple[Truths, ...]

    @property
    def failed(self) -> tuple[Truths, ...]:
        """What it is known to fail."""
        return tuple(~met & ~silent for met, silent in zip(self.met, self.silent, strict=True))


def judged(catalogue: Catalogue, wanted: Wanted) -> Judged:
    """A catalogue against what is wanted of a pump, whatever its curve."""
    return Judged(
        tuple(requirement.met(catalogue) for requirement in wanted.requirements),
        tuple(requirement.unknown(catalogue) for requirement in wanted.requirements),
    )


def sweep_of(
    catalogue: Catalogue,
    rows: Indices,
    system: SystemCurve,
    wanted: Wanted,
    rules: Rules,
    found: Judged,
) -> Sweep:
    """Some rows of a catalogue on the system, with what they meet of the requirements."""
    table = catalogue.table.rows(rows)
    points = operating_points(table, system)
    if wanted.held_by_outlets:
        heads = catalogue.head_at(rows, np.full(len(rows), wanted.flow_m3s))
        points = held_to(points, wanted.flow_m3s, heads, system.head_at(wanted.flow_m3s))
    return Sweep(
        catalogue=catalogue,
        rows=rows,
        system=system,
        wanted=wanted,
        rules=rules,
        operating_point=points,
        met=tuple(one[rows] for one in found.met),
        silent=tuple(one[rows] for one in found.silent),
    )


def count_misses(met: Sequence[Truths], silent: Sequence[Truths], pumps: int) -> NDArray[np.int_]:
    """How many requirements each pump is known to fail."""
    misses = np.zeros(pumps, dtype=np.int_)
    for holds, unknown in zip(met, silent, strict=True):
        misses += ~holds & ~unknown
    return misses


def costs_per_year(
    catalogue: Catalogue, rows: NDArray[np.intp], flow_m3s: Array, wanted: Wanted
) -> Array:
    """Price spread over its life (discounted) plus energy for the year's water.

    Some pumps, each at its own flow; NaN where unknown.
    """
    power, runs_s = catalogue.power_at(rows, flow_m3s), wanted.runs_s_per_year(flow_m3s)
    spread = catalogue.column("price")[rows]
    spread = spread / annuity_factor(wanted.life_years, wanted.discount_rate)
    return np.asarray(spread + energy_cost(power, runs_s, wanted.energy_price_per_kwh))
