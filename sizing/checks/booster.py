"""What must hold for a pump that keeps up the pressure in a building."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_most
from sizing.base.water import water
from sizing.checks.base import Check, Running, alone, state
from sizing.checks.booster_control import at_rest_pa
from sizing.demand import fixtures
from sizing.demand.fixture_methods import (
    SCHOOLS,
    UPGRADES,
    counts,
    upgraded,
)
from sizing.document.answers import Facts
from sizing.operating_point.one import speed_for_flow


def water_head_m(facts: Facts, pressure_pa: float) -> float:
    """A pressure as a head of this job's water [m]."""
    return water(facts.si("water_temperature")).head_m(pressure_pa)


@alone("the supply pressure")
def supply_checks(running: Running) -> Iterator[Check]:
    """The main's pressure while the building draws (BST-03)."""
    facts, rules = running.facts, running.rules
    if facts.choice("supply_from") != "main":
        return
    there, wanted = facts.si("supply_pressure"), rules.value("BST-03")
    text = message(
        "The main still has {there} at the pump in the worst hour; {wanted} keeps it from drawing"
        " the street down (rule BST-03).",
        there=Measure(there, "pressure"),
        wanted=Measure(wanted, "pressure"),
    )
    yield Check(
        "supply",
        "Pressure left in the main",
        state(there >= wanted, there >= rules.low("BST-03")),
        text,
        "Set a break tank between main and pump.",
        weight="must",
        about="site",
    )


@alone("the protection against running dry")
def dry_run_check(running: Running) -> Iterator[Check]:
    """Whether something stops a pump that draws from a tank before it runs dry."""
    facts = running.facts
    if facts.choice("supply_from") != "tank":
        return
    found = facts.choice("dry_run")
    yield Check(
        "dry_run",
        "Protected from running dry",
        state(found == "fitted", found == "unknown"),
        message(
            {
                "fitted": "It stops before the tank is empty.",
                "none": "Nothing stops it when the tank is empty: its seal burns within minutes.",
                "unknown": "Nobody has said what stops it when the tank is empty.",
            }[found]
        ),
        "Fit a float or level switch in the tank, or a flow switch that stops it dry.",
        weight="must" if found == "unknown" else "should",
        asks=found == "unknown",
        about="site",
    )


def highest_rule(facts: Facts) -> str:
    """The rule on the most pressure at rest at an outlet, by the school that was chosen."""
    return "BST-10" if facts.choice("outlet_limit") == "en" else "BST-07"


@alone("the pressure at the lowest outlet")
def lowest_check(running: Running) -> Check:
    """The pressure at the lowest outlet with nobody drawing: where a reducing valve is wanted."""
    facts, rules, system = running.facts, running.rules, running.system
    lowest, at_rest = facts.si("lowest_outlet"), at_rest_pa(running)
    pressure = at_rest - system.water.pressure_pa(lowest)
    rule = highest_rule(facts)
    most = rules.high(rule)
    borne = rules.value("BST-09")
    text = message(
        "With nobody drawing, the lowest outlet stands under {pressure}; over {most} it wants a"
        " reducing valve (rule {rule}), and over {borne} fittings burst (rule BST-09).",
        rule=rule,
        borne=Measure(borne, "pressure"),
        pressure=Measure(pressure, "pressure"),
        most=Measure(most, "pressure"),
    )
    inputs = (
        ("at the pump's level", Measure(at_rest, "pressure")),
        ("lowest outlet", Measure(lowest, "length")),
    )
    working = Working(
        "Pressure at no flow",
        "at the pump − ρ g level",
        inputs,
        Measure(pressure, "pressure"),
        "hydrostatics",
    )
    return Check(
        code="lowest",
        label="Pressure at the lowest outlet",
        state=state(bool(at_most(pressure, most)), bool(at_most(pressure, borne))),
        message=text,
        remedy=(
            "Fit reducing valves on the lower floors, or a drive that holds the pressure by speed."
        ),
        working=working,
    )


def _pressure_pa(running: Running, flow_m3s: float) -> float | None:
    """Pressure left at the worst outlet while this flow is drawn [Pa].

    None beyond the pump's curve.
    """
    if not running.curve.covers(flow_m3s):
        return None
    wanted_m = running.system.water.head_m(running.system.route.delivery_pressure_pa)
    return running.system.water.pressure_pa(
        running.curve.head_at(flow_m3s) - running.system.head_at(flow_m3s) + wanted_m
    )


