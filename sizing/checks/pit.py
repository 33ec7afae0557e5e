"""What must hold for a pump in a pit to live, each as a sentence with its remedy."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, Site, alone, state, state_of
from sizing.checks.pit_levels import lag_level_m, level_checks
from sizing.checks.pump_curve import pump_checks
from sizing.document.answers import Facts
from sizing.hydraulics.friction import Array
from sizing.operating_point.one import operating_point
from sizing.pump.curve import one_of
from sizing.selection.limit import Limit
from sizing.selection.starts_and_runs import (
    run_states,
    run_time_limit,
    runs_of,
    starts_limit,
    starts_of,
    starts_states,
)
from sizing.storage.basin import Basin, Levels, basin
from sizing.storage.plan import Plan
from sizing.storage.starts import starts, starts_per_s, worst_inflow_m3s


@dataclass(frozen=True)
class PitRules:
    """The house rules that bound a pit of one kind: ids of :mod:`sizing.base.rules`."""

    starts: str
    run_time: str
    check_valve: bool = False  # a line that sewage runs back in, or a common main, needs one


_LITTLE_BACK, _MUCH_BACK = 0.2, 0.6  # of the storage: watched from the one, fails from the other
_CHECK_VALVES = (
    "check_swing_100",
    "check_swing_50",
    "check_lift",
    "check_tilting",
    "check_spring_inline",
    "check_ball_sewage",
)


@alone("the pump in its pit")
def checks(running: Running, plan: Plan, rules: PitRules) -> list[Check]:
    """What a pump does in a pit, in the order in which a person would ask."""
    worked = pit(running, plan, rules)
    return [
        *pump_checks(running),
        _starts(running, worked, rules),
        _run_time(running, worked, rules),
        _drain_back(running, worked, rules),
    ]


@alone("the levels of the pit")
def site_checks(site: Site, plan: Plan) -> list[Check]:
    """What the pit does to every pump."""
    return [*level_checks(site, plan), _power_cut(site, plan)]


def limits(site: Site, plan: Plan, rules: PitRules) -> tuple[Limit, ...]:
    """How often a pump would start here, and how long it would run: tried on every pump."""
    storage, house = storage_m3(site.facts, plan), site.rules

    def starts(flow_m3s: Array) -> Array:
        return starts_at(site, storage, flow_m3s)

    def run_time(flow_m3s: Array) -> Array:
        return np.asarray(storage / flow_m3s)

    return (
        starts_limit(starts, rules.starts, house),
        run_time_limit(run_time, rules.run_time, house),
    )


def starts_at(site: Site, storage: float, flow_m3s: Array | float) -> Array:
    """Starts a second of each pump in the worst hour that really occurs, by the pump's flow.

    Where people's water comes in, the peak of their fixtures lasts for minutes (CHO-20), and the
    rest of the hour brings what is left of its share of the day; a storm lasts the hour.
    """
    flows = np.asarray(flow_m3s, dtype=float)
    back = drain_back_m3(site)

    def rate(most_inflow_m3s: float) -> Array:
        inflow = worst_inflow_m3s(most_inflow_m3s, flows, storage, back)
        return starts_per_s(storage, flows, inflow, back, turns(site))

    peak, hour = site.demand.inflow_m3s, site.demand.hour_inflow_m3s
    if site.demand.daily_volume_m3 is None or hour >= peak:
        return rate(peak)
    lasts = site.rules.value("CHO-20")
    left = max(hour * SECONDS_PER_HOUR - peak * lasts, 0.0) / (SECONDS_PER_HOUR - lasts)
    rest = rate(left) if left > 0 else np.zeros_like(flows)
    share = lasts / SECONDS_PER_HOUR
    return share * rate(peak) + (1.0 - share) * rest


def storage_m3(facts: Facts, plan: Plan) -> float:
    """What the pit holds between the levels at which the pump stops and starts [m3]."""
    return plan.area_m2 * (facts.si("start_level") - facts.si("stop_level"))


def turns(site: Site) -> float:
    """Starts of the pit for each start of one pump: pumps that stand by take turns."""
    together = 1 if site.job.arrangement == "single" else site.job.running_pumps
    return (together + site.job.standby) / together


def pit(running: Running, plan: Plan, rules: PitRules) -> Basin:
    """The pit with this pump at the worst inflow."""
    facts = running.facts
    return basin(
        plan,
        levels(facts),
        pump_flow_m3s=running.flow_m3s,
        inflow_m3s=running.demand.inflow_m3s,
        allowed_starts_per_h=running.rules.high(rules.starts) * SECONDS_PER_HOUR,
        drain_line_volume_m3=drain_back_m3(running),
    )


def levels(facts: Facts) -> Levels:
    """The pit's levels [m] over its floor."""
    depth, inlet = facts.si("pit_depth"), facts.optional("inlet_level")
    return Levels(
        facts.si("stop_level"),
        facts.si("start_level"),
        depth if inlet is None else inlet,
        facts.si("alarm_level"),
        depth,
    )


