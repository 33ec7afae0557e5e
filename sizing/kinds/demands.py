"""What a customer may demand of a pump beside its duty: optional, on any kind of job.

Each is a requirement with its own reason; what a maker does not state is asked for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sizing.base.message import Message, message
from sizing.base.noise import at_distance_db, together_db
from sizing.base.rounding import at_most
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.document.answers import Choice, Facts, Question
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.conductors import DIRECT_TO_V
from sizing.selection.requirement import AtLeast, AtMost, FamilyIn, Requirement, Truths

GROUP = "The customer demands"
_SECONDS_PER_YEAR = 365.25 * SECONDS_PER_DAY
_UNDER_WATER = [
    "sump",
    "effluent",
    "sewage",
    "grinder",
    "multistage_effluent",
    "well",
    "pond",
    "skimmer",
    "fountain",
    "circulation",
    "solar",
    "aquarium",
    "filter",
]
_DRY = ["jet", "booster", "transfer", "spa", "diaphragm", "aquarium", "filter", "circulation"]


def _figure(
    key: str, label: str, dimension: str, low: float, high: float, help_: str = ""
) -> Question:
    return Question(
        key=key,
        label=label,
        stage="pump",
        dimension=dimension,
        low=low,
        high=high,
        optional=True,
        help=help_,
        in_doubt=False,
        group=GROUP,
    )


QUESTIONS = (
    Question(
        key="warranty_least",
        label="Warranty of at least",
        stage="pump",
        dimension="time",
        metric_unit="years",
        us_unit="years",
        low=0.0,
        high=30 * _SECONDS_PER_YEAR,
        optional=True,
        in_doubt=False,
        group=GROUP,
    ),
    _figure("noise_most", "Noise at most", "sound", 0.0, 120.0, "All pumps that run together."),
    Question(
        key="noise_at",
        label="heard from",
        stage="pump",
        dimension="length",
        low=1.0,
        high=100.0,
        default="1 m",
        source="where makers measure",
        shown_when=("noise_most", ()),
        help="Falls by 6 dB each time the distance doubles, in the open; in a room by less.",
        in_doubt=False,
        group=GROUP,
    ),
    _figure("room_width", "Room for its width", "size", 0.02, 5.0, "Of a chamber or a hatch."),
    _figure("room_length", "Room for its length", "size", 0.02, 5.0),
    _figure("room_height", "Room for its height", "size", 0.02, 10.0),
    Question(
        "room_rails",
        "It slides on rails",
        "pump",
        default="no",
        choices=(Choice("no", "no"), Choice("yes", "yes: they take room")),
        group=GROUP,
    ),
    Question(
        "current_kind",
        "Current",
        "pump",
        default="any",
        choices=(
            Choice("any", "either"),
            Choice("ac", "alternating (mains)"),
            Choice("dc", "direct (battery, panels)"),
        ),
        group=GROUP,
    ),
    Question(
        "stands",
        "It stands",
        "pump",
        default="any",
        choices=(
            Choice("any", "either way"),
            Choice("wet", "under water"),
            Choice("dry", "dry beside it"),
        ),
        group=GROUP,
    ),
    Question(
        key="lead_most",
        label="There within",
        stage="pump",
        dimension="time",
        metric_unit="day",
        us_unit="day",
        low=0.0,
        high=400 * SECONDS_PER_DAY,
        optional=True,
        help="What lies on the shelf is there today.",
        in_doubt=False,
        group=GROUP,
    ),
    _figure("budget", "All pumps together cost at most", "money", 0.0, 1e7),
)


def demands(facts: Facts, rules: Rules, together: int) -> Iterator[Requirement]:
    """The requirements that follow; ``together`` pumps run at once."""
    warranty = facts.optional("warranty_least")
    if warranty is not None:
        years = warranty / _SECONDS_PER_YEAR
        yield AtLeast(
            "warranty_years",
            years,
            "",
            "too short a warranty",
            "{has} years of warranty; {wanted} are demanded",
            "its warranty",
        )
    noise = facts.optional("noise_most")
    if noise is not None:
        quieter = together_db(0.0, together) + at_distance_db(0.0, facts.si("noise_at"))
        yield AtMost(
            "noise_db",
            noise - quieter,
            "sound",
            "too loud",
            "{has} at 1 m; {wanted} would be borne",
            "how loud it is at 1 m",
        )
    yield from _room(facts, rules)
    yield from _way_of_standing(facts)
    lead = facts.optional("lead_most")
    if lead is not None:
        yield ThereWithin(lead / SECONDS_PER_DAY)
    budget = facts.optional("budget")
    if budget is not None:
        yield AtMost(
            "price", budget, "money", "over the budget", "costs {has} of {wanted}", "its price"
        )


def _room(facts: Facts, rules: Rules) -> Iterator[Requirement]:
    rails = rules.value("CHO-15") if facts.choice("room_rails") == "yes" else 0.0
    for key, field, word in (
        ("room_width", "width_m", "wide"),
        ("room_length", "length_m", "long"),
        ("room_height", "height_m", "high"),
    ):
        room = facts.optional(key)
        if room is not None:
            taken = rails if field == "width_m" else 0.0
            yield AtMost(
                field,
                room - taken,
                "size",
                f"too {word} for the room there is",
                "{has} " + word + "; there is room for {wanted}",
                f"how {word} it is",
            )


def _way_of_standing(facts: Facts) -> Iterator[Requirement]:
    current, stands = facts.choice("current_kind"), facts.choice("stands")
    if current == "dc":
        yield AtMost(
            "voltage_v",
            DIRECT_TO_V,
            "voltage",
            "runs on mains",
            "runs on {has}; direct current is demanded",
            "its voltage",
        )
    elif current == "ac":
        yield AtLeast(
            "voltage_v",
            math.nextafter(DIRECT_TO_V, math.inf) * 1.01,
            "voltage",
            "runs on direct current",
            "runs on {has}; mains are demanded",
            "its voltage",
        )
    if stands != "any":
        allowed = _UNDER_WATER if stands == "wet" else _DRY
        yield FamilyIn(tuple(allowed), "stands the other way than demanded")


@dataclass(frozen=True)
class ThereWithin:
    """The pumps lie on the shelf, or come within so many days."""

    days: float
    label: str = "comes too late"
    asks: str = "when it could be there"

    def met(self, catalogue: Catalogue) -> Truths:
        shelf = catalogue.column("stock") >= catalogue.bought
        return np.asarray(shelf | at_most(catalogue.column("lead_days"), self.days))

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.isnan(catalogue.column("lead_days")) & ~self.met(catalogue)

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        if pump.lead_days is None:
            return message("the maker does not say {asks}", asks=self.asks)
        return message(
            "comes in {days} days; {wanted} are demanded",
            days=f"{pump.lead_days:g}",
            wanted=f"{self.days:g}",
        )
