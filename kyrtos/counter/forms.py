"""What may be typed at the counter, in any order: each field, how it is read, and its place."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from sizing.aftercare.replacement.old_pump import OldPump
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.pump.catalogue_columns import families
from sizing.selection import pump_family

LONGEST = 80
_FIGURE = re.compile(r"^\d[\d.,' ]*$", re.ASCII)
_AGE = re.compile(
    r"^(?P<count>\S+?)\s*(?:years?|yrs?|y|a|(?P<months>months?|mths?|mo|m))?\.?$", re.IGNORECASE
)
_YEAR = re.compile(r"^(19|20)\d\d$")


@dataclass(frozen=True)
class Figure:
    """A figure: its label, dimension, the unit of a bare number, an example and its bounds [SI]."""

    label: str
    dimension: str
    metric: str
    us: str
    example: str
    low: float
    high: float


FIGURES = {
    "volts": Figure("Volts", "voltage", "V", "V", "230 V", 5.0, 1000.0),
    "amps": Figure("Amps", "current", "A", "A", "6.2 A", 0.05, 500.0),
    "hertz": Figure("Hertz", "mains", "Hz", "Hz", "50 Hz", 40.0, 70.0),
    "power": Figure("Power on the label", "power", "kW", "hp", "3/4 hp or 0.55 kW", 5.0, 2e5),
    "bolts": Figure("Bolt spacing", "size", "mm", "in", "92 mm or 3-5/8 in", 0.01, 1.0),
    "width": Figure("Width", "size", "mm", "in", "200 mm", 0.02, 3.0),
    "height": Figure("Height", "size", "mm", "in", "380 mm", 0.02, 10.0),
    "solids": Figure("Largest solid", "size", "mm", "in", "10 mm", 0.0, 0.3),
    "lift": Figure("It lifted", "length", "m", "ft", "4 m or 13 ft", 0.0, 500.0),
    "length": Figure("Through a pipe of", "length", "m", "ft", "15 m", 0.0, 1e4),
    "bore": Figure("of a bore of", "bore", "mm", "in", "40 mm", 0.003, 2.0),
    "flow": Figure(
        "It gave, or it emptied", "flow", "m³/h", "gpm", "10 l in 24 s, 400 l in 5 min", 1e-7, 10.0
    ),
}
TEXTS = {
    "maker": ("Maker", "Ondrath"),
    "model": ("Model", "K 11, or what can be read of it"),
    "rpm": ("Turns", "2850"),
    "factor": ("Service factor", "1.15"),
    "seal": ("Seal", "carbon and ceramic"),
    # "inlet" and "outlet" are clues of the family, and have fields of their own
    "inlet_size": ("Inlet", "2 in"),
    "outlet_size": ("Outlet", "1-1/4 in"),
    "age": ("Made in, or how old", "2014, 7 years, 18 months"),
}
GROUPS = (
    ("What the plate says", ("maker", "model", "volts", "amps", "power", "hertz", "factor", "rpm")),
    (
        "What can be measured",
        ("inlet_size", "outlet_size", "bolts", "width", "height", "solids", "age", "seal"),
    ),
    ("What it did", ("lift", "length", "bore", "flow")),
)
CHOICES: dict[str, tuple[str, dict[str, str]]] = {
    "family": ("Family", families()),
    "phases": ("Phases", {"1": "one", "3": "three"}),
    "speeds": ("Speeds", {"1": "one", "2": "two"}),
    "direction": ("Outlet points", {"up": "up", "forward": "forward", "aside": "aside"}),
    "liquid": ("The water", pump_family.LIQUIDS),
    "place": ("Where it stands", pump_family.PLACES),
    "feeds": ("What it feeds", pump_family.FEEDS),
}


@dataclass(frozen=True)
class Asked:
    """What was typed, the old pump that it makes, and what is wrong beside which field."""

    given: Mapping[str, str]
    old: OldPump
    problems: Mapping[str, str]

    @property
    def begun(self) -> bool:
        """Whether anything was typed."""
        return any(self.given.values())


def read(given: Mapping[str, str], system: System, today: date) -> Asked:
    """The old pump that was typed; what cannot be read is left out and told."""
    clues = {clue.code: {code for code, _, _ in clue.answers} for clue in pump_family.clues()}
    names = (*TEXTS, *FIGURES, *CHOICES, *clues)
    typed = {name: given.get(name, "")[:LONGEST].strip() for name in names}
    problems: dict[str, str] = {}
    figures = {
        name: _tried(problems, name, lambda name=name: _figure(name, typed[name], system))
        for name in FIGURES
        if typed[name]
    }
    for name, (_, known) in CHOICES.items():
        if typed[name] and typed[name] not in known:
            typed[name] = ""
    old = OldPump(
        maker=typed["maker"],
        model=typed["model"],
        family=typed["family"],
        voltage_v=figures.get("volts"),
        current_a=figures.get("amps"),
        phases=int(typed["phases"]) if typed["phases"] else None,
        frequency_hz=figures.get("hertz"),
        label_power_w=figures.get("power"),
        service_factor=_tried(problems, "factor", lambda: _plain(typed["factor"], 0.8, 2.0)),
        speed_rpm=_tried(problems, "rpm", lambda: _plain(typed["rpm"], 100.0, 20000.0)),
        speeds=2 if typed["speeds"] == "2" else 1,
        seal=typed["seal"],
        direction=typed["direction"],
        inlet=typed["inlet_size"],
        outlet=typed["outlet_size"],
        bolt_spacing_m=figures.get("bolts"),
        height_m=figures.get("height"),
        width_m=figures.get("width"),
        solids_m=figures.get("solids"),
        age_years=_tried(problems, "age", lambda: _age(typed["age"], today)),
        lift_m=figures.get("lift"),
        length_m=figures.get("length"),
        bore_m=figures.get("bore"),
        flow_m3s=figures.get("flow"),
        seen={code: typed[code] for code, known in clues.items() if typed[code] in known},
        serves={name: typed[name] for name in ("liquid", "place", "feeds") if typed[name]},
    )
    return Asked(typed, old, problems)


def _tried(problems: dict[str, str], name: str, work: Any) -> Any:
    try:
        return work()
    except SizingError as problem:
        problems[name] = numbers.as_read(str(problem))
        return None


def _figure(name: str, text: str, system: System) -> float:
    one = FIGURES[name]
    bare = one.us if system == "us" else one.metric
    found = quantity.read(numbers.as_kept(text), one.dimension, bare).si
    if not one.low <= found <= one.high:
        low, high = (units.show(end, one.dimension, system) for end in (one.low, one.high))
        raise SizingError(f"{one.label.lower()} cannot be {text}: {low} to {high}")
    return found


def _plain(text: str, low: float, high: float) -> float | None:
    if not text:
        return None
    found = _number(numbers.as_kept(text).lower().removesuffix("rpm").strip())
    if found is None or not low <= found <= high:
        raise SizingError(f"'{text}' is no figure between {low:g} and {high:g}")
    return found


def _number(text: str) -> float | None:
    return numbers.number(text) if _FIGURE.match(text) else None


def _age(text: str, today: date) -> float | None:
    """How old: from the year it was made in, or told."""
    if not text:
        return None
    if _YEAR.match(text):
        found = float(today.year - int(text))
    else:
        parts = _AGE.match(numbers.as_kept(text))
        read_as = _number(parts["count"]) if parts else None
        if parts is None or read_as is None:
            raise SizingError(f"'{text}' is no age: write 2014, 7 years or 18 months")
        found = read_as / 12.0 if parts["months"] else read_as
    if not 0.0 <= found <= 80.0:
        raise SizingError(f"a pump of {found:g} years cannot be: write 2014, 7 years or 18 months")
    return found
