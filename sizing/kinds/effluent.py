"""Effluent.

Settled or filtered wastewater, dosed out of a tank to a bed, a drip field or a higher tank.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running, Site
from sizing.checks.effluent import dose_against_line, dose_by_floats, holes_check
from sizing.checks.pit import PitRules
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.openings import Orifice, orifices_m3s, rated_outlet_m3s
from sizing.demand.volume import fill_m3s
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.hydraulics.device import Device
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
    use_of_day,
)
from sizing.kinds.pit import COME_QUESTION, SHAPE_QUESTIONS, PitKind, level_questions, pit_plan

_ORIFICE_COEFFICIENT = 0.6  # sharp-edged drilled hole; house rule EFF-01


def _by_network(facts: Facts, rules: Rules) -> Working:
    """Outlets that run together, each giving what its head lets through.

    Drilled holes, or emitters and heads by their rating.
    """
    count, head = facts.si("orifices"), facts.si("distal_head")
    if facts.choice("outlet_type") == "rated":
        rated, at = facts.si("outlet_flow"), facts.si("outlet_head")
        flow = round(count) * rated_outlet_m3s(rated, at, head)
        inputs = (
            ("outlets n", f"{round(count)}"),
            ("rated flow q", Measure(rated, "flow")),
            ("at a head hr", Measure(at, "length")),
            ("head h", Measure(head, "length")),
        )
        return Working(
            "Outlets of a network",
            "n q √(h / hr)",
            inputs,
            Measure(flow, "flow"),
            "the maker's rating; turbulent outlets, not pressure-compensating ones",
        )
    diameter = facts.si("orifice_diameter")
    flow = orifices_m3s([Orifice(round(count), diameter, head, _ORIFICE_COEFFICIENT)])
    holes = (
        ("outlets n", f"{round(count)}"),
        ("bore d", Measure(diameter, "bore")),
        ("head h", Measure(head, "length")),
        ("coefficient C", "0.60"),
    )
    return Working(
        "Outlets of a network",
        "n C π/4 d² √(2 g h)",
        holes,
        Measure(flow, "flow"),
        "rule EFF-01; all outlets at the same head",
    )


def _by_dose(facts: Facts, rules: Rules) -> Working:
    volume, time = facts.si("daily_volume") / facts.si("doses"), facts.si("dose_time")
    inputs = (("dose = day / doses", Measure(volume, "volume")), ("time", Measure(time, "time")))
    return Working(
        "Dose and its time",
        "dose / time",
        inputs,
        Measure(fill_m3s(volume, time), "flow"),
        "continuity; rule EFF-07",
    )


def _filter_loss(facts: Facts) -> tuple[Device, ...]:
    loss = facts.optional("filter_loss")
    return (Device("filter", facts.si("filter_flow"), loss),) if loss else ()


METHODS = (
    FlowMethod("network", "outlets", _by_network),
    FlowMethod("dose", "dose and its time", _by_dose),
    STATED,
)
QUESTIONS = (
    Question(
        key="liquid",
        label="Effluent",
        stage="water",
        default="settled",
        choices=(Choice("settled", "settled only"), Choice("filtered", "settled and filtered")),
        help=(
            "A multistage pump is taken only behind a filter: anything unfiltered wears or blocks"
            " its stages."
        ),
    ),
    temperature("12 °C", "usual septic effluent"),
    Question(
        key="largest_solid",
        label="Largest solid",
        stage="water",
        dimension="size",
        low=0.0,
        high=0.05,
        usual=(0.001, 0.02),
        default="3 mm",
        source="behind a common outlet filter",
    ),
    Question(
        key="daily_volume",
        label="Effluent a day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.01,
        high=1000.0,
        usual=(0.3, 30.0),
    ),
    use_of_day("It comes from"),
    Question(
        key="doses",
        label="Doses a day",
        stage="flow",
        dimension="ratio",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=96.0,
        usual=(2, 24),
        default="8 ×",
        source="rule EFF-07: 4 to 24",
        default_rule="EFF-07",
    ),
    Question(
        key="dose_time",
        label="A dose takes",
        stage="flow",
        dimension="time",
        metric_unit="min",
        us_unit="min",
        low=20.0,
        high=7200.0,
        usual=(120, 1800),
        optional=True,
    ),
    Question(
        key="orifices",
        label="Orifices, emitters, sprays",
        stage="flow",
        dimension="ratio",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=20000.0,
        usual=(10, 1000),
        optional=True,
        help="Drilled holes or emitters that run together.",
    ),
    Question(
        key="outlet_type",
        label="They are",
        stage="flow",
        default="holes",
        choices=(
            Choice("holes", "drilled holes"),
            Choice("rated", "emitters or heads with a rating"),
        ),
        shown_when=("orifices", ()),
    ),
    Question(
        key="outlet_flow",
        label="One is rated",
        stage="flow",
        dimension="flow",
        low=1e-8,
        high=0.01,
        usual=(3e-7, 3e-4),
        shown_when=("outlet_type", ("rated",)),
    ),
    Question(
        key="outlet_head",
        label="at a head of",
        stage="flow",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.05,
        high=100.0,
        usual=(5.0, 30.0),
        shown_when=("outlet_type", ("rated",)),
        help=(
            "10 m for each bar. A pressure-compensating emitter gives its rating at any head: state"
            " the flow instead."
        ),
        is_level=True,
    ),
    Question(
        key="orifice_diameter",
        label="Bore of each",
        stage="flow",
        dimension="size",
        low=0.0005,
        high=0.05,
        usual=(0.002, 0.013),
        default="3.2 mm",
        source="usual bore: 3.2 mm (1/8 in)",
        shown_when=("outlet_type", ("holes",)),
    ),
    Question(
        key="distal_head",
        label="Head wanted at the outlets",
        stage="flow",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.0,
        high=60.0,
        usual=(0.5, 5.0),
        default="0.76 m",
        source=(
            "rule EFF-02: 2.5 ft (0.76 m); EFF-03: 5 ft (1.5 m) for holes under 3/16 in (4.8 mm)"
        ),
        help="Over the level at which the run ends. Zero for a free outlet.",
        default_rule="EFF-02",
        in_doubt=False,
    ),
    stated_flow("Stated flow", (1e-4, 5e-3)),
    Question(
        key="filter_loss",
        label="Loss of the filter",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.0,
        high=30.0,
        usual=(0.0, 5.0),
        optional=True,
        help=(
            "Of a filter behind the pump, at the flow beside it; a dirty one loses two or three"
            " times as much."
        ),
    ),
    Question(
        key="filter_flow",
        label="at a flow of",
        stage="run",
        dimension="flow",
        low=1e-6,
        high=1.0,
        usual=(1e-4, 5e-3),
        shown_when=("filter_loss", ()),
    ),
    flow_from(METHODS),
    margin("1.0 ×", "outlets take what their head gives them"),
    *SHAPE_QUESTIONS,
    *level_questions(150, 400, "covers the lowest level of most effluent pumps"),
    *FROST,
    *SURGE,
    *supply(hours="200 h", hours_source="a household's bed"),
    COME_QUESTION,
)


class Effluent(PitKind):
    code = "effluent"
    dialogs = ("reach",)
    scour_rule = "VEL-11"
    liquid_wall = "effluent"
    label = "effluent"
    purpose = "Settled or filtered effluent, dosed to a bed, a drip field or a higher tank."
    datum = "the bottom of the dosing tank"
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact(
        "answers.orifices",
        "one way to the flow (outlets, a dose and its time, or a stated flow)",
        "flow",
    )
    pit_rules = PitRules(starts="CYC-03", run_time="CYC-02")
    speeds = Speeds("VEL-09", "keeps solids moving and the loss small", "VEL-11")
    default_legs = (
        leg(
            "a",
            "riser",
            "40 mm",
            ("ball_valve_full", 1),
            ("union", 1),
            ("elbow_90_glued", 1),
            wall="effluent",
        ),
        leg("b", "line to the bed", "40 mm", ("elbow_90_glued", 2), wall="effluent"),
    )
    usual_legs = ((2.2, 2.0), (60.0, 8.0))
    sizes = ("effluent", "multistage_effluent")
    cautions = (
        (
            "A dosing tank is a confined space: gas that poisons or explodes stands in it. Nobody"
            " enters or leans in untrained and alone."
        ),
        (
            "Effluent carries disease: gloves, wash and disinfect; keep people and animals off a"
            " bed that sprays."
        ),
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "A line that can freeze must drain back or lie below frost; then every dose refills it,"
            " and the dose must be larger by that."
        ),
        (
            "Onsite wastewater needs a design and a permit in most places; local codes come first"
            " and override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        # What flows into the tank is the day's effluent; the pump's flow is set by the bed.
        return replace(demand, inflow_m3s=facts.si("daily_volume") / SECONDS_PER_DAY)

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        return replace(
            super().ends(facts, rules),
            delivery_head_m=facts.si("distal_head"),
            devices=_filter_loss(facts),
        )

    def daily_volume_m3(self, facts: Facts) -> float | None:
        return facts.optional("daily_volume")

    def outlets_hold(self, facts: Facts) -> bool:
        """Emitters and spray heads with a rating do; drilled holes give more the more they get."""
        rated = facts.choice("outlet_type") == "rated" and facts.optional("orifices") is not None
        return rated and facts.choice("flow_from") in ("largest", "network")

    def families(self, facts: Facts) -> tuple[str, ...]:
        return (
            ("effluent", "multistage_effluent")
            if facts.choice("liquid") == "filtered"
            else ("effluent",)
        )

    def situation(self, facts: Facts) -> Situation:
        liquid = "filtered" if facts.choice("liquid") == "filtered" else "settled"
        return Situation(
            liquid,
            "tank",
            "spray" if liquid == "filtered" else "gravity",
            facts.si("largest_solid"),
        )

    def site_checks(self, site: Site) -> Sequence[Check]:
        area_m2 = pit_plan(site.facts).area_m2
        return [*super().site_checks(site), *holes_check(site), *dose_by_floats(site, area_m2)]

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *super().checks(running),
            dose_against_line(running, pit_plan(running.facts).area_m2),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return "filtered effluent" if facts.choice("liquid") == "filtered" else "settled effluent"


KIND = Effluent()
