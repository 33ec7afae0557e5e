"""A pressure sewer.

Raw sewage of some dwellings through a narrow main, by grinder pumps, over hill and dale.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from sizing.base.message import Measure, Message, Working, message
from sizing.base.rounding import at_least
from sizing.base.rules import Rules
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.checks.line import rags_check
from sizing.checks.pit import PitRules
from sizing.checks.standing import standing_check
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand
from sizing.document.answers import Facts, MissingFact
from sizing.document.build_route import Ends, leg_name
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds.base import Place, Situation
from sizing.kinds.common_questions import head_m, leg, volume_of_people_m3
from sizing.kinds.pit import PitKind
from sizing.kinds.pressure_sewer_questions import (
    METHODS,
    QUESTIONS,
    inflow_of_a_pit_m3s,
    pumps_together,
)
from sizing.kinds.scour import raised_to_scour, sewage_speeds
from sizing.kinds.sewage import valves
from sizing.operating_point.many import operating_points
from sizing.operating_point.one import operating_point
from sizing.selection.limit import Limit, States, by_steps
from sizing.selection.sweep import Sweep


class PressureSewer(PitKind):
    code = "pressure_sewer"
    dialogs = ("reach",)
    label = "pressure sewer"
    purpose = (
        "Raw sewage of dwellings through a narrow main under pressure, however the ground lies."
    )
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact(
        "answers.dwellings", "one way to the flow (dwellings, people, or a stated flow)", "flow"
    )
    liquid_wall = "sewage"
    pit_rules = PitRules(starts="CYC-03", run_time="CYC-02", check_valve=True)
    default_legs = (
        leg(
            "a",
            "riser",
            "50 mm",
            ("check_ball_sewage", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 2),
            series="pe100_sdr11",
            wall="sewage",
        ),
        leg("b", "main", "63 mm", ("elbow_45_std", 2), series="pe100_sdr11", wall="sewage"),
    )
    usual_legs = ((3.0, 2.0), (150.0, 9.0))
    sizes = ("grinder",)
    drains_people = True
    cautions = (
        (
            "A grinder's blades cut with the power on or off: isolate and lock off before any hand"
            " goes near, and use a tool even then."
        ),
        (
            "A sewage pit is a confined space: gas that poisons or explodes stands in it. Nobody"
            " enters or leans in untrained and alone."
        ),
        (
            "Sewage that stands over 8 hours turns septic: it smells, kills and eats concrete where"
            " it comes out. Vent and line the manhole."
        ),
        (
            "Air gathers at every high point: it wants an air valve that is looked after. A main"
            " that runs down behind its summit may siphon."
        ),
        (
            "After a power cut every pump starts at once: pumps far out may wait at shut-off until"
            " the near ones are done."
        ),
        (
            "Public sewers need a design, a permit and licensed trades; local codes come first and"
            " override this sizing."
        ),
    )

    def speeds_of(self, facts: Facts) -> Speeds:
        return sewage_speeds(facts)

    def scour_rule_of(self, facts: Facts) -> str:
        return sewage_speeds(facts).slowest

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        together = pumps_together(facts)
        raised = raised_to_scour(demand, facts.legs, rules, self.scour_rule_of(facts))
        if together == 1:
            return raised
        inputs = (
            ("flow in the main", Measure(raised.needed_m3s, "flow")),
            ("pumps that run at once", Measure(together, "count")),
        )
        working = Working(
            "Flow needed of each pump",
            "flow in the main / pumps that run at once",
            inputs,
            Measure(raised.needed_m3s / together, "flow"),
            raised.working.source,
        )
        mean = raised.mean_inflow_m3s
        return raised.then(
            working,
            raised.needed_m3s / together,
            inflow_m3s=inflow_of_a_pit_m3s(facts) or raised.inflow_m3s / together,
            mean_inflow_m3s=None if mean is None else mean / facts.si("dwellings"),
            daily_volume_m3=(raised.daily_volume_m3 or 0.0) / facts.si("dwellings") or None,
        )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        pressure = head_m(facts, "main_pressure") if facts.choice("discharge") == "main" else 0.0
        return replace(
            super().ends(facts, rules),
            delivery_head_m=pressure,
            share_of_common_legs=pumps_together(facts),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        return replace(
            super().place(facts, rules),
            outlet="main" if facts.choice("discharge") == "main" else "open",
        )

    def day_of_people_m3(self, facts: Facts, rules: Rules) -> float | None:
        return volume_of_people_m3(facts)

    def daily_volume_m3(self, facts: Facts) -> float | None:
        return volume_of_people_m3(facts)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("grinder",)

    def situation(self, facts: Facts) -> Situation:
        return Situation("sewage", "pit", "main", facts.si("largest_solid"))

    def limits(self, site: Site) -> tuple[Limit, ...]:
        scours = (ScoursAlone(site),) if pumps_together(site.facts) > 1 else ()
        return (*super().limits(site), *scours)

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *super().checks(running),
            *_scour_alone(running),
            *_all_at_once(running),
            *_at_lowest(running),
            standing_check(running, self.daily_volume_m3(running.facts)),
            valves(running),
            _summit(running),
        ]

    def site_checks(self, site: Site) -> Sequence[Check]:
        return [*super().site_checks(site), rags_check(site)]

    def stage_summary(self, facts: Facts) -> str:
        return "raw sewage, ground up"


def _one_alone(site: Site) -> SystemCurve:
    """The main with one pump running by itself: what is usual, not the rare peak."""
    route, together = site.system.route, pumps_together(site.facts)
    legs = tuple(
        replace(leg, flow_share=leg.flow_share / (1.0 if number == 0 else together))
        for number, leg in enumerate(route.legs)
    )
    return SystemCurve(replace(route, legs=legs), site.system.water)


@dataclass(frozen=True)
class ScoursAlone:
    """One pump by itself keeps solids moving: watched where not, and never refused for it."""

    site: Site
    label: str = "lets solids settle when it runs alone"
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        system, table = _one_alone(self.site), sweep.catalogue.table.rows(sweep.rows)
        flows = operating_points(table, system).flow_m3s
        speeds = system.velocities_m_s(flows).min(axis=0)
        wanted = self.site.rules.low(sewage_speeds(self.site.facts).slowest)
        holds = np.isnan(flows) | at_least(speeds, wanted)  # off its end it is faster than wanted
        return by_steps(holds, np.ones_like(holds))

    def miss(self, sweep: Sweep, at: int) -> Message:
        return message("lets solids settle when it runs alone")


@alone("the velocity with one pump running")
def _scour_alone(running: Running) -> Iterator[Check]:
    """The speed in the main with one pump running by itself: what is usual, not the rare peak."""
    if pumps_together(running.facts) == 1.0:
        return
    rules, alone = running.rules, _one_alone(running)
    point = operating_point(running.curve, alone).point
    flow = point.flow_m3s if point else running.curve.last_flow_m3s
    speeds = alone.velocities_m_s(flow)[:, 0]
    slowest = int(speeds.argmin())
    scour = sewage_speeds(running.facts).slowest
    speed, wanted, settles = float(speeds[slowest]), rules.low(scour), rules.value("VEL-21")
    yield Check(
        code="scour_alone",
        label="Scour with one pump alone",
        state=state(bool(at_least(speed, wanted)), bool(at_least(speed, settles))),
        message=message(
            "Most of the time one pump runs by itself: then the {leg} flows at {speed}; {wanted}"
            " keeps solids moving (rule {scour}), and under {settles} they settle for good (rule"
            " VEL-21).",
            leg=leg_name(running.legs[slowest], slowest + 1),
            scour=scour,
            speed=Measure(speed, "velocity"),
            wanted=Measure(wanted, "velocity"),
            settles=Measure(settles, "velocity"),
        ),
        remedy="Take a narrower main, as far as the head with several pumps allows, or flush it.",
        about="site",
    )


@alone("all pumps after a power cut")
def _all_at_once(running: Running) -> Iterator[Check]:
    """After a power cut the pump of every dwelling starts at once: what each then gives."""
    facts, usual = running.facts, pumps_together(running.facts)
    if facts.choice("arrangement") == "station":
        return
    route, every = running.system.route, facts.si("dwellings")
    legs = tuple(
        replace(leg, flow_share=leg.flow_share * (1.0 if number == 0 else every / usual))
        for number, leg in enumerate(route.legs)
    )
    crowded = SystemCurve(replace(route, legs=legs), running.system.water)
    point = operating_point(running.curve, crowded).point
    gives = point.flow_m3s if point else 0.0
    yield Check(
        "all_on",
        "All on after a power cut",
        "hold",
        message(
            "With all {count} pumps on at once each gives {each} instead of {usual}: those far out"
            " may wait at shut-off until the near ones are done.",
            count=Measure(every, "count"),
            each=Measure(gives, "flow"),
            usual=Measure(running.flow_m3s, "flow"),
        ),
        "Delay the start of each pump by a time of its own.",
        weight="note",
        about="site",
    )


@alone("the pump at the lowest point")
def _at_lowest(running: Running) -> Iterator[Check]:
    """Whether the pump stays on its curve while the main is at its lowest."""
    facts = running.facts
    lowest = facts.optional("lowest_main_pressure")
    if facts.choice("discharge") != "main" or lowest is None:
        return
    route = replace(running.system.route, delivery_pressure_pa=lowest)
    found = operating_point(running.curve, SystemCurve(route, running.system.water))
    stays = found.status == "operates" and found.point is not None
    flow = found.point.flow_m3s if found.point else running.curve.last_flow_m3s
    yield Check(
        "lowest_main",
        "At the main's lowest pressure",
        state(stays),
        message(
            "With the main at {lowest} it gives {flow}."
            if stays
            else "With the main at {lowest} it would run off the end of its curve ({flow}).",
            lowest=Measure(lowest, "pressure"),
            flow=Measure(flow, "flow"),
        ),
        "Take a pump whose curve reaches further, or hold its flow by an orifice.",
    )


@alone("the highest ground on the way")
def _summit(running: Running) -> Check:
    """Whether the end or a summit on the way governs the head."""
    route, governing = running.system.route, running.ledger.governing_leg
    inside = running.ledger.governing_share < 1
    if governing == len(route.legs) - 1 and not inside:
        return Check(
            "summit",
            "Highest ground",
            "hold",
            message("The end of the main governs the head: no summit before it does."),
            weight="note",
        )
    name = running.legs[governing].name or f"leg {governing + 1}"
    text = message(
        "The {where} of the {name} governs the head; behind it the sewage runs down by itself.",
        where="highest ground" if inside else "summit at the end",
        name=name,
    )
    return Check(
        "summit",
        "Highest ground",
        "watch",
        text,
        "Set an air valve there and look after it; keep the pipe full behind it, or it smells where"
        " it comes out.",
        weight="note",
        about="site",
    )


KIND = PressureSewer()
