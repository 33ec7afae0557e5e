"""What a well asks, and its methods to the flow."""

from __future__ import annotations

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.demand.method import FlowMethod
from sizing.demand.volume import fill_m3s
from sizing.document.answers import Choice, Facts, List, MissingFact, Question
from sizing.document.job import ListRow
from sizing.kinds.borehole import CABLE_QUESTIONS, SITE_QUESTIONS, WATER_QUESTIONS
from sizing.kinds.common_questions import (
    FROST,
    QUICK_VALVE,
    STATED,
    SURGE,
    flow_from,
    margin,
    stated_flow,
    supply,
    water_per_person,
)

_BATHS = (
    Choice("none", "not counted"),
    Choice("WEL-02", "one"),
    Choice("WEL-03", "one and a half"),
    Choice("WEL-04", "two to two and a half"),
    Choice("WEL-05", "three to four"),
)
_ANIMALS = (
    ("milking_cow", "milking cows"),
    ("dry_or_beef_cow", "dry or beef cows"),
    ("horse", "horses"),
    ("pig", "pigs"),
    ("sheep_or_goat", "sheep or goats"),
    ("100_chickens", "hundreds of chickens"),
    ("100_turkeys", "hundreds of turkeys"),
    ("dog", "dogs"),
)


def _by_outlets(facts: Facts, rules: Rules) -> Working:
    outlets, each = facts.si("outlets"), rules.value("WEL-01")
    inputs = (("outlets", Measure(outlets, "count")), ("for each", Measure(each, "flow")))
    return Working(
        "Outlets of the house",
        "outlets × flow for each",
        inputs,
        Measure(outlets * each, "flow"),
        f"rule WEL-01, {rules.rule('WEL-01').source}",
    )


def _by_baths(facts: Facts, rules: Rules) -> Working:
    code = facts.choice("baths")
    if code == "none":
        raise MissingFact("answers.baths", "how many bathrooms", "flow")
    flow = Measure(rules.value(code), "flow")
    return Working(
        "Bathrooms of the house",
        "peak of seven minutes by the table",
        (("bathrooms", facts.chosen("baths")),),
        flow,
        f"rule {code}",
    )


def daily_volume_m3(facts: Facts, rules: Rules) -> float:
    """What people, animals and the garden take in a day [m3]; zero when none is named."""
    people = facts.optional("people")
    volume = people * facts.si("volume_per_person") if people else 0.0
    for row in facts.rows("stock"):
        count = row.optional("count")
        volume += (
            count * rules.value(f"WEL-A-{row.choice('animal')}") * SECONDS_PER_DAY if count else 0.0
        )
    return volume + (facts.optional("garden") or 0.0)


def _by_day(facts: Facts, rules: Rules) -> Working:
    volume, time = daily_volume_m3(facts, rules), facts.si("pumping_time")
    if not volume:
        raise MissingFact("answers.people", "people, animals or a garden's daily water", "flow")
    inputs = (
        ("people, animals, garden a day", Measure(volume, "volume")),
        ("drawn within", Measure(time, "time")),
    )
    return Working(
        "The day's water",
        "day's volume / the time it is drawn in",
        inputs,
        Measure(fill_m3s(volume, time), "flow"),
        "rules WEL-06, WEL-07, WEL-A",
    )


def _by_spray(facts: Facts, rules: Rules) -> Working:
    flow = Measure(facts.si("spray_flow"), "flow")
    return Working(
        "Sprinklers", "as they run together", (("flow", flow),), flow, "the sprinklers' own figures"
    )


