"""How a booster is run: by a pressure switch and a vessel, or by a drive at a set pressure."""

from __future__ import annotations

import math
from collections.abc import Iterator

import scipy

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, Site, Weight, alone, state
from sizing.checks.pressure import highest_supply_pa
from sizing.checks.well import OF_SECONDS_S, shortest_run
from sizing.selection.limit import Reaches
from sizing.storage.pressure_tank import PressureTank, pressure_tank

_ANY_M3 = 1.0  # a tank to try: the size that is needed does not hang on it


@alone("the control of the pump")
def control_checks(running: Running) -> Iterator[Check]:
    """The set-point, and what the way it is run asks for; both ways where none is chosen yet."""
    control = running.facts.choice("control")
    if control in ("open", "switch"):
        yield from _by_switch(running, decided=control == "switch")
    if control in ("open", "drive"):
        yield _by_drive(running)


def set_point_pa(site: Site) -> float:
    """Pressure to hold at the pump's outlet [Pa]: what the peak asks there, and a cushion.

    The cushion is rule BST-06.
    """
    needed = site.demand.needed_m3s
    head_m = site.system.head_at(needed) + _before_pump_m(site, needed)
    return site.system.water.pressure_pa(head_m) + site.rules.value("BST-06")


def switch_limits(site: Site) -> tuple[Reaches, ...]:
    """Run by a switch, a pump must reach the pressure that stops it."""
    if site.facts.choice("control") != "switch":
        return ()
    return (Reaches(_stops_at_m(site), 1.0, "never reaches the pressure at which it stops"),)


def _stops_at_m(site: Site) -> float:
    """Head of the pump itself at the pressure at which a switch stops it [m]."""
    cut_out = set_point_pa(site) + site.rules.value("TNK-02")
    return site.system.water.head_m(cut_out) - _before_pump_m(site, 0.0)


def at_rest_pa(running: Running) -> float:
    """Pressure at the pump's level with nobody drawing [Pa]; the main at its highest."""
    water, start_m = running.system.water, running.system.route.start_level_m
    before = water.pressure_pa(start_m) + highest_supply_pa(running)
    if running.facts.choice("control") == "drive":
        return max(set_point_pa(running), before)
    return before + water.pressure_pa(running.curve.shut_off_head_m)


def _before_pump_m(site: Site, flow_m3s: float) -> float:
    """Head of the water that comes to the pump, over the pump's own level [m]."""
    route = site.system.route
    return (
        route.start_level_m
        + site.system.water.head_m(route.supply_pressure_pa)
        - site.system.suction_loss_m(flow_m3s)
    )


def _outlet_pa(running: Running, flow_m3s: float) -> float:
    head_m = running.curve.head_at(flow_m3s) + _before_pump_m(running, flow_m3s)
    return running.system.water.pressure_pa(head_m)


def flow_at_pressure_m3s(running: Running, pressure_pa: float) -> float:
    """Flow that the pump gives into a vessel at a pressure [m3/s]; its last where it gives more."""
    curve = running.curve
    first, last = curve.flows_m3s[0], curve.last_flow_m3s
    if _outlet_pa(running, last) >= pressure_pa:
        return last
    if _outlet_pa(running, first) <= pressure_pa:
        return first
    return float(
        scipy.optimize.brentq(lambda flow: _outlet_pa(running, flow) - pressure_pa, first, last)
    )


def _by_switch(running: Running, *, decided: bool) -> Iterator[Check]:
    """The vessel between cut-in and cut-out, and whether the pump reaches the cut-out at all."""
    cut_in = set_point_pa(running)
    band = cut_in, cut_in + running.rules.value("TNK-02")
    reached = running.curve.highest_head_m >= _stops_at_m(running)
    yield _cut_out(running, band, reached=reached, decided=decided)
    if reached:
        yield _vessel(running, band, decided=decided)


@alone("the cut-out pressure")
def _cut_out(running: Running, band: tuple[float, float], *, reached: bool, decided: bool) -> Check:
    """Whether the pump makes the pressure at which its switch stops it."""
    cut_in, cut_out = band
    most = running.system.water.pressure_pa(
        running.curve.highest_head_m + _before_pump_m(running, 0.0)
    )
    return Check(
        "cut_out",
        "It reaches the pressure at which it stops",
        state(reached),
        message(
            "By a switch it starts at {cut_in} at its outlet and stops {band} higher, at {cut_out}"
            " (rules BST-06, TNK-02); with nobody drawing it makes {most}.",
            cut_in=Measure(cut_in, "pressure"),
            band=Measure(running.rules.value("TNK-02"), "pressure"),
            cut_out=Measure(cut_out, "pressure"),
            most=Measure(most, "pressure"),
        ),
        "Take a pump with more head at no flow, a narrower band, or a drive: by this switch it"
        " would never stop.",
        weight="must" if decided else "note",
    )


