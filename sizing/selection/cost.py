"""What a pump costs to own.

Price, energy and upkeep over its life, with money later worth less than money now.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.base.errors import check_range

_NO_RATE = 1e-9  # a discount rate so small that it makes no odds, and no digits either


@dataclass(frozen=True)
class Cost:
    """Cost of owning, in any one currency. Yearly costs fall due at the end of each year.

    No inflation, no scrap value.
    """

    energy_kwh_per_year: float
    energy_cost_cur_per_year: float
    running_cost_cur_per_year: float
    present_value_cur: float
    equivalent_annual_cost_cur: float
    undiscounted_cost_cur_per_year: float


@dataclass(frozen=True)
class BreakEven:
    """Years after which a dearer pump has paid for itself; None where it never does."""

    saving_cur_per_year: float
    simple_years: float | None
    discounted_years: float | None


def annuity_factor(years: float, rate: float) -> float:
    """What 1 a year over some years is worth now: (1 - (1 + r)^-n) / r, or n at no rate.

    Raises
    ------
    OutOfRange
        No life, or a rate outside 0 to 1.
    """
    check_range("life", years, 1e-6, 1e5, "years")
    check_range("discount rate", rate, 0.0, 1.0, "")
    return years if rate < _NO_RATE else -math.expm1(-years * math.log1p(rate)) / rate


def cost(
    *,
    capital_cost_cur: float,
    energy_price_cur_per_kwh: float,
    hours_per_year: float,
    input_power_w: float,
    life_years: float,
    discount_rate: float = 0.0,
    upkeep_cost_cur_per_year: float = 0.0,
) -> Cost:
    """Cost of owning at a constant input power.

    Present value = capital + running cost x annuity factor; the equivalent annual cost spreads it
    evenly over the life.

    Raises
    ------
    OutOfRange
    """
    for name, value in (
        ("price", capital_cost_cur),
        ("energy price", energy_price_cur_per_kwh),
        ("input power", input_power_w),
        ("upkeep", upkeep_cost_cur_per_year),
    ):
        check_range(name, value, 0.0, 1e12, "")
    check_range("running hours", hours_per_year, 0.0, 8784.0, "h/year")
    factor = annuity_factor(life_years, discount_rate)
    energy_kwh = input_power_w * hours_per_year / 1000.0
    energy_cost = energy_kwh * energy_price_cur_per_kwh
    running = energy_cost + upkeep_cost_cur_per_year
    present = capital_cost_cur + running * factor
    return Cost(
        energy_kwh_per_year=energy_kwh,
        energy_cost_cur_per_year=energy_cost,
        running_cost_cur_per_year=running,
        present_value_cur=present,
        equivalent_annual_cost_cur=present / factor,
        undiscounted_cost_cur_per_year=capital_cost_cur / life_years + running,
    )


def break_even(
    extra_capital_cur: float, saving_cur_per_year: float, discount_rate: float = 0.0
) -> BreakEven:
    """When extra capital is earned back by a yearly saving, simply and discounted.

    Discounted: the n with saving x annuity factor(n) = extra, that is -ln(1 - r extra / saving) /
    ln(1 + r). A pump that costs no more and saves has paid at once (zero years).
    """
    if extra_capital_cur <= 0 and saving_cur_per_year >= 0:
        return BreakEven(saving_cur_per_year, 0.0, 0.0)
    if saving_cur_per_year <= 0:
        return BreakEven(saving_cur_per_year, None, None)
    simple = extra_capital_cur / saving_cur_per_year
    if discount_rate < _NO_RATE:
        return BreakEven(saving_cur_per_year, simple, simple)
    left = 1.0 - discount_rate * simple
    return BreakEven(
        saving_cur_per_year,
        simple,
        None if left <= 0 else -math.log(left) / math.log1p(discount_rate),
    )
