"""An aquarium: the return from the sump to the display, quiet and for years."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.aquarium import (
    box_check,
    noise_check,
    power_cut_checks,
    quick_rule_check,
    restart_check,
    share_of_display,
    take_offs_m3s,
    turnover_check,
)
from sizing.checks.base import Check, Running
from sizing.checks.cost_of_year import year_check
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.volume import turnover_m3s
from sizing.document.answers import Choice, Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.chamber import QUESTIONS as CHAMBER
from sizing.kinds.chamber import fits_chamber
from sizing.kinds.common_questions import (
    STATED,
    YES_NO,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.selection.requirement import Requirement


def _turned_over(
    title: str, rule: str, facts: Facts, rules: Rules, rate_per_s: float, share: float = 1.0
) -> Working:
    volume, more = facts.si("tank_volume"), take_offs_m3s(facts)
    box = turnover_m3s(volume, rate_per_s * SECONDS_PER_HOUR)
    inputs: tuple[tuple[str, Measure | str], ...] = (
        ("tank", Measure(volume, "volume")),
        ("turned over", Measure(rate_per_s, "turnover")),
    )
    formula = "volume × turnovers an hour + take-offs"
    if share < 1:
        inputs += (
            ("on the box", Measure(box, "flow")),
            ("left once plumbed", Measure(share, "ratio")),
        )
        formula = "volume × turnovers on the box × what is left of it + take-offs"
    return Working(
        title,
        formula,
        (*inputs, ("take-offs", Measure(more, "flow"))),
        Measure(box * share + more, "flow"),
        f"rule {rule}",
    )


def _as_plumbed(facts: Facts, rules: Rules) -> Working:
    own = facts.optional("turnover")
    return _turned_over(
        "Turnover as plumbed", "AQU-01", facts, rules, rules.value("AQU-01") if own is None else own
    )


def _on_the_box(facts: Facts, rules: Rules) -> Working:
    return _turned_over(
        "Turnover on the box",
        "AQU-02 and POW-01",
        facts,
        rules,
        rules.value("AQU-02"),
        rules.value("POW-01"),
    )


def _filter_school(facts: Facts, rules: Rules) -> Working:
    return _turned_over("Filter school", "AQU-03", facts, rules, rules.value("AQU-03"))


METHODS = (
    FlowMethod(
        "plumbed",
        "turnover as plumbed",
        _as_plumbed,
        "Feeds skimmer and heater; moving the tank is the wave pumps' work.",
    ),
    FlowMethod(
        "box",
        "turnover on the box",
        _on_the_box,
        "The box tells the flow at no head: half of it is left, more or less. Buying by it"
        " oversizes.",
        counts=False,
    ),
    FlowMethod(
        "filter",
        "filter school",
        _filter_school,
        "Canister filters, not sump returns: much for a reef's sump.",
    ),
    STATED,
)
QUESTIONS = (
    temperature("25 °C", "a tropical tank", usual=(8, 30)),
    Question(
        key="liquid",
        label="Water",
        stage="water",
        default="sea",
        choices=(Choice("sea", "sea water"), Choice("fresh", "fresh water")),
        help="Sea water wants pumps without metal in the water.",
    ),
    Question(
        key="tank_volume",
        label="Display holds",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.005,
        high=2000.0,
        usual=(0.05, 5.0),
    ),
    Question(
        key="turnover",
        label="Turned over",
        stage="flow",
        dimension="turnover",
        low=0.1 / SECONDS_PER_HOUR,
        high=60 / SECONDS_PER_HOUR,
        usual=(2 / SECONDS_PER_HOUR, 10 / SECONDS_PER_HOUR),
        optional=True,
        help="Left away: rule AQU-01.",
    ),
    stated_flow("Stated flow", (1e-4, 5e-3)),
    flow_from(METHODS, "plumbed"),
    margin("1.0 ×", "an adjustable pump is its own margin"),
    Question(
        key="take_offs_leave",
        label="Take-offs leave the line",
        stage="flow",
        default="pump",
        choices=(
            Choice("pump", "at the pump: the return pipe carries the rest"),
            Choice("display", "at the display: the return pipe carries all"),
        ),
        help="Where the reactors and the steriliser are fed from.",
    ),
    *CHAMBER,
    Question(
        key="display_area",
        label="Surface of the display",
        stage="run",
        dimension="area",
        low=0.01,
        high=500.0,
        usual=(0.1, 5.0),
        optional=True,
    ),
    Question(
        key="siphon_depth",
        label="Water over its weir and nozzle",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.0,
        high=2.0,
        usual=(0.005, 0.1),
        default="25 mm",
        source="runs back when the power goes",
        shown_when=("display_area", ()),
        is_level=True,
    ),
    Question(
        key="sump_area",
        label="Surface of the sump",
        stage="run",
        dimension="area",
        low=0.01,
        high=500.0,
        usual=(0.05, 3.0),
        shown_when=("display_area", ()),
    ),
    Question(
        key="sump_level",
        label="Sump runs at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.01,
        high=5.0,
        usual=(0.1, 0.5),
        shown_when=("display_area", ()),
        help="Over its floor.",
        is_level=True,
    ),
    Question(
        key="sump_rim",
        label="Sump spills over at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.02,
        high=5.0,
        usual=(0.2, 0.8),
        shown_when=("display_area", ()),
    ),
    Question(
        key="siphon_break",
        label="Siphon break or check valve",
        stage="run",
        default="no",
        choices=YES_NO,
        shown_when=("display_area", ()),
        help=(
            "A hole drilled just under the surface, or a check valve; both clog, so count on the"
            " water."
        ),
    ),
    *supply(
        hours="8760 h",
        hours_source="day and night",
        life=(SECONDS_PER_HOUR * 4000.0, SECONDS_PER_HOUR * 8784.0),
    ),
)
TAKE_OFFS = List(
    key="take_offs",
    label="Take-offs",
    stage="flow",
    columns=(
        Question("name", "What for", "flow"),
        Question(
            key="flow",
            label="It takes",
            stage="flow",
            dimension="flow",
            low=1e-7,
            high=0.01,
            usual=(1e-5, 1e-3),
            optional=True,
        ),
    ),
    first=(ListRow(id="r1"),),
    help="Reactors, a steriliser, a refugium fed from the same pump.",
)


class Aquarium(Kind):
    code = "aquarium"
    label = "aquarium"
    purpose = "The return pump from the sump to the display."
    datum = "the water in the sump's return chamber"
    questions = QUESTIONS
    lists = (TAKE_OFFS,)
    methods = METHODS
    hint = MissingFact("answers.tank_volume", "the display's volume, or a stated flow", "flow")
    quiet = True
    by_the_clock = True
    speeds = Speeds("VEL-16", "keeps it quiet")
    default_legs = (
        leg(
            "a",
            "return",
            "32 mm",
            ("ball_valve_full", 1),
            ("union", 1),
            ("elbow_90_glued", 3),
            ("exit", 1),
        ),
    )
    usual_legs = ((2.6, 1.3),)
    sizes = ("filter", "aquarium")
    cautions = (
        (
            "Electricity over salt water: a drip loop on every cable, earth-fault protection, and"
            " the plug pulled before a hand goes in."
        ),
        (
            "When the power goes, water runs back until air breaks the siphon: the sump must hold"
            " it, every time, with the hole clogged."
        ),
        "A pump without copper or brass in the water: both kill corals and shrimps.",
        "Local codes and licensed trades come first and override this sizing.",
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        if facts.choice("take_offs_leave") == "display" or not take_offs_m3s(facts):
            return Ends(0.0)
        taken = self.demand(facts, rules, only_taken=True).inflow_m3s
        return Ends(0.0, share_of_legs=share_of_display(facts, taken))

    def waters(self, facts: Facts) -> tuple[str, ...]:
        return ("sea", "reef") if facts.choice("liquid") == "sea" else ("fish",)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("aquarium",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return tuple(fits_chamber(facts))

    def place(self, facts: Facts, rules: Rules) -> Place:
        depth = facts.optional("sump_level") or 0.25
        rim = (facts.optional("sump_rim") or depth + 0.15) - depth
        return Place(
            "tank",
            facts.optional("chamber") or 0.4,
            (
                Level("floor", "sump", -depth),
                Level("stop", "sump water", 0.0),
                Level("rim", "sump rim", rim),
            ),
            outlet="tank",
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "sea" if facts.choice("liquid") == "sea" else "clean", "chamber", "display", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *pump_checks(running),
            box_check(running),
            quick_rule_check(running),
            *power_cut_checks(running),
            noise_check(running),
            *turnover_check(running),
            restart_check(running),
            year_check(running),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return facts.chosen("liquid")


KIND = Aquarium()
