"""A booster.

Pressure for the taps of a building, by every school of simultaneous demand side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running
from sizing.checks.booster import (
    lowest_check,
    outlet_check,
    supply_checks,
    upgrade_checks,
    water_head_m,
)
from sizing.checks.pump_curve import pump_checks
from sizing.checks.suction import suction_check
from sizing.checks.velocity import velocities
from sizing.demand import fixtures
from sizing.demand.fixture_methods import (
    OUTLETS,
    REASONS,
    SCHOOLS,
    by_school,
)
from sizing.demand.method import Demand, FlowMethod
from sizing.document.answers import Choice, Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.kinds.asking import (
    STATED,
    YES_NO,
    by_people,
    flow_from,
    head_m,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.selection.requirement import DrinkingWater, Requirement

METHODS = (
    FlowMethod(
        "per_head",
        "per head",
        by_people,
        "Crude: blind to what is installed. Low for few people, high for many.",
        counts=False,
    ),
    *(
        FlowMethod(code, school[0], by_school(code), school[5], counts=code != "hunter_valve")
        for code, school in SCHOOLS.items()
    ),
    STATED,
)
QUESTIONS = (
    temperature("12 °C", "cold water", usual=(4, 60)),
    Question("drinking", "Drinking water", "water", default="yes", choices=YES_NO),
    Question(
        "building",
        "Building",
        "flow",
        default="residential building",
        choices=tuple(Choice(name, name) for name in fixtures.din_buildings()),
        help="Asked by the German school only.",
    ),
    Question(
        "people", "People", "flow", "people", low=1.0, high=50000.0, usual=(2, 1000), optional=True
    ),
    Question(
        "volume_per_person",
        "Water a person and day",
        "flow",
        "volume",
        "l",
        "gal",
        low=0.01,
        high=1.0,
        usual=(0.08, 0.4),
        default="125 l",
        source="rule WEL-07",
        shown_when=("people", ()),
        default_rule="WEL-07",
        rule_factor=SECONDS_PER_DAY,
    ),
    Question(
        "peak_factor",
        "Peak over the day's mean",
        "flow",
        "ratio",
        "×",
        "×",
        low=1.0,
        high=60.0,
        usual=(5, 40),
        default="20 ×",
        source="small buildings peak sharply: frequency of use times how long a use lasts",
        shown_when=("people", ()),
    ),
    stated_flow("Stated peak flow", (2e-4, 2e-2)),
    flow_from(METHODS, "statistical"),
    margin("1.0 ×", "every school holds its own"),
    Question(
        "upgrade",
        "What if the showers become",
        "flow",
        default="none",
        choices=(
            Choice("none", "no change"),
            Choice("rain", "rain heads"),
            Choice("jets", "rain heads with three body jets"),
        ),
        help=(
            "Clients do this after the booster is fixed. Proof then shows flow and pressure before"
            " and after."
        ),
    ),
    Question(
        "supply_from",
        "It draws from",
        "run",
        default="main",
        choices=(
            Choice("main", "the main, under pressure"),
            Choice("tank", "a break tank"),
        ),
    ),
    Question(
        "supply_pressure",
        "Lowest pressure of the main",
        "run",
        "pressure",
        low=0.0,
        high=1.5e6,
        usual=(1e5, 5e5),
        shown_when=("supply_from", ("main",)),
        help="At the pump, in the worst hour, while the building draws.",
    ),
    Question(
        "tank_level",
        "Lowest water in the tank",
        "run",
        "length",
        "m",
        "ft",
        low=-10.0,
        high=100.0,
        usual=(-3, 5),
        shown_when=("supply_from", ("tank",)),
        help="Over the floor the pump stands on; minus for a tank below it.",
        is_level=True,
    ),
    Question(
        "worst_outlet",
        "Worst outlet is",
        "run",
        default="shower",
        choices=tuple(Choice(code, fixtures.fixture(code).label) for code in OUTLETS),
        help="The highest and furthest, or the one that wants most pressure.",
    ),
    Question(
        "residual",
        "Pressure wanted there",
        "run",
        "pressure",
        low=0.0,
        high=1e6,
        usual=(5e4, 3e5),
        optional=True,
        help=(
            "Left away: what that kind of outlet usually wants (shown in Proof). The maker's figure"
            " goes first."
        ),
        in_doubt=False,
    ),
    Question(
        "lowest_outlet",
        "Lowest outlet",
        "run",
        "length",
        "m",
        "ft",
        low=-50.0,
        high=100.0,
        usual=(-4, 5),
        default="1 m",
        source="a tap on the pump's floor",
        is_level=True,
    ),
    Question(
        "floors",
        "Floors with outlets",
        "run",
        "count",
        "×",
        "×",
        low=1.0,
        high=60.0,
        usual=(2, 12),
        optional=True,
        help=(
            "Gives the pressure at each, and where a reducing valve is wanted. Counted from the"
            " lowest outlet up."
        ),
    ),
    Question(
        "storey",
        "Height of a storey",
        "run",
        "length",
        "m",
        "ft",
        low=2.0,
        high=10.0,
        usual=(2.5, 4.5),
        default="3 m",
        source="usual building",
        shown_when=("floors", ()),
    ),
    Question(
        "altitude",
        "Height over the sea",
        "run",
        "length",
        "m",
        "ft",
        low=-400.0,
        high=6000.0,
        usual=(0, 2500),
        default="300 m",
        source="air is thinner higher up: suction suffers",
    ),
    *supply(hours="1500 h", hours_source="a building that draws by day"),
)
FIXTURES = List(
    "fixtures",
    "Fixtures by floor",
    "flow",
    (
        Question("floor", "Floor", "flow"),
        Question(
            "fixture",
            "Fixture",
            "flow",
            default="shower",
            choices=tuple(Choice(one.code, one.label) for one in fixtures.fixtures().values()),
        ),
        Question(
            "count",
            "How many",
            "flow",
            "count",
            "×",
            "×",
            low=0.0,
            high=5000.0,
            usual=(1, 300),
            optional=True,
        ),
    ),
    first=tuple(
        ListRow(id=f"r{number}", cells={"fixture": code})
        for number, code in enumerate(("shower", "basin", "wc", "kitchen"), 1)
    ),
    help=(
        "How often each is used, and how long, decides how many run at once: that is what the"
        " schools differ about."
    ),
)


class Booster(Kind):
    code = "booster"
    dialogs = ("floors",)
    label = "booster"
    purpose = "Pressure at the taps of a building that the main does not give."
    datum = "the floor the pump stands on"
    questions = QUESTIONS
    lists = (FIXTURES,)
    methods = METHODS
    hint = MissingFact(
        "lists.fixtures.r1.count", "the schedule of fixtures, or another way to the flow", "flow"
    )
    quiet = True
    default_legs = (
        leg("a", "suction", "63 mm", ("gate_valve", 1), ("elbow_90_glued", 2), side="suction"),
        leg(
            "b",
            "riser",
            "63 mm",
            ("check_spring_inline", 1),
            ("gate_valve", 1),
            ("elbow_90_glued", 3),
        ),
        leg(
            "c",
            "floor branch",
            "32 mm",
            ("tee_branch_threaded", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 6),
        ),
    )
    cautions = (
        (
            "Drinking water: backflow protection towards the main, certified materials, flush and"
            " disinfect before use. Water that stands grows legionella."
        ),
        (
            "A booster on a public main may draw it down and suck dirt in: many suppliers ask for a"
            " break tank or a low-pressure cut-out."
        ),
        (
            "Over 5.5 bar (80 psi) at a fixture most codes want a reducing valve; hot water systems"
            " want relief valves sized for the new pressure."
        ),
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "One pump down is a building without water: one on duty and one as standby is the plain"
            " rule (BST-04)."
        ),
        (
            "Codes name the school to be used in many places; they and licensed trades come first"
            " and override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        return replace(demand, reason=REASONS[demand.taken])

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        residual = self._residual(facts)
        if facts.choice("supply_from") == "main":
            return Ends(0.0, residual, head_m(facts, "supply_pressure"))
        return Ends(facts.si("tank_level"), residual)

    def _residual(self, facts: Facts) -> float:
        """Head wanted at the worst outlet [m]."""
        if facts.optional("residual") is not None:
            return head_m(facts, "residual")
        return water_head_m(facts, fixtures.fixture(facts.choice("worst_outlet")).residual_pa)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("booster",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (DrinkingWater(),) if facts.choice("drinking") == "yes" else ()

    def place(self, facts: Facts, rules: Rules) -> Place:
        floors = facts.optional("floors")
        storeys = (
            ()
            if floors is None
            else tuple(
                facts.si("lowest_outlet") - 1.0 + number * facts.si("storey")
                for number in range(round(floors) + 1)
            )
        )
        if facts.choice("supply_from") == "main":
            return Place(
                "main",
                0.1,
                (Level("floor", "floor", -0.5), Level("rim", "floor", 0.0)),
                0.0,
                "tap",
                storeys,
            )
        level = facts.si("tank_level")
        return Place(
            "tank",
            1.0,
            (
                Level("floor", "tank bottom", level - 0.4),
                Level("stop", "lowest water", level, "answers.tank_level"),
                Level("rim", "tank rim", level + 1.0),
            ),
            0.0,
            "tap",
            storeys,
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "beside", "taps", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        facts = running.facts
        return [
            *pump_checks(running),
            *velocities(running, "", "VEL-06", "keeps the pipe quiet", suction_fastest="VEL-02"),
            suction_check(running, 0.0, facts.si("altitude")),
            *supply_checks(running),
            lowest_check(running),
            outlet_check(running),
            *upgrade_checks(running),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "service water"


KIND = Booster()
