"""A drilled well that gives a house, a garden and animals their water through a pressure tank."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.checks import well, well_storage
from sizing.checks.base import Check, Running, Site
from sizing.checks.cable import cable_check, generator_check
from sizing.checks.materials import listing_check
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand
from sizing.document.answers import Facts, MissingFact
from sizing.document.build_route import Ends
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds.base import FollowOn, Kind, Place, Situation
from sizing.kinds.borehole import (
    drawn,
    fits_the_well,
    well_place,
)
from sizing.kinds.common_questions import (
    head_m,
    leg,
)
from sizing.kinds.well_questions import METHODS, QUESTIONS, STOCK, daily_volume_m3
from sizing.selection.limit import Limit
from sizing.selection.requirement import Requirement


class Well(Kind):
    code = "well"
    between_legs = True
    label = "well"
    purpose = (
        "A drilled well with a submersible pump and a pressure tank, for a house, a garden,"
        " animals."
    )
    datum = "the ground at the well (below it is minus)"
    questions = QUESTIONS
    lists = (STOCK,)
    methods = METHODS
    hint = MissingFact(
        "answers.outlets",
        "one way to the flow (outlets, bathrooms, the day's water, or a stated flow)",
        "flow",
    )
    speeds = Speeds("VEL-13", "is usual in a drop pipe")
    default_legs = (
        leg("a", "riser", "40 mm", ("check_spring_inline", 1), series="pe100_sdr11"),
        leg(
            "b",
            "line to the house",
            "40 mm",
            ("elbow_90_glued", 2),
            ("ball_valve_full", 1),
            series="pe100_sdr11",
        ),
    )
    usual_legs = ((38.0, -1.0), (60.0, 3.0))
    sizes = ("well",)
    cautions = (
        (
            "Drinking water: certified materials, a sealed well head, backflow protection;"
            " disinfect the well after every opening and test the water."
        ),
        (
            "Pressure tanks burst: a relief valve under the tank's rating, and never more air than"
            " its plate says."
        ),
        (
            "Electricity and water: isolate and lock off before touching the cable; earth-fault and"
            " surge protection; a licensed electrician makes the connection."
        ),
        (
            "A pump string is heavy and falls: lift it with a rope and the right gear, never by the"
            " cable."
        ),
        (
            "Wells need permits, a licensed driller and distances from septic fields; local codes"
            " come first and override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        if _fills_open(facts):
            demand = _by_refill(demand, facts, rules)
        else:
            demand = _one_tap_open(demand, rules)
        found = drawn(facts, rules, demand.needed_m3s)
        if found.limited_by == "wanted":
            return demand
        why = (
            "the tested yield"
            if found.limited_by == "yield"
            else "what leaves enough water over the pump (rule WEL-14)"
        )
        working = Working(
            "Flow held to what the well gives",
            f"least of the flow wanted and {why}",
            (("wanted", Measure(demand.needed_m3s, "flow")),),
            Measure(found.flow_m3s, "flow"),
            "never pump more than a well gives; storage covers the rest",
        )
        return demand.then(
            working,
            found.flow_m3s,
            reason=f"the well gives no more: {why}; storage covers the rest (see Proof)",
        )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        stops_at_m = 0.0
        if not _fills_open(facts):
            stops_at_m = head_m(facts, "cut_out")
            if facts.si("cut_out") <= facts.si("cut_in"):
                raise SizingError("the pump must stop at a higher pressure than it starts at")
        return Ends(
            -facts.si("static_level"),
            delivery_head_m=stops_at_m,
            drawdown_s_m2=facts.si("test_drawdown") / facts.si("tested_yield"),
            first_leg_from_m=-facts.si("pump_setting"),
        )

    def waters(self, facts: Facts) -> tuple[str, ...]:
        return () if facts.choice("well_water") == "usual" else (facts.choice("well_water"),)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("well",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return fits_the_well(facts)

    def follow_on(self, facts: Facts, demand: Demand) -> FollowOn | None:
        if not _fills_open(facts):
            return None
        peak = Measure(demand.inflow_m3s * demand.margin, "flow")
        return FollowOn(
            kind="booster",
            title="booster after the tank",
            answers=(
                ("drinking", facts.choice("drinking")),
                ("supply_from", "tank"),
                ("stated_flow", peak),
                ("flow_from", "stated"),
            ),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        place = well_place(facts)
        return replace(place, outlet="tank") if _fills_open(facts) else place

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "well", "taps", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *well.checks(running),
            *well.drawn_checks(running, _at_cut_in(running)),
            *self._storing(running),
            *cable_check(running),
            *generator_check(running),
            *([listing_check(running)] if running.facts.choice("drinking") == "yes" else []),
        ]

    def _storing(self, running: Running) -> Sequence[Check]:
        if _fills_open(running.facts):
            day = daily_volume_m3(running.facts, running.rules)
            return [well_storage.open_tank_check(running, day)]
        return [
            well_storage.storage_check(running),
            *well.tank(running, daily_volume_m3(running.facts, running.rules)),
            *well.band_checks(running, _with_pressure(running, 0.0), _at_cut_in(running)),
        ]

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), *well.limits(site, _at_cut_in(site)))

    def site_checks(self, site: Site) -> Sequence[Check]:
        day = daily_volume_m3(site.facts, site.rules)
        return [
            *super().site_checks(site),
            *well.site_checks(site),
            *([well_storage.day_check(site, day)] if _fills_open(site.facts) else []),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "well water"


def _fills_open(facts: Facts) -> bool:
    return facts.choice("fills") == "open"


def _by_refill(demand: Demand, facts: Facts, rules: Rules) -> Demand:
    """With an open tank: the day's water in the hours that the pump may run, not the peak."""
    day, may_run = daily_volume_m3(facts, rules), facts.si("refill_time")
    if not day:
        raise MissingFact(
            "answers.people", "people, animals or a garden's daily water, for the tank", "flow"
        )
    flow = day * demand.margin / may_run
    working = Working(
        "Flow that fills the tank",
        "day's water × margin / hours it may run",
        (("the day's water", Measure(day, "volume")), ("it may run", Measure(may_run, "time"))),
        Measure(flow, "flow"),
        "the open tank carries the peak (see Proof)",
    )
    return demand.then(working, flow, reason="the pump fills an open tank, not the taps")


