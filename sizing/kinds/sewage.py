"""Sewage from a building: a sealed pit under the drains, lifted to a gravity sewer."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from sizing.base.message import Measure, Working, message
from sizing.base.rules import Rules
from sizing.checks import pit
from sizing.checks.base import Check, Running
from sizing.checks.pit import Limits
from sizing.demand import unit_curve
from sizing.demand.method import Demand, FlowMethod
from sizing.document.answers import Facts, MissingFact, Question
from sizing.kinds.asking import (
    STATED,
    YES_NO,
    by_people,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
    volume_of_people_m3,
)
from sizing.kinds.base import Situation
from sizing.kinds.pit import COME_QUESTION, LEVEL_QUESTIONS, SHAPE_QUESTIONS, PitKind
from sizing.kinds.scour import raised_to_scour


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


METHODS = (
    FlowMethod(
        "dfu_tank",
        "units, flush-tank school",
        partial(_by_units, "dfu_to_gpm_tank_low"),
        "Low confidence: practice differs, and a toilet's single flush alone may ask for more.",
    ),
    FlowMethod(
        "dfu_valve",
        "units, flush-valve school",
        partial(_by_units, "dfu_to_gpm_valve_high"),
        "Low confidence: the higher school.",
    ),
    FlowMethod("people", "people and a peak", by_people),
    STATED,
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
        source="rule BAS-14: 2 in with a toilet",
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
    Question(
        key="peak_factor",
        label="Peak over the day's mean",
        stage="flow",
        dimension="ratio",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=30.0,
        usual=(3, 12),
        default="6 ×",
        source="small groups peak sharply: 4 to 10 in use",
        shown_when=("people", ()),
    ),
    stated_flow("Stated peak flow", (3e-4, 1e-2)),
    flow_from(METHODS),
    margin("1.0 ×", "a peak by units or people holds its own margin"),
    *SHAPE_QUESTIONS,
    *LEVEL_QUESTIONS,
    *supply(hours="200 h", hours_source="a building's drains"),
    COME_QUESTION,
)


class Sewage(PitKind):
    code = "sewage"
    dialogs = ("reach",)
    label = "sewage"
    purpose = "Sewage of a building out of a sealed pit, up to a gravity sewer."
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact(
        "answers.drainage_units",
        "one way to the flow (fixture units, people, or a stated flow)",
        "flow",
    )
    limits = Limits(starts="CYC-03", run_time="CYC-02", slowest="VEL-07", fastest="VEL-09")
    default_legs = (
        leg(
            "a",
            "riser",
            "63 mm",
            ("check_ball_sewage", 1),
            ("gate_valve", 1),
            ("elbow_90_glued", 1),
        ),
        leg("b", "run to the sewer", "63 mm", ("elbow_90_glued", 2), ("exit", 1)),
    )
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

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        return raised_to_scour(demand, facts.legs, rules)

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

    def stage_summary(self, facts: Facts) -> str:
        return "raw sewage" if facts.choice("toilets") == "yes" else "sewage without toilets"


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
    )


KIND = Sewage()