def holds_back(running: Site) -> bool:
    """Whether a check valve keeps the outlet from running back."""
    return any(entry.fitting in _CHECK_VALVES for leg in running.legs for entry in leg.fittings)


def drain_back_m3(site: Site) -> float:
    """What runs back into the pit at every stop [m3]: a check valve holds only what is above it.

    The legs before the first one with a check valve run back, all up to the top without one. Where
    in its leg a valve sits is not asked: it counts as sitting at the foot.
    """
    legs, valves = site.system.route.legs, _legs_with_valves(site)
    if not valves:
        return line_volume_m3(site)
    return sum(leg.volume_m3 for leg in legs[: valves[0]])


def _legs_with_valves(site: Site) -> list[int]:
    return [
        index
        for index, leg in enumerate(site.legs)
        if any(entry.fitting in _CHECK_VALVES for entry in leg.fittings)
    ]


def line_volume_m3(running: Site) -> float:
    """What would run back: the legs up to the highest point."""
    legs = running.system.route.legs
    top = max(range(len(legs)), key=lambda index: legs[index].end_elevation_m)
    return sum(leg.volume_m3 for leg in legs[: top + 1])


@alone("the starts per hour")
def _starts(running: Running, worked: Basin, rules: PitRules) -> Check:
    stated = running.pump.pump.most_starts_per_s
    borne = starts_of(running.pump.pump, running.rules, rules.starts)
    most = float(borne.refused)
    peak, back = running.demand.inflow_m3s, drain_back_m3(running)
    flow = np.array(running.flow_m3s)
    inflow = float(worst_inflow_m3s(peak, flow, worked.storage_m3, back))
    worst = float(starts_at(running, worked.storage_m3, running.flow_m3s))
    at_need = starts_at(running, worked.storage_m3, running.demand.needed_m3s)
    half = "about half its flow" if inflow < peak else "the peak, under half its flow"
    shared, alone = turns(running) > 1, _starts_alone(running, worked.storage_m3)
    hour = running.demand.hour_inflow_m3s
    of_people = running.demand.daily_volume_m3 is not None and hour < peak
    when = (
        "In the busiest hour ({hour}, of which a peak of {peak} lasts {lasts}, rule CHO-20) it"
        " starts {worst}"
        if of_people
        else "At the inflow that starts it most ({inflow}: " + half + ") it starts {worst}"
    )
    return Check(
        code="starts",
        label="Starts an hour",
        state=state_of(partial(starts_states, borne=borne), worst),
        message=message(
            when
            + (", the pumps taking turns" if shared else "")
            + (
                "; {usual} is usual and {most} the most (rule {rule})."
                if stated is None
                else "; its maker allows {most}."
            )
            + " Between its levels the pit holds {storage}"
            + ("." if of_people else "; {least} is the least for that.")
            + _of_one_alone(running, alone),
            alone=Measure(alone or 0.0, "frequency"),
            rule=_rule_of_most(running, rules, most),
            inflow=Measure(inflow, "flow"),
            hour=Measure(hour, "flow"),
            peak=Measure(peak, "flow"),
            lasts=Measure(running.rules.value("CHO-20"), "time"),
            storage=Measure(worked.storage_m3, "volume"),
            least=Measure(_storage_needed_m3(running, worked, most), "volume"),
            worst=Measure(worst, "frequency"),
            usual=Measure(float(borne.usual), "frequency"),
            most=Measure(most, "frequency"),
        ),
        remedy="Widen the float's travel, take a wider pit, a smaller pump or two that take turns.",
        working=Working(
            "Starts in the busiest hour" if of_people else "Most starts an hour",
            ("minutes of the peak at " if of_people else "")
            + "1 / (V / (Qp − q) + (V − Vd) / q)"
            + (" / pumps that take turns" if shared else "")
            + (", the rest of the hour at what is left of it" if of_people else ""),
            (
                ("pump flow Qp", Measure(running.flow_m3s, "flow")),
                ("inflow q", Measure(inflow, "flow")),
                ("storage V", Measure(worked.storage_m3, "volume")),
                ("runs back at each stop Vd", Measure(back, "volume")),
                *((("mean of the hour", Measure(hour, "flow")),) if of_people else ()),
            ),
            Measure(worst, "frequency"),
            "continuity; rule BAS-01 where q is half of Qp and nothing runs back",
        ),
        weight="must",
        about="site" if not at_most(at_need, most) else "pump",
    )


def _of_one_alone(running: Running, alone: float | None) -> str:
    if alone is None:
        return ""
    if lag_level_m(running.facts) is None:
        return " Both start together here; one alone starts {alone}."
    return " One alone starts {alone}, until the second's own level is reached."


def _rule_of_most(running: Running, rules: PitRules, most: float) -> str:
    """The rule that says what is refused."""
    return rules.starts if at_most(most, running.rules.high(rules.starts)) else "CHO-21"


