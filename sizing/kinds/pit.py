"""Kinds of job whose water stands in a pit with upright walls.

What they ask alike, and what follows from it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import ClassVar

from sizing.base.errors import SizingError
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks import pit
from sizing.checks.base import Check, Running, Site
from sizing.checks.pit import PitRules
from sizing.demand.method import Demand
from sizing.document.answers import Choice, Facts, Question
from sizing.document.build_route import Ends
from sizing.kinds.base import Kind, Level, Place
from sizing.selection.limit import Limit
from sizing.selection.requirement import AtLeast, AtMost, Requirement
from sizing.storage.plan import Plan, plan

SHAPE_QUESTIONS = (
    Question(
        "pit_shape",
        "Pit shape",
        "flow",
        default="round",
        choices=(Choice("round", "round"), Choice("rectangular", "rectangular")),
    ),
    Question(
        key="pit_diameter",
        label="Pit diameter",
        stage="flow",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.15,
        high=6.0,
        usual=(0.3, 1.9),
        shown_when=("pit_shape", ("round",)),
    ),
    Question(
        key="pit_length",
        label="Pit length",
        stage="flow",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.15,
        high=12.0,
        usual=(0.3, 3.0),
        shown_when=("pit_shape", ("rectangular",)),
    ),
    Question(
        key="pit_width",
        label="Pit width",
        stage="flow",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.15,
        high=12.0,
        usual=(0.3, 3.0),
        shown_when=("pit_shape", ("rectangular",)),
    ),
)
_LEVELS = (
    Question(
        key="stop_level",
        designed=True,
        label="Pump stops at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.0,
        high=10.0,
        usual=(0.05, 0.5),
        help="Above the bottom of the pit.",
        is_level=True,
    ),
    Question(
        key="start_level",
        designed=True,
        label="Pump starts at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.02,
        high=10.0,
        usual=(0.2, 1.0),
        is_level=True,
    ),
    Question(
        key="alarm_level",
        designed=True,
        label="High-water alarm at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.02,
        high=10.0,
        usual=(0.3, 1.2),
        is_level=True,
    ),
    Question(
        key="inlet_level",
        label="Lowest inlet at",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.02,
        high=10.0,
        usual=(0.3, 1.5),
        optional=True,
        help="Bottom of the lowest pipe that enters.",
        is_level=True,
    ),
    Question(
        key="pit_depth",
        label="Pit depth (spills over at)",
        stage="run",
        dimension="length",
        metric_unit="mm",
        us_unit="in",
        low=0.1,
        high=15.0,
        usual=(0.4, 2.5),
        is_level=True,
    ),
)


def level_questions(stop_mm: int, start_mm: int, source: str) -> tuple[Question, ...]:
    """The levels of a pit; the defaults follow what the pumps of a kind want over them."""
    defaults = {
        "stop_level": (f"{stop_mm} mm", source),
        "start_level": (f"{start_mm} mm", "usual float travel"),
        "alarm_level": (f"{start_mm + 100} mm", "rule BAS-09: 100 mm over the start"),
    }
    return tuple(
        replace(one, default=defaults[one.key][0], source=defaults[one.key][1])
        if one.key in defaults
        else one
        for one in _LEVELS
    )


LAG_QUESTION = Question(
    key="lag_level",
    designed=True,
    label="A second pump starts at",
    stage="run",
    dimension="length",
    metric_unit="mm",
    us_unit="in",
    low=0.02,
    high=10.0,
    usual=(0.3, 1.2),
    optional=True,
    help="Over the bottom of the pit: to help, or when the first has failed.",
    is_level=True,
)
COME_QUESTION = Question(
    key="time_to_come",
    label="Somebody comes within",
    stage="proof",
    dimension="time",
    metric_unit="min",
    us_unit="min",
    low=60.0,
    high=7 * SECONDS_PER_DAY,
    usual=(600, SECONDS_PER_DAY),
    default="60 min",
    source="rule CHO-06",
    default_rule="CHO-06",
)


def pit_plan(facts: Facts) -> Plan:
    """The pit's plan."""
    if facts.choice("pit_shape") == "round":
        return plan("round", diameter_m=facts.si("pit_diameter"))
    return plan("rectangular", length_m=facts.si("pit_length"), width_m=facts.si("pit_width"))


class PitKind(Kind):
    """A pit with a submersible pump on floats."""

    pit_rules: ClassVar[PitRules]
    datum = "the bottom of the pit"

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        stop, start = facts.si("stop_level"), facts.si("start_level")
        if start <= stop:
            raise SizingError("the pump must start at a higher level than it stops at")
        return Ends(start_level_m=stop, liquid_wall=self.liquid_wall)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        room = pit_plan(facts).narrowest_m - rules.value("CHO-05")
        return (
            AtLeast(
                "solids_m",
                self.solid_m(facts, rules),
                "size",
                "passes too small a solid",
                "passes only {has}; {wanted} wanted",
                "the largest solid it passes",
            ),
            AtMost(
                "width_m",
                room,
                "size",
                "too wide for the pit",
                "{has} wide; the pit leaves {wanted} with room for the float",
                "how wide it is",
            ),
            AtMost(
                "lowest_stop_m",
                facts.si("stop_level"),
                "size",
                "needs more water over it",
                "must stop at {has}; the stop level is {wanted}",
                "its lowest stop level",
            ),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        return Place("pit", pit_plan(facts).narrowest_m, tuple(self._levels(facts)))

    def _levels(self, facts: Facts) -> Iterator[Level]:
        yield Level("floor", "pit bottom", 0.0)
        for code, key, label in (
            ("stop", "stop_level", "stop"),
            ("start", "start_level", "start"),
            ("lag", "lag_level", "second starts"),
            ("alarm", "alarm_level", "alarm"),
            ("inlet", "inlet_level", "inlet"),
            ("rim", "pit_depth", "rim"),
        ):
            level = facts.optional(key) if facts.asks(key) else None
            if level is not None:
                # the codes above are the literals
                yield Level(code, label, level, f"answers.{key}")  # type: ignore[arg-type]

    def checks(self, running: Running) -> Sequence[Check]:
        return pit.checks(running, pit_plan(running.facts), self.pit_rules)

    def site_checks(self, site: Site) -> Sequence[Check]:
        return [*super().site_checks(site), *pit.site_checks(site, pit_plan(site.facts))]

    def limits(self, site: Site) -> tuple[Limit, ...]:
        in_the_pit = pit.limits(site, pit_plan(site.facts), self.pit_rules)
        return (*super().limits(site), *in_the_pit)

    def starts_higher_by_m(self, facts: Facts) -> float:
        return facts.si("start_level") - facts.si("stop_level")