PRESSURE, OPEN = ("fills", ("pressure",)), ("fills", ("open",))
METHODS = (
    FlowMethod("outlets", "outlets of the house", _by_outlets, "Overstates for a large house."),
    FlowMethod("baths", "bathrooms", _by_baths, "Low-flow fixtures take less, large tubs more."),
    FlowMethod(
        "day",
        "the day's water",
        _by_day,
        "Says what the well must give, not what a morning's peak takes.",
    ),
    FlowMethod("spray", "sprinklers together", _by_spray),
    STATED,
)
QUESTIONS = (
    *WATER_QUESTIONS,
    Question(
        key="outlets",
        label="Outlets in the house",
        stage="flow",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=500.0,
        usual=(4, 30),
        optional=True,
        help="Taps, showers, cisterns, machines.",
    ),
    Question("baths", "Bathrooms", "flow", default="none", choices=_BATHS),
    Question(
        key="people",
        label="People",
        stage="flow",
        dimension="people",
        low=1.0,
        high=5000.0,
        usual=(1, 50),
        optional=True,
    ),
    water_per_person(),
    Question(
        key="garden",
        label="Garden takes a day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.001,
        high=2000.0,
        usual=(0.2, 50.0),
        optional=True,
    ),
    Question(
        key="pumping_time",
        label="The day's water is drawn in",
        stage="flow",
        dimension="time",
        metric_unit="h",
        us_unit="h",
        low=600.0,
        high=SECONDS_PER_DAY,
        usual=(SECONDS_PER_HOUR, 43200),
        default="2 h",
        source="house and animals drink in few hours",
    ),
    Question(
        key="spray_flow",
        label="Sprinklers that run together take",
        stage="flow",
        dimension="flow",
        low=1e-6,
        high=1.0,
        usual=(1e-4, 5e-3),
        optional=True,
    ),
    stated_flow("Stated peak flow", (2e-4, 3e-3)),
    flow_from(METHODS, add_up=True),
    Question(
        key="fills",
        label="The well pump fills",
        stage="flow",
        default="pressure",
        choices=(
            Choice("pressure", "a pressure tank"),
            Choice("open", "an open storage tank; a booster follows"),
        ),
        help="An open tank lets a weak well fill by and by what is drawn at once.",
    ),
    Question(
        key="refill_time",
        label="It may run a day",
        stage="flow",
        dimension="time",
        metric_unit="h",
        us_unit="h",
        low=SECONDS_PER_HOUR,
        high=SECONDS_PER_DAY,
        usual=(14400, 72000),
        default="12 h",
        source="half the day: the well comes back in the other half",
        shown_when=OPEN,
    ),
    margin("1.0 ×", "peaks by table hold their own margin"),
    Question(
        key="peak_time",
        label="The peak lasts",
        stage="flow",
        dimension="time",
        metric_unit="min",
        us_unit="min",
        low=60.0,
        high=SECONDS_PER_DAY,
        usual=(300, 14400),
        default="30 min",
        source="a household's morning",
        help="Sizes storage where the well gives less than the peak.",
    ),
    *SITE_QUESTIONS[1:3],
    SITE_QUESTIONS[0],
    *SITE_QUESTIONS[3:],
    Question(
        key="cut_in",
        label="Pump starts at",
        stage="run",
        dimension="pressure",
        low=5e4,
        high=1.5e6,
        usual=(1.3e5, 4e5),
        default="2.1 bar",
        source="rule TNK-03: 30 psi (2.1 bar)",
        default_rule="TNK-03",
        in_doubt=False,
        shown_when=PRESSURE,
    ),
    Question(
        key="cut_out",
        label="Pump stops at",
        stage="run",
        dimension="pressure",
        low=7e4,
        high=2e6,
        usual=(2.5e5, 6e5),
        default="3.5 bar",
        source="rule TNK-03: 50 psi (3.5 bar)",
        help="Head is reckoned to this pressure: a pump that cannot reach it never stops.",
        default_rule="TNK-03+TNK-02",
        in_doubt=False,
        shown_when=PRESSURE,
    ),
    Question(
        key="tank_volume",
        label="Pressure tank holds",
        stage="proof",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.001,
        high=20.0,
        usual=(0.02, 1.0),
        default="200 l",
        source="usual house tank",
        shown_when=PRESSURE,
    ),
    Question(
        key="precharge",
        label="Its air, empty, is at",
        stage="proof",
        dimension="pressure",
        low=1e4,
        high=1.9e6,
        usual=(1e5, 4e5),
        optional=True,
        help="Left away: rule TNK-01 under the cut-in.",
        shown_when=PRESSURE,
    ),
    Question(
        key="highest_outlet",
        label="Highest outlet",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-100.0,
        high=300.0,
        usual=(0, 30),
        optional=True,
        help="Over the ground at the well. Its pressure is least just before the pump starts.",
        is_level=True,
        shown_when=PRESSURE,
    ),
    Question(
        key="storage_volume",
        label="Storage tank holds",
        stage="proof",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.05,
        high=5000.0,
        usual=(0.5, 50.0),
        optional=True,
        shown_when=OPEN,
        help="Between its floats. Left away: Proof says what it takes.",
    ),
    *CABLE_QUESTIONS,
    Question(
        "well_water",
        "Its water is",
        "water",
        default="usual",
        choices=(
            Choice("usual", "as usual"),
            Choice("acid", "acid (pH under 6.5)"),
            Choice("brackish", "brackish"),
        ),
        help="By an analysis: it decides what the pump may be made of.",
    ),
    *FROST,
    *SURGE,
    QUICK_VALVE,
    *supply(hours="700 h", hours_source="a house and a garden"),
)
STOCK = List(
    key="stock",
    label="Animals",
    stage="flow",
    columns=(
        Question(
            "animal",
            "Animal",
            "flow",
            default="milking_cow",
            choices=tuple(Choice(*one) for one in _ANIMALS),
        ),
        Question(
            key="count",
            label="How many",
            stage="flow",
            dimension="count",
            metric_unit="×",
            us_unit="×",
            low=0.1,
            high=1e5,
            usual=(1, 2000),
        ),
    ),
    first=(ListRow(id="r1"),),
    help="Each kind with its own water a day (rules WEL-A).",
)