def _one_tap_open(demand: Demand, rules: Rules) -> Demand:
    """A house's pump runs while somebody draws: never less than one open tap takes (CHO-24).

    People's water of a day is a mean. What was stated, or sprinklers take, stays as it is.
    """
    told = {one.code for one in demand.methods if one.flow_m3s is not None}
    own = {"stated", "spray"} & (told if demand.taken in ("largest", "sum") else {demand.taken})
    tap = rules.value("CHO-24")
    if own or demand.needed_m3s >= tap:
        return demand
    working = Working(
        "Flow of one open tap",
        "the larger of the flow wanted and one open tap",
        (("wanted", Measure(demand.needed_m3s, "flow")), ("one tap", Measure(tap, "flow"))),
        Measure(tap, "flow"),
        "rule CHO-24; a day's mean is not what runs while somebody draws",
    )
    return demand.then(working, tap, reason="one open tap takes more than the day's mean")


def _at_cut_in(site: Site) -> SystemCurve:
    """The system at the pressure at which the pump starts, where it draws most.

    Of an open tank the only one there is.
    """
    if _fills_open(site.facts):
        return site.system
    return _with_pressure(site, site.facts.si("cut_in"))


def _with_pressure(site: Site, pressure_pa: float) -> SystemCurve:
    route = replace(site.system.route, delivery_pressure_pa=pressure_pa)
    return SystemCurve(route, site.system.water)


KIND = Well()
