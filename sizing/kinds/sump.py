"""A sump: ground or rain water in a pit in a cellar, crawl space or yard, lifted to where it may run off."""

from __future__ import annotations

from sizing.demand.drained_area import drained_area
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.facts import Choice, Facts, MissingFact, Question
from sizing.kinds.base import Demand, Way
from sizing.kinds.pit import LEVEL_QUESTIONS, SHAPE_QUESTIONS, SUPPLY_QUESTIONS, PitKind, leg, margin_working, take
from sizing.kinds.pit_checks import Limits
from sizing.rules import Rules
from sizing.said import Measure, Working

_WAYS = ("timed_rise", "drained_area", "rain", "stated")

QUESTIONS = (
    Question("liquid", "Water", "water", default="clear", choices=(
        Choice("clear", "clear ground water"), Choice("silt", "ground water with sand and fibres"),
        Choice("rain", "rain from surfaces"),
    ), help="Raw sewage, paper and wipes are no sump job: they need a solids-handling or a grinder pump."),
    Question("water_temperature", "Water temperature", "water", "temperature", low=0.5, high=60.0, usual=(4, 25), default="10 °C",
             source="usual ground water of temperate places"),
    Question("largest_solid", "Largest solid", "water", "size", low=0.0, high=0.1, usual=(0.0, 0.02), default="5 mm",
             source="sand and grit of a clean pit"),
    *SHAPE_QUESTIONS,
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
    *LEVEL_QUESTIONS,
    *SUPPLY_QUESTIONS,
)  # fmt: skip


class Sump(PitKind):
    code = "sump"
    label = "sump"
    purpose = "Ground or rain water out of a pit in a cellar, crawl space or yard."
    questions = QUESTIONS
    limits = Limits(starts="CYC-01", run_time="CYC-02", slowest="VEL-12", fastest="VEL-12")
    default_legs = (
        leg("a", "riser", "50 mm", (("check_swing_100", 1), ("ball_valve_full", 1), ("elbow_90_glued", 1))),
        leg("b", "yard run", "50 mm", (("elbow_90_glued", 2), ("exit", 1))),
    )
    cautions = (
        "Electricity and water: isolate and lock off before touching the pump; earth-fault protection; a licensed electrician makes the connection.",
        "A pit is a confined space: gas that poisons or explodes may stand in it. Nobody enters or leans in untrained and alone.",
        "Where the discharge can freeze, fit a relief opening near the house; without it a frozen outlet floods the cellar.",
        "Rain and ground water may not go into a foul sewer in most places: ask the local authority where it may run off.",
        "Local codes, permits and licensed trades come first and override this sizing.",
    )

    def demand(self, facts: Facts, rules: Rules) -> Demand:
        ways = tuple(self._way(code, facts, rules) for code in _WAYS)
        taken = facts.choice("flow_from")
        inflow = take(ways, taken, MissingFact("answers.rise", "one way to the flow (a timed rise is best)", "flow"))
        margin = facts.si("margin")
        needed = inflow * margin
        working = margin_working(inflow, margin, needed, "House rule SMP-05; the only margin in the whole sizing")
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

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("effluent",) if facts.choice("liquid") == "silt" else ("sump", "effluent")

    def stage_summary(self, facts: Facts) -> str:
        return next(choice.label for choice in facts.question("liquid").choices if choice.code == facts.choice("liquid"))


KIND = Sump()
