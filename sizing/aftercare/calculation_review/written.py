"""A hand sum as somebody wrote it: the facts it used and the figures it got, in any units."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from sizing.aftercare.calculation_review.explain import Explained, explain, rounding_of
from sizing.aftercare.calculation_review.hand_sum import HandLeg, HandSum, Role
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.base.water import air_pressure_pa, water
from sizing.pump.curve import PumpCurve
from sizing.pump.label_data import head_m, read_points

LONGEST = 200
_ROUGHNESS_M = 1.5e-6  # smooth plastic, where nobody says
_EFFICIENCY, _MOTOR = 0.5, 0.7  # usual of a small pump, where nobody says
_USUAL_C = 15.0


@dataclass(frozen=True)
class Fact:
    """A fact: its label, dimension, unit of a bare number, what a sheet calls it, its bounds [SI].

    ``words`` are looked for in a label of a sheet, the longest first.
    """

    label: str
    dimension: str
    metric: str
    us: str
    words: tuple[str, ...]
    low: float
    high: float
    example: str = ""


FACTS = {
    "flow": Fact(
        "Flow wanted",
        "flow",
        "m³/h",
        "gpm",
        ("design flow", "flow rate", "flow", "discharge rate", "capacity", "q"),
        1e-7,
        10.0,
        "38 l/min, 10 gpm, 600 gph",
    ),
    "lift": Fact(
        "Lift, water to outlet",
        "length",
        "m",
        "ft",
        ("static head", "static lift", "static", "vertical rise", "lift", "elevation"),
        -100.0,
        1000.0,
        "6 m",
    ),
    "top": Fact(
        "Highest point over the water, if higher",
        "length",
        "m",
        "ft",
        ("high point", "highest point", "summit"),
        -100.0,
        1000.0,
        "none",
    ),
    "over": Fact(
        "Pump's outlet over the water",
        "length",
        "m",
        "ft",
        ("pump outlet", "pump above water", "suction lift", "pump elevation"),
        -100.0,
        100.0,
        "0.4 m",
    ),
    "pressure": Fact(
        "Pressure wanted at the end",
        "pressure",
        "bar",
        "psi",
        ("delivery pressure", "residual pressure", "outlet pressure", "pressure"),
        0.0,
        5e6,
        "none",
    ),
    "length": Fact("Pipe", "length", "m", "ft", ("pipe length", "length", "run"), 0.0, 1e5, "20 m"),
    "fittings": Fact(
        "Fittings, as so much pipe",
        "length",
        "m",
        "ft",
        ("equivalent length", "fittings", "fitting"),
        0.0,
        1e5,
        "6 m",
    ),
    "nominal": Fact(
        "Called (nominal size)",
        "bore",
        "mm",
        "in",
        ("nominal size", "nominal", "pipe size"),
        3e-3,
        2.0,
        "1-1/4 in",
    ),
    "bore": Fact(
        "Its bore",
        "bore",
        "mm",
        "in",
        ("inside diameter", "internal diameter", "bore", "diameter", "id"),
        3e-3,
        2.0,
        "35 mm",
    ),
    "suction_length": Fact(
        "of it before the pump",
        "length",
        "m",
        "ft",
        ("suction length", "suction pipe"),
        0.0,
        1e5,
        "none",
    ),
    "pump_efficiency": Fact(
        "Pump's efficiency",
        "ratio",
        "%",
        "%",
        ("pump efficiency", "efficiency"),
        0.02,
        1.0,
        "50 %",
    ),
    "motor_efficiency": Fact(
        "Motor's efficiency", "ratio", "%", "%", ("motor efficiency",), 0.02, 1.0, "70 %"
    ),
    "temperature": Fact(
        "Water at",
        "temperature",
        "°C",
        "°F",
        ("water temperature", "temperature"),
        0.0,
        99.0,
        "15 °C",
    ),
    "margin": Fact(
        "Margin in that flow", "ratio", "×", "×", ("safety factor", "margin"), 1.0, 3.0, "none"
    ),
    "daily": Fact(
        "A day's water",
        "volume",
        "l",
        "gal",
        ("daily demand", "daily flow", "gallons per day", "per day"),
        1e-3,
        1e6,
        "not told",
    ),
    "altitude": Fact(
        "Altitude, for the NPSH",
        "length",
        "m",
        "ft",
        ("altitude", "site elevation"),
        -450.0,
        6000.0,
        "not told",
    ),
    "open_flow": Fact(
        "Flow on the box",
        "flow",
        "m³/h",
        "gpm",
        ("open flow", "max flow", "maximum flow", "box flow"),
        1e-7,
        10.0,
        "not told",
    ),
}
MUST = ("flow", "length", "bore")
GOT = {
    "head": Fact(
        "Head",
        "length",
        "m",
        "ft",
        ("total dynamic head", "total head", "tdh", "head required", "head"),
        1e-3,
        1e5,
        "14 m",
    ),
    "shaft_power": Fact(
        "Power at the shaft",
        "power",
        "kW",
        "hp",
        ("brake horsepower", "shaft power", "bhp", "pump horsepower", "horsepower", "hp"),
        0.01,
        1e7,
        "1 hp",
    ),
    "input_power": Fact(
        "Power drawn",
        "power",
        "kW",
        "hp",
        ("input power", "motor power", "electrical power", "power drawn", "power"),
        0.01,
        1e7,
        "900 W",
    ),
    "hydraulic_power": Fact(
        "Power of the water",
        "power",
        "kW",
        "hp",
        ("water horsepower", "hydraulic power", "water power", "whp"),
        0.01,
        1e7,
        "300 W",
    ),
    "npsh": Fact(
        "NPSH available",
        "length",
        "m",
        "ft",
        ("npsh available", "npsha", "npsh"),
        -20.0,
        20.0,
        "7 m",
    ),
}
TEXTS = ("fixture_units", "curve")
_FLOW_UNITS = {"gpm": "gpm", "gph": "gph", "l/min": "L/min", "imp gpm": "imp_gpm"}


@dataclass(frozen=True)
class Written:
    """What was written, what is wrong beside which field, and each figure got with what it means.

    ``facts`` is None while something that must be there is not, or cannot be.
    """

    given: Mapping[str, str]
    problems: Mapping[str, str]
    facts: HandSum | None
    missing: tuple[str, ...]
    explained: Mapping[str, Explained]
    values: Mapping[str, float]


def read(given: Mapping[str, str], system: System) -> Written:
    """Read a hand sum, and look at every figure that it got."""
    known = {**FACTS, **{f"got_{code}": fact for code, fact in GOT.items()}}
    names = (*known, *TEXTS, "loop")
    texts = {name: str(given.get(name, ""))[:LONGEST].strip() for name in names}
    problems: dict[str, str] = {}
    values: dict[str, quantity.Quantity] = {}
    for name, fact in known.items():
        if texts[name]:
            try:
                values[name] = _value(texts[name], fact, system)
            except SizingError as problem:
                problems[name] = str(problem)
    extra = _extra(texts, problems)
    missing = tuple(FACTS[name].label for name in MUST if name not in values)
    got = {code: values[f"got_{code}"].si for code in GOT if f"got_{code}" in values}
    facts = None
    explained: dict[str, Explained] = {}
    if not missing and not any(name in problems for name in MUST):
        try:
            facts = _facts(texts, values, extra)
            explained = {
                code: explain(facts, code, value, rounding_of(values[f"got_{code}"].text))
                for code, value in _asked(got, facts)
            }
        except SizingError as problem:
            problems["flow"] = str(problem)
    return Written(texts, problems, facts, missing, explained, got)


def _asked(got: Mapping[str, float], facts: HandSum) -> list[tuple[str, float]]:
    return [(code, value) for code, value in got.items() if code != "npsh" or facts.air_pa]


def _value(text: str, fact: Fact, system: System) -> quantity.Quantity:
    bare = fact.us if system == "us" else fact.metric
    if fact.dimension == "ratio" and bare == "%" and _is_share(text):
        bare = "×"
    found = quantity.typed(text, fact.dimension, bare)
    if not fact.low <= found.si <= fact.high:
        low, high = (units.show(end, fact.dimension, system) for end in (fact.low, fact.high))
        raise SizingError(f"{fact.label.lower()} cannot be {text}: {low} to {high}")
    return found


def _is_share(text: str) -> bool:
    """Whether a bare number such as 0.5 is a share and no percentage."""
    try:
        return 0.0 < float(numbers.as_kept(text)) <= 1.0
    except ValueError:
        return False


def _extra(texts: Mapping[str, str], problems: dict[str, str]) -> dict[str, object]:
    """The facts that are no plain figure: fixture units, points of a curve."""
    found: dict[str, object] = {}
    if texts["fixture_units"]:
        try:
            value = float(numbers.as_kept(texts["fixture_units"]).lower().removesuffix("fu"))
            if not 0 < value <= 1e5:
                raise ValueError
            found["fixture_units"] = value
        except ValueError:
            problems["fixture_units"] = "a number of fixture units above nothing is wanted"
    if texts["curve"]:
        try:
            flows, heads = zip(*_points(texts["curve"]), strict=True)
            found["curve"] = PumpCurve(flows, heads)
        except SizingError as problem:
            problems["curve"] = str(problem)
    return found


def _points(text: str) -> list[tuple[float, float]]:
    """Points such as '12 m 0 m3/h, 8 m 4', as flows and heads in SI."""
    printed = read_points(numbers.as_kept(text), "m³/h", "m")
    if len(printed) < 2:
        raise SizingError("give two points or more, such as 12 m 0 m3/h, 8 m 4 m3/h")
    return sorted((flow.si, head_m(head.value, head.unit.symbol)) for flow, head in printed)


def _legs(si: Callable[[str, float], float], *, loop: bool) -> tuple[HandLeg, ...]:
    """The pipe as its legs: there and back, or before the pump and behind it, or one."""
    bore = si("bore", 0.0)
    whole, before = si("length", 0.0), min(si("suction_length", 0.0), si("length", 0.0))
    parts: tuple[tuple[Role, float], ...] = (("run", whole),)
    if loop:
        parts = (("supply", whole / 2), ("return", whole / 2))
    elif before:
        parts = (("suction", before), ("run", whole - before))
    return tuple(
        HandLeg(
            role,
            length,
            si("fittings", 0.0) * (length / whole if whole else 1.0),
            si("nominal", bore),
            bore,
            min(_ROUGHNESS_M, bore / 4),
        )
        for role, length in parts
    )


def _facts(
    texts: Mapping[str, str],
    values: Mapping[str, quantity.Quantity],
    extra: Mapping[str, object],
) -> HandSum:
    def si(name: str, default: float) -> float:
        return values[name].si if name in values else default

    lift = si("lift", 0.0)
    top = max(si("top", lift), lift)
    pressure = values.get("pressure")
    curve = extra.get("curve")
    assert curve is None or isinstance(curve, PumpCurve)
    fixture_units = extra.get("fixture_units")
    return HandSum(
        flow_m3s=values["flow"].si,
        flow_unit=_FLOW_UNITS.get(values["flow"].unit.symbol, values["flow"].unit.symbol),
        water=water(si("temperature", _USUAL_C)),
        water_level_m=0.0,
        pump_outlet_level_m=si("over", 0.0),
        discharge_level_m=top,
        pressure_pa=0.0 if pressure is None else pressure.si,
        pressure_unit="" if pressure is None else pressure.unit.symbol,
        closed_loop=bool(texts["loop"]),
        legs=_legs(si, loop=bool(texts["loop"])),
        pump_efficiency=si("pump_efficiency", _EFFICIENCY),
        motor_efficiency=si("motor_efficiency", _MOTOR),
        curve=curve,
        open_flow_m3s=values["open_flow"].si if "open_flow" in values else None,
        margin=si("margin", 1.0),
        fixture_units=fixture_units if isinstance(fixture_units, float) else None,
        daily_m3=values["daily"].si if "daily" in values else None,
        end_level_m=lift if "top" in values else None,
        air_pa=air_pressure_pa(values["altitude"].si) if "altitude" in values else None,
        wider=True,
    )
