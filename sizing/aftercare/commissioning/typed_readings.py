"""Readings as they are typed beside a pump: each field, its usual unit and its usual error."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.readings import Gauge, Reading, Readings
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.base.water import water
from sizing.document.job import Figure
from sizing.document.read_figure import check_bounds

LONGEST = 60
_LEVELS = (-1e4, 1e4)
_LEVEL_SIGMA_M = 0.02
_FACTOR = Reading(0.85, 0.03)  # of a small motor at work, where it was not read
_WIDEST = 1e-3  # of what a figure may be at most: a plus-or-minus of one about nothing


@dataclass(frozen=True)
class Field:
    """A reading: its dimension, the unit of a bare number, its usual plus-or-minus as a share."""

    label: str
    dimension: str
    metric: str
    us: str
    share: float
    bounds: tuple[float, float]


PACE = "pace"  # a length in a time, such as 30 cm in 25 s
FIELDS = {
    "flow": Field("flow: bucket and watch, or a meter", "flow", "m³/h", "gpm", 0.03, (1e-7, 10.0)),
    "fall": Field("or the pit: it falls, pump on", PACE, "cm", "in", 0.04, (1e-7, 1.0)),
    "rise": Field("and rises again, pump off", PACE, "cm", "in", 0.04, (0.0, 1.0)),
    "outlet": Field("gauge behind the pump", "pressure", "bar", "psi", 0.02, (-1e5, 1e8)),
    "height": Field("that gauge over the datum", "length", "m", "ft", 0.0, _LEVELS),
    "bore": Field("bore where it sits", "bore", "mm", "in", 0.0, (1e-3, 5.0)),
    "inlet": Field("gauge before the pump, if any", "pressure", "bar", "psi", 0.02, (-1e5, 1e8)),
    "inlet_height": Field("that gauge over the datum", "length", "m", "ft", 0.0, _LEVELS),
    "level": Field("water that it draws from", "length", "m", "ft", 0.0, _LEVELS),
    "volts": Field("volts", "voltage", "V", "V", 0.005, (1.0, 1e5)),
    "amps": Field("amps", "current", "A", "A", 0.02, (1e-3, 1e4)),
    "factor": Field("power factor, cos φ", "factor", "×", "×", 0.02, (0.05, 1.5)),
    "watts": Field("or a power meter", "power", "W", "W", 0.02, (0.1, 1e6)),
    "temperature": Field("water at", "temperature", "°C", "°F", 0.0, (0.0, 99.0)),
    "turns": Field("turns a minute, where it can be seen", "factor", "×", "×", 0.01, (10.0, 2e4)),
}
# One of each row is enough.
MUST = (("flow", "fall"), ("outlet",), ("watts", "volts"), ("watts", "amps"))


@dataclass(frozen=True)
class Typed:
    """What was typed, what of it was read, and what is wrong beside which field."""

    given: Mapping[str, str]
    read: Mapping[str, Reading]
    problems: Mapping[str, str]

    @property
    def enough(self) -> bool:
        """Whether all that must be there was read, and nothing else is wrong."""
        return not self.problems and all(any(key in self.read for key in row) for row in MUST)


def gather(given: Mapping[str, str], system: System) -> Typed:
    """Read every field that holds something."""
    texts = {key: str(given.get(key, ""))[:LONGEST] for key in FIELDS}
    read: dict[str, Reading] = {}
    problems: dict[str, str] = {}
    for key, text in texts.items():
        if text.strip():
            try:
                read[key] = reading(key, text, system)
            except SizingError as told:
                problems[key] = str(told)
    return Typed(texts, read, problems)


def reading(key: str, text: str, system: System) -> Reading:
    """One reading with its plus-or-minus (two sigmas), or the usual one of its kind.

    Raises
    ------
    SizingError
        It cannot be read, or nothing is like that.
    """
    field = FIELDS[key]
    if field.dimension == PACE:
        return _pace(text, field, system)
    bare = field.us if system == "us" else field.metric
    figure = Figure.typed(text, field.dimension, bare)
    check_bounds(figure, *field.bounds, field.label, field.dimension)
    value, spread = figure.si(field.dimension), figure.plus_minus_si(field.dimension)
    if spread is not None and spread > max(abs(value), field.bounds[1] * _WIDEST):
        raise SizingError("the plus-or-minus is larger than the figure: read it again")
    return Reading(value, abs(value) * field.share / 2 if spread is None else spread / 2)


def _pace(text: str, field: Field, system: System) -> Reading:
    """A level that moved so far in so long [m/s]."""
    # the last one parts them: twelve inches are "12 in in 25 s"
    far, _, long = numbers.as_kept(text).rpartition(" in ")
    if not far.strip():
        raise SizingError(f"'{text.strip()}' is no pace: write how far in how long, 30 cm in 25 s")
    plain, _, spread = long.partition("±")
    moved = quantity.read(far, "length", field.us if system == "us" else field.metric).si
    took = quantity.read(plain, "time", "s").si
    if took <= 0 or not field.bounds[0] <= moved / took <= field.bounds[1]:
        raise SizingError(f"'{text.strip()}' cannot be: no pit moves like that")
    share = field.share
    if spread.strip():
        share = min(quantity.read(spread, "ratio", "%").si, 1.0)
    return Reading(moved / took, moved / took * share / 2)


def _flow(read: Mapping[str, Reading], promise: Promise) -> Reading:
    """By bucket or meter; else by the pit's plan area, what it falls and what it rises."""
    if "flow" in read:
        return read["flow"]
    if promise.pit_area_m2 is None:
        raise SizingError("nobody knows the pit's plan area here: give the flow by a bucket")
    fall, rise = read["fall"], read.get("rise", Reading(0.0))
    area = promise.pit_area_m2
    return Reading(area * (fall.value + rise.value), area * math.hypot(fall.sigma, rise.sigma))


