"""What a pressure sewer asks, and its methods to the flow."""

from __future__ import annotations

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.demand.method import FlowMethod
from sizing.demand.statistical import Group, statistical
from sizing.document.answers import Choice, Facts, Question
from sizing.kinds.common_questions import (
    FROST,
    STATED,
    SURGE,
    by_people,
    flow_from,
    margin,
    sewage_peak,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.pit import COME_QUESTION, SHAPE_QUESTIONS, level_questions
from sizing.kinds.scour import SPEED_QUESTION

_PERCENTILE = 0.99
_TENS = 10.0  # dwellings from which the equation of dwellings suits by its own words


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
        suits=lambda facts: (facts.optional("dwellings") or 0.0) >= _TENS,
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
    sewage_peak(),
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
    Question(
        key="lowest_main_pressure",
        label="Lowest pressure in it",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=2e6,
        usual=(0.0, 3e5),
        optional=True,
        shown_when=("discharge", ("main",)),
        help="While nobody else pumps: there the pump runs furthest right on its curve.",
    ),
    SPEED_QUESTION,
    *SHAPE_QUESTIONS,
    *level_questions(250, 600, "covers the lowest level of most grinder pumps"),
    *FROST,
    *SURGE,
    *supply(hours="300 h", hours_source="a few dwellings"),
    COME_QUESTION,
)


def inflow_of_a_pit_m3s(facts: Facts) -> float | None:
    """The peak of one dwelling's own pit [m3/s]; None while nobody counted the people."""
    people, dwellings = facts.optional("people"), facts.optional("dwellings")
    if not people or not dwellings:
        return None
    daily = people / dwellings * facts.si("volume_per_person")
    return daily * facts.si("peak_factor") / SECONDS_PER_DAY


def pumps_together(facts: Facts) -> float:
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
