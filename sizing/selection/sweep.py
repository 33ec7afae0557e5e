"""What a job asks of a pump, and everything of the pumps worth a look as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OPERATES, OperatingPoints, operating_points
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve_table import Indices
from sizing.pump.power import energy_cost
from sizing.selection.cost import annuity_factor
from sizing.selection.requirement import Requirement, Truths


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

    ``met`` goes with the requirements.
    """

    catalogue: Catalogue
    rows: Indices
    system: SystemCurve
    wanted: Wanted
    rules: Rules
    operating_point: OperatingPoints
    met: tuple[Truths, ...]

    @cached_property
    def share(self) -> Array:
        """Flow of every pump as a share of its best flow; NaN where it does not operate."""
        return self.operating_point.flow_m3s / np.maximum(
            self.catalogue.best_flow_m3s[self.rows], 1e-12
        )

    @cached_property
    def surplus(self) -> Array:
        """Flow over the needed flow, as a share of it; NaN where it does not operate."""
        return self.operating_point.flow_m3s / self.wanted.flow_m3s - 1.0

    @cached_property
    def misses(self) -> NDArray[np.int_]:
        """How many requirements each fails."""
        return count_misses(self.met, len(self.rows))

    @cached_property
    def enough(self) -> NDArray[np.bool_]:
        """Operates with at least the needed flow."""
        with np.errstate(invalid="ignore"):
            return np.asarray(
                (self.operating_point.status == OPERATES)
                & (self.operating_point.flow_m3s >= self.wanted.flow_m3s)
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
            self.operating_point.shutoff_margin_m
            >= self.rules.value("CHO-03") * abs(self.system.static_head_m)
        )


def sweep_of(
    catalogue: Catalogue,
    rows: Indices,
    system: SystemCurve,
    wanted: Wanted,
    rules: Rules,
    met: Sequence[Truths],
) -> Sweep:
    """Some rows of a catalogue on the system, with what they meet of the requirements."""
    return Sweep(
        catalogue=catalogue,
        rows=rows,
        system=system,
        wanted=wanted,
        rules=rules,
        operating_point=operating_points(catalogue.table.rows(rows), system),
        met=tuple(one[rows] for one in met),
    )


def count_misses(met: Sequence[Truths], pumps: int) -> NDArray[np.int_]:
    """How many requirements each pump fails."""
    misses = np.zeros(pumps, dtype=np.int_)
    for one in met:
        misses += ~one
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
