"""What must hold for a pump in a well: its yield, water over the pump, cooling, the tank."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import Check, Running, Site, alone, state, state_of
from sizing.checks.pit import holds_back
from sizing.checks.pump_curve import pump_checks
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.one import operating_point
from sizing.selection.limit import AtLowest, ByFlow, Limit, not_over, not_under
from sizing.storage.pressure_tank import pressure_tank
from sizing.storage.well import cooling

_MOST_OVER_YIELD = 1.15  # of the tested yield: watched up to it, fails beyond
_SIX_INCH_M = 0.13  # motors from six inches on are rule MOT-02's, slimmer ones MOT-01's
_SMALL_W, _LARGE_W = 560.0, 5500.0  # 3/4 hp and 7.5 hp, where CYC-06 to CYC-08 change over
_NEARLY = 1.5  # times the starts a day: watched up to it
_ONE_HP_W = 745.7  # the size from which rule CYC-10 holds instead of CYC-09


@alone("the pump in its well")
def checks(running: Running, *of_the_pump: str) -> list[Check]:
    """What holds for every pump in a borehole; ``of_the_pump`` names checks of the curve."""
    return [
        *pump_checks(running, *of_the_pump),
        _cooling(running),
    ]


@alone("the levels of the well")
def site_checks(site: Site) -> list[Check]:
    """What the well does to every pump."""
    return [_clear_of_the_bottom(site), *_check_valve(site), *_one_riser(site)]


@alone("the check valve of the riser")
def _check_valve(site: Site) -> Iterator[Check]:
    """Without one the line runs back through the pump at each stop."""
    fitted = holds_back(site)
    yield Check(
        "check_valve",
        "Check valve in the riser",
        state(fitted),
        message("A check valve keeps the line full: the pump does not spin back.")
        if fitted
        else message(
            "No leg has a check valve: at each stop the line runs back through the pump, which"
            " spins backwards, and the next start hits an empty riser."
        ),
        "Fit a check valve over the pump; where the pump has one of its own, add it to the riser as"
        " a fitting, so that its loss counts.",
        about="site",
    )


@alone("the pumps in one riser")
def _one_riser(site: Site) -> Iterator[Check]:
    """Two submersibles on one riser cannot be drawn singly, and push against each other."""
    running = 1 if site.job.arrangement == "single" else site.job.running_pumps
    pumps = running + site.job.standby
    if pumps == 1:
        return
    yield Check(
        "one_riser",
        "One pump on the riser",
        "fail",
        message("{pumps} pumps hang in the well on one riser.", pumps=str(pumps)),
        "Hang one pump on each riser: neither could be drawn without the other.",
        weight="must",
        about="site",
    )


def limits(site: Site, lowest: SystemCurve) -> tuple[Limit, ...]:
    """Yield and cover, at the most that a pump draws: ``lowest`` is the system at its least head.

    Of a pressure tank that is where the pump starts, of an open tank the only one there is.
    """
    given, rules = site.facts.si("tested_yield"), site.rules

    def cover(flow_m3s: Array) -> Array:
        return np.asarray(_cover_m(site, flow_m3s))

    return (
        AtLowest(
            lowest,
            ByFlow(
                lambda flow_m3s: flow_m3s,
                partial(not_over, usual=given, most=_MOST_OVER_YIELD * given),
                "would draw {figure}, more than the well gives",
                "flow",
                "would draw more than the well gives",
            ),
        ),
        AtLowest(
            lowest,
            ByFlow(
                cover,
                partial(not_under, usual=rules.value("WEL-14"), least=rules.low("WEL-14")),
                "would leave {figure} of water over itself",
                "length",
                "would draw the well down to itself",
            ),
        ),
    )


def _cover_m(site: Site, flow_m3s: Array | float) -> Array | float:
    """Water over the pump at a flow [m]."""
    setting, standing = site.facts.si("pump_setting"), site.facts.si("static_level")
    return setting - standing - site.system.route.drawdown_s_m2 * flow_m3s


def most_drawn_m3s(running: Running, lowest: SystemCurve) -> float:
    """The flow at the lowest pressure of the band [m3/s].

    The end of its curve where it runs off.
    """
    found = operating_point(running.curve, lowest)
    if found.point:
        return max(found.point.flow_m3s, running.flow_m3s)
    return running.curve.last_flow_m3s if found.status == "off_end" else running.flow_m3s


@alone("the water over the pump")
def drawn_checks(running: Running, lowest: SystemCurve) -> list[Check]:
    """Yield and cover of the pump that runs, at the most that it draws."""
    most = most_drawn_m3s(running, lowest)
    given = running.facts.si("tested_yield")
    band = most > 1.001 * running.flow_m3s
    return [
        Check(
            "yield",
            "Not more than the well gives",
            state_of(partial(not_over, usual=given, most=_MOST_OVER_YIELD * given), most),
            message(
                "It draws {flow}"
                + (", and {most} at the pressure at which it starts" if band else "")
                + "; the well was tested at {given}.",
                flow=Measure(running.flow_m3s, "flow"),
                most=Measure(most, "flow"),
                given=Measure(given, "flow"),
            ),
            "Take a smaller pump or a flow valve that holds it to the yield, and a controller that"
            " stops it before it runs dry.",
            weight="must",
        ),
        _cover(running, most),
    ]


@alone("the water over the pump")
def _cover(running: Running, most: float) -> Check:
    facts, rules = running.facts, running.rules
    drawdown = running.system.route.drawdown_s_m2 * most
    setting, cover = facts.si("pump_setting"), float(_cover_m(running, most))
    inputs = (
        ("pump below ground", Measure(setting, "length")),
        ("standing water", Measure(facts.si("static_level"), "length")),
        ("drawdown", Measure(drawdown, "length")),
    )
    usual, least = rules.value("WEL-14"), rules.low("WEL-14")
    return Check(
        code="cover",
        label="Water over the pump",
        state=state_of(partial(not_under, usual=usual, least=least), cover),
        message=message(
            "At the most that it draws the level sinks by {drawdown}, and {cover} stay over the"
            " pump; {wanted} is kind, {least} the least (rule WEL-14).",
            drawdown=Measure(drawdown, "length"),
            cover=Measure(cover, "length"),
            wanted=Measure(usual, "length"),
            least=Measure(least, "length"),
        ),
        remedy=(
            "Hang the pump lower, or draw less: a well sinks further in a dry summer than in its"
            " test."
        ),
        working=Working(
            "Water over the pump",
            "setting − standing level − drawdown",
            inputs,
            Measure(cover, "length"),
            "levels below ground",
        ),
        weight="must",
        about="pump" if _cover_m(running, running.demand.needed_m3s) >= least else "site",
    )


@alone("the pressure switch")
def band_checks(running: Running, empty: SystemCurve, at_cut_in: SystemCurve) -> Iterator[Check]:
    """The flow from the first start to the cut-out, and the pressure at the highest outlet."""
    flows = [
        most_drawn_m3s(running, empty),
        most_drawn_m3s(running, at_cut_in),
        running.flow_m3s,
    ]
    yield Check(
        "band",
        "Flow over the band of pressure",
        "hold",
        message(
            "At its first start, against an empty tank, it gives {first}; at the cut-in {start}, at"
            " the cut-out {stop}.",
            first=Measure(flows[0], "flow"),
            start=Measure(flows[1], "flow"),
            stop=Measure(flows[2], "flow"),
        ),
        "At the first start throttle the outlet: a well pump must not run off its curve.",
        weight="note",
    )
    outlet = running.facts.optional("highest_outlet")
    if outlet is None:
        return
    water, route, rules = running.system.water, running.system.route, running.rules
    rise = outlet - route.legs[-1].end_elevation_m
    left = running.facts.si("cut_in") - water.pressure_pa(rise)
    usual, least = rules.value("BST-02"), rules.low("BST-02")
    yield Check(
        "highest",
        "Highest outlet before the pump starts",
        state(bool(at_least(left, usual)), bool(at_least(left, least))),
        message(
            "It lies {rise} over the tank: at the cut-in {left} are left there; {usual} is usual,"
            " {least} the least (rule BST-02).",
            rise=Measure(rise, "length"),
            left=Measure(left, "pressure"),
            usual=Measure(usual, "pressure"),
            least=Measure(least, "pressure"),
        ),
        "Set both pressures higher, or the tank further up.",
        about="site",
    )


@alone("the distance from the bottom")
def _clear_of_the_bottom(site: Site) -> Check:
    rules = site.rules
    room = site.facts.si("well_depth") - site.facts.si("pump_setting")
    return Check(
        "above_bottom",
        "Clear of the bottom",
        state(room >= rules.value("WEL-13"), room >= rules.low("WEL-13")),
        message(
            "It hangs {room} over the bottom; {wanted} keeps it out of the sand (rule WEL-13).",
            room=Measure(room, "length"),
            wanted=Measure(rules.value("WEL-13"), "length"),
        ),
        "Hang the pump higher.",
        weight="must" if room <= 0 else "should",
        about="site",
    )


@alone("the cooling of the motor")
def _cooling(running: Running) -> Check:
    facts, pump = running.facts, running.pump.pump
    motor = pump.width_m if pump.width_m is not None else running.rules.value("MOT-06")
    rule = "MOT-02" if motor >= _SIX_INCH_M else "MOT-01"
    wanted = running.rules.value(rule)
    found = cooling(
        casing_inside_diameter_m=facts.si("casing"),
        motor_diameter_m=motor,
        flow_m3s=running.flow_m3s,
        required_velocity_ms=wanted,
    )
    text = message(
        "Water passes the motor at {speed}; {wanted} cools it (rule {rule}), if the well feeds from"
        " below the motor. The widest sleeve that still does: {bore}.",
        rule=rule,
        speed=Measure(found.velocity_ms, "velocity"),
        wanted=Measure(wanted, "velocity"),
        bore=Measure(found.largest_sleeve_inside_diameter_m, "bore"),
    )
    remedy = "Put a sleeve over the motor that makes the water pass it."
    inputs = (
        ("casing", Measure(facts.si("casing"), "bore")),
        ("motor", Measure(motor, "bore")),
        ("flow", Measure(running.flow_m3s, "flow")),
    )
    working = Working(
        "Speed past the motor",
        "flow / (π/4 (D² − d²))",
        inputs,
        Measure(found.velocity_ms, "velocity"),
        "continuity; rule MOT-03",
    )
    return Check(
        code="cooling",
        label="Motor cooled",
        state=state(found.cooled),
        message=text,
        remedy=remedy,
        working=working,
        about="site",
    )


OF_SECONDS_S = 10.0  # a run of seconds: the motor starts until it burns


def shortest_run(running: Running) -> tuple[str, float]:
    """The rule for the shortest run on a pressure tank by the motor's size, and its time [s]."""
    rule = "CYC-10" if (running.pump.pump.motor_power_w or 0.0) >= _ONE_HP_W else "CYC-09"
    return rule, running.rules.value(rule)


