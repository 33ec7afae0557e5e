"""Up to four pumps side by side on one job.

Where each runs, what it costs to own, and where they differ.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known, NotYet
from sizing.base import units
from sizing.base.noise import noise_in_words
from sizing.base.units import SECONDS_PER_HOUR, System
from sizing.operating_point.one import speed_for_flow
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.curve import at_speed
from sizing.selection.cost import BreakEven, Cost, break_even, cost
from sizing.selection.match import Candidate, candidate
from sizing.selection.sweep import Wanted

MOST = 4
_HOURS_PER_YEAR = 8784.0
_ROUND_HEADS, _FINE = 4, 801


@dataclass(frozen=True)
class Slowed:
    """A pump that its maker lets be slowed, at the speed that gives just the flow needed.

    Its cost of owning for a year there.
    """

    speed_ratio: float
    power_w: float
    cost_per_year: float | None


@dataclass(frozen=True)
class Compared:
    """One pump of a comparison.

    ``cost`` is None where price or power are not known, ``per_m3`` goes with it.

    ``slowed`` is None for a pump of one speed, and where the speed for the duty lies outside its
    maker's range.

    ``pays_back`` is against the first pump: when the dearer of the two has paid for itself; None
    for the first.
    """

    candidate: Candidate
    cost: Cost | None
    per_m3: float | None
    noise: str
    pays_back: BreakEven | None
    slowed: Slowed | None


def compare(base: Known, catalogue: Catalogue, pump_ids: Sequence[str]) -> tuple[Compared, ...]:
    """The pumps named, in their order, those not in the catalogue left out.

    Raises
    ------
    NotYet
        Fewer than two of them are there.
    """
    wanted = base.sizing.wanted
    rows = [
        row for row in (catalogue.find(one) for one in dict.fromkeys(pump_ids)) if row is not None
    ][:MOST]
    if wanted is None or len(rows) < 2:
        raise NotYet("choose two to four pumps to compare")
    found = [candidate(catalogue, base.system, wanted, base.rules, row) for row in rows]
    costs = [_cost(one, wanted) for one in found]
    made = []
    for one, owned in zip(found, costs, strict=True):
        pays = (
            None
            if one is found[0]
            else _pays_back(found[0], costs[0], one, owned, wanted.discount_rate)
        )
        noise = "" if one.pump.noise_db is None else noise_in_words(one.pump.noise_db)
        per_m3 = (
            owned.equivalent_annual_cost_cur / moved
            if owned and (moved := _moved_m3(one, wanted))
            else None
        )
        made.append(
            Compared(
                candidate=one,
                cost=owned,
                per_m3=per_m3,
                noise=noise,
                pays_back=pays,
                slowed=_slowed(base, one, wanted),
            )
        )
    return tuple(made)


def _slowed(base: Known, one: Candidate, wanted: Wanted) -> Slowed | None:
    slowest = one.pump.slowest_speed
    ratio = (
        None if slowest is None else speed_for_flow(one.pump.curve, base.system, wanted.flow_m3s)
    )
    if slowest is None or ratio is None or not slowest <= ratio <= 1.0:
        return None
    power = at_speed(one.pump.curve, ratio).power_at(wanted.flow_m3s)
    if power is None:
        return None
    owned = wanted.owning_per_year(one.pump.price, power, wanted.flow_m3s)
    return Slowed(ratio, power, owned)


def _moved_m3(one: Candidate, wanted: Wanted) -> float:
    """What the pump moves in a year."""
    return one.flow_m3s * float(wanted.runs_s_per_year(np.array(one.flow_m3s)))


def _cost(one: Candidate, wanted: Wanted) -> Cost | None:
    """Cost of owning at the pump's own flow: it runs for as long as the year's volume takes it."""
    if one.pump.price is None or one.power_w is None or one.status != "operates":
        return None
    hours = float(wanted.runs_s_per_year(np.array(one.flow_m3s))) / SECONDS_PER_HOUR
    return cost(
        capital_cost_cur=one.pump.price,
        energy_price_cur_per_kwh=wanted.energy_price_per_kwh,
        hours_per_year=min(hours, _HOURS_PER_YEAR),
        input_power_w=one.power_w,
        life_years=wanted.life_years,
        discount_rate=wanted.discount_rate,
    )


def _pays_back(
    first: Candidate,
    first_cost: Cost | None,
    other: Candidate,
    other_cost: Cost | None,
    rate: float,
) -> BreakEven | None:
    if (
        first_cost is None
        or other_cost is None
        or first.pump.price is None
        or other.pump.price is None
    ):
        return None
    dearer_is_other = other.pump.price >= first.pump.price
    extra = abs(other.pump.price - first.pump.price)
    saving = first_cost.running_cost_cur_per_year - other_cost.running_cost_cur_per_year
    return break_even(extra, saving if dearer_is_other else -saving, rate)


def round_heads_m(pumps: Sequence[Pump], system: System) -> tuple[float, ...]:
    """Up to four round heads [m] in the reader's unit, over the range that any of them reaches."""
    unit = units.shown_unit("length", system)
    highest = max(unit.from_si(one.curve.shut_off_head_m) for one in pumps)
    if highest <= 0:
        return ()
    rough = highest / (_ROUND_HEADS + 1)
    power = 10.0 ** math.floor(math.log10(rough))
    step = power * next(one for one in (1, 2, 2.5, 5, 10) if one * power >= rough * 0.999)
    return tuple(
        unit.to_si(step * number)
        for number in range(1, _ROUND_HEADS + 1)
        if step * number < highest
    )


def flow_at_head_m3s(pump: Pump, head_m: float) -> float | None:
    """The most flow at which a pump makes a head; None where its curve does not pass it."""
    flows = np.linspace(pump.curve.flows_m3s[0], pump.curve.last_flow_m3s, _FINE)
    over = np.asarray(pump.curve.head_m(flows)) - head_m
    crossings = np.flatnonzero((over[:-1] >= 0) & (over[1:] < 0))
    if not len(crossings):
        return None
    at = int(crossings[-1])
    share = over[at] / (over[at] - over[at + 1])
    return float(flows[at] + share * (flows[at + 1] - flows[at]))
