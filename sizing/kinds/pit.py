"""Kinds of job whose water stands in a pit with upright walls: what they ask alike, and what follows from it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import ClassVar

from sizing.errors import SizingError
from sizing.facts import Choice, Facts, MissingFact, Question
from sizing.job import FittingEntry, LegEntry
from sizing.kinds import pit_checks
from sizing.kinds.base import Check, Demand, Kind, Level, Place, Running, Way
from sizing.kinds.pit_checks import Limits
from sizing.match import Wanted
from sizing.requirement import AtLeast, AtMost, FamilyIn, Requirement, Supply
from sizing.rules import Rules
from sizing.said import Measure, Working
from sizing.storage.plan import Plan, plan

SHAPE_QUESTIONS = (
    Question("pit_shape", "Pit shape", "flow", default="round", choices=(Choice("round", "round"), Choice("rectangular", "rectangular"))),
    Question("pit_diameter", "Pit diameter", "flow", "length", "mm", "in", low=0.15, high=6.0, usual=(0.3, 1.2), shown_when=("pit_shape", ("round",))),
    Question("pit_length", "Pit length", "flow", "length", "mm", "in", low=0.15, high=12.0, usual=(0.3, 1.5), shown_when=("pit_shape", ("rectangular",))),
    Question("pit_width", "Pit width", "flow", "length", "mm", "in", low=0.15, high=12.0, usual=(0.3, 1.5), shown_when=("pit_shape", ("rectangular",))),
)  # fmt: skip
LEVEL_QUESTIONS = (
    Question("stop_level", "Pump stops at", "run", "length", "mm", "in", low=0.0, high=10.0, usual=(0.05, 0.5), default="150 mm",
             source="covers most pumps' lowest level", help="Above the bottom of the pit."),
    Question("start_level", "Pump starts at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.2, 1.0), default="400 mm", source="usual float travel"),
    Question("alarm_level", "High-water alarm at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.3, 1.2), default="500 mm",
             source="rule BAS-09: 100 mm over the start"),
    Question("inlet_level", "Lowest inlet at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.3, 1.5), optional=True,
             help="Bottom of the lowest pipe that enters."),
    Question("pit_depth", "Pit depth (spills over at)", "run", "length", "mm", "in", low=0.1, high=15.0, usual=(0.4, 2.5)),
)  # fmt: skip
SUPPLY_QUESTIONS = (
    Question("voltage", "Supply voltage", "pump", "voltage", low=12.0, high=690.0, usual=(110, 240), default="230 V", source="usual domestic supply"),
    Question("phases", "Phases", "pump", default="1", choices=(Choice("1", "single-phase"), Choice("3", "three-phase"))),
    Question("hours_per_year", "Pumping a year", "pump", "time", "h", "h", low=0.0, high=8784 * 3600.0, usual=(3600.0, 3600 * 3000.0), default="200 h",
             source="a wet cellar; for the cost only", help="At the needed flow."),
    Question("energy_price", "Price of a kWh", "pump", "price", low=0.0, high=10.0, default="0.30 /kWh", source="household tariff"),
    Question("time_to_come", "Somebody comes within", "proof", "time", "min", "min", low=60.0, high=7 * 86400.0, usual=(600, 86400), default="60 min",
             source="rule CHO-06"),
)  # fmt: skip


def leg(leg_id: str, name: str, nominal: str, fittings: tuple[tuple[str, int], ...]) -> LegEntry:
    """A leg as a kind starts with it: PVC-U PN10, its length and end not known yet."""
    entries = tuple(FittingEntry(fitting=fitting, count=count) for fitting, count in fittings)
    return LegEntry(id=leg_id, name=name, series="pvcu_pn10", nominal=nominal, fittings=entries)


def margin_working(inflow_m3s: float, margin: float, needed_m3s: float, source: str) -> Working:
    """How the needed flow came of the inflow: the one place where a margin is added."""
    inputs = (("worst inflow", Measure(inflow_m3s, "flow")), ("margin", Measure(margin, "factor")))
    return Working("Flow needed", "needed = worst inflow × margin", inputs, Measure(needed_m3s, "flow"), source)


def take(ways: Sequence[Way], taken: str, hint: MissingFact) -> float:
    """The flow of the way that is taken: one by its code, the largest, or the sum of those answered.

    Raises
    ------
    MissingFact
        The way taken lacks something, or (``hint``) no way has what it needs.
    SizingError
        The flow comes out as nought.
    """
    known = {way.code: way.flow_m3s for way in ways if way.flow_m3s is not None}
    for way in ways:
        if way.code == taken and way.flow_m3s is None:
            raise way.missing[0]
    if not known:
        raise hint
    flow = known[taken] if taken in known else (sum if taken == "sum" else max)(known.values())
    if not flow > 0:
        raise SizingError("the flow comes out as nought: look at the figures of the way that is taken")
    return flow


class PitKind(Kind):
    """A pit with a submersible pump on floats."""

    limits: ClassVar[Limits]
    datum = "the bottom of the pit"

    def plan(self, facts: Facts) -> Plan:
        """The pit's plan."""
        if facts.choice("pit_shape") == "round":
            return plan("round", diameter_m=facts.si("pit_diameter"))
        return plan("rectangular", length_m=facts.si("pit_length"), width_m=facts.si("pit_width"))

    def families(self, facts: Facts) -> tuple[str, ...]:
        """Families of pump that may do this job."""
        raise NotImplementedError

    def start_level_m(self, facts: Facts) -> float:
        stop, start = facts.si("stop_level"), facts.si("start_level")
        if start <= stop:
            raise SizingError("the pump must start at a higher level than it stops at")
        return stop

    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        room = self.plan(facts).narrowest_m - rules.value("CHO-05")
        requirements: tuple[Requirement, ...] = (
            FamilyIn(self.families(facts)),
            AtLeast("solids_m", facts.si("largest_solid"), "size", "passes too small a solid", "passes only {has}; {wanted} wanted"),
            AtLeast("hottest_c", facts.si("water_temperature"), "temperature", "not for water so hot", "for water to {has}; this is {wanted}"),
            AtMost("width_m", room, "size", "too wide for the pit", "{has} wide; the pit leaves {wanted} with room for the float"),
            AtMost("lowest_stop_m", facts.si("stop_level"), "size", "needs more water over it", "must stop at {has}; the stop level is {wanted}"),
            Supply(facts.si("voltage"), int(facts.choice("phases")), rules.value("CHO-08")),
        )
        volume = demand.needed_m3s * facts.si("hours_per_year")
        return Wanted(demand.needed_m3s, requirements, volume, facts.si("energy_price"), rules.value("CHO-07"))

    def place(self, facts: Facts) -> Place:
        return Place("pit", self.plan(facts).narrowest_m, tuple(self._levels(facts)))

    def _levels(self, facts: Facts) -> Iterator[Level]:
        yield Level("floor", "pit bottom", 0.0)
        for code, key, label in (
            ("stop", "stop_level", "stop"), ("start", "start_level", "start"), ("alarm", "alarm_level", "alarm"),
            ("inlet", "inlet_level", "inlet"), ("rim", "pit_depth", "rim"),
        ):  # fmt: skip
            level = facts.optional(key)
            if level is not None:
                yield Level(code, label, level)  # type: ignore[arg-type]  # the codes above are the literals

    def checks(self, running: Running) -> Sequence[Check]:
        return pit_checks.checks(running, self.plan(running.facts), self.limits)