def _starts_alone(running: Running, storage: float) -> float | None:
    """Starts a second of pumps in parallel while one at a time is enough; they take turns.

    None where pumps do not run together. Never more than with all at once: the one moves less, and
    each starts every other time.
    """
    if running.job.arrangement != "parallel":
        return None
    point = operating_point(
        one_of(running.curve, "parallel", running.running), running.system
    ).point
    if point is None:
        return None
    pumps = running.running + running.job.standby
    return float(starts_at(running, storage, point.flow_m3s) * turns(running) / pumps)


def _storage_needed_m3(running: Running, worked: Basin, most_per_s: float) -> float:
    """The storage with which the worst that can come is exactly the most starts [m3]."""
    pumps = max(round(turns(running)), 1)
    return starts(
        [running.flow_m3s] * pumps,
        alternating=pumps > 1,
        storage_m3=worked.storage_m3,
        drain_back_m3=drain_back_m3(running),
        peak_inflow_m3s=running.demand.inflow_m3s,
        allowed_starts_per_s=most_per_s,
    ).storage_needed_m3


@alone("the run time")
def _run_time(running: Running, worked: Basin, rules: PitRules) -> Check:
    run, stated = worked.shortest_run_time_s, running.pump.pump.least_run_s
    borne = runs_of(running.pump.pump, running.rules, rules.run_time)
    least = float(borne.refused)
    of_small = least < running.rules.low(rules.run_time)
    return Check(
        code="run_time",
        label="Run time",
        state=state_of(partial(run_states, borne=borne), run),
        weight="must",
        about=(
            "pump" if at_least(worked.storage_m3 / running.demand.needed_m3s, least) else "site"
        ),
        message=message(
            "With little water coming in it empties the pit in {run}; "
            + (
                "{least} is the least, {usual} kinder (rule {rule})."
                if stated is None
                else "its maker asks for {least} at least."
            ),
            rule=f"{rules.run_time}, CHO-22" if of_small else rules.run_time,
            run=Measure(run, "time"),
            least=Measure(least, "time"),
            usual=Measure(float(borne.usual), "time"),
        ),
        remedy="Widen the float's travel, take a wider pit or a smaller pump.",
        working=Working(
            "Shortest run",
            "V / Qp",
            (
                ("storage V", Measure(worked.storage_m3, "volume")),
                ("pump flow Qp", Measure(running.flow_m3s, "flow")),
            ),
            Measure(run, "time"),
            "continuity, no inflow meanwhile",
        ),
    )


@alone("what drains back")
def _drain_back(running: Running, worked: Basin, rules: PitRules) -> Check:
    back = worked.drain_back_volume_m3
    held = max(line_volume_m3(running) - back, 0.0)
    if back == 0.0:
        text = message(
            "A check valve holds {volume} in the line at every stop.",
            volume=Measure(held, "volume"),
        )
        return Check("drain_back", "Nothing runs back", "hold", text)
    share = back / worked.storage_m3
    text = message(
        ("Below its check valve " if held else "Without a check valve ")
        + "{volume} runs back at every stop, {share} of the storage.",
        volume=Measure(back, "volume"),
        share=Measure(share, "ratio"),
    )
    bare = rules.check_valve and not _legs_with_valves(running)
    return Check(
        "drain_back",
        "Check valve" if bare else "What runs back",
        "fail" if bare else state(share <= _LITTLE_BACK, share < _MUCH_BACK),
        text,
        "Fit a check valve near the pump, with a union to lift it out.",
        weight="must" if bare or share >= 1.0 else "should",
        about="site",
    )


@alone("the time to overflow in a power cut")
def _power_cut(site: Site, plan: Plan) -> Check:
    """How long until it first backs up, at the peak and at the mean inflow where that is known."""
    facts, found = site.facts, levels(site.facts)
    room = plan.area_m2 * max(min(found.inlet_m, found.overflow_m) - found.start_m, 0.0)
    room = max(room - drain_back_m3(site), 0.0)
    hour = site.demand.hour_inflow_m3s
    wanted, left = facts.si("time_to_come"), room / hour
    mean = site.demand.mean_inflow_m3s
    lasts = left if mean is None else max(room / mean, left)
    where = "the rim" if facts.optional("inlet_level") is None else "the lowest inlet"
    return Check(
        code="power_cut",
        label="Power cut",
        state=state(bool(at_least(left, wanted)), bool(at_least(lasts, 0.25 * wanted))),
        message=message(
            "Without power, from the start level, the water reaches "
            + where
            + (
                " in {left} at the busiest hour's inflow"
                if hour < site.demand.inflow_m3s
                else " in {left} at the peak inflow"
            )
            + ("" if mean is None else " and in {lasts} at the day's mean")
            + "; somebody comes within {wanted}.",
            left=Measure(left, "time"),
            lasts=Measure(lasts, "time"),
            wanted=Measure(wanted, "time"),
        ),
        remedy="Fit a second pump on a battery and a high-water alarm that works without mains.",
        working=Working(
            "Time until it backs up",
            "t = area × (level it backs up at − start) / inflow",
            (
                ("pit area", Measure(plan.area_m2, "area", 3)),
                ("inflow", Measure(hour, "flow")),
            ),
            Measure(left, "time"),
            "continuity; without a check valve less what runs back",
        ),
        about="site",
    )
