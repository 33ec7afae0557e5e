"""One model in every arrangement: alone, two, three, with a standby, in series; at full speed, throttled, and at the speed for the duty."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.cost import annuity_factor
from sizing.duty import duty, speed_for_flow
from sizing.match import Wanted
from sizing.pump.curve import Arrangement, PumpCurve, arranged, at_speed
from sizing.what_if.changed import Known, NotYet

_JOULES_PER_KWH = 3.6e6
_SLOWEST = 0.3  # of full speed: slower, neither motors nor the affinity laws can be trusted
OPTIONS: tuple[tuple[Arrangement, int, int, str], ...] = (
    ("single", 1, 0, "one alone"), ("single", 1, 1, "one, and one standing by"), ("parallel", 2, 0, "two in parallel"),
    ("parallel", 2, 1, "two in parallel, and one standing by"), ("parallel", 3, 0, "three in parallel"), ("series", 2, 0, "two in series"),
)  # fmt: skip


@dataclass(frozen=True)
class Option:
    """One arrangement. Powers are input powers [W] at the flow needed; costs are of owning for a year.

    ``left_share`` is what is left of the needed flow when one pump of those that run has failed, with a standby taking its place.
    ``speed_ratio`` gives exactly the needed flow; above 1 it cannot.
    """

    arrangement: Arrangement
    count: int
    standby: int
    label: str
    now: bool
    flow_m3s: float | None
    meets: bool
    left_share: float
    speed_ratio: float | None
    power_full_w: float | None
    power_throttled_w: float | None
    power_speed_w: float | None
    cost_full: float | None
    cost_speed: float | None


def options(base: Known) -> tuple[Option, ...]:
    """Every arrangement of the chosen model on this job.

    Raises
    ------
    NotYet
        No pump is chosen.
    """
    sizing = base.sizing
    if sizing.chosen is None or sizing.wanted is None:
        raise NotYet("this needs a pump: none fits yet, and none was picked")
    pump, job = sizing.chosen.candidate.pump, sizing.job
    one = single(pump.curve, job.arrangement, pump.together)
    bought = (pump.together if job.arrangement != "single" else 1) + job.standby
    price = None if pump.price is None else pump.price / bought
    now = (job.arrangement, pump.together if job.arrangement != "single" else 1, job.standby)
    return tuple(
        _option(base, sizing.wanted, one, price, (arrangement, count, standby), label, now) for arrangement, count, standby, label in OPTIONS
    )


def single(curve: PumpCurve, arrangement: Arrangement, count: int) -> PumpCurve:
    """The curve of one pump from that of several: the inverse of :func:`sizing.pump.curve.arranged`."""
    if arrangement == "parallel":
        return curve.scaled(1.0 / count, 1.0, 1.0 / count)
    return curve.scaled(1.0, 1.0 / count, 1.0 / count) if arrangement == "series" else curve


def _option(
    base: Known, wanted: Wanted, one: PumpCurve, price: float | None, how: tuple[Arrangement, int, int], label: str, now: tuple[Arrangement, int, int]
) -> Option:
    arrangement, count, standby = how
    system, needed = base.system, wanted.flow_m3s
    curve = arranged(one, arrangement, count)
    point = duty(curve, system).point
    flow = point.flow_m3s if point else None
    speed = speed_for_flow(curve, system, needed)
    slowed = at_speed(curve, speed) if speed is not None and _SLOWEST <= speed <= 1.0 else None
    full = None if flow is None else curve.power_at(flow)
    at_duty = slowed.power_at(needed) if slowed and slowed.covers(needed) else None
    return Option(
        arrangement, count, standby, label, how == now, flow, flow is not None and flow >= needed, _left(base, one, how, flow, needed), speed, full,
        curve.power_at(needed), at_duty, _cost(wanted, price, count + standby, full, flow), _cost(wanted, price, count + standby, at_duty, needed),
    )  # fmt: skip


def _left(base: Known, one: PumpCurve, how: tuple[Arrangement, int, int], flow: float | None, needed: float) -> float:
    arrangement, count, standby = how
    if standby:
        return (flow or 0.0) / needed
    if count == 1:
        return 0.0
    point = duty(arranged(one, arrangement if count > 2 else "single", count - 1), base.system).point
    return point.flow_m3s / needed if point else 0.0


def _cost(wanted: Wanted, price: float | None, bought: int, power_w: float | None, flow_m3s: float | None) -> float | None:
    """Cost of owning for a year at the year's volume; None where price or power are not known. A drive's own price is not in it."""
    if price is None or power_w is None or not flow_m3s:
        return None
    energy = power_w * wanted.volume_per_year_m3 / flow_m3s / _JOULES_PER_KWH * wanted.energy_price_per_kwh
    return price * bought / annuity_factor(wanted.life_years, wanted.discount_rate) + energy
