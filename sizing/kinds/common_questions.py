"""What several kinds ask alike: the supply, the margin, a stated flow, which way to take.

And the legs they start with.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.base.water import Water, water
from sizing.demand.day_pattern import PATTERNS
from sizing.demand.method import FlowMethod
from sizing.demand.volume import per_head_by_factor
from sizing.document.answers import Choice, Facts, Question
from sizing.document.job import FittingEntry, LegEntry
from sizing.kinds.demands import QUESTIONS as DEMANDS

YES_NO = (Choice("yes", "yes"), Choice("no", "no"))


def temperature(
    default: str,
    source: str,
    *,
    usual: tuple[float, float] = (4, 25),
    hottest: float = 60.0,
) -> Question:
    """The water's temperature, up to the hottest that the kind allows [degC]."""
    return Question(
        key="water_temperature",
        label="Water temperature",
        stage="water",
        dimension="temperature",
        low=0.5,
        high=hottest,
        usual=usual,
        default=default,
        source=source,
    )


def stated_flow(label: str, usual: tuple[float, float]) -> Question:
    """A flow that somebody states, or has timed with a bucket."""
    return Question(
        key="stated_flow",
        label=label,
        stage="flow",
        dimension="flow",
        low=1e-6,
        high=1.0,
        usual=usual,
        optional=True,
        help="A bucket and a watch will do: 10 l (2.5 gal) in 24 s, say.",
        in_doubt=False,
    )


def flow_from(
    methods: Sequence[FlowMethod],
    default: str = "largest",
    *,
    add_up: bool = False,
    first_choice: Choice | None = None,
) -> Question:
    """Which way the flow is taken from; ``first_choice`` goes before all others."""
    first = (
        ([first_choice] if first_choice else [])
        + [Choice("largest", "the largest of these")]
        + ([Choice("sum", "the sum of these")] if add_up else [])
    )
    return Question(
        "flow_from",
        "Take the flow from",
        "flow",
        default=default,
        choices=(*first, *(Choice(method.code, method.label) for method in methods)),
    )


ALTITUDE = Question(
    key="altitude",
    label="Height over the sea",
    stage="run",
    dimension="length",
    metric_unit="m",
    us_unit="ft",
    low=-400.0,
    high=6000.0,
    usual=(0, 2500),
    default="300 m",
    source="air is thinner higher up: suction and motors that air cools suffer",
)
FROST = tuple(
    Question(
        key=key,
        label=label,
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.0,
        high=5.0,
        usual=(0.0, 2.0),
        optional=True,
        help=help_,
        is_level=True,
        in_doubt=False,
        group="Frost",
    )
    for key, label, help_ in (
        ("frost_depth", "Depth of frost", "By the local code. Left blank: not looked at."),
        ("pipe_cover", "Cover over the pipe", "Where it is shallowest."),
    )
)
SURGE = (
    Question(
        key="air_valves",
        label="Air valves",
        stage="run",
        default="none",
        choices=(Choice("none", "none"), Choice("summits", "at every high point")),
        group="Surge",
    ),
    Question(
        key="vessel_air",
        label="Air in a surge vessel",
        stage="run",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=1e-3,
        high=100.0,
        usual=(0.01, 5.0),
        optional=True,
        help="Behind the pump's check valve, as the pump runs. Left blank: no vessel.",
        in_doubt=False,
        group="Surge",
    ),
)
QUICK_VALVE = Question(
    key="valve_closes",
    label="Fastest valve closes in",
    stage="run",
    dimension="time",
    metric_unit="s",
    us_unit="s",
    low=0.0,
    high=600.0,
    usual=(0.5, 60.0),
    optional=True,
    help="A valve at the far end that stops the whole flow. Left blank: none does.",
    in_doubt=False,
    group="Surge",
)
USE_OF_DAY = "use_of_day"


def use_of_day(label: str) -> Question:
    """Whose hours the day's water keeps: the hour that is busiest follows."""
    return Question(
        USE_OF_DAY,
        label,
        "flow",
        default=PATTERNS[0].code,
        choices=tuple(Choice(one.code, one.label) for one in PATTERNS),
        help="Spreads the day over its hours, for starts, a failed pump and power cuts.",
    )


def water_per_person() -> Question:
    """Drinking water of a person and day, where people are counted."""
    return Question(
        key="volume_per_person",
        label="Water a person and day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.01,
        high=1.0,
        usual=(0.08, 0.4),
        default="125 l",
        source="rule WEL-07; US practice by WEL-06: 284 l (75 gal)",
        shown_when=("people", ()),
        default_rule="WEL-07",
        rule_factor=SECONDS_PER_DAY,
    )


def sewage_peak(shown_when: tuple[str, tuple[str, ...]] | None = None) -> Question:
    """How far the peak of a few dwellings' sewage stands over the day's mean."""
    return Question(
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
        shown_when=shown_when,
    )


