"""What must hold for a pump in a well: its yield, water over the pump, cooling, the tank."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, state
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import velocities
from sizing.storage.pressure_tank import pressure_tank
from sizing.storage.well import cooling, storage_for_peak

_ONE_HP_W = 745.7  # the size from which rule CYC-10 holds instead of CYC-09


def checks(running: Running) -> list[Check]:
    """What holds for every pump in a borehole."""
    return [
        *pump_checks(running),
        *velocities(running, "", "VEL-13", "is usual in a drop pipe"),
        _yield(running),
        *_levels(running),
        _cooling(running),
    ]


def _yield(running: Running) -> Check:
    given, flow = running.facts.si("tested_yield"), running.flow_m3s
    return Check(
        "yield",
        "Not more than the well gives",
        state(flow <= given, flow <= 1.15 * given),
        message(
            "It draws {flow}; the well was tested at {given}.",
            flow=Measure(flow, "flow"),
            given=Measure(given, "flow"),
        ),
        "Take a smaller pump or a flow valve that holds it to the yield, and a controller that"
        " stops it before it runs dry.",
    )


def _levels(running: Running) -> Iterator[Check]:
    facts, rules = running.facts, running.rules
    drawdown = running.system.route.drawdown_s_m2 * running.flow_m3s
    setting, depth = facts.si("pump_setting"), facts.si("well_depth")
    cover = setting - facts.si("static_level") - drawdown
    inputs = (
        ("pump below ground", Measure(setting, "length")),
        ("standing water", Measure(facts.si("static_level"), "length")),
        ("drawdown", Measure(drawdown, "length")),
    )
    yield Check(
        code="cover",
        label="Water over the pump",
        state=state(cover >= rules.value("WEL-14"), cover >= rules.low("WEL-14")),
        message=message(
            "While it runs the level sinks by {drawdown}, and {cover} stay over the pump; {wanted}"
            " is kind (rule WEL-14).",
            drawdown=Measure(drawdown, "length"),
            cover=Measure(cover, "length"),
            wanted=Measure(rules.value("WEL-14"), "length"),
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
    )
    room = depth - setting
    yield Check(
        "above_bottom",
        "Clear of the bottom",
        state(room >= rules.value("WEL-13"), room >= rules.low("WEL-13")),
        message(
            "It hangs {room} over the bottom; {wanted} keeps it out of the sand (rule WEL-13).",
            room=Measure(room, "length"),
            wanted=Measure(rules.value("WEL-13"), "length"),
        ),
        "Hang the pump higher.",
    )


def _cooling(running: Running) -> Check:
    facts, pump = running.facts, running.pump.pump
    motor = pump.width_m if pump.width_m is not None else running.rules.value("MOT-06")
    wanted = running.rules.value("MOT-01")
    found = cooling(
        casing_inside_diameter_m=facts.si("casing"),
        motor_diameter_m=motor,
        flow_m3s=running.flow_m3s,
        required_velocity_ms=wanted,
    )
    text = message(
        "Water passes the motor at {speed}; {wanted} cools it (rule MOT-01), if the well feeds from"
        " below the motor. The widest sleeve that still does: {bore}.",
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
    )


def storage(running: Running) -> Check:
    """Storage where the well gives less than the peak: how large, how long it fills."""
    wanted, given = running.demand.inflow_m3s * running.demand.margin, running.demand.needed_m3s
    if given >= wanted:
        return Check(
            "storage",
            "Storage",
            "hold",
            message("The well gives the whole peak: no storage is needed."),
        )
    found = storage_for_peak(
        peak_flow_m3s=wanted, peak_time_s=running.facts.si("peak_time"), refill_flow_m3s=given
    )
    text = message(
        "The peak of {wanted} is more than the well gives: an open tank of {volume} carries {time}"
        " of it, and fills again in {fill} while nobody draws.",
        wanted=Measure(wanted, "flow"),
        volume=Measure(found.volume_m3, "volume"),
        time=Measure(running.facts.si("peak_time"), "time"),
        fill=Measure(found.fill_time_s, "time"),
    )
    inputs = (
        ("peak", Measure(wanted, "flow")),
        ("well gives", Measure(given, "flow")),
        ("the peak lasts", Measure(running.facts.si("peak_time"), "time")),
    )
    working = Working(
        "Storage for the peak",
        "(peak − yield) × time",
        inputs,
        Measure(found.volume_m3, "volume"),
        "continuity; compare rule WEL-10",
    )
    return Check(
        code="storage",
        label="Storage",
        state="watch",
        message=text,
        remedy="Set the tank between well and house, with a booster behind it.",
        working=working,
    )


def tank(running: Running) -> Iterator[Check]:
    """The pressure tank.

    The pump's shortest run, and whether the pump can reach the pressure at which it stops.
    """
    facts, rules = running.facts, running.rules
    cut_in, cut_out, flow = facts.si("cut_in"), facts.si("cut_out"), running.flow_m3s
    precharge = facts.optional("precharge")
    rule = "CYC-10" if (running.pump.pump.motor_power_w or 0.0) >= _ONE_HP_W else "CYC-09"
    wanted = rules.value(rule)
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
    )
    if found.precharge_above_cut_in:
        yield Check(
            "precharge",
            "Air in the tank",
            "fail",
            message("The tank's air is over the cut-in: the tank is empty before the pump starts."),
            "Let air out until it is a little under the cut-in, with the tank empty.",
        )
