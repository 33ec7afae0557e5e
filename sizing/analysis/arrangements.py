"""One model in every arrangement: alone, two, three, with a standby, in series.

At full speed, throttled, and at the speed for the duty.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known, NotYet
from sizing.base.message import Measure, Message, message
from sizing.operating_point.one import operating_point, speed_for_flow
from sizing.operating_point.outlets import held
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import Arrangement, PumpCurve, arranged, at_speed, one_of
from sizing.selection.match import Candidate, candidate
from sizing.selection.sweep import Wanted

_SLOWEST = 0.3  # of full speed: slower, neither motors nor the affinity laws can be trusted
OPTIONS: tuple[tuple[Arrangement, int, int, str], ...] = (
    ("single", 1, 0, "one alone"),
    ("single", 1, 1, "one, and one standing by"),
    ("parallel", 2, 0, "two in parallel"),
    ("parallel", 2, 1, "two in parallel, and one standing by"),
    ("parallel", 3, 0, "three in parallel"),
    ("series", 2, 0, "two in series"),
)


@dataclass(frozen=True)
class Option:
    """One arrangement. Powers are input powers [W] at the flow needed.

    Costs are of owning for a year.

    ``left_share`` is what is left of the needed flow when one pump of those that run has failed,
    with a standby taking its place. ``speed_ratio`` gives exactly the needed flow; above 1 it
    cannot. ``turns_share`` is how often the shafts turn in a year at that speed, as a share of what
    they would at full speed: what bearings and seals wear by. ``note`` says how the pumps work
    together.
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
    turns_share: float | None
    note: Message


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
    one = one_of(pump.curve, job.arrangement, pump.together)
    bought = (pump.together if job.arrangement != "single" else 1) + job.standby
    price = None if pump.price is None else pump.price / bought
    now = (job.arrangement, pump.together if job.arrangement != "single" else 1, job.standby)
    return tuple(
        _option(base, sizing.wanted, one, price, (arrangement, count, standby), label, now)
        for arrangement, count, standby, label in OPTIONS
    )


def _option(
    base: Known,
    wanted: Wanted,
    one: PumpCurve,
    price: float | None,
    how: tuple[Arrangement, int, int],
    label: str,
    now: tuple[Arrangement, int, int],
) -> Option:
    arrangement, count, standby = how
    system, needed = base.system, wanted.flow_m3s
    curve = arranged(one, arrangement, count)
    found = operating_point(curve, system)
    if wanted.held_by_outlets:
        found = held(found, curve, system, needed)
    point = found.point
    flow = point.flow_m3s if point else None
    speed = speed_for_flow(curve, system, needed)
    slowed = at_speed(curve, speed) if speed is not None and _SLOWEST <= speed <= 1.0 else None
    full = None if flow is None else curve.power_at(flow)
    at_duty = slowed.power_at(needed) if slowed and slowed.covers(needed) else None
    turns = None if flow is None or slowed is None or speed is None else _turns(wanted, speed, flow)
    left = _left(base, one, how, flow, needed)
    return Option(
        arrangement=arrangement,
        count=count,
        standby=standby,
        label=label,
        now=how == now,
        flow_m3s=flow,
        meets=flow is not None and flow >= needed,
        left_share=left,
        speed_ratio=speed,
        power_full_w=full,
        power_throttled_w=curve.power_at(needed),
        power_speed_w=at_duty,
        cost_full=_cost(wanted, price, count + standby, full, flow),
        cost_speed=_cost(wanted, price, count + standby, at_duty, needed),
        turns_share=turns,
        note=_note(base, one, how, left),
    )


def _turns(wanted: Wanted, speed: float, full_flow_m3s: float) -> float:
    """Turns of the shaft in a year at a speed for the flow needed, over those at full speed."""
    slow, full = (
        wanted.runs_s_per_year(np.array([wanted.flow_m3s, full_flow_m3s]))
        if wanted.volume_per_year_m3 or wanted.clock_s_per_year
        else (1.0, 1.0)
    )
    return speed * float(slow / full)


def _note(base: Known, one: PumpCurve, how: tuple[Arrangement, int, int], left: float) -> Message:
    """How the pumps of an arrangement work together, by what is left when one of them fails."""
    arrangement, count, standby = how
    share = Measure(left, "ratio")
    if count == 1 and not standby:
        return message("nothing is left when it fails")
    if count == 1:
        return (
            message("they take turns by starts; either carries it alone")
            if left >= 1
            else message("they take turns by starts; each gives {share}", share=share)
        )
    if arrangement == "series":
        return message("both must run; one alone gives {share}", share=share)
    spare = "; the third takes the place of one that fails" if standby else ""
    alone = speed_for_flow(one, base.system, base.demand.needed_m3s)
    if alone is not None and alone <= 1.0 and count == 2:
        return message(
            "either carries it alone, at {alone} of full speed: they take turns, or both run slowly"
            + spare,
            alone=Measure(alone, "ratio"),
        )
    return message("duty and assist: the second comes in when one is not enough" + spare)


@dataclass(frozen=True)
class Sibling:
    """Another impeller or speed of the chosen model; ``now`` for the chosen one itself.

    Powers [W] are at its own flow.
    """

    candidate: Candidate
    now: bool


def siblings(base: Known, catalogue: Catalogue) -> tuple[Sibling, ...]:
    """The chosen pump with every impeller and speed that its maker sells, on this job.

    Nothing where there is but one.
    """
    sizing = base.sizing
    if sizing.chosen is None or sizing.wanted is None:
        return ()
    chosen = sizing.chosen.candidate.pump
    rows = catalogue.siblings(chosen)
    if len(rows) < 2:
        return ()
    found = [candidate(catalogue, base.system, sizing.wanted, base.rules, row) for row in rows]
    found.sort(key=lambda one: -one.pump.curve.shut_off_head_m)
    return tuple(Sibling(one, one.pump.pump_id == chosen.pump_id) for one in found)


def speed_range(base: Known) -> Message | None:
    """Whether the chosen pump can be slowed to the speed that the duty asks for.

    None without a pump or a speed.
    """
    chosen = base.sizing.chosen
    if chosen is None:
        return None
    ratio = speed_for_flow(base.pump, base.system, base.demand.needed_m3s)
    slowest, name = chosen.candidate.pump.slowest_speed, chosen.candidate.pump.name
    if ratio is None or ratio > 1.0:
        return None
    if slowest is None:
        return message(
            "{name} has one speed by its maker: ask there before a drive is put to it", name=name
        )
    words = (
        "; the duty's speed is within that"
        if ratio >= slowest
        else "; the duty asks for less, so it must stop and start or be throttled"
    )
    return message(
        "{name} may be slowed to {slowest} of full speed" + words,
        name=name,
        slowest=Measure(slowest, "ratio"),
    )


def _left(
    base: Known,
    one: PumpCurve,
    how: tuple[Arrangement, int, int],
    flow: float | None,
    needed: float,
) -> float:
    arrangement, count, standby = how
    if standby:
        return (flow or 0.0) / needed
    if count == 1:
        return 0.0
    point = operating_point(
        arranged(one, arrangement if count > 2 else "single", count - 1), base.system
    ).point
    return point.flow_m3s / needed if point else 0.0


def _cost(
    wanted: Wanted, price: float | None, bought: int, power_w: float | None, flow_m3s: float | None
) -> float | None:
    """Cost of owning for a year at the year's volume; None where price or power are not known.

    A drive's own price is not in it.
    """
    if power_w is None or not flow_m3s:
        return None
    return wanted.owning_per_year(price, power_w, flow_m3s, bought=bought)