def margin(
    default: str, source: str, high: float = 3.0, *, rule: str = "", usual_rule: str = ""
) -> Question:
    """The one margin of the sizing; by a house rule where one is named."""
    return Question(
        key="margin",
        label="Margin on the flow",
        stage="flow",
        dimension="ratio",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=high,
        usual=(1.0, 2.0),
        default=default,
        source=source,
        help="Added here, once, and nowhere else.",
        default_rule=rule,
        usual_rule=usual_rule,
        in_doubt=False,
        designed=True,
    )


_MAINS = Question(
    key="supply_frequency",
    label="Mains frequency",
    stage="pump",
    dimension="mains",
    low=45.0,
    high=65.0,
    usual=(49.0, 61.0),
    default="50 Hz",
    source="rule ELE-12",
    default_rule="ELE-12",
    help="A motor for 50 Hz on 60 Hz mains turns a fifth faster and takes more load.",
    in_doubt=False,
)


_ROUGH = Question(
    key="rough_head",
    label="Or a rough head instead of a run",
    stage="run",
    dimension="length",
    metric_unit="m",
    us_unit="ft",
    low=0.1,
    high=500.0,
    optional=True,
    help="While no pipe has a length: pumps are then named roughly, and nothing is proved.",
    in_doubt=False,
)


def supply(
    *,
    voltage: str = "230 V",
    mains: bool = True,
    rough: bool = True,
    hours: str,
    hours_source: str,
    life: tuple[float, float] = (SECONDS_PER_HOUR, SECONDS_PER_HOUR * 3000.0),
) -> tuple[Question, ...]:
    """The electrical supply, what a year's pumping costs, and what is asked beside on any kind.

    ``mains``: alternating current; ``rough``: a head may be told instead of a run.
    """
    return (
        Question(
            key="voltage",
            label="Supply voltage",
            stage="pump",
            dimension="voltage",
            low=6.0,
            high=690.0,
            usual=(12, 415),
            default=voltage,
            source="usual supply",
        ),
        Question(
            "phases",
            "Phases",
            "pump",
            default="1",
            choices=(Choice("1", "single-phase or direct current"), Choice("3", "three-phase")),
        ),
        *((_MAINS,) if mains else ()),
        Question(
            key="hours_per_year",
            label="Pumping a year",
            stage="pump",
            dimension="time",
            metric_unit="h",
            us_unit="h",
            low=0.0,
            high=8784 * SECONDS_PER_HOUR,
            usual=life,
            default=hours,
            source=hours_source,
            help="At the needed flow; for the cost only.",
            in_doubt=False,
        ),
        Question(
            key="energy_price",
            label="Price of a kWh",
            stage="pump",
            dimension="price",
            low=0.0,
            high=10.0,
            default="0.30 /kWh",
            source="household tariff",
        ),
        *DEMANDS,
        *((_ROUGH,) if rough else ()),
    )


def as_stated(facts: Facts, rules: Rules) -> Working:
    """The stated flow as a way."""
    flow = Measure(facts.si("stated_flow"), "flow")
    return Working(
        "Stated flow",
        "as stated",
        (("flow", flow),),
        flow,
        "the customer, a drawing or a timed bucket",
    )


def by_people(facts: Facts, rules: Rules) -> Working:
    """People, what each takes or sends down in a day, and a peak over the day's mean."""
    people, volume, factor = (
        facts.si("people"),
        facts.si("volume_per_person"),
        facts.si("peak_factor"),
    )
    found = per_head_by_factor(people, volume, factor)
    inputs = (
        ("people", Measure(people, "people")),
        ("a person and day", Measure(volume, "volume")),
        ("peak factor", Measure(factor, "factor")),
    )
    source = "daily flow with a peaking factor"
    return Working(
        "People and a peak",
        "people × volume / day × peak factor",
        inputs,
        Measure(found.peak_flow_m3s, "flow"),
        source,
    )


def volume_of_people_m3(facts: Facts) -> float | None:
    """What the people send down in a day [m3]; None while nobody counted them."""
    people = facts.optional("people")
    return None if people is None else people * facts.si("volume_per_person")


STATED = FlowMethod("stated", "stated flow", as_stated)


def leg(
    leg_id: str,
    name: str,
    nominal: str,
    *fittings: tuple[str, int],
    series: str = "pvcu_pn10",
    side: Literal["suction", "delivery"] = "delivery",
    wall: str = "",
) -> LegEntry:
    """A leg as a kind starts with it, its length and end not known yet."""
    entries = tuple(FittingEntry(fitting=fitting, count=count) for fitting, count in fittings)
    return LegEntry(
        id=leg_id, name=name, side=side, series=series, nominal=nominal, fittings=entries, wall=wall
    )


SEA_DENSITY = 1.025  # of sea water over fresh water of the same temperature


def liquid_of(facts: Facts) -> Water:
    """The water of a job: by its temperature, and denser where it is the sea's."""
    found = water(facts.si("water_temperature"))
    if facts.asks("liquid") and facts.choice("liquid") == "sea":
        return replace(found, density_kg_m3=found.density_kg_m3 * SEA_DENSITY)
    return found


def head_m(facts: Facts, key: str) -> float:
    """A pressure that was answered, as a head of this water [m]."""
    return liquid_of(facts).head_m(facts.si(key))
