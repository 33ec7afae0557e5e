"""A hot tub: jets in a closed loop, split over pumps.

Supply and return both count, height does not.
"""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.checks.base import Check, Running, Site
from sizing.checks.pump_curve import pump_checks
from sizing.checks.spa import (
    blower_checks,
    cover_flow_check,
    cover_limits,
    entrapment_site_checks,
    jets_check,
    too_strong_check,
    tub_priming_check,
)
from sizing.checks.suction import suction_check
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.openings import jets
from sizing.document.answers import Choice, Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.hydraulics.device import Device
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.common_questions import (
    ALTITUDE,
    STATED,
    flow_from,
    head_m,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.selection.limit import Limit


def _by_jets(facts: Facts, rules: Rules) -> Working:
    known = [(row, row.optional("count")) for row in facts.rows("jets")]
    rows = [
        (round(count), row.optional("flow") or rules.value("SPA-01"))
        for row, count in known
        if count
    ]
    if not rows:
        raise MissingFact("lists.jets.r1.count", "how many jets", "flow")
    found = jets(rows, round(facts.si("pumps")))
    inputs = tuple((f"{count} jets of", Measure(flow, "flow")) for count, flow in rows)
    return Working(
        "Jets",
        "sum of count × flow each, all running",
        inputs,
        Measure(found.total_flow_m3s, "flow"),
        "rule SPA-01 where the jet's own flow is not known",
    )


METHODS = (
    FlowMethod(
        "jets",
        "jets",
        _by_jets,
        "A pump has no flow without end: each jet added takes from the others.",
    ),
    STATED,
)
QUESTIONS = (
    temperature("38 °C", "a hot tub", usual=(30, 40)),
    Question(
        key="pumps",
        label="Pumps",
        stage="flow",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=12.0,
        usual=(1, 4),
        default="1 ×",
        source="each with its own suction and jets",
        help="The jets are split evenly; what follows is one pump's own loop.",
    ),
    stated_flow("Stated flow of all jets", (1e-3, 5e-2)),
    flow_from(METHODS),
    margin("1.0 ×", "too strong a pump hurts; add nothing without reason"),
    Question(
        key="jet_pressure",
        label="Pressure at the jets",
        stage="run",
        dimension="pressure",
        low=1e4,
        high=4e5,
        usual=(5.5e4, 1.24e5),
        default="0.8 bar",
        source="rule SPA-02: 8 to 18 psi (0.55 to 1.24 bar)",
        help="So that they draw air.",
        default_rule="SPA-02",
        usual_rule="SPA-02",
        in_doubt=False,
    ),
    Question(
        key="filter_loss",
        label="Filter and heater lose",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=3e5,
        usual=(0.0, 8e4),
        optional=True,
        help="At the flow of one pump, with a filter half dirty. Left away: none in this loop.",
    ),
    Question(
        key="suction_outlets",
        label="Suction outlets of each pump",
        stage="proof",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=12.0,
        usual=(2, 4),
        default="2 ×",
        source="rule SPA-05: two or more, or one that cannot be blocked",
    ),
    Question(
        key="outlet_spacing",
        label="They lie apart by",
        stage="proof",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.05,
        high=10.0,
        usual=(0.9, 3.0),
        optional=True,
        help="From middle to middle, so that one body cannot cover both (rule SPA-06).",
    ),
    Question(
        key="cover_rating",
        label="A suction cover is rated for",
        stage="proof",
        dimension="flow",
        low=1e-4,
        high=0.1,
        usual=(2e-3, 2e-2),
        optional=True,
        help="With the other one blocked, one cover must take the whole flow.",
    ),
    Question(
        key="pump_over_water",
        label="Pump over the tub's water",
        stage="proof",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-5.0,
        high=5.0,
        usual=(-1.0, 0.0),
        optional=True,
        help="Minus for a pump below the water, which primes by itself.",
        is_level=True,
        in_doubt=False,
    ),
    ALTITUDE,
    Question(
        "blower",
        "Blower",
        "proof",
        default="none",
        choices=(
            Choice("none", "none: air by the jets themselves"),
            Choice("near", "within 4.5 m (15 ft)"),
            Choice("far", "further off"),
        ),
    ),
    *supply(rough=False, hours="500 h", hours_source="an hour and a half a day"),
)
JETS = List(
    key="jets",
    label="Jets",
    stage="flow",
    columns=(
        Question("name", "Jet", "flow"),
        Question(
            key="count",
            label="How many",
            stage="flow",
            dimension="count",
            metric_unit="×",
            us_unit="×",
            low=0.0,
            high=500.0,
            usual=(2, 60),
            optional=True,
        ),
        Question(
            key="flow",
            label="Each takes",
            stage="flow",
            dimension="flow",
            low=1e-5,
            high=0.01,
            usual=(1e-4, 1.3e-3),
            optional=True,
        ),
    ),
    first=(ListRow(id="r1"),),
    help="Left away, a jet takes what rule SPA-01 says; its maker's figure goes first.",
)


class Spa(Kind):
    code = "spa"
    label = "hot tub"
    purpose = "Jets of a hot tub or hydrotherapy pool, in a closed loop."
    datum = "nothing: in a closed loop levels do not count"
    quiet = True
    by_the_clock = True
    closed_loop = True
    questions = QUESTIONS
    lists = (JETS,)
    methods = METHODS
    hint = MissingFact("lists.jets.r1.count", "how many jets", "flow")
    speeds = Speeds("VEL-19", "keeps it quiet and the pipe whole", suction_fastest="VEL-18")
    default_legs = (
        leg(
            "a",
            "suction",
            "63 mm",
            ("suction_strainer", 1),
            ("elbow_90_glued", 3),
            ("union", 1),
            side="suction",
        ),
        leg("b", "return", "50 mm", ("union", 1), ("elbow_90_glued", 4), ("tee_run_threaded", 2)),
    )
    usual_legs = ((4.0, 0.0), (5.0, 0.0))
    sizes = ("spa",)
    cautions = (
        (
            "Suction can hold hair, hands and bodies under water: listed covers in sound order, two"
            " suction outlets at least 0.9 m (3 ft) apart, and a shut-off in reach. Always."
        ),
        (
            "Electricity and people in water: bonding, earth-fault protection, distances by code; a"
            " licensed electrician makes the connection. Isolate before opening."
        ),
        (
            "Water over 40 °C (104 °F) harms; children and the sick bear less. A high-limit switch"
            " stands apart from the thermostat."
        ),
        (
            "A blower's air loop rises at least 0.3 m (12 in) over the water, or water runs back"
            " into it."
        ),
        (
            "Public tubs have their own codes (turnover, filters, disinfection); codes and licensed"
            " trades come first and override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        pumps = facts.si("pumps")
        if pumps == 1:
            return demand
        inputs = (
            ("all jets, with the margin", Measure(demand.needed_m3s, "flow")),
            ("pumps", Measure(pumps, "count")),
        )
        working = Working(
            "Flow needed of each pump",
            "flow of all jets / pumps",
            inputs,
            Measure(demand.needed_m3s / pumps, "flow"),
            "jets split evenly",
        )
        return demand.then(working, demand.needed_m3s / pumps)

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        flow = self.demand(facts, rules).needed_m3s
        devices = [Device("jets", flow, head_m(facts, "jet_pressure"))]
        if facts.optional("filter_loss"):
            devices.append(Device("filter and heater", flow, head_m(facts, "filter_loss")))
        return Ends(closed_loop=True, devices=tuple(devices))

    def suction_at(self, facts: Facts) -> tuple[float, float] | None:
        over_m = facts.optional("pump_over_water")
        return None if over_m is None else (over_m, facts.si("altitude"))

    def waters(self, facts: Facts) -> tuple[str, ...]:
        return ("chlorinated",)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("spa",)

    def place(self, facts: Facts, rules: Rules) -> Place:
        return Place(
            "loop",
            2.0,
            (Level("floor", "tub", -0.9), Level("stop", "water", 0.0), Level("rim", "rim", 0.15)),
            -0.6,
            "tub",
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation("chlorinated", "beside", "jets", 0.001)

    def checks(self, running: Running) -> Sequence[Check]:
        suction = self.suction_at(running.facts)
        return [
            *pump_checks(running),
            *(() if suction is None else (suction_check(running, *suction),)),
            jets_check(running),
            too_strong_check(running),
            *cover_flow_check(running),
            *blower_checks(running),
            *tub_priming_check(running.facts),
        ]

    def site_checks(self, site: Site) -> Sequence[Check]:
        return [*super().site_checks(site), *entrapment_site_checks(site)]

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), *cover_limits(site))

    def stage_summary(self, facts: Facts) -> str:
        return "tub water, closed loop"


KIND = Spa()
