"""A booster.

Pressure for the taps of a building, by every school of simultaneous demand side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.rules import Rules
from sizing.checks.base import Check, Running, Site
from sizing.checks.booster import (
    dry_run_check,
    lowest_check,
    one_tap_check,
    outlet_check,
    supply_checks,
    upgrade_checks,
    water_head_m,
)
from sizing.checks.booster_control import control_checks, switch_limits
from sizing.checks.pump_curve import pump_checks
from sizing.checks.suction import suction_check
from sizing.checks.transfer import lift_checks
from sizing.checks.velocity import Speeds
from sizing.demand import fixtures
from sizing.demand.fixture_methods import (
    REASONS,
)
from sizing.demand.method import Demand
from sizing.document.answers import Facts, MissingFact
from sizing.document.build_route import Ends
from sizing.hydraulics.device import Device
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.booster_questions import FIXTURES, METHODS, QUESTIONS
from sizing.kinds.common_questions import (
    head_m,
    leg,
)
from sizing.selection.limit import Limit
from sizing.selection.requirement import DrinkingWater, Requirement

_HOMES = "residential building"
_CANNOT_WAIT = ("hotel", "hospital", "care", "nursing", "assisted")


class Booster(Kind):
    code = "booster"
    dialogs = ("floors",)
    label = "booster"
    purpose = "Pressure at the taps of a building that the main does not give."
    datum = "the floor the pump stands on"
    questions = QUESTIONS
    lists = (FIXTURES,)
    methods = METHODS
    hint = MissingFact(
        "lists.fixtures.r1.count", "the schedule of fixtures, or another way to the flow", "flow"
    )
    quiet = True
    held_by_outlets = True
    speeds = Speeds("VEL-06", "keeps the pipe quiet", suction_fastest="VEL-02")
    default_legs = (
        leg("a", "suction", "63 mm", ("gate_valve", 1), ("elbow_90_glued", 2), side="suction"),
        leg(
            "b",
            "riser",
            "63 mm",
            ("check_spring_inline", 1),
            ("gate_valve", 1),
            ("elbow_90_glued", 3),
        ),
        leg(
            "c",
            "floor branch",
            "32 mm",
            ("tee_branch_threaded", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 6),
        ),
    )
    usual_legs = ((4.0, 0.4), (24.0, 15.0), (12.0, 16.0))
    sizes = ("booster",)
    cautions = (
        (
            "Drinking water: backflow protection towards the main, certified materials, flush and"
            " disinfect before use. Water that stands grows legionella."
        ),
        (
            "A booster on a public main may draw it down and suck dirt in: many suppliers ask for a"
            " break tank or a low-pressure cut-out."
        ),
        (
            "Over 5.5 bar (80 psi) at a fixture most codes want a reducing valve; hot water systems"
            " want relief valves sized for the new pressure."
        ),
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "One pump down is a building without water: one on duty and one as standby is the plain"
            " rule (BST-04)."
        ),
        (
            "Codes name the school to be used in many places; they and licensed trades come first"
            " and override this sizing."
        ),
    )

    def school(self, facts: Facts) -> str:
        """As chosen; else by the building.

        Homes by the exact percentile, which knows no common breakfast; all others by the school
        that has coefficients for their kind.
        """
        chosen = facts.choice("flow_from")
        if chosen != "fitting":
            return chosen
        return "statistical" if facts.choice("building") == _HOMES else "din1988"

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        return replace(demand, reason=REASONS[demand.taken])

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        residual = self._residual(facts)
        if facts.choice("supply_from") == "main":
            return Ends(
                0.0,
                residual,
                head_m(facts, "supply_pressure"),
                devices=self._backflow(facts, rules),
            )
        return Ends(facts.si("tank_level"), residual)

    def _backflow(self, facts: Facts, rules: Rules) -> tuple[Device, ...]:
        """What a backflow preventer loses, by the flow squared."""
        if not facts.optional("backflow_loss"):
            return ()
        peak = self.demand(facts, rules, only_taken=True).needed_m3s
        return (Device("backflow preventer", peak, head_m(facts, "backflow_loss")),)

    def _residual(self, facts: Facts) -> float:
        """Head wanted at the worst outlet [m]."""
        if facts.optional("residual") is not None:
            return head_m(facts, "residual")
        return water_head_m(facts, fixtures.fixture(facts.choice("worst_outlet")).residual_pa)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("booster",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (DrinkingWater(),) if facts.choice("drinking") == "yes" else ()

    def suction_at(self, facts: Facts) -> tuple[float, float] | None:
        return 0.0, facts.si("altitude")

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), *switch_limits(site))

    def place(self, facts: Facts, rules: Rules) -> Place:
        floors = facts.optional("floors")
        storeys = (
            ()
            if floors is None
            else tuple(
                facts.si("lowest_outlet") - 1.0 + number * facts.si("storey")
                for number in range(round(floors) + 1)
            )
        )
        if facts.choice("supply_from") == "main":
            return Place(
                shape="main",
                width_m=0.1,
                levels=(Level("floor", "floor", -0.5), Level("rim", "floor", 0.0)),
                pump_level_m=0.0,
                outlet="tap",
                storeys_m=storeys,
            )
        level = facts.si("tank_level")
        return Place(
            shape="tank",
            width_m=1.0,
            levels=(
                Level("floor", "tank bottom", level - 0.4),
                Level("stop", "lowest water", level, "answers.tank_level"),
                Level("rim", "tank rim", level + 1.0),
            ),
            pump_level_m=0.0,
            outlet="tap",
            storeys_m=storeys,
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "beside", "taps", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        facts = running.facts
        return [
            *pump_checks(running),
            suction_check(running, 0.0, facts.si("altitude")),
            *supply_checks(running),
            *dry_run_check(running),
            lowest_check(running),
            outlet_check(running),
            *one_tap_check(running),
            *control_checks(running),
            *(lift_checks(running, facts, "tank_level") if self._lifts(facts) else ()),
            *upgrade_checks(running),
        ]

    def cannot_be_without(self, facts: Facts) -> str:
        """Hospitals, hotels and homes for the old; homes, schools and offices can wait a day."""
        building = facts.choice("building")
        return building if any(word in building for word in _CANNOT_WAIT) else ""

    def _lifts(self, facts: Facts) -> bool:
        """Whether it draws from a tank below itself: then each pump primes by its own pipe."""
        return facts.choice("supply_from") == "tank" and facts.si("tank_level") < 0

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "service water"


KIND = Booster()
