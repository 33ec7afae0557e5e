"""A pressure sewer.

Raw sewage of some dwellings through a narrow main, by grinder pumps, over hill and dale.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.message import Measure, Working, message
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running
from sizing.checks.pit import Limits
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.statistical import Group, statistical
from sizing.document.answers import Choice, Facts, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.kinds.asking import (
    STATED,
    by_people,
    flow_from,
    head_m,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
    volume_of_people_m3,
)
from sizing.kinds.base import Place, Situation
from sizing.kinds.pit import COME_QUESTION, LEVEL_QUESTIONS, SHAPE_QUESTIONS, PitKind
from sizing.kinds.scour import raised_to_scour
from sizing.kinds.sewage import valves

_PERCENTILE = 0.99


def _by_dwellings(facts: Facts, rules: Rules) -> Working:
    dwellings, each, base = facts.si("dwellings"), rules.value("PSW-01"), rules.value("PSW-02")
    inputs = (
        ("dwellings N", Measure(dwellings, "count")),
        ("for each A", Measure(each, "flow")),
        ("before any B", Measure(base, "flow")),
    )
    return Working(
        "Flow by dwellings",
        "A N + B",
        inputs,
        Measure(each * dwellings + base, "flow"),
        f"rules PSW-01 and PSW-02, {rules.rule('PSW-01').source}",
    )


def _chance(facts: Facts) -> float:
    """The chance that one pump runs in the peak.

    Its dwelling's day, peaked, over what the pump moves in a day.
    """
    daily = facts.si("people") / facts.si("dwellings") * facts.si("volume_per_person")
    return min(daily * facts.si("peak_factor") / (facts.si("pump_flow") * SECONDS_PER_DAY), 1.0)


def _by_chance(facts: Facts, rules: Rules) -> Working:
    dwellings, flow, chance = facts.si("dwellings"), facts.si("pump_flow"), _chance(facts)
    found = statistical(
        [Group(round(dwellings), chance, flow)], percentile=_PERCENTILE, zero_truncated=True
    )
    inputs = (
        ("pumps", Measure(dwellings, "count")),
        ("chance that one runs in the peak", Measure(chance, "ratio", 1)),
        ("each moves", Measure(flow, "flow")),
        ("run at once", Measure(found.demand_flow_m3s / flow, "count")),
    )
    return Working(
        "Pumps that run at once",
        "99th percentile of the pumps running, given one runs",
        inputs,
        Measure(found.demand_flow_m3s, "flow"),
        "binomial, exact convolution",
    )


METHODS = (
    FlowMethod(
        "dwellings",
        "equation of dwellings",
        _by_dwellings,
        "Made for tens of dwellings: for a handful it asks too much.",
    ),
    FlowMethod(
        "chance",
        "pumps that run at once",
        _by_chance,
        "Holds while the power is on: after a cut all pumps start together.",
    ),
    FlowMethod("people", "people and a peak", by_people),
    STATED,
)
QUESTIONS = (
    temperature("12 °C", "usual sewage in the ground", usual=(5, 25)),
    Question(
        key="largest_solid",
        label="Largest solid after the cutter",
        stage="water",
        dimension="size",
        low=0.0,
        high=0.05,
        usual=(0.0, 0.01),
        default="5 mm",
        source="a grinder's slurry",
    ),
    Question(
        key="arrangement",
        label="Pumps",
        stage="flow",
        default="station",
        choices=(
            Choice("station", "one station for all"),
            Choice("own", "a pump at every dwelling"),
        ),
        help=(
            "With a pump at every dwelling, the first leg is the dwelling's own branch; all others"
            " carry the pumps that run at once."
        ),
    ),
    Question(
        key="dwellings",
        label="Dwellings",
        stage="flow",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=2000.0,
        usual=(1, 300),
        optional=True,
    ),
    Question(
        key="people",
        label="People in all of them",
        stage="flow",
        dimension="people",
        low=1.0,
        high=10000.0,
        usual=(2, 1000),
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
        usual=(0.05, 0.4),
        default="130 l",
        source="usual domestic use",
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
    ),
    Question(
        key="pump_flow",
        label="One pump moves about",
        stage="flow",
        dimension="flow",
        low=1e-5,
        high=0.1,
        usual=(3e-4, 3e-3),
        default="0.7 l/s",
        source="usual small grinder",
        help=(
            "Says how many pumps run at once: frequent short runs overlap more seldom than one"
            " thinks."
        ),
    ),
    stated_flow("Stated peak flow", (3e-4, 1e-2)),
    flow_from(METHODS),
    margin("1.0 ×", "a peak holds its own margin"),
    Question(
        "discharge",
        "It ends in",
        "run",
        default="gravity",
        choices=(
            Choice("gravity", "a gravity sewer or manhole"),
            Choice("main", "a main under pressure"),
        ),
    ),
    Question(
        key="main_pressure",
        label="Pressure in that main",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=2e6,
        usual=(2e4, 6e5),
        shown_when=("discharge", ("main",)),
        help="The highest while others pump.",
    ),
    *SHAPE_QUESTIONS,
    *LEVEL_QUESTIONS,
    *supply(hours="300 h", hours_source="a few dwellings"),
    COME_QUESTION,
)


class PressureSewer(PitKind):
    code = "pressure_sewer"
    dialogs = ("reach",)
    label = "pressure sewer"
    purpose = (
        "Raw sewage of dwellings through a narrow main under pressure, however the ground lies."
    )
    questions = QUESTIONS
    methods = METHODS
    hint = MissingFact(
        "answers.dwellings", "one way to the flow (dwellings, people, or a stated flow)", "flow"
    )
    limits = Limits(starts="CYC-03", run_time="CYC-02", slowest="VEL-07", fastest="VEL-09")
    default_legs = (
        leg(
            "a",
            "riser",
            "50 mm",
            ("check_ball_sewage", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 2),
            series="pe100_sdr11",
        ),
        leg("b", "main", "63 mm", ("elbow_45_std", 2), series="pe100_sdr11"),
    )
    cautions = (
        (
            "A grinder's blades cut with the power on or off: isolate and lock off before any hand"
            " goes near, and use a tool even then."
        ),
        (
            "A sewage pit is a confined space: gas that poisons or explodes stands in it. Nobody"
            " enters or leans in untrained and alone."
        ),
        (
            "Sewage that stands over 8 hours turns septic: it smells, kills and eats concrete where"
            " it comes out. Vent and line the manhole."
        ),
        (
            "Air gathers at every high point: it wants an air valve that is looked after. A main"
            " that runs down behind its summit may siphon."
        ),
        (
            "After a power cut every pump starts at once: pumps far out may wait at shut-off until"
            " the near ones are done."
        ),
        (
            "Public sewers need a design, a permit and licensed trades; local codes come first and"
            " override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        together = _together(facts)
        raised = raised_to_scour(demand, facts.legs, rules)
        if together == 1:
            return raised
        inputs = (
            ("flow in the main", Measure(raised.needed_m3s, "flow")),
            ("pumps that run at once", Measure(together, "count")),
        )
        working = Working(
            "Flow needed of each pump",
            "flow in the main / pumps that run at once",
            inputs,
            Measure(raised.needed_m3s / together, "flow"),
            raised.working.source,
        )
        return replace(
            raised,
            needed_m3s=raised.needed_m3s / together,
            inflow_m3s=raised.inflow_m3s / together,
            working=working,
        )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        pressure = head_m(facts, "main_pressure") if facts.choice("discharge") == "main" else 0.0
        return replace(
            super().ends(facts, rules),
            delivery_head_m=pressure,
            share_of_common_legs=_together(facts),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        return replace(
            super().place(facts, rules),
            outlet="main" if facts.choice("discharge") == "main" else "open",
        )

    def daily_volume_m3(self, facts: Facts) -> float | None:
        return volume_of_people_m3(facts)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("grinder",)

    def situation(self, facts: Facts) -> Situation:
        return Situation("sewage", "pit", "main", facts.si("largest_solid"))

    def checks(self, running: Running) -> Sequence[Check]:
        return [*super().checks(running), _retention(running), valves(running), _summit(running)]

    def stage_summary(self, facts: Facts) -> str:
        return "raw sewage, ground up"


def _together(facts: Facts) -> float:
    """Pumps that push into the common legs at once.

    One station, or what chance makes of a pump at every dwelling.
    """
    if facts.choice("arrangement") == "station":
        return 1.0
    found = statistical(
        [Group(round(facts.si("dwellings")), _chance(facts), 1.0)],
        percentile=_PERCENTILE,
        zero_truncated=True,
    )
    return float(round(max(found.demand_flow_m3s, 1.0)))


def _retention(running: Running) -> Check:
    """How long the sewage stands in the pipe: the rules RET-01 to RET-03."""
    facts, label = running.facts, "Standing time"
    daily = KIND.daily_volume_m3(facts)
    if daily is None:
        return Check(
            "standing",
            label,
            "watch",
            message("How long it stands in the pipe is not known: give the people."),
            "Give the people: the day's flow follows.",
        )
    volume = sum(leg.volume_m3 for leg in running.system.route.legs)
    stands = volume / daily * SECONDS_PER_DAY
    fine, most = running.rules.high("RET-01"), running.rules.high("RET-02")
    text = message(
        "It stands {stands} in the pipe on an average day; under {fine} is fine, over {most} it"
        " turns septic (rules RET-01 to RET-03).",
        stands=Measure(stands, "time"),
        fine=Measure(fine, "time"),
        most=Measure(most, "time"),
    )
    inputs = (("pipe holds", Measure(volume, "volume")), ("sewage a day", Measure(daily, "volume")))
    working = Working(
        "Standing time", "pipe volume / daily volume", inputs, Measure(stands, "time"), "continuity"
    )
    remedy = (
        "Take a narrower main as far as the head allows, flush it by a timer at night, dose against"
        " sulphide, or vent and line the end."
    )
    return Check(
        code="standing",
        label=label,
        state="hold" if stands <= fine else "watch" if stands <= most else "fail",
        message=text,
        remedy=remedy,
        working=working,
    )


def _summit(running: Running) -> Check:
    """Whether the end or a summit on the way governs the head."""
    route, governing = running.system.route, running.ledger.governing_leg
    inside = running.ledger.governing_share < 1
    if governing == len(route.legs) - 1 and not inside:
        return Check(
            "summit",
            "Highest ground",
            "hold",
            message("The end of the main governs the head: no summit before it does."),
        )
    name = running.legs[governing].name or f"leg {governing + 1}"
    text = message(
        "The {where} of the {name} governs the head; behind it the sewage runs down by itself.",
        where="highest ground" if inside else "summit at the end",
        name=name,
    )
    return Check(
        "summit",
        "Highest ground",
        "watch",
        text,
        "Set an air valve there and look after it; keep the pipe full behind it, or it smells where"
        " it comes out.",
    )


KIND = PressureSewer()
