"""Transfer: from one tank to another, a volume in a time."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running, Site
from sizing.checks.intake import intake_check, intake_limits
from sizing.checks.pump_curve import pump_checks
from sizing.checks.suction import suction_check
from sizing.checks.transfer import fill_checks, floats_check, lift_checks
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.volume import fill_m3s
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.common_questions import (
    ALTITUDE,
    FROST,
    QUICK_VALVE,
    STATED,
    SURGE,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.selection.limit import Limit
from sizing.selection.requirement import AtLeast, Requirement


def _by_fill(facts: Facts, rules: Rules) -> Working:
    volume, time, draw = (
        facts.si("volume"),
        facts.si("fill_time"),
        facts.optional("draw_off") or 0.0,
    )
    inputs = (
        ("volume", Measure(volume, "volume")),
        ("time", Measure(time, "time")),
        ("drawn meanwhile", Measure(draw, "flow")),
    )
    return Working(
        "Volume in a time",
        "volume / time + what is drawn meanwhile",
        inputs,
        Measure(fill_m3s(volume, time, draw), "flow"),
        "continuity",
    )


METHODS = (FlowMethod("fill", "volume in a time", _by_fill), STATED)
SUCTION_QUESTIONS = (
    Question(
        key="source_level",
        label="Lowest water it draws from",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-30.0,
        high=50.0,
        usual=(-7, 10),
        help=(
            "Over the floor the pump stands on; minus for water below it. The level when the tank"
            " is nearly empty, not when it is full."
        ),
        is_level=True,
    ),
    Question(
        key="intake_cover",
        label="Water over the intake then",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.0,
        high=20.0,
        usual=(0.1, 3.0),
        optional=True,
        help="Over the mouth of the suction pipe, at that lowest level.",
        is_level=True,
    ),
    ALTITUDE,
)
QUESTIONS = (
    Question(
        "liquid",
        "Water",
        "water",
        default="clean",
        choices=(
            Choice("clean", "clean"),
            Choice("rain", "rain water"),
            Choice("grey", "grey water"),
            Choice("hot", "hot water"),
        ),
    ),
    temperature("12 °C", "a tank indoors", usual=(4, 60), hottest=95.0),
    Question(
        key="largest_solid",
        label="Largest solid",
        stage="water",
        dimension="size",
        low=0.0,
        high=0.05,
        usual=(0.0, 0.004),
        default="1 mm",
        source="behind a screen",
    ),
    Question(
        key="volume",
        label="Volume to move",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.005,
        high=5000.0,
        usual=(0.1, 100.0),
        optional=True,
    ),
    Question(
        key="fill_time",
        label="in a time of",
        stage="flow",
        dimension="time",
        metric_unit="min",
        us_unit="min",
        low=5.0,
        high=30 * SECONDS_PER_DAY,
        usual=(300, 43200),
        shown_when=("volume", ()),
    ),
    Question(
        key="draw_off",
        label="Drawn from it meanwhile",
        stage="flow",
        dimension="flow",
        low=0.0,
        high=1.0,
        usual=(0.0, 5e-3),
        optional=True,
    ),
    stated_flow("Stated flow", (1e-4, 1e-2)),
    flow_from(METHODS),
    margin("1.0 ×", "a tank forgives; add what you must"),
    *SUCTION_QUESTIONS,
    Question(
        "floats",
        "Floats",
        "proof",
        default="none",
        choices=(
            Choice("none", "none yet"),
            Choice("upper", "in the upper tank only"),
            Choice("both", "in both tanks"),
        ),
    ),
    *FROST,
    *SURGE,
    QUICK_VALVE,
    *supply(hours="150 h", hours_source="a tank filled now and then"),
)


class Transfer(Kind):
    code = "transfer"
    label = "transfer"
    purpose = "From one tank to another, such as a cistern to a tank under the roof."
    datum = "the floor the pump stands on"
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact("answers.volume", "a volume and its time, or a stated flow", "flow")
    speeds = Speeds("VEL-01", "keeps the loss small and the pipe cheap", suction_fastest="VEL-02")
    default_legs = (
        leg("a", "suction", "50 mm", ("foot_hinged", 1), ("elbow_90_glued", 1), side="suction"),
        leg(
            "b",
            "riser",
            "40 mm",
            ("check_spring_inline", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 3),
            ("exit", 1),
        ),
    )
    usual_legs = ((4.0, 0.2), (14.0, 5.0))
    sizes = ("jet", "transfer")
    between_tanks = True
    cautions = (
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "A tank is a confined space: bad air may stand in it. Nobody enters or leans in"
            " untrained and alone."
        ),
        (
            "Rain water and drinking water never share a pipe: an air gap parts them, and every tap"
            " of it is marked."
        ),
        "The upper tank wants an overflow that takes the pump's whole flow and is seen from below.",
        "Local codes, permits and licensed trades come first and override this sizing.",
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        return Ends(facts.si("source_level"))

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("transfer", "jet") if facts.choice("liquid") in ("clean", "rain") else ("transfer",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (
            AtLeast(
                "solids_m",
                facts.si("largest_solid"),
                "size",
                "passes too small a solid",
                "passes only {has}; {wanted} wanted",
                "the largest solid it passes",
            ),
        )

    def suction_at(self, facts: Facts) -> tuple[float, float] | None:
        return 0.0, facts.si("altitude")

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), *intake_limits(site))

    def place(self, facts: Facts, rules: Rules) -> Place:
        level = facts.si("source_level")
        return Place(
            "tank",
            1.0,
            (
                Level("floor", "tank bottom", level - 0.3),
                Level("stop", "lowest water", level, "answers.source_level"),
                Level("rim", "tank rim", level + 1.0),
            ),
            0.0,
            "tank",
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(facts.choice("liquid"), "beside", "tank", facts.si("largest_solid"))

    def checks(self, running: Running) -> Sequence[Check]:
        facts = running.facts
        return [
            *pump_checks(running),
            suction_check(running, 0.0, facts.si("altitude")),
            *lift_checks(running, facts),
            *intake_check(running),
            *fill_checks(running),
            floats_check(facts),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return facts.chosen("liquid")


KIND = Transfer()
