"""The cable down a well, and the generator that has to start its motor."""

from __future__ import annotations

import math
from collections.abc import Iterator

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import Check, Running, alone, state
from sizing.pump.conductors import conductor, drop, smallest

_NO_START = 2.0  # so many times what is borne, and the motor does not start


@alone("the voltage drop in the cable")
def cable_check(running: Running) -> Iterator[Check]:
    """The voltage that a cable drops, and which conductor would do.

    Nothing where no current is known.
    """
    facts, amps = running.facts, running.pump.pump.current_a
    if amps is None:
        return
    phases, volts = int(facts.choice("phases")), facts.si("voltage")
    answered = facts.optional("cable_length")
    if answered is None and not facts.asks("pump_setting"):
        return
    length = facts.si("pump_setting") if answered is None else answered
    most = running.rules.high("ELE-03")
    needed = smallest(
        running.job.units,
        share=most,
        phases=phases,
        supply_voltage_v=volts,
        current_a=amps,
        length_m=length,
    )
    would = "none of the table would" if needed is None else needed.size
    size = facts.choice("cable_size")
    chosen = needed if size == "any" else conductor(size)
    if chosen is None:
        return
    found = drop(chosen, phases=phases, supply_voltage_v=volts, current_a=amps, length_m=length)
    where = "to the pump alone: add the way to the panel" if answered is None else "all the way"
    yield Check(
        code="cable",
        label="Cable to the motor",
        state=state(bool(at_most(found.voltage_drop_fraction, most))),
        message=message(
            "{size} over {length} ({where}) drops {share} of {volts} at {amps}; up to {most} is"
            " borne (rule ELE-03). The thinnest that does: {would}.",
            size=chosen.size,
            length=Measure(length, "length"),
            where=where,
            share=Measure(found.voltage_drop_fraction, "ratio", 1),
            volts=Measure(volts, "voltage"),
            amps=Measure(amps, "current"),
            most=Measure(most, "ratio"),
            would=would,
        ),
        remedy="Take the thicker conductor: a starved motor draws more, heats and fails to start.",
        working=Working(
            "Voltage drop",
            "b I L R cos φ (b = 2 for one phase, √3 for three)",
            (
                ("current", Measure(amps, "current")),
                ("length, one way", Measure(length, "length")),
                ("resistance at 70 °C", f"{chosen.resistance_ohm_per_km:.3g} Ω/km"),
            ),
            Measure(found.voltage_drop_v, "voltage"),
            "IEC 60228; NEC chapter 9 table 8",
        ),
        # a motor on so little voltage does not start: it hums and burns
        weight="should" if at_most(found.voltage_drop_fraction, _NO_START * most) else "must",
        about="site",
    )
    yield from _at_the_motor(running, volts * (1.0 - found.voltage_drop_fraction))


def _at_the_motor(running: Running, left_v: float) -> Iterator[Check]:
    """Supply less the cable's drop, against what the motor is made for."""
    made_for = running.pump.pump.voltage_v
    if made_for is None:
        return
    borne = running.rules.value("CHO-08")
    yield Check(
        "volts",
        "Voltage at the motor",
        state(bool(at_least(left_v, made_for * (1.0 - borne)))),
        message(
            "Behind the cable {left} are left; the motor is made for {made_for}, and bears {borne}"
            " less (rule CHO-08).",
            left=Measure(left_v, "voltage"),
            made_for=Measure(made_for, "voltage"),
            borne=Measure(borne, "ratio"),
        ),
        "Take a thicker cable, or a motor made for this supply.",
        about="site",
    )


@alone("the generator")
def generator_check(running: Running) -> Iterator[Check]:
    """Whether a generator starts the motor; nothing where none is told."""
    facts, amps = running.facts, running.pump.pump.current_a
    rated = facts.optional("generator")
    if rated is None or amps is None:
        return
    phases, volts = int(facts.choice("phases")), facts.si("voltage")
    times, overload = running.rules.value("ELE-08"), running.rules.value("ELE-13")
    running_va = volts * amps * (math.sqrt(3.0) if phases == 3 else 1.0)
    needed = running_va * times / overload
    yield Check(
        code="generator",
        label="Start on the generator",
        state=state(bool(at_least(rated, needed)), bool(at_least(rated, 0.8 * needed))),
        message=message(
            "The motor takes {times} times its {amps} when it starts (rule ELE-08); a generator"
            " that bears {overload} times its rating for a moment (rule ELE-13) must be rated"
            " {needed}, this one is rated {rated}.",
            times=f"{times:g}",
            amps=Measure(amps, "current"),
            overload=f"{overload:g}",
            needed=Measure(needed, "power"),
            rated=Measure(rated, "power"),
        ),
        remedy="Take a larger generator, or a soft starter.",
        weight="should" if at_least(rated, needed / _NO_START) else "must",
        about="site",
    )
