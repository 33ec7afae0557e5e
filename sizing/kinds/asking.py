"""What several kinds ask alike: the supply, the margin, a stated flow, which way to take.

And the legs they start with.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.base.water import water
from sizing.demand.method import FlowMethod
from sizing.demand.volume import per_head_by_factor
from sizing.document.answers import Choice, Facts, Question
from sizing.document.job import FittingEntry, LegEntry

YES_NO = (Choice("yes", "yes"), Choice("no", "no"))


def temperature(default: str, source: str, *, usual: tuple[float, float] = (4, 25)) -> Question:
    """The water's temperature."""
    return Question(
        key="water_temperature",
        label="Water temperature",
        stage="water",
        dimension="temperature",
        low=0.5,
        high=60.0,
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
        help="A bucket and a watch will do: type 10 l in 24 s.",
        in_doubt=False,
    )


def flow_from(
    methods: Sequence[FlowMethod], default: str = "largest", *, add_up: bool = False
) -> Question:
    """Which way the flow is taken from."""
    first = [Choice("largest", "the largest of these")] + (
        [Choice("sum", "the sum of these")] if add_up else []
    )
    return Question(
        "flow_from",
        "Take the flow from",
        "flow",
        default=default,
        choices=(*first, *(Choice(method.code, method.label) for method in methods)),
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
    )


def supply(
    *,
    voltage: str = "230 V",
    hours: str,
    hours_source: str,
    life: tuple[float, float] = (SECONDS_PER_HOUR, SECONDS_PER_HOUR * 3000.0),
) -> tuple[Question, ...]:
    """The electrical supply and what a year's pumping costs."""
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
) -> LegEntry:
    """A leg as a kind starts with it, its length and end not known yet."""
    entries = tuple(FittingEntry(fitting=fitting, count=count) for fitting, count in fittings)
    return LegEntry(
        id=leg_id, name=name, side=side, series=series, nominal=nominal, fittings=entries
    )


def head_m(facts: Facts, key: str) -> float:
    """A pressure that was answered, as a head of this water [m]."""
    return water(facts.si("water_temperature")).head_m(facts.si(key))
