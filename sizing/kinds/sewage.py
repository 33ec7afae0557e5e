"""Sewage from a building: a sealed pit under the drains, lifted to a gravity sewer."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.demand import unit_curve
from sizing.demand.volume import per_head_by_factor
from sizing.errors import OutOfRange
from sizing.facts import Choice, Facts, MissingFact, Question
from sizing.kinds import pit_checks
from sizing.kinds.base import Check, Demand, Running, Way
from sizing.kinds.pit import LEVEL_QUESTIONS, SHAPE_QUESTIONS, SUPPLY_QUESTIONS, PitKind, leg, margin_working, take
from sizing.kinds.pit_checks import Limits
from sizing.pipework.friction import velocity_m_s
from sizing.rules import Rules
from sizing.run import bore_m, the_leg
from sizing.said import Measure, Working, said

_SCHOOLS = {"dfu_tank": "dfu_to_gpm_tank_low", "dfu_valve": "dfu_to_gpm_valve_high"}

QUESTIONS = (
    Question("water_temperature", "Temperature", "water", "temperature", low=0.5, high=60.0, usual=(8, 30), default="15 °C", source="usual domestic sewage"),
    Question("toilets", "Toilets drain to it", "water", default="yes", choices=(Choice("yes", "yes"), Choice("no", "no")),
             help="With a toilet a 50 mm (2 in) sphere must pass (rule BAS-14)."),
    Question("largest_solid", "Largest solid", "water", "size", low=0.005, high=0.15, usual=(0.025, 0.08), default="50 mm",
             source="rule BAS-14: 2 in with a toilet"),
    Question("drainage_units", "Drainage fixture units", "flow", "drainage", low=2.0, high=1000.0, usual=(4, 200), optional=True,
             help="Add them up by your code: a toilet 3 to 4, a basin 1, a shower 2, a urinal 2 to 4."),
    Question("people", "People", "flow", "people", low=1.0, high=20000.0, usual=(2, 200), optional=True),
    Question("volume_per_person", "Sewage a person and day", "flow", "volume", "l", "gal", low=0.005, high=1.0, usual=(0.03, 0.4), default="120 l",
             source="usual domestic use; sports ground 40 l, school 50 l", shown_when=("people", ())),
    Question("peak_factor", "Peak over the day's mean", "flow", "ratio", "×", "×", low=1.0, high=30.0, usual=(3, 12), default="6 ×",
             source="small groups peak sharply: 4 to 10 in use", shown_when=("people", ())),
    Question("stated_flow", "Stated peak flow", "flow", "flow", low=1e-5, high=1.0, usual=(3e-4, 1e-2), optional=True),
    Question("flow_from", "Take the flow from", "flow", default="largest", choices=(
        Choice("largest", "the largest of these"), Choice("dfu_tank", "units, flush-tank school"), Choice("dfu_valve", "units, flush-valve school"),
        Choice("people", "people and a peak"), Choice("stated", "a stated flow"),
    )),
    Question("margin", "Margin on the flow", "flow", "ratio", "×", "×", low=1.0, high=3.0, usual=(1.0, 1.5), default="1.0 ×",
             source="a peak by units or people holds its own margin", help="Added here, once, and nowhere else."),
    *SHAPE_QUESTIONS,
    *LEVEL_QUESTIONS,
    *SUPPLY_QUESTIONS,
)  # fmt: skip


class Sewage(PitKind):
    code = "sewage"
    label = "sewage"
    purpose = "Sewage of a building out of a sealed pit, up to a gravity sewer."
    questions = QUESTIONS
    limits = Limits(starts="CYC-03", run_time="CYC-02", slowest="VEL-07", fastest="VEL-09")
    default_legs = (
        leg("a", "riser", "63 mm", (("check_ball_sewage", 1), ("gate_valve", 1), ("elbow_90_glued", 1))),
        leg("b", "run to the sewer", "63 mm", (("elbow_90_glued", 2), ("exit", 1))),
    )
    cautions = (
        "A sewage pit is a confined space: gas that poisons or explodes stands in it. Nobody enters or leans in untrained and alone.",
        "Sewage carries disease: gloves, face shield, wash and disinfect; no food or drink near it.",
        "The basin is sealed and vented to open air by its own vent; the pump hangs on rails or a union, so that nobody reaches into it.",
        "Electricity and water: isolate and lock off before touching the pump; earth-fault protection; a licensed electrician makes the connection.",
        "Connecting to a sewer needs a permit and licensed trades in most places; local codes come first and override this sizing.",
    )

    def demand(self, facts: Facts, rules: Rules) -> Demand:
        ways = (*(self._by_units(code, facts) for code in _SCHOOLS), self._by_people(facts), self._as_stated(facts))
        taken = facts.choice("flow_from")
        inflow = take(ways, taken, MissingFact("answers.drainage_units", "one way to the flow (fixture units, people, or a stated flow)", "flow"))
        margin = facts.si("margin")
        needed, working = inflow * margin, margin_working(inflow, margin, inflow * margin, "The only margin in the whole sizing")
        scour = self._scour(facts, rules)
        if scour is not None and scour.result.value_si > needed:
            needed, working = scour.result.value_si, scour
        return Demand(ways, taken, inflow, margin, needed, working)

    def _by_units(self, code: str, facts: Facts) -> Way:
        """Two schools of the same count, side by side: what a drain really carries is disputed."""
        name = _SCHOOLS[code]
        label = "units, flush-tank school" if code == "dfu_tank" else "units, flush-valve school"
        caution = (
            "Low confidence: practice differs, and a toilet's single flush alone may ask for more."
            if code == "dfu_tank"
            else "Low confidence: the higher school."
        )
        try:
            units = facts.si("drainage_units")
            flow = unit_curve.flow_m3s(name, units)
        except MissingFact as missing:
            return Way(code, label, None, (missing,), caution=caution)
        except OutOfRange as problem:
            return Way(code, label, None, (MissingFact("answers.drainage_units", f"units within the table ({problem})", "flow"),), caution=caution)
        working = Working("Drainage fixture units", "read off the table, straight between its points", (("sum of units", Measure(units, "drainage")),),
                          Measure(flow, "flow"), unit_curve.curve(name).source)  # fmt: skip
        return Way(code, label, flow, working=working, caution=caution)

    def _by_people(self, facts: Facts) -> Way:
        try:
            people, volume, factor = facts.si("people"), facts.si("volume_per_person"), facts.si("peak_factor")
        except MissingFact as missing:
            return Way("people", "people and a peak", None, (missing,))
        found = per_head_by_factor(people, volume, factor)
        inputs = (("people", Measure(people, "people")), ("a person and day", Measure(volume, "volume")), ("peak factor", Measure(factor, "factor")))
        working = Working(
            "People and a peak",
            "people × volume / day × peak factor",
            inputs,
            Measure(found.peak_flow_m3s, "flow"),
            "daily flow with a peaking factor",
        )
        return Way("people", "people and a peak", found.peak_flow_m3s, working=working)

    def _as_stated(self, facts: Facts) -> Way:
        try:
            flow = facts.si("stated_flow")
        except MissingFact as missing:
            return Way("stated", "stated flow", None, (missing,))
        measure = Measure(flow, "flow")
        return Way(
            "stated", "stated flow", flow, working=Working("Stated flow", "as stated", (("flow", measure),), measure, "the customer or a drawing")
        )

    def _scour(self, facts: Facts, rules: Rules) -> Working | None:
        """The least flow that keeps the widest leg moving, whatever flows in."""
        if not facts.legs:
            return None
        widest = max(facts.legs, key=bore_m)
        bore, speed = bore_m(widest), rules.low("VEL-07")
        flow = speed / float(velocity_m_s(1.0, bore))
        inputs = (("least speed", Measure(speed, "velocity")), (f"bore of {the_leg(widest, facts.legs.index(widest) + 1)}", Measure(bore, "bore")))
        return Working("Flow needed so that solids move", "v × π d² / 4", inputs, Measure(flow, "flow"), "rule VEL-07; more than what flows in")

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("sewage",)

    def checks(self, running: Running) -> Sequence[Check]:
        return [*super().checks(running), _valves(running)]

    def stage_summary(self, facts: Facts) -> str:
        return "raw sewage" if facts.choice("toilets") == "yes" else "sewage without toilets"


def _valves(running: Running) -> Check:
    shut_off = any(entry.fitting in ("gate_valve", "ball_valve_full", "plug_valve") for leg in running.legs for entry in leg.fittings)
    both = shut_off and pit_checks.holds_back(running)
    text = "Check valve and shut-off valve are in the riser." if both else "The riser lacks a check valve or a shut-off valve."
    return Check(
        "valves",
        "Valves in the riser",
        "hold" if both else "fail",
        said(text),
        "" if both else "Fit a check valve and above it a full-bore shut-off valve.",
    )


KIND = Sewage()
