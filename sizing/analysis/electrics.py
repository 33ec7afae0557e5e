"""The cable to a pump's motor, running and starting; what starts it softer, and on what generator.

The drop of a cable is b I L (R cos phi + X sin phi) as a share of the supply; at the start the
motor draws a multiple of its current at a poor power factor (:mod:`sizing.pump.cable`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from sizing.analysis.changed import Known, NotYet
from sizing.base.errors import SizingError
from sizing.pump.cable import Breaker, Load
from sizing.pump.conductors import DIRECT_TO_V, POWER_FACTOR, Conductor, conductors

_STARTING_PF = 0.4  # of a locked small motor, usual
START_DROP = 0.15  # of the supply in the moment of starting, borne by most motors (assumed)
_LOOP_OHM = 0.8  # of the supply up to the panel, assumed
_BREAKER_MULTIPLE = 10.0  # of its rating, at which a C breaker trips at once at the latest
_VOLTAGE_FACTOR = 0.95
_FUSES_A = (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0)
_BREAKERS_A = (6.0, 10.0, 13.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0)


@dataclass(frozen=True)
class StartKind:
    """A way to start: its current over the running one, and what it is for."""

    label: str
    multiple: float
    phases: tuple[int, ...]
    note: str


def start_kinds(direct: float) -> tuple[StartKind, ...]:
    """The usual ways; ``direct`` is the multiple of a motor put straight on the line."""
    return (
        StartKind("straight on the line", direct, (1, 3), "the plainest; the lights dip"),
        StartKind(
            "star, then delta", direct / 3, (3,), "a third of current and torque: not under load"
        ),
        StartKind("soft starter", 3.0, (1, 3), "set to about three times; kind to check valves"),
        StartKind("drive", 1.1, (1, 3), "starts without any surge and runs at any speed"),
    )


@dataclass(frozen=True)
class CableRow:
    """One conductor over the length: drops as shares of the supply, and how far it would do [m]."""

    conductor: Conductor
    running: float
    starting: float
    longest_m: float
    trips_m: float
    does: bool


@dataclass(frozen=True)
class StartRow:
    """One way to start: its current [A], and the generator for it [VA]."""

    kind: StartKind
    current_a: float
    generator_va: float
    starting: float  # drop on the conductor that is taken


@dataclass(frozen=True)
class Electrics:
    """What a motor's cable comes to."""

    amps: float
    volts: float
    phases: int
    length_m: float
    most_running: float
    most_starting: float
    breaker_a: float | None  # of a breaker; on direct current of a fuse
    direct: bool  # direct current: a fuse, no breaker's curve, one way to start, no generator
    rows: tuple[CableRow, ...]
    best: CableRow | None
    starts: tuple[StartRow, ...]


def electrics(base: Known, length_m: float, most_starting: float = START_DROP) -> Electrics:
    """The cable of the pump on a job.

    Raises
    ------
    NotYet
        No pump that runs, or one whose maker gives no current.
    SizingError
        A length that no cable has.
    """
    running = base.sizing.running
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    amps, facts, rules = running.pump.pump.current_a, running.facts, running.rules
    if amps is None:
        raise NotYet("the maker gives no current of this pump: read it off its plate")
    if not 0 < length_m <= 5000:
        raise SizingError("a cable is between nothing and 5 km long")
    volts = facts.si("voltage") if facts.asks("voltage") else running.pump.pump.voltage_v
    if not volts:
        raise NotYet("neither the job nor the maker says the voltage of the supply")
    phases = int(facts.choice("phases")) if facts.asks("phases") else 1
    direct, most = rules.value("ELE-08"), rules.high("ELE-03")
    on_battery = volts <= DIRECT_TO_V
    if on_battery:  # its electronics or a slow start spare it the moment of starting (assumed)
        direct, most_starting = 1.0, most
    load = Load(
        phases=phases,
        supply_voltage_v=volts,
        current_a=amps,
        power_factor=1.0 if on_battery else POWER_FACTOR,
        starting_multiple=direct,
        starting_power_factor=1.0 if on_battery else _STARTING_PF,
    )
    sizes = _FUSES_A if on_battery else _BREAKERS_A
    rating = next((one for one in sizes if one >= 1.25 * amps), None)
    system = "us" if running.job.units == "us" else "metric"
    trips = None if on_battery else rating
    rows = tuple(
        _row(one, load, length_m, {False: most, True: most_starting}, trips, volts, phases)
        for one in conductors()
        if one.system == system
    )
    best = next((row for row in rows if row.does), None)
    overload = rules.value("ELE-13")
    full_va = volts * amps * (math.sqrt(3.0) if phases == 3 else 1.0)
    starts = tuple(
        StartRow(
            kind,
            amps * kind.multiple,
            max(full_va * kind.multiple / overload, full_va),
            0.0 if best is None else best.starting * kind.multiple / direct,
        )
        for kind in start_kinds(direct)
        if phases in kind.phases and not on_battery
    )
    return Electrics(
        amps=amps,
        volts=volts,
        phases=phases,
        length_m=length_m,
        most_running=most,
        most_starting=most_starting,
        breaker_a=rating,
        direct=on_battery,
        rows=rows,
        best=best,
        starts=starts,
    )


def _row(
    one: Conductor,
    load: Load,
    length_m: float,
    limits: dict[bool, float],
    rating_a: float | None,
    volts: float,
    phases: int,
) -> CableRow:
    ohms = one.resistance_ohm_per_km
    drops = {
        starting: load.drop(length_m, ohms, starting=starting).voltage_drop_fraction
        for starting in limits
    }
    longest = min(limits[starting] * length_m / drops[starting] for starting in limits)
    trips = math.inf
    if rating_a is not None:
        to_earth = volts / math.sqrt(3.0) if phases == 3 else volts
        breaker = Breaker(rating_a, _BREAKER_MULTIPLE, to_earth, _VOLTAGE_FACTOR, _LOOP_OHM)
        trips = breaker.longest_m(ohms, ohms)
    return CableRow(
        conductor=one,
        running=drops[False],
        starting=drops[True],
        longest_m=longest,
        trips_m=trips,
        does=longest >= length_m,
    )
