"""What must hold for a small diaphragm pump with a pressure switch."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, state
from sizing.document.answers import Facts
from sizing.storage.pressure_tank import pressure_tank

_ELASTOMERS = {
    "drinking": "Valves and diaphragm of EPDM or silicone that is listed for drinking water.",
    "nutrient": "Nutrient solution is mild acid: EPDM; nothing of brass or zinc.",
    "disinfectant": (
        "Chlorine and peroxide eat rubber: FKM or EPDM by the maker's table, and rinse after use."
    ),
    "sea": "Sea water: EPDM, no plain steel; rinse before it dries.",
}


def prime_check(running: Running) -> Check:
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
    )


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
        state(reaches >= 1.05 * off and on > tap, reaches >= off),
        text,
        "Set the switch under what the pump reaches, and its start over what the taps want; else it"
        " never stops, or the taps fade before it starts.",
    )


def cycling_checks(running: Running) -> Iterator[Check]:
    """How often the switch starts the pump at a small draw."""
    facts = running.facts
    volume = facts.optional("accumulator")
    if volume is None:
        yield Check(
            "cycling",
            "Cycling",
            "watch",
            message("Without an accumulator the switch hunts whenever a tap runs thin."),
            "Fit an accumulator behind the pump.",
        )
        return
    found = pressure_tank(
        tank_volume_m3=volume,
        precharge_pa=facts.si("switch_on") - running.rules.low("TNK-01"),
        cut_in_pa=facts.si("switch_on"),
        cut_out_pa=facts.si("switch_off"),
        pump_flow_m3s=running.flow_m3s,
        minimum_run_time_s=1.0,
    )
    every, usual, least = (
        SECONDS_PER_HOUR / found.worst_cycles_per_h,
        running.rules.value("DEM-03"),
        running.rules.low("DEM-03"),
    )
    text = message(
        "The accumulator gives {drawdown} between the two pressures: at its worst the pump starts"
        " every {every}; {usual} is kind (rule DEM-03).",
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
        remedy="Take a larger accumulator.",
        working=working,
    )


def elastomer_check(facts: Facts) -> Check:
    """Whether the rubber stands what is pumped."""
    found = facts.choice("liquid")
    return Check(
        "elastomer",
        "Diaphragm and valves",
        "watch" if found in ("disinfectant", "nutrient") else "hold",
        message(_ELASTOMERS[found]),
        "Compare the maker's table of chemicals before it is bought.",
    )
