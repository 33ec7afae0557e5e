"""A pond: a fall over a weir, a rill, a fountain, or just clean water."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running
from sizing.checks.cost_of_year import year_check
from sizing.checks.pond import crest_m05_s, jet_checks, sheet_checks, static_check
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.openings import weir
from sizing.demand.volume import turnover_m3s
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.hydraulics.device import Device
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.common_questions import (
    FROST,
    QUICK_VALVE,
    STATED,
    SURGE,
    YES_NO,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.pond_jets import JET_QUESTIONS, JETS, by_jets, nozzle_head_m
from sizing.selection.requirement import AtLeast, Requirement

_SHEETS = {"light": "PND-03", "medium": "PND-04", "heavy": "PND-05"}
_PLACES = {
    "floor": ("on the pond floor", ("pond", "filter"), "pond"),
    "skimmer": ("behind a skimmer or in an intake bay", ("skimmer", "pond"), "skimmer"),
    "chamber": ("in a filter chamber", ("pond", "skimmer", "filter"), "chamber"),
    "fountain": ("under a small fountain, behind a pre-filter", ("fountain", "pond"), "pond"),
}


def _by_sheet(facts: Facts, rules: Rules) -> Working:
    width, rule = facts.si("weir_width"), _SHEETS[facts.choice("sheet")]
    found = weir(width, crest_m05_s(facts), flow_per_width_m2s=rules.value(rule))
    inputs = (
        ("width of the weir", Measure(width, "length")),
        ("for each width", Measure(rules.value(rule), "sheet")),
        ("so thick over the crest", Measure(found.head_m, "bore")),
    )
    return Working(
        "Width of the weir",
        "width × flow for each width of sheet",
        inputs,
        Measure(found.flow_m3s, "flow"),
        f"rule {rule}",
    )


def _by_head(facts: Facts, rules: Rules) -> Working:
    width, head = facts.si("weir_width"), facts.si("weir_head")
    found = weir(width, crest_m05_s(facts), head_m=head)
    inputs = (
        ("width b", Measure(width, "length")),
        ("over the crest H", Measure(head, "bore")),
        ("C", f"{crest_m05_s(facts):.2f} m^0.5/s"),
    )
    return Working(
        "Weir equation",
        "C b H^1.5",
        inputs,
        Measure(found.flow_m3s, "flow"),
        "Francis, sharp crest over the full width; rule PND-06",
    )


def _feeds_jets(facts: Facts) -> bool:
    """Whether water leaves by nozzles, and wants a head there."""
    counted = facts.choice("flow_from") in ("largest", "sum", "jets")
    jets = any(row.optional("count") for row in facts.rows("jets"))
    return facts.choice("place") == "fountain" or (counted and jets)


def _by_turnover(facts: Facts, rules: Rules) -> Working:
    volume, rate = facts.si("pond_volume"), facts.si("turnover")
    inputs = (("pond holds", Measure(volume, "volume")), ("turned over", Measure(rate, "turnover")))
    return Working(
        "Turnover",
        "volume × turnovers an hour",
        inputs,
        Measure(turnover_m3s(volume, rate * SECONDS_PER_HOUR), "flow"),
        "rule PND-02",
    )


METHODS = (
    FlowMethod(
        "sheet",
        "weir by its sheet",
        _by_sheet,
        "What looks light to one looks thin to another: ranges of two to one are quoted.",
    ),
    FlowMethod(
        "head",
        "weir by its equation",
        _by_head,
        "Holds for a thin edge; a rough lip of stone gives less.",
    ),
    FlowMethod(
        "turnover",
        "turnover of the pond",
        _by_turnover,
        "Wildlife ponds take a quarter, koi up to twice as much.",
    ),
    FlowMethod("jets", "jets", by_jets),
    STATED,
)
QUESTIONS = (
    temperature("14 °C", "a garden pond in its season", usual=(4, 28)),
    Question(
        key="place",
        label="Pump stands",
        stage="water",
        default="floor",
        choices=tuple(Choice(code, text[0]) for code, text in _PLACES.items()),
        help="Its place decides the family: bare on a pond floor only a caged pump lives.",
    ),
    Question(
        key="largest_solid",
        label="Largest solid that comes",
        stage="water",
        dimension="size",
        low=0.0,
        high=0.05,
        usual=(0.001, 0.03),
        default="6 mm",
        source="leaves and muck through a cage",
    ),
    Question(
        key="weir_width",
        label="Width of the weir",
        stage="flow",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.02,
        high=50.0,
        usual=(0.1, 5.0),
        optional=True,
    ),
    Question(
        key="sheet",
        label="Sheet of water",
        stage="flow",
        default="medium",
        choices=(
            Choice("light", "light: a thin veil"),
            Choice("medium", "medium: a full sheet"),
            Choice("heavy", "heavy: it roars"),
        ),
        shown_when=("weir_width", ()),
    ),
    Question(
        key="lip",
        label="Lip of the weir",
        stage="flow",
        default="sharp",
        choices=(
            Choice("sharp", "thin edge (steel, slate)"),
            Choice("rough", "rough or broad (stone)"),
        ),
        shown_when=("weir_width", ()),
    ),
    Question(
        key="weir_head",
        label="Water over the crest",
        stage="flow",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.001,
        high=1.0,
        usual=(0.005, 0.05),
        optional=True,
        shown_when=("weir_width", ()),
    ),
    Question(
        key="pond_volume",
        label="Pond holds",
        stage="flow",
        dimension="volume",
        metric_unit="m³",
        us_unit="gal",
        low=0.05,
        high=1e5,
        usual=(0.5, 500.0),
        optional=True,
    ),
    Question(
        key="turnover",
        label="Turned over",
        stage="flow",
        dimension="turnover",
        low=0.02 / SECONDS_PER_HOUR,
        high=10 / SECONDS_PER_HOUR,
        usual=(0.2 / SECONDS_PER_HOUR, 2 / SECONDS_PER_HOUR),
        default="1 /h",
        source="rule PND-02",
        default_rule="PND-02",
        shown_when=("pond_volume", ()),
    ),
    stated_flow("Stated flow", (2e-4, 2e-2)),
    flow_from(METHODS, add_up=True),
    margin("1.0 ×", "falls are judged by eye: choose a pump that can be turned down"),
    Question(
        key="measured_from",
        label="Heights are measured from",
        stage="run",
        default="surface",
        choices=(
            Choice("surface", "the pond's surface"),
            Choice("pump", "the pump"),
        ),
        help=(
            "Only the surface counts: the depth of the pump costs nothing (rule PND-07). From the"
            " pump is allowed; the difference is shown in Proof."
        ),
    ),
    Question(
        key="pump_depth",
        label="Pump lies under the surface",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.0,
        high=20.0,
        usual=(0.2, 2.0),
        default="0.6 m",
        source="usual garden pond",
        is_level=True,
    ),
    *JET_QUESTIONS,
    Question(
        "fish",
        "Fish live in it",
        "water",
        default="no",
        choices=YES_NO,
        help="Copper and zinc harm them; nothing that sucks may reach them.",
    ),
    *FROST,
    *SURGE,
    QUICK_VALVE,
    *supply(
        hours="5000 h",
        hours_source="day and night in its season",
        life=(SECONDS_PER_HOUR * 500.0, SECONDS_PER_HOUR * 8784.0),
    ),
)


class Pond(Kind):
    code = "pond"
    label = "pond"
    purpose = "A waterfall, a rill, a fountain or the turnover of a garden pond."
    datum = "where the heights are measured from (the pond's surface, or the pump)"
    questions = QUESTIONS
    lists = (JETS,)
    methods = METHODS
    hint = MissingFact(
        "answers.weir_width",
        "the width of the weir, the pond's volume, jets, or a stated flow",
        "flow",
    )
    quiet = True
    by_the_clock = True
    speeds = Speeds("VEL-15", "keeps the tubing clean and the loss small")
    default_legs = (
        leg(
            "a",
            "tubing",
            "40 mm",
            ("elbow_90_std_threaded", 1),
            ("elbow_45_std", 2),
            ("exit", 1),
            series="pond_tubing_metric",
        ),
    )
    usual_legs = ((8.0, 1.6),)
    sizes = ("fountain", "pond", "skimmer")
    cautions = (
        (
            "Electricity in water where people wade kills: unplug everything in the pond before a"
            " hand goes in; earth-fault protection; a licensed electrician."
        ),
        (
            "A pump that empties the pond through a broken hose kills what lives there: set its"
            " intake well over the bottom."
        ),
        "Open water drowns children: fence, grid or shallow edge as local rules ask.",
        "Winter: a fall that runs in frost builds ice dams and empties the pond over the side.",
        "Local codes and licensed trades come first and override this sizing.",
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        start = facts.si("pump_depth") if facts.choice("measured_from") == "pump" else 0.0
        head = nozzle_head_m(facts, rules)
        if head is None and _feeds_jets(facts):  # their flow alone would size the pump too weak
            raise MissingFact(
                "answers.jet_height",
                "how high the jets rise, or the pressure at the nozzles",
                "run",
            )
        if head is None:
            return Ends(start)
        flow = self.demand(facts, rules, only_taken=True).needed_m3s
        return Ends(start, devices=(Device("nozzles", flow, head),))

    def waters(self, facts: Facts) -> tuple[str, ...]:
        return ("fish",) if facts.choice("fish") == "yes" else ()

    def families(self, facts: Facts) -> tuple[str, ...]:
        return _PLACES[facts.choice("place")][1]

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (
            AtLeast(
                "solids_m",
                facts.si("largest_solid"),
                "size",
                "passes too small a solid",
                "passes only {has}; {wanted} comes",
                "the largest solid it passes",
            ),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        surface, depth = self.ends(facts, rules).start_level_m, facts.si("pump_depth")
        return Place(
            "pond",
            3.0,
            (
                Level("floor", "pond floor", surface - depth - 0.1),
                Level("stop", "surface", surface),
                Level("rim", "edge", surface + 0.1),
            ),
            outlet="fall",
        )

    def situation(self, facts: Facts) -> Situation:
        feeds = "filter" if facts.choice("flow_from") == "turnover" else "fall"
        return Situation(
            "pond", _PLACES[facts.choice("place")][2], feeds, facts.si("largest_solid")
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *pump_checks(running),
            static_check(running),
            *sheet_checks(running),
            *jet_checks(running),
            year_check(running),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return f"pond water, pump {facts.chosen('place')}"


KIND = Pond()