@alone("the pressure tank")
def tank(running: Running, day_m3: float) -> Iterator[Check]:
    """The pressure tank.

    The pump's shortest run, whether the pump can reach the pressure at which it stops, how often it
    starts for the water of a day.
    """
    facts, rules = running.facts, running.rules
    cut_in, cut_out, flow = facts.si("cut_in"), facts.si("cut_out"), running.flow_m3s
    precharge = facts.optional("precharge")
    rule, wanted = shortest_run(running)
    found = pressure_tank(
        tank_volume_m3=facts.si("tank_volume"),
        precharge_pa=cut_in - rules.value("TNK-01") if precharge is None else precharge,
        cut_in_pa=cut_in,
        cut_out_pa=cut_out,
        pump_flow_m3s=flow,
        minimum_run_time_s=wanted,
    )
    inputs = (
        ("tank", Measure(facts.si("tank_volume"), "volume")),
        ("share that is drawn", Measure(found.drawdown_fraction, "ratio", 1)),
        ("pump flow", Measure(flow, "flow")),
    )
    yield Check(
        code="tank",
        label="Pressure tank",
        state=state(found.run_time_no_draw_s >= wanted, found.run_time_no_draw_s >= 0.5 * wanted),
        message=message(
            "Between its pressures the tank gives {drawdown}: the pump runs at least {run};"
            " {wanted} is wanted (rule {rule}), which takes a tank of {needed}.",
            drawdown=Measure(found.drawdown_m3, "volume"),
            run=Measure(found.run_time_no_draw_s, "time"),
            wanted=Measure(wanted, "time"),
            rule=rule,
            needed=Measure(found.tank_volume_needed_m3, "volume"),
        ),
        remedy="Take a larger tank, set the two pressures further apart, or a drive that holds the"
        " pressure by speed.",
        working=Working(
            "Shortest run",
            "tank × (p0/p1 − p0/p2) / flow",
            inputs,
            Measure(found.run_time_no_draw_s, "time"),
            "Boyle, pressures with the air's; rule TNK-04",
        ),
        weight="must" if found.run_time_no_draw_s < OF_SECONDS_S else "should",
        about="site",
    )
    yield from _ceiling(running)
    yield from _starts_a_day(running, day_m3, found.drawdown_m3)
    air = cut_in - rules.value("TNK-01") if precharge is None else precharge
    yield Check(
        "precharge",
        "Air in the tank",
        state(not found.precharge_above_cut_in),
        message(
            "Empty, the tank's air is at {air}; it must lie under the cut-in of {cut_in}, or"
            " the tank is empty before the pump starts.",
            air=Measure(air, "pressure"),
            cut_in=Measure(cut_in, "pressure"),
        ),
        "Let air out until it is a little under the cut-in, with the tank empty.",
        weight="must",
        about="site",
    )