@alone("the pressure at the worst outlet")
def outlet_check(running: Running) -> Check:
    """The pressure left at the worst outlet."""
    wanted, found = (
        running.system.route.delivery_pressure_pa,
        _pressure_pa(running, running.demand.needed_m3s),
    )
    outlet = fixtures.fixture(running.facts.choice("worst_outlet"))
    if found is None:
        return Check(
            "outlet",
            "Worst outlet",
            "fail",
            message("The demand lies beyond this pump's curve."),
            "Take a larger pump.",
        )
    text = message(
        "At the peak of {flow} the worst outlet ({outlet}) has {found}; {wanted} is wanted.",
        flow=Measure(running.demand.needed_m3s, "flow"),
        outlet=outlet.label,
        found=Measure(found, "pressure"),
        wanted=Measure(wanted, "pressure"),
    )
    return Check(
        "outlet",
        "Worst outlet",
        state(found >= wanted * 0.999, found >= 0.8 * wanted),
        text,
        "Take a pump with more head, or a wider branch.",
        weight="must",
    )


@alone("the pressure with one tap open")
def one_tap_check(running: Running) -> Iterator[Check]:
    """What a single tap has, with all others shut, and what a drive by speed would make of it."""
    tap = fixtures.fixture(running.facts.choice("worst_outlet"))
    draws = tap.flow_m3s
    found = None if draws is None else _pressure_pa(running, draws)
    if draws is None or found is None:
        return
    speed = speed_for_flow(running.curve, running.system, running.demand.needed_m3s)
    yield Check(
        "one_tap",
        "One tap alone",
        "hold",
        message(
            "With only the {outlet} open ({draws}) it has {found}. "
            + ("A drive would hold the peak at {speed} of full speed." if speed else ""),
            outlet=tap.label,
            draws=Measure(draws, "flow"),
            found=Measure(found, "pressure"),
            speed=Measure(speed or 0.0, "ratio"),
        ),
        "Between the two the pressure swings by what lies between: a drive by speed takes it away.",
        weight="note",
    )


@alone("what upgraded fixtures would need")
def upgrade_checks(running: Running) -> Iterator[Check]:
    """The showers made thirstier: flow and pressure before and after."""
    facts, upgrade = running.facts, running.facts.choice("upgrade")
    if upgrade == "none":
        return
    label = f"If the showers become {facts.chosen('upgrade')}"
    school = running.demand.taken if running.demand.taken in SCHOOLS else "statistical"
    if school in ("hunter_tank", "hunter_valve", "british", "en806"):
        school = "statistical"  # these know no such shower
    try:
        now = counts(facts)
        after = SCHOOLS[school][1](facts, upgraded(now, upgrade))
        before = SCHOOLS[school][1](facts, now)
    except SizingError as problem:
        yield Check(
            "upgrade",
            label,
            "watch",
            message("Cannot be worked out: {problem}.", problem=str(problem)),
            "Fill in the schedule of fixtures.",
            weight="note",
        )
        return
    needed = running.demand.needed_m3s + (after - before) * running.demand.margin
    pressure_before, pressure_after = (
        _pressure_pa(running, running.demand.needed_m3s),
        _pressure_pa(running, needed),
    )
    wanted = fixtures.fixture(UPGRADES[upgrade]).residual_pa
    text = message(
        "The peak grows from {before} to {needed} (by the {school}), and the worst outlet falls"
        " from {p_before} to {p_after}; such a head wants {wanted} (low confidence: heads differ"
        " widely, go by the maker).",
        before=Measure(running.demand.needed_m3s, "flow"),
        needed=Measure(needed, "flow"),
        school=SCHOOLS[school][0],
        p_before="nothing" if pressure_before is None else Measure(pressure_before, "pressure"),
        p_after=(
            "what lies beyond the pump's curve"
            if pressure_after is None
            else Measure(pressure_after, "pressure")
        ),
        wanted=Measure(wanted, "pressure"),
    )
    holds = pressure_after is not None and pressure_after >= wanted
    yield Check(
        "upgrade",
        label,
        "hold" if holds else "watch",
        text,
        "Agree on the shower heads in writing, or size for these now: take the flow as stated.",
        weight="note",
    )
