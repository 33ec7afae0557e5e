"""A sump.

Ground or rain water in a pit in a cellar, crawl space or yard, lifted to where it may run off.
"""

from __future__ import annotations

from dataclasses import replace

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.checks.pit import PitRules
from sizing.checks.velocity import Speeds
from sizing.demand.drained_area import drained_area
from sizing.demand.method import FlowMethod
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.kinds.base import Situation
from sizing.kinds.common_questions import (
    FROST,
    STATED,
    SURGE,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.pit import COME_QUESTION, SHAPE_QUESTIONS, PitKind, level_questions, pit_plan


def _by_rise(facts: Facts, rules: Rules) -> Working:
    height, time = facts.si("rise"), facts.si("rise_time")
    own = facts.optional("rise_area")
    found = rise(pit_plan(facts), height, time)
    if own is not None:
        found = replace(found, plan_area_m2=own, inflow_m3s=own * height / time)
    inputs = (
        ("pit area", Measure(found.plan_area_m2, "area", 3)),
        ("rise", Measure(height, "length", 3)),
        ("time", Measure(time, "time")),
    )
    return Working(
        "Timed rise",
        "inflow = pit area × rise / time",
        inputs,
        Measure(found.inflow_m3s, "flow"),
        "continuity; rule SMP-03",
    )


def _by_area(facts: Facts, rules: Rules) -> Working:
    rule = rules.rule("SMP-01" if facts.choice("soil") == "sand" else "SMP-02")
    area = facts.si("drained_area")
    flow = drained_area(area, rules.value(rule.rule_id))
    inputs = (
        ("area", Measure(area, "area")),
        ("seepage", Measure(rules.value(rule.rule_id), "seepage")),
    )
    return Working(
        "Drained area",
        "inflow = area × seepage of the soil",
        inputs,
        Measure(flow, "flow"),
        f"rule {rule.rule_id}, {rule.source}",
    )


def _by_rain(facts: Facts, rules: Rules) -> Working:
    surface = Surface(facts.si("runoff"), facts.si("rain_area"))
    found = rational(facts.si("rain_rate"), [surface])
    inputs = (
        ("share that runs off", Measure(surface.runoff_coefficient, "ratio")),
        ("rain", Measure(facts.si("rain_rate"), "rain")),
        ("area", Measure(surface.area_m2, "area")),
    )
    return Working(
        "Rain on surfaces",
        "flow = C × rain × area",
        inputs,
        Measure(found.flow_m3s, "flow"),
        "rational method, Kuichling 1889; rule SMP-04",
    )


METHODS = (
    FlowMethod("timed_rise", "timed rise", _by_rise),
    FlowMethod(
        "drained_area",
        "drained area",
        _by_area,
        "A rule of thumb: real inflows differ tenfold. Time the rise where you can.",
    ),
    FlowMethod("rain", "rain on surfaces", _by_rain),
    STATED,
)
QUESTIONS = (
    Question(
        key="liquid",
        label="Water",
        stage="water",
        default="clear",
        choices=(
            Choice("clear", "clear ground water"),
            Choice("silt", "ground water with sand and fibres"),
            Choice("rain", "rain from surfaces"),
        ),
        help=(
            "Raw sewage, paper and wipes are no sump job: they need a solids-handling or a grinder"
            " pump."
        ),
    ),
    temperature("10 °C", "usual ground water of temperate places"),
    Question(
        key="largest_solid",
        label="Largest solid",
        stage="water",
        dimension="size",
        low=0.0,
        high=0.1,
        usual=(0.0, 0.02),
        default="5 mm",
        source="sand and grit of a clean pit",
    ),
    *SHAPE_QUESTIONS,
    flow_from(METHODS, add_up=True),
    Question(
        key="rise",
        label="Rise with the pump off",
        stage="flow",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.001,
        high=5.0,
        usual=(0.02, 0.6),
        optional=True,
        help="In the wettest hour, pump unplugged: mark the level, wait, mark it again.",
    ),
    Question(
        key="rise_time",
        label="in a time of",
        stage="flow",
        dimension="time",
        metric_unit="s",
        us_unit="s",
        low=1.0,
        high=SECONDS_PER_DAY,
        usual=(20, SECONDS_PER_HOUR),
        optional=True,
    ),
    Question(
        key="rise_area",
        label="in a pit with an area of",
        stage="flow",
        dimension="area",
        metric_unit="m²",
        us_unit="ft²",
        low=0.01,
        high=100.0,
        usual=(0.1, 2.0),
        optional=True,
        help="Where it rose in another pit than this job's: the old one, before it is made wider.",
    ),
    Question(
        key="drained_area",
        label="Area drained to the pit",
        stage="flow",
        dimension="area",
        metric_unit="m²",
        us_unit="ft²",
        low=1.0,
        high=1e5,
        usual=(30, 400),
        optional=True,
    ),
    Question(
        key="soil",
        label="Soil round it",
        stage="flow",
        default="sand",
        choices=(Choice("sand", "sand or gravel"), Choice("clay", "clay")),
        shown_when=("drained_area", ()),
    ),
    Question(
        key="rain_area",
        label="Area that rain runs off",
        stage="flow",
        dimension="area",
        metric_unit="m²",
        us_unit="ft²",
        low=0.5,
        high=1e5,
        usual=(5, 500),
        optional=True,
    ),
    Question(
        key="runoff",
        label="Share that runs off",
        stage="flow",
        dimension="ratio",
        low=0.0,
        high=1.0,
        usual=(0.2, 1.0),
        default="90 %",
        source="roofs and paving",
        shown_when=("rain_area", ()),
    ),
    Question(
        key="rain_rate",
        label="Hardest rain",
        stage="flow",
        dimension="rain",
        low=1e-8,
        high=1e-4,
        usual=(5e-6, 5e-5),
        default="108 mm/h",
        source="EN 12056-3 where no local figure is known: 0.03 l/s a m²",
        shown_when=("rain_area", ()),
    ),
    stated_flow("Stated flow into the pit", (5e-5, 5e-3)),
    margin("1.5 ×", "rule SMP-05: 1.25 to 2 in use", 5.0, rule="SMP-05", usual_rule="SMP-05"),
    *level_questions(150, 400, "covers the lowest level of most sump pumps"),
    *FROST,
    *SURGE,
    *supply(hours="200 h", hours_source="a wet cellar"),
    COME_QUESTION,
)


class Sump(PitKind):
    code = "sump"
    label = "sump"
    purpose = "Ground or rain water out of a pit in a cellar, crawl space or yard."
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact("answers.rise", "one way to the flow (a timed rise is best)", "flow")
    margin_source = "house rule SMP-05; the only margin in the whole sizing"
    pit_rules = PitRules(starts="CYC-01", run_time="CYC-02")
    speeds = Speeds("VEL-12", "keeps solids moving and the loss small", "VEL-12")
    default_legs = (
        leg(
            "a",
            "riser",
            "50 mm",
            ("check_swing_100", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 1),
        ),
        leg("b", "yard run", "50 mm", ("elbow_90_glued", 2), ("exit", 1)),
    )
    usual_legs = ((3.0, 2.8), (18.0, 3.4))
    sizes = ("sump",)
    stated_is_inflow = True
    cautions = (
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "A pit is a confined space: gas that poisons or explodes may stand in it. Nobody enters"
            " or leans in untrained and alone."
        ),
        (
            "Where the discharge can freeze, fit a relief opening near the house; without it a"
            " frozen outlet floods the cellar."
        ),
        (
            "Rain and ground water may not go into a foul sewer in most places: ask the local"
            " authority where it may run off."
        ),
        "Local codes, permits and licensed trades come first and override this sizing.",
    )

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("effluent",) if facts.choice("liquid") == "silt" else ("sump", "effluent")

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            {"clear": "ground", "silt": "settled", "rain": "rain"}[facts.choice("liquid")],
            "pit",
            "gravity",
            facts.si("largest_solid"),
        )

    def stage_summary(self, facts: Facts) -> str:
        return facts.chosen("liquid")


KIND = Sump()