@alone("the highest pressure of the tank")
def _ceiling(running: Running) -> Iterator[Check]:
    """The cut-out against what tanks and houses are rated for (TNK-06)."""
    cut_out, rules = running.facts.si("cut_out"), running.rules
    usual, most = rules.value("TNK-06"), rules.high("TNK-06")
    yield Check(
        "ceiling",
        "Pressure of tank and house",
        state(bool(at_most(cut_out, usual)), bool(at_most(cut_out, most))),
        message(
            "It stops at {cut_out}; tanks and houses are usually rated for {usual}, {most} at the"
            " most (rule TNK-06).",
            cut_out=Measure(cut_out, "pressure"),
            usual=Measure(usual, "pressure"),
            most=Measure(most, "pressure"),
        ),
        "Set the pressures lower, or fit a tank rated for it and a reducing valve to the house.",
        weight="must" if cut_out > most else "should",
        about="site",
    )


@alone("the starts in a day")
def _starts_a_day(running: Running, day_m3: float, drawdown_m3: float) -> Iterator[Check]:
    """At most so many as the day's water holds drawdowns of the tank; nothing without a day."""
    if not day_m3:
        return
    rated = running.pump.pump.motor_power_w or 0.0
    three_phase = running.pump.pump.phases == 3
    rule = (
        "CYC-06"
        if rated <= _SMALL_W or (three_phase and rated < _LARGE_W)
        else "CYC-07"
        if rated < _LARGE_W
        else "CYC-08"
    )
    starts, most = day_m3 / drawdown_m3, running.rules.high(rule)
    yield Check(
        "starts_a_day",
        "Starts in a day",
        state(bool(at_most(starts, most)), bool(at_most(starts, _NEARLY * most))),
        message(
            "The day's {day} are {starts} times what the tank gives between its pressures: so often"
            " it starts at the most; {most} are borne (rule {rule}).",
            day=Measure(day_m3, "volume"),
            starts=f"{starts:.0f}",
            most=f"{most:g}",
            rule=rule,
        ),
        "Take a larger tank, or set the two pressures further apart.",
        about="site",
    )