@alone("the pressure vessel")
def _vessel(running: Running, band: tuple[float, float], *, decided: bool) -> Check:
    """Whether the vessel there is, or the one that is needed, lets the pump run long enough."""
    together = running.running if running.job.arrangement == "parallel" else 1
    flow = flow_at_pressure_m3s(running, sum(band) / 2.0) / together
    rule, wanted = shortest_run(running)
    have = running.facts.optional("vessel")
    needed = _tank(running, band, flow, wanted, _ANY_M3).tank_volume_needed_m3
    found = _tank(running, band, flow, wanted, have or needed)
    run_s = found.run_time_no_draw_s
    return Check(
        code="vessel",
        label="Vessel and starts",
        state="hold" if have is None else state(run_s >= wanted, run_s >= 0.5 * wanted),
        message=message(
            ("The vessel of {have} gives {drawdown}" if have else "A vessel of {needed} gives")
            + (" between the two" if have else " {drawdown} between the two")
            + ": the pump runs at least {run}, and starts at most {starts} times an hour; {wanted}"
            " is wanted (rule {rule})" + (", which takes a vessel of {needed}." if have else "."),
            have=Measure(have or 0.0, "volume"),
            needed=Measure(needed, "volume"),
            drawdown=Measure(found.drawdown_m3, "volume"),
            run=Measure(run_s, "time"),
            starts=math.ceil(found.cycles_per_h_at_draw),
            wanted=Measure(wanted, "time"),
            rule=rule,
        ),
        remedy="Take a larger vessel, a wider band, or a drive by speed.",
        weight=_weight_of_vessel(run_s) if decided and have else "note",
        about="site",
        working=_shortest_run_working(found, have or needed, flow),
    )


def _weight_of_vessel(run_s: float) -> Weight:
    return "must" if run_s < OF_SECONDS_S else "should"


def _tank(
    running: Running, band: tuple[float, float], flow_m3s: float, wanted_s: float, volume_m3: float
) -> PressureTank:
    cut_in, cut_out = band
    return pressure_tank(
        tank_volume_m3=volume_m3,
        precharge_pa=max(cut_in - running.rules.value("TNK-01"), 0.0),
        cut_in_pa=cut_in,
        cut_out_pa=cut_out,
        pump_flow_m3s=flow_m3s,
        draw_flow_m3s=min(running.demand.needed_m3s, flow_m3s / 2.0),
        minimum_run_time_s=wanted_s,
    )


def _shortest_run_working(found: PressureTank, volume_m3: float, flow_m3s: float) -> Working:
    return Working(
        "Shortest run",
        "vessel × (p0/p1 − p0/p2) / flow",
        (
            ("vessel", Measure(volume_m3, "volume")),
            ("share that is drawn", Measure(found.drawdown_fraction, "ratio", 1)),
            ("flow at the middle of the band", Measure(flow_m3s, "flow")),
        ),
        Measure(found.run_time_no_draw_s, "time"),
        "Boyle, pressures with the air's; rule TNK-04",
    )


def _by_drive(running: Running) -> Check:
    """The speed that holds the set-point while nobody draws, and the small vessel's air."""
    at_rest = set_point_pa(running)
    most_m = max(running.curve.shut_off_head_m, 1e-6)  # a curve may begin at no head at all
    wanted_m = running.system.water.head_m(at_rest) - _before_pump_m(running, 0.0)
    speed = math.sqrt(max(wanted_m, 0.0) / most_m)
    slowest = running.pump.pump.slowest_speed
    decided = running.facts.choice("control") == "drive"
    return Check(
        "drive",
        "Held by a drive",
        state(slowest is not None and speed >= slowest, slowest is None) if decided else "hold",
        message(
            "A drive set to {set_point} at the pump's outlet (rule BST-06) holds it, with nobody"
            " drawing, at {speed} of full speed; it sleeps on a small vessel whose air is at {air}"
            " (rule TNK-05). "
            + (
                "Its maker does not say whether a drive may slow it."
                if slowest is None
                else "Its maker lets it slow down to {slowest}."
            ),
            slowest=Measure(slowest or 0.0, "ratio"),
            set_point=Measure(at_rest, "pressure"),
            speed=Measure(speed, "ratio"),
            air=Measure(running.rules.value("TNK-05") * at_rest, "pressure"),
        ),
        "Ask its maker how slow it may run, and for a drive with a sensor at the outlet; else take"
        " a pressure switch and a vessel.",
        weight="should" if decided else "note",
        asks=decided and slowest is None,
    )