def _electric(read: Mapping[str, Reading], phases: int) -> tuple[Reading, Reading, Reading]:
    """Volts, amps and power factor; a power meter's reading stands as volts of one amp."""
    if "watts" not in read:
        return read["volts"], read["amps"], read.get("factor", _FACTOR)
    watts, ways = read["watts"], math.sqrt(3.0) if phases == 3 else 1.0
    return Reading(watts.value / ways, watts.sigma / ways), Reading(1.0), Reading(1.0)


def readings_of(typed: Typed, promise: Promise, *, unsteady: bool) -> Readings:
    """All that was read, with what the promise knows of where it was read.

    Raises
    ------
    SizingError
        Readings that cannot be together.
    """
    read = typed.read
    bore = read["bore"].value if "bore" in read else promise.outlet_bore_m
    height = read["height"].value if "height" in read else promise.start_level_m
    inlet = read.get("inlet")
    inlet_height = read["inlet_height"].value if "inlet_height" in read else height
    volts, amps, factor = _electric(read, promise.phases)
    density = promise.density_kg_m3
    if "temperature" in read:
        density = water(read["temperature"].value).density_kg_m3
    return Readings(
        density_kg_m3=density,
        volume_m3=None,
        time_s=None,
        meter_m3s=_flow(read, promise),
        outlet=Gauge(read["outlet"], height, bore),
        inlet=None if inlet is None else Gauge(inlet, inlet_height, promise.suction_bore_m),
        water_level_m=read.get("level", Reading(promise.start_level_m, _LEVEL_SIGMA_M)),
        discharge_level_m=promise.start_level_m + promise.static_m,
        phases=promise.phases,
        voltage_v=volts,
        current_a=amps,
        power_factor=factor,
        unsteady=unsteady,
        motor_v=read.get("volts"),
    )


def usual(promise: Promise, system: System) -> dict[str, str]:
    """What stands in each field as an example, or as what is taken while it is empty."""
    level = units.show(promise.start_level_m, "length", system)
    return {
        "flow": "10 l in 24 s",
        "outlet": "0.8 bar ± 0.02 bar" if system != "us" else "12 psi ± 0.3 psi",
        "height": level,
        "bore": units.show(promise.outlet_bore_m, "bore", system),
        "inlet": "none",
        "inlet_height": level,
        "level": level,
        "volts": "230 V",
        "amps": "3.1 A",
        "factor": "0.85",
        "watts": "620 W",
        "temperature": "as in the job",
        "turns": "2850",
        "fall": _example("12 in in 25 s", "30 cm in 25 s", promise, system),
        "rise": _example("2 in in 60 s", "5 cm in 60 s", promise, system),
    }


def _example(us: str, metric: str, promise: Promise, system: System) -> str:
    """How a pace is written; where there is no pit nothing falls."""
    if promise.pit_area_m2 is None:
        return "no pit here"
    return us if system == "us" else metric
