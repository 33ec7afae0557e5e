"""Sewage from a building: a sealed pit under the drains, lifted to a gravity sewer."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import partial

from sizing.base import tables
from sizing.base.message import Measure, Working, message
from sizing.base.rules import Rules
from sizing.checks import pit
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.checks.line import rags_check
from sizing.checks.pit import PitRules
from sizing.checks.standing import standing_check
from sizing.checks.velocity import Speeds
from sizing.demand import unit_curve
from sizing.demand.method import Demand, FlowMethod
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.kinds.base import Situation
from sizing.kinds.common_questions import (
    FROST,
    STATED,
    SURGE,
    YES_NO,
    by_people,
    flow_from,
    leg,
    margin,
    sewage_peak,
    stated_flow,
    supply,
    temperature,
    use_of_day,
    volume_of_people_m3,
)
from sizing.kinds.pit import COME_QUESTION, LAG_QUESTION, SHAPE_QUESTIONS, PitKind, level_questions
from sizing.kinds.scour import SPEED_QUESTION, raised_to_scour, sewage_speeds

_LITRE_M3 = 1e-3


def _by_units(curve: str, facts: Facts, rules: Rules) -> Working:
    """Two schools of the same count, side by side: what a drain really carries is disputed."""
    units = facts.si("drainage_units")
    flow = unit_curve.flow_m3s(curve, units)
    return Working(
        "Drainage fixture units",
        "read off the table, straight between its points",
        (("sum of units", Measure(units, "drainage")),),
        Measure(flow, "flow"),
        unit_curve.curve(curve).source,
    )


_USES = (
    ("intermittent use: dwelling, guest house, office", "home, guest house, office"),
    ("frequent use: hospital, school, restaurant, hotel", "hotel, school, hospital, restaurant"),
    ("congested use: public toilets or showers", "public toilets or showers"),
    ("special use: laboratory", "laboratory"),
)


def _by_discharge(facts: Facts, rules: Rules) -> Working:
    """K times the root of the discharge units, EN 12056-2; one unit is one litre a second."""
    units, case = facts.si("discharge_units"), facts.choice("use")
    coefficient = next(
        float(row["a"])
        for row in tables.rows("demand_coefficients")
        if row["method"] == "EN 12056-2" and row["building_or_case"] == case
    )
    largest = facts.si("largest_unit")
    flow_m3s = max(coefficient * math.sqrt(units), largest) * _LITRE_M3
    inputs = (
        ("sum of discharge units", f"{units:g}"),
        ("K", f"{coefficient:g}"),
        ("largest single unit", f"{largest:g}"),
    )
    return Working(
        "Discharge units",
        "K √ΣDU, at least the largest DU",
        inputs,
        Measure(flow_m3s, "flow"),
        "EN 12056-2",
    )


METHODS = (
    FlowMethod(
        "dfu_tank",
        "units, flush-tank school",
        partial(_by_units, "dfu_to_gpm_tank_low"),
        "Low confidence: practice differs, and a toilet's single flush alone may ask for more.",
        suits=lambda facts: facts.choice("flush") != "valve",
    ),
    FlowMethod(
        "dfu_valve",
        "units, flush-valve school",
        partial(_by_units, "dfu_to_gpm_valve_high"),
        "Low confidence: the higher school.",
        suits=lambda facts: facts.choice("flush") != "tank",
    ),
    FlowMethod("people", "people and a peak", by_people),
    STATED,
    FlowMethod(
        "discharge",
        "discharge units, European school",
        _by_discharge,
        "Not below the largest single unit: one toilet's flush comes at once.",
    ),
)
QUESTIONS = (
    temperature("15 °C", "usual domestic sewage", usual=(8, 30)),
    Question(
        key="toilets",
        label="Toilets drain to it",
        stage="water",
        default="yes",
        choices=YES_NO,
        help="With a toilet a 50 mm (2 in) sphere must pass (rule BAS-14).",
    ),
    Question(
        key="largest_solid",
        label="Largest solid",
        stage="water",
        dimension="size",
        low=0.005,
        high=0.15,
        usual=(0.025, 0.08),
        default="50 mm",
        source="rule BAS-14: 50 mm (2 in) with a toilet",
        default_rule="BAS-14",
    ),
    Question(
        key="drainage_units",
        label="Drainage fixture units",
        stage="flow",
        dimension="drainage",
        low=2.0,
        high=1000.0,
        usual=(4, 200),
        optional=True,
        help="Add them up by your code: a toilet 3 to 4, a basin 1, a shower 2, a urinal 2 to 4.",
    ),
    Question(
        key="flush",
        label="Toilets flush by",
        stage="flow",
        default="unknown",
        choices=(
            Choice("unknown", "not said: the higher of both counts"),
            Choice("tank", "flush tanks"),
            Choice("valve", "flush valves"),
        ),
        shown_when=("drainage_units", ()),
    ),
    Question(
        key="discharge_units",
        label="European discharge units",
        stage="flow",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=0.3,
        high=2000.0,
        usual=(2, 200),
        optional=True,
        help="Add up litres a second: a toilet 2, a basin 0.5, a shower 0.6, a kitchen sink 0.8.",
    ),
    Question(
        key="use",
        label="How they are used",
        stage="flow",
        default=_USES[0][0],
        choices=tuple(Choice(*one) for one in _USES),
        shown_when=("discharge_units", ()),
    ),
    Question(
        key="largest_unit",
        label="Largest single unit",
        stage="flow",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=0.1,
        high=10.0,
        usual=(0.5, 2.5),
        default="2 ×",
        source="a toilet with a 6 l cistern",
        shown_when=("discharge_units", ()),
    ),
    Question(
        key="people",
        label="People",
        stage="flow",
        dimension="people",
        low=1.0,
        high=20000.0,
        usual=(2, 200),
        optional=True,
    ),
    Question(
        key="volume_per_person",
        label="Sewage a person and day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.005,
        high=1.0,
        usual=(0.03, 0.4),
        default="120 l",
        source="usual domestic use; sports ground 40 l, school 50 l",
        shown_when=("people", ()),
    ),
    sewage_peak(shown_when=("people", ())),
    use_of_day("It comes from"),
    stated_flow("Stated peak flow", (3e-4, 1e-2)),
    flow_from(METHODS),
    margin("1.0 ×", "a peak by units or people holds its own margin"),
    *SHAPE_QUESTIONS,
    *level_questions(250, 700, "covers the lowest level of most sewage pumps"),
    LAG_QUESTION,
    Question(
        key="backflow_level",
        label="Backflow level of the sewer",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-5.0,
        high=100.0,
        usual=(0, 10),
        optional=True,
        help="Over the bottom of the pit: mostly the street's surface. The pipe must loop over it.",
        is_level=True,
    ),
    SPEED_QUESTION,
    *FROST,
    *SURGE,
    *supply(hours="200 h", hours_source="a building's drains"),
    COME_QUESTION,
)


class Sewage(PitKind):
    code = "sewage"
    dialogs = ("reach",)
    bore_rule = "SEW-01"
    liquid_wall = "sewage"
    label = "sewage"
    purpose = "Sewage of a building out of a sealed pit, up to a gravity sewer."
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact(
        "answers.drainage_units",
        "one way to the flow (fixture units, people, or a stated flow)",
        "flow",
    )
    pit_rules = PitRules(starts="CYC-03", run_time="CYC-02", check_valve=True)
    default_legs = (
        leg(
            "a",
            "riser",
            "63 mm",
            ("check_ball_sewage", 1),
            ("gate_valve", 1),
            ("elbow_90_glued", 1),
            wall="sewage",
        ),
        leg("b", "run to the sewer", "63 mm", ("elbow_90_glued", 2), ("exit", 1), wall="sewage"),
    )
    usual_legs = ((2.4, 2.2), (30.0, 4.2))
    sizes = ("sewage",)
    drains_people = True
    stated_is_inflow = True
    cautions = (
        (
            "A sewage pit is a confined space: gas that poisons or explodes stands in it. Nobody"
            " enters or leans in untrained and alone."
        ),
        (
            "Sewage carries disease: gloves, face shield, wash and disinfect; no food or drink"
            " near it."
        ),
        (
            "The basin is sealed and vented to open air by its own vent; the pump hangs on rails or"
            " a union, so that nobody reaches into it."
        ),
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "Connecting to a sewer needs a permit and licensed trades in most places; local codes"
            " come first and override this sizing."
        ),
    )

    def speeds_of(self, facts: Facts) -> Speeds:
        return sewage_speeds(facts)

    def scour_rule_of(self, facts: Facts) -> str:
        return sewage_speeds(facts).slowest

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        return raised_to_scour(demand, facts.legs, rules, self.scour_rule_of(facts))

    def solid_m(self, facts: Facts, rules: Rules) -> float:
        """As answered; with a toilet on the drains at least what one sends down (BAS-14)."""
        answered = facts.si("largest_solid")
        usual = facts.question("largest_solid").default_by(rules)
        if usual is None or facts.choice("toilets") != "yes":
            return answered
        return max(answered, usual.si("size"))

    def day_of_people_m3(self, facts: Facts, rules: Rules) -> float | None:
        counted = volume_of_people_m3(facts)
        if counted is not None:
            return counted
        for key, rule in (("discharge_units", "CHO-18"), ("drainage_units", "CHO-19")):
            units = facts.optional(key)
            if units is not None:
                return units * rules.value(rule)
        return None

    def daily_volume_m3(self, facts: Facts) -> float | None:
        return volume_of_people_m3(facts)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("sewage",)

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "sewage" if facts.choice("toilets") == "yes" else "grey",
            "pit",
            "gravity",
            facts.si("largest_solid"),
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [*super().checks(running), valves(running)]

    def bore_rule_for(self, site: Site) -> str:
        # US codes ask for the solid's 2 in, and no more: where somebody said that they hold
        return "" if site.facts.answer("speed_limits") == "us" else self.bore_rule

    def site_checks(self, site: Site) -> Sequence[Check]:
        daily_m3 = self.day_of_people_m3(site.facts, site.rules)
        return [
            *super().site_checks(site),
            *_loop(site),
            rags_check(site),
            *([] if daily_m3 is None else [standing_check(site, daily_m3)]),
        ]

    def cannot_be_without(self, facts: Facts) -> str:
        """Hospitals, hotels, public toilets, by the school that asks after the use."""
        told = facts.optional("discharge_units") is not None
        return facts.chosen("use") if told and facts.choice("use") != _USES[0][0] else ""

    def stage_summary(self, facts: Facts) -> str:
        return "raw sewage" if facts.choice("toilets") == "yes" else "sewage without toilets"


@alone("the loop over the backflow level")
def _loop(site: Site) -> Iterator[Check]:
    """Whether the pipe loops over the level to which the sewer may back up."""
    level = site.facts.optional("backflow_level")
    if level is None:
        return
    top = max(leg.end_elevation_m for leg in site.system.route.legs)
    yield Check(
        "loop",
        "Loop over the backflow level",
        state(bool(top > level)),
        message(
            "The highest point of the pipe lies {top} over the pit's bottom, the sewer may back up"
            " to {level} (EN 12056-4).",
            top=Measure(top, "length"),
            level=Measure(level, "length"),
        ),
        "Lead the pipe up in a loop whose foot lies over the backflow level: no valve is as sure.",
        weight="must",
        about="site",
    )


@alone("check valve and shut-off valve")
def valves(running: Running) -> Check:
    """A check valve and a shut-off valve in the riser."""
    shut_off = any(
        entry.fitting in ("gate_valve", "ball_valve_full", "plug_valve")
        for leg in running.legs
        for entry in leg.fittings
    )
    if shut_off and pit.holds_back(running):
        return Check(
            "valves",
            "Valves in the riser",
            "hold",
            message("Check valve and shut-off valve are in the riser."),
        )
    text = message("The riser lacks a check valve or a shut-off valve.")
    return Check(
        "valves",
        "Valves in the riser",
        "fail",
        text,
        "Fit a check valve and above it a full-bore shut-off valve.",
        about="site",
    )


KIND = Sewage()
