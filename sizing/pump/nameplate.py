"""What the plate of an old pump says: its power, its load, the rating and frame in its place.

And how long pumps of a model lived, and what a year of one cost.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sizing.base.errors import SizingError, check_range
from sizing.base.units import unit

_W_PER_KW = 1000.0
_UNSURE_M = 0.0005  # nearer to the limit nobody can tell with a tape


@dataclass(frozen=True)
class Plate:
    """Amps and volts as measured or printed, and what the label claims."""

    phases: int
    voltage_v: float  # line to line on three phases
    current_a: float
    power_factor: float
    motor_efficiency: float
    service_factor: float
    label_power_hp: float

    def __post_init__(self) -> None:
        if self.phases not in (1, 3):
            raise SizingError(f"a motor has one phase or three, not {self.phases}")
        check_range("power factor", self.power_factor, 0.0, 1.0, "")
        check_range("motor's efficiency", self.motor_efficiency, 0.0, 1.0, "")
        check_range("power on the label", self.label_power_hp, 1e-6, 1e5, "hp")

    @property
    def input_power_w(self) -> float:
        """U I cos phi, times root 3 on three phases."""
        ways = math.sqrt(3.0) if self.phases == 3 else 1.0
        return ways * self.voltage_v * self.current_a * self.power_factor

    @property
    def shaft_power_w(self) -> float:
        """What the motor gives."""
        return self.input_power_w * self.motor_efficiency

    @property
    def shaft_power_hp(self) -> float:
        """The same in horsepower of 550 ft lbf/s."""
        return unit("hp", "power").from_si(self.shaft_power_w)

    @property
    def load_of_label(self) -> float:
        """Share of what the label claims."""
        return self.shaft_power_hp / self.label_power_hp

    @property
    def within_service_factor(self) -> bool:
        """Whether it carries what it does, its service factor in it."""
        return self.load_of_label <= self.service_factor

    def nearest_rating_hp(self, ratings_hp: Sequence[float]) -> float:
        """The standard rating nearest to what it gives; the larger of two as near."""
        return min(ratings_hp, key=lambda one: (abs(one - self.shaft_power_hp), -one))

    def rating_that_carries_hp(self, ratings_hp: Iterable[float]) -> float | None:
        """The smallest that carries it with the same service factor; None where none does."""
        carry = [one for one in ratings_hp if one * self.service_factor >= self.shaft_power_hp]
        return min(carry, default=None)


def frame(bolt_spacing_m: float, limit_m: float) -> str:
    """``small`` or ``large`` by the spacing of its bolts, ``unclear`` too near the limit."""
    if abs(bolt_spacing_m - limit_m) <= _UNSURE_M:
        return "unclear"
    return "small" if bolt_spacing_m < limit_m else "large"


def energy_cost_per_year(
    input_power_w: float, hours_per_year: float, price_per_kwh: float
) -> float:
    """In the money of the price."""
    return input_power_w / _W_PER_KW * hours_per_year * price_per_kwh


@dataclass(frozen=True)
class Life:
    """How long pumps of one model were in service, and how many of them failed."""

    model: str
    price: float
    input_power_w: float
    hours_per_year: float
    years: tuple[float, ...]  # of every pump, those still running too
    failed: int

    @property
    def mean_life_years(self) -> float | None:
        """All years of all its pumps over those that failed; None where none has."""
        return sum(self.years) / self.failed if self.failed else None

    def cost_per_year(self, price_per_kwh: float) -> float | None:
        """Price over life, and energy; None where none has failed."""
        life = self.mean_life_years
        if life is None:
            return None
        energy = energy_cost_per_year(self.input_power_w, self.hours_per_year, price_per_kwh)
        return self.price / life + energy


def ranked(models: Iterable[Life], price_per_kwh: float) -> tuple[list[str], list[str]]:
    """Models that are known to fail, the cheapest a year first; and those without a failure."""
    costs: list[tuple[float, str]] = []
    without: list[str] = []
    for one in models:
        cost = one.cost_per_year(price_per_kwh)
        if cost is None:
            without.append(one.model)
        else:
            costs.append((cost, one.model))
    return [model for _, model in sorted(costs)], sorted(without)
