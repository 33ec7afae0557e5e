"""What must hold for a small diaphragm pump with a pressure switch."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.selection.limit import Reaches
from sizing.storage.pressure_tank import pressure_tank

_OVER_SWITCH = 1.05  # of the switch's upper pressure: what a pump should reach with all taps shut
_A_LITRE_M3 = 1e-3
_STANDS = {
    "drinking": ("EPDM", "SILICONE", "NBR"),
    "nutrient": ("EPDM", "FKM"),
    "disinfectant": ("FKM", "EPDM"),
    "sea": ("EPDM", "NBR", "FKM"),
}
_ELASTOMERS = {
    "drinking": "Valves and diaphragm of EPDM or silicone that is listed for drinking water.",
    "nutrient": "Nutrient solution is mild acid: EPDM; nothing of brass or zinc.",
    "disinfectant": (
        "Chlorine and peroxide eat rubber: FKM or EPDM by the maker's table, and rinse after use."
    ),
    "sea": "Sea water: EPDM, no plain steel; rinse before it dries.",
}


@alone("priming")
def prime_check(running: Site) -> Check:
    """Whether it can draw the water up to itself."""
    lift, usual, most = (
        -running.facts.si("tank_level"),
        running.rules.low("DEM-02"),
        running.rules.high("DEM-02"),
    )
    if lift <= 0:
        return Check(
            "prime", "Priming", "hold", message("The water stands over the pump and runs to it.")
        )
    text = message(
        "It has to suck the water up {lift}; {usual} is sure, {most} the most (rule DEM-02).",
        lift=Measure(lift, "length"),
        usual=Measure(usual, "length"),
        most=Measure(most, "length"),
    )
    return Check(
        "prime",
        "Priming",
        state(lift <= usual, lift <= most),
        text,
        "Set the pump lower, or nearer to the tank.",
        weight="must",
        about="site",
    )


@alone("the pressure switch")
def switch_check(running: Running) -> Check:
    """The switch against the taps below it and the pump above it."""
    facts, water = running.facts, running.system.water
    off, on, tap = facts.si("switch_off"), facts.si("switch_on"), facts.si("tap_pressure")
    if on >= off:
        raise SizingError("the switch must start the pump at a lower pressure than it stops it")
    reaches = water.pressure_pa(running.curve.shut_off_head_m + facts.si("tank_level"))
    text = message(
        "The switch stops it at {off} and starts it at {on}; the taps want {tap}, and with all shut"
        " the pump reaches {reaches}.",
        off=Measure(off, "pressure"),
        on=Measure(on, "pressure"),
        tap=Measure(tap, "pressure"),
        reaches=Measure(reaches, "pressure"),
    )
    return Check(
        "switch",
        "Pressure switch",
        state(reaches >= _OVER_SWITCH * off and on > tap, reaches >= off),
        text,
        "Set the switch under what the pump reaches, and its start over what the taps want; else it"
        " never stops, or the taps fade before it starts.",
        weight="must",
    )


def switch_limit(site: Site) -> Reaches:
    """With all taps shut the pump reaches the pressure at which its switch stops it."""
    off_m = site.system.water.head_m(site.facts.si("switch_off")) - site.facts.si("tank_level")
    return Reaches(off_m, _OVER_SWITCH, "never reaches the pressure at which its switch stops it")


@alone("cycling")
def cycling_checks(running: Running) -> Iterator[Check]:
    """How often the switch starts the pump at a small draw."""
    facts = running.facts
    volume = facts.optional("accumulator")
    found = pressure_tank(
        tank_volume_m3=volume or _A_LITRE_M3,
        precharge_pa=facts.si("switch_on") - running.rules.low("TNK-01"),
        cut_in_pa=facts.si("switch_on"),
        cut_out_pa=facts.si("switch_off"),
        pump_flow_m3s=running.flow_m3s,
        minimum_run_time_s=1.0,
    )
    wanted_m3 = (volume or _A_LITRE_M3) * running.rules.value("DEM-03") * found.worst_cycles_per_h
    wanted_m3 /= SECONDS_PER_HOUR
    if volume is None:
        yield Check(
            "cycling",
            "Cycling",
            "fail",
            message(
                "Without an accumulator the switch hunts whenever a tap runs thin; {wanted} would"
                " keep it to a start every {every} (rule DEM-03).",
                wanted=Measure(wanted_m3, "volume"),
                every=Measure(running.rules.value("DEM-03"), "time"),
            ),
            "Fit an accumulator behind the pump, or a pump that follows the taps by its speed.",
            about="site",
        )
        return
    every, usual, least = (
        SECONDS_PER_HOUR / found.worst_cycles_per_h,
        running.rules.value("DEM-03"),
        running.rules.low("DEM-03"),
    )
    text = message(
        "The accumulator gives {drawdown} between the two pressures: at its worst the pump starts"
        " every {every}; {usual} is kind (rule DEM-03), which takes {wanted}.",
        wanted=Measure(wanted_m3, "volume"),
        drawdown=Measure(found.drawdown_m3, "volume"),
        every=Measure(every, "time"),
        usual=Measure(usual, "time"),
    )
    inputs = (
        ("accumulator", Measure(volume, "volume")),
        ("share that is drawn", Measure(found.drawdown_fraction, "ratio", 1)),
        ("pump flow", Measure(running.flow_m3s, "flow")),
    )
    working = Working(
        "Shortest cycle",
        "4 × drawdown / flow",
        inputs,
        Measure(every, "time"),
        "Boyle; rule TNK-04",
    )
    yield Check(
        code="cycling",
        label="Cycling",
        state=state(every >= usual, every >= least),
        message=text,
        remedy="Take a larger accumulator, set the two pressures further apart, or a pump that"
        " follows the taps by its speed; a throttled or leaking tap and a lost precharge hunt too.",
        about="site",
        working=working,
    )


@alone("the elastomer")
def elastomer_check(running: Running) -> Check:
    """Whether the rubber stands what is pumped: what nobody has stated is no proof."""
    found, stated = running.facts.choice("liquid"), running.pump.pump.elastomers
    fit = _STANDS[found]
    stands = any(one in stated.upper() for one in fit)
    harmless = found == "drinking"
    return Check(
        "elastomer",
        "Diaphragm and valves",
        state(stands or (harmless and not stated), not stated),
        message(
            "{wants} The maker states {stated}.",
            wants=_ELASTOMERS[found],
            stated=stated or "nothing of its rubber",
        ),
        "Ask for the rubber, and compare the maker's table of chemicals before it is bought.",
    )
