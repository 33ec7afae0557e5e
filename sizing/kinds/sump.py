"""A sump: ground or rain water in a pit in a cellar, crawl space or yard, lifted to where it may run off."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.demand.drained_area import drained_area
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.errors import SizingError
from sizing.facts import Choice, Facts, MissingFact, Question
from sizing.job import FittingEntry, LegEntry
from sizing.kinds import sump_checks
from sizing.kinds.base import Check, Demand, Kind, Level, Place, Running, Way
from sizing.match import Wanted
from sizing.requirement import AtLeast, AtMost, FamilyIn, Supply
from sizing.rules import Rules
from sizing.said import Measure, Working
from sizing.storage.plan import Plan, plan

_WAYS = ("timed_rise", "drained_area", "rain", "stated")
_SECONDS_PER_HOUR = 3600.0

QUESTIONS = (
    Question("liquid", "Water", "water", default="clear", choices=(
        Choice("clear", "clear ground water"), Choice("silt", "ground water with sand and fibres"),
        Choice("rain", "rain from surfaces"),
    ), help="Raw sewage, paper and wipes are no sump job: they need a solids-handling or a grinder pump."),
    Question("water_temperature", "Water temperature", "water", "temperature", low=0.5, high=60.0, usual=(4, 25), default="10 °C",
             source="usual ground water of temperate places"),
    Question("largest_solid", "Largest solid", "water", "size", low=0.0, high=0.1, usual=(0.0, 0.02), default="5 mm",
             source="sand and grit of a clean pit"),
    Question("pit_shape", "Pit shape", "flow", default="round", choices=(Choice("round", "round"), Choice("rectangular", "rectangular"))),
    Question("pit_diameter", "Pit diameter", "flow", "length", "mm", "in", low=0.15, high=6.0, usual=(0.3, 1.2), shown_when=("pit_shape", ("round",))),
    Question("pit_length", "Pit length", "flow", "length", "mm", "in", low=0.15, high=12.0, usual=(0.3, 1.5), shown_when=("pit_shape", ("rectangular",))),
    Question("pit_width", "Pit width", "flow", "length", "mm", "in", low=0.15, high=12.0, usual=(0.3, 1.5), shown_when=("pit_shape", ("rectangular",))),
    Question("flow_from", "Take the flow from", "flow", default="largest", choices=(
        Choice("largest", "the largest of these"), Choice("sum", "the sum of these"), Choice("timed_rise", "the timed rise"),
        Choice("drained_area", "the drained area"), Choice("rain", "the rain"), Choice("stated", "a stated flow"),
    )),
    Question("rise", "Rise with the pump off", "flow", "length", "mm", "in", low=0.001, high=5.0, usual=(0.02, 0.6), optional=True,
             help="In the wettest hour, pump unplugged: mark the level, wait, mark it again."),
    Question("rise_time", "in a time of", "flow", "time", "s", "s", low=1.0, high=86400.0, usual=(20, 3600), optional=True),
    Question("drained_area", "Area drained to the pit", "flow", "area", "m²", "ft²", low=1.0, high=1e5, usual=(30, 400), optional=True),
    Question("soil", "Soil round it", "flow", default="sand", choices=(Choice("sand", "sand or gravel"), Choice("clay", "clay")), shown_when=("drained_area", ())),
    Question("rain_area", "Area that rain runs off", "flow", "area", "m²", "ft²", low=0.5, high=1e5, usual=(5, 500), optional=True),
    Question("runoff", "Share that runs off", "flow", "ratio", low=0.0, high=1.0, usual=(0.2, 1.0), default="90 %", source="roofs and paving", shown_when=("rain_area", ())),
    Question("rain_rate", "Hardest rain", "flow", "rain", low=1e-8, high=1e-4, usual=(5e-6, 3.5e-5), default="60 mm/h",
             source="a heavy shower; take the local design rain", shown_when=("rain_area", ())),
    Question("stated_flow", "Stated flow into the pit", "flow", "flow", low=1e-6, high=1.0, usual=(5e-5, 5e-3), optional=True),
    Question("margin", "Margin on the flow", "flow", "ratio", "×", "×", low=1.0, high=5.0, usual=(1.0, 2.0), default="1.5 ×",
             source="rule SMP-05: 1.25 to 2 in use", help="Added here, once, and nowhere else."),
    Question("stop_level", "Pump stops at", "run", "length", "mm", "in", low=0.0, high=10.0, usual=(0.05, 0.5), default="150 mm",
             source="covers most pumps' lowest level", help="Above the bottom of the pit."),
    Question("start_level", "Pump starts at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.2, 1.0), default="400 mm", source="usual float travel"),
    Question("alarm_level", "High-water alarm at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.3, 1.2), default="500 mm",
             source="rule BAS-09: 100 mm over the start"),
    Question("inlet_level", "Lowest inlet at", "run", "length", "mm", "in", low=0.02, high=10.0, usual=(0.3, 1.5), optional=True,
             help="Bottom of the lowest pipe that enters."),
    Question("pit_depth", "Pit depth (spills over at)", "run", "length", "mm", "in", low=0.1, high=15.0, usual=(0.4, 2.5)),
    Question("voltage", "Supply voltage", "pump", "voltage", low=12.0, high=690.0, usual=(110, 240), default="230 V", source="usual domestic supply"),
    Question("phases", "Phases", "pump", default="1", choices=(Choice("1", "single-phase"), Choice("3", "three-phase"))),
    Question("hours_per_year", "Pumping a year", "pump", "time", "h", "h", low=0.0, high=8784 * 3600.0, usual=(3600.0, 3600 * 3000.0), default="200 h",
             source="a wet cellar; for the cost only", help="At the needed flow."),
    Question("energy_price", "Price of a kWh", "pump", "price", low=0.0, high=10.0, default="0.30 /kWh", source="household tariff"),
    Question("time_to_come", "Somebody comes within", "proof", "time", "min", "min", low=60.0, high=7 * 86400.0, usual=(600, 86400), default="60 min",
             source="rule CHO-06"),
)  # fmt: skip


def _leg(leg_id: str, name: str, nominal: str, fittings: tuple[tuple[str, int], ...]) -> LegEntry:
    entries = tuple(FittingEntry(fitting=fitting, count=count) for fitting, count in fittings)
    return LegEntry(id=leg_id, name=name, series="pvcu_pn10", nominal=nominal, fittings=entries)


class Sump(Kind):
    code = "sump"
    label = "sump"
    purpose = "Ground or rain water out of a pit in a cellar, crawl space or yard."
    datum = "the bottom of the pit"
    questions = QUESTIONS
    default_legs = (
        _leg("a", "riser", "50 mm", (("check_swing_100", 1), ("ball_valve_full", 1), ("elbow_90_glued", 1))),
        _leg("b", "yard run", "50 mm", (("elbow_90_glued", 2), ("exit", 1))),
    )
    cautions = (
        "Electricity and water: isolate and lock off before touching the pump; earth-fault protection; a licensed electrician makes the connection.",
        "A pit is a confined space: gas that poisons or explodes may stand in it. Nobody enters or leans in untrained and alone.",
        "Where the discharge can freeze, fit a relief opening near the house; without it a frozen outlet floods the cellar.",
        "Rain and ground water may not go into a foul sewer in most places: ask the local authority where it may run off.",
        "Local codes, permits and licensed trades come first and override this sizing.",
    )

    def plan(self, facts: Facts) -> Plan:
        """The pit's plan."""
        if facts.choice("pit_shape") == "round":
            return plan("round", diameter_m=facts.si("pit_diameter"))
        return plan("rectangular", length_m=facts.si("pit_length"), width_m=facts.si("pit_width"))

    def demand(self, facts: Facts, rules: Rules) -> Demand:
        ways = tuple(self._way(code, facts, rules) for code in _WAYS)
        known = {way.code: way.flow_m3s for way in ways if way.flow_m3s is not None}
        taken = facts.choice("flow_from")
        if taken in _WAYS and taken not in known:
            raise next(way for way in ways if way.code == taken).missing[0]
        if not known:
            raise MissingFact("answers.rise", "one way to the flow (a timed rise is best)", "flow")
        inflow = known[taken] if taken in known else (sum if taken == "sum" else max)(known.values())
        margin = facts.si("margin")
        needed = inflow * margin
        working = Working(
            "Flow needed", "needed = worst inflow × margin", (("worst inflow", Measure(inflow, "flow")), ("margin", Measure(margin, "factor"))),
            Measure(needed, "flow"), "House rule SMP-05; the only margin in the whole sizing",
        )  # fmt: skip
        return Demand(ways, taken, inflow, margin, needed, working)

    def _way(self, code: str, facts: Facts, rules: Rules) -> Way:
        label, caution, arrive = {
            "timed_rise": ("timed rise", "", self._by_rise),
            "drained_area": ("drained area", "A rule of thumb: real inflows differ tenfold. Time the rise where you can.", self._by_area),
            "rain": ("rain on surfaces", "", self._by_rain),
            "stated": ("stated flow", "", self._as_stated),
        }[code]
        try:
            working = arrive(facts, rules)
        except MissingFact as missing:
            return Way(code, label, None, (missing,), caution=caution)
        return Way(code, label, working.result.value_si, working=working, caution=caution)

    def _by_rise(self, facts: Facts, rules: Rules) -> Working:
        height, time = facts.si("rise"), facts.si("rise_time")
        found = rise(self.plan(facts), height, time)
        inputs = (("pit area", Measure(found.plan_area_m2, "area", 3)), ("rise", Measure(height, "length", 3)), ("time", Measure(time, "time")))
        return Working("Timed rise", "inflow = pit area × rise / time", inputs, Measure(found.inflow_m3s, "flow"), "continuity; rule SMP-03")

    def _by_area(self, facts: Facts, rules: Rules) -> Working:
        rule = rules.rule("SMP-01" if facts.choice("soil") == "sand" else "SMP-02")
        area = facts.si("drained_area")
        flow = drained_area(area, rules.value(rule.rule_id))
        inputs = (("area", Measure(area, "area")), ("seepage", Measure(rules.value(rule.rule_id), "seepage")))
        return Working("Drained area", "inflow = area × seepage of the soil", inputs, Measure(flow, "flow"), f"rule {rule.rule_id}, {rule.source}")

    def _by_rain(self, facts: Facts, rules: Rules) -> Working:
        surface = Surface(facts.si("runoff"), facts.si("rain_area"))
        found = rational(facts.si("rain_rate"), [surface])
        inputs = (
            ("share that runs off", Measure(surface.runoff_coefficient, "ratio")),
            ("rain", Measure(facts.si("rain_rate"), "rain")), ("area", Measure(surface.area_m2, "area")),
        )  # fmt: skip
        return Working(
            "Rain on surfaces", "flow = C × rain × area", inputs, Measure(found.flow_m3s, "flow"), "rational method, Kuichling 1889; rule SMP-04"
        )

    def _as_stated(self, facts: Facts, rules: Rules) -> Working:
        flow = Measure(facts.si("stated_flow"), "flow")
        return Working("Stated flow", "as stated", (("flow", flow),), flow, "the customer or a drawing")

    def start_level_m(self, facts: Facts) -> float:
        stop, start = facts.si("stop_level"), facts.si("start_level")
        if start <= stop:
            raise SizingError("the pump must start at a higher level than it stops at")
        return stop

    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        allowed = ("sump", "effluent") if facts.choice("liquid") != "silt" else ("effluent",)
        room = self.plan(facts).narrowest_m - rules.value("CHO-05")
        requirements = (
            FamilyIn(allowed),
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

    def checks(self, running: Running) -> list[Check]:
        return sump_checks.checks(running, self.plan(running.facts))

    def stage_summary(self, facts: Facts) -> str:
        return next(choice.label for choice in facts.question("liquid").choices if choice.code == facts.choice("liquid"))


KIND = Sump()
