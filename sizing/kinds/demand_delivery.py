"""Demand and delivery.

A small diaphragm pump that brings a tank's water to a tap whenever it is opened.
"""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, Site
from sizing.checks.cable import cable_check
from sizing.checks.demand_delivery import (
    cycling_checks,
    elastomer_check,
    prime_check,
    switch_check,
    switch_limit,
)
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.document.answers import Choice, Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.borehole import CABLE_QUESTIONS
from sizing.kinds.common_questions import (
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
from sizing.selection.requirement import DrinkingWater, Requirement


def _by_taps(facts: Facts, rules: Rules) -> Working:
    known = [(row, row.optional("count")) for row in facts.rows("taps")]
    rows = [(row.words("name") or "tap", count, row.si("flow")) for row, count in known if count]
    if not rows:
        raise MissingFact("lists.taps.r1.count", "the taps that are open at once", "flow")
    inputs = tuple((f"{count:g} × {name}", Measure(flow, "flow")) for name, count, flow in rows)
    return Working(
        "Taps open at once",
        "sum of count × flow each",
        inputs,
        Measure(sum(count * flow for _, count, flow in rows), "flow"),
        "taps as listed",
    )


METHODS = (FlowMethod("taps", "taps open at once", _by_taps), STATED)
QUESTIONS = (
    temperature("15 °C", "a tank in a vehicle", usual=(2, 40)),
    Question(
        key="liquid",
        label="Liquid",
        stage="water",
        default="drinking",
        choices=(
            Choice("drinking", "drinking water"),
            Choice("nutrient", "nutrient solution"),
            Choice("disinfectant", "thin disinfectant"),
            Choice("sea", "sea water"),
        ),
        help="It decides diaphragm and valves.",
    ),
    Question(
        key="day_volume",
        label="Water drawn a day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=1e-3,
        high=20.0,
        usual=(0.01, 1.0),
        optional=True,
        help="For the run over a day: how often the pump starts, and when the tank is empty.",
    ),
    Question(
        key="tank_holds",
        label="The tank holds",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=1e-3,
        high=100.0,
        usual=(0.02, 2.0),
        optional=True,
        help="Empty for one that is filled by itself.",
    ),
    stated_flow("Stated or timed flow", (2e-5, 5e-4)),
    flow_from(METHODS),
    margin("1.1 ×", "rule DEM-01: a pump that only just gives it hunts", rule="DEM-01"),
    Question(
        key="tank_level",
        label="Lowest water in the tank",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-6.0,
        high=20.0,
        usual=(-2, 2),
        default="0 m",
        source="tank beside the pump",
        help="Over the pump; minus for water below it.",
        is_level=True,
    ),
    Question(
        key="tap_pressure",
        label="Pressure wanted at the taps",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=6e5,
        usual=(3e4, 3.5e5),
        default="0.7 bar",
        source="a simple mixer",
        in_doubt=False,
    ),
    Question(
        key="switch_off",
        label="Pressure switch stops it at",
        stage="proof",
        dimension="pressure",
        low=3e4,
        high=8e5,
        usual=(1.4e5, 4e5),
        default="2.1 bar",
        source="usual small pump",
    ),
    Question(
        key="switch_on",
        label="and starts it at",
        stage="proof",
        dimension="pressure",
        low=1e4,
        high=7e5,
        usual=(8e4, 3e5),
        default="1.4 bar",
        source="usual small pump",
    ),
    Question(
        key="accumulator",
        label="Accumulator holds",
        stage="proof",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.05e-3,
        high=0.1,
        usual=(0.3e-3, 0.01),
        optional=True,
        help="Left away: none, and the switch hunts at a trickle.",
    ),
    *CABLE_QUESTIONS[:2],
    *supply(
        voltage="12 V",
        hours="150 h",
        hours_source="taps of a vehicle",
        life=(SECONDS_PER_HOUR * 10, SECONDS_PER_HOUR * 2000.0),
    ),
)
TAPS = List(
    key="taps",
    label="Taps",
    stage="flow",
    columns=(
        Question("name", "Tap", "flow"),
        Question(
            key="count",
            label="Open at once",
            stage="flow",
            dimension="count",
            metric_unit="×",
            us_unit="×",
            low=0.0,
            high=50.0,
            usual=(1, 6),
            optional=True,
        ),
        Question(
            key="flow",
            label="Each takes",
            stage="flow",
            dimension="flow",
            low=1e-6,
            high=0.005,
            usual=(2e-5, 3e-4),
        ),
    ),
    first=(ListRow(id="r1"), ListRow(id="r2")),
    help=(
        "Time a bucket at the tap: 10 l (2.5 gal) in 90 s. What is seldom open together need not"
        " be counted together."
    ),
)


class DemandDelivery(Kind):
    code = "demand_delivery"
    label = "demand and delivery"
    purpose = (
        "A small diaphragm pump from a tank to taps: vehicles, boats, hydroponics, water treatment."
    )
    datum = "the pump"
    questions = QUESTIONS
    lists = (TAPS,)
    methods = METHODS
    hint = MissingFact(
        "lists.taps.r1.count", "the taps that are open at once, or a timed bucket", "flow"
    )
    quiet = True
    held_by_outlets = True
    speeds = Speeds("VEL-01", "keeps the loss small")
    default_legs = (
        leg("a", "suction hose", "1/2 in", ("y_strainer", 1), side="suction", series="pex_sdr9"),
        leg(
            "b",
            "tap line",
            "1/2 in",
            ("elbow_90_std_threaded", 4),
            ("tee_branch_threaded", 1),
            series="pex_sdr9",
        ),
    )
    usual_legs = ((0.8, -0.1), (4.5, 0.9))
    sizes = ("diaphragm",)
    cautions = (
        (
            "Drinking water: certified hose and pump; disinfect tank and lines before use and after"
            " standing, and flush."
        ),
        "Drain tank, pump and lines before frost: a frozen valve body splits.",
        "A fuse at the battery, sized to the cable; at 12 V long thin cable starves the pump.",
        (
            "It may run dry for a short while, not for good: a strainer before it keeps grit off"
            " its valves."
        ),
        "Vehicle, boat and food rules differ by place; they come first and override this sizing.",
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        return Ends(facts.si("tank_level"), head_m(facts, "tap_pressure"))

    def waters(self, facts: Facts) -> tuple[str, ...]:
        return ("sea",) if facts.choice("liquid") == "sea" else ()

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("diaphragm",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (DrinkingWater(),) if facts.choice("liquid") == "drinking" else ()

    def place(self, facts: Facts, rules: Rules) -> Place:
        level = facts.si("tank_level")
        return Place(
            "tank",
            0.6,
            (
                Level("floor", "tank bottom", level - 0.1),
                Level("stop", "lowest water", level, "answers.tank_level"),
                Level("rim", "tank", level + 0.4),
            ),
            0.0,
            "tap",
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("liquid") == "drinking" else "clean",
            "beside",
            "taps",
            0.0005,
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            # a diaphragm pump has no best point to stay near
            *pump_checks(running, "flow", "reserve", "starts_against"),
            switch_check(running),
            *cycling_checks(running),
            elastomer_check(running),
            *cable_check(running),
        ]

    def site_checks(self, site: Site) -> Sequence[Check]:
        return [*super().site_checks(site), prime_check(site)]

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), switch_limit(site))

    def stage_summary(self, facts: Facts) -> str:
        return facts.chosen("liquid")


KIND = DemandDelivery()
