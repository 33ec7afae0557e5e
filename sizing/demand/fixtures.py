"""Fixtures of a building by every school of simultaneous demand.

Units and curves, formulas, probability.

``data/fixture_kinds.csv`` names each fixture once and says which row of each school's table it is;
units of one school are never put into another's curve.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import OutOfRange, SizingError, UnknownName
from sizing.base.tables import number
from sizing.demand import unit_curve
from sizing.demand.statistical import Group, Statistical, statistical

UNIT_SCHOOLS = {"wsfu_ipc": "total", "lu_british": "total", "lu_en806": "total"}
LPS = 1e-3
KPA = 1e3
_SMALLEST_UNIT = 3  # draw-offs in a room from which it is a usage unit


@dataclass(frozen=True)
class Fixture:
    """A kind of fixture: the row of each school's table that it is ('' where a school has none)."""

    code: str
    label: str
    rows: Mapping[str, str]
    probability_row: str
    flow_m3s: float
    residual_pa: float
    source: str
    confidence: str


@lru_cache
def fixtures() -> dict[str, Fixture]:
    """Every kind of fixture by its code."""
    schools = ("wsfu_ipc", "lu_british", "lu_en806", "flow_din1988_300")
    return {
        row["code"]: Fixture(
            code=row["code"],
            label=row["label"],
            rows={school: row[school] for school in schools},
            probability_row=row["probability"],
            flow_m3s=float(row["flow_lps"]) * LPS,
            residual_pa=float(row["residual_kpa"]) * KPA,
            source=row["source"],
            confidence=row["confidence"],
        )
        for row in tables.rows("fixture_kinds")
    }


def fixture(code: str) -> Fixture:
    """The fixture with that code.

    Raises
    ------
    UnknownName
    """
    try:
        return fixtures()[code]
    except KeyError:
        raise UnknownName("fixture", code, fixtures()) from None


@lru_cache
def _tables() -> dict[tuple[str, str], dict[str, str]]:
    """Rows of the schools' tables by (school, 'fixture|occupancy|control')."""
    return {
        (row["scheme"], f"{row['fixture']}|{row['occupancy']}|{row['supply_control']}"): row
        for row in tables.rows("fixture_units")
    }


def figure(school: str, code: str) -> float:
    """Units of a fixture in a school, or its calculation flow [m3/s] in DIN 1988-300.

    Raises
    ------
    SizingError
        The school has no figure for this fixture.
    """
    found = fixture(code)
    row = _tables().get((school, found.rows[school])) if found.rows[school] else None
    if school == "flow_din1988_300":
        return (
            found.flow_m3s if row is None else float(row["flow_lps"]) * LPS
        )  # the maker's figure takes precedence in this method
    value = number(row["total"]) if row else None
    if value is None:
        raise SizingError(f"this school has no figure for a {found.label}")
    return value


def sum_of(school: str, counts: Mapping[str, float]) -> float:
    """Sum over a schedule (count by fixture) of :func:`figure`."""
    return sum(count * figure(school, code) for code, count in counts.items())


def by_curve(school: str, curve: str, counts: Mapping[str, float]) -> float:
    """Design flow [m3/s] by units of a method and its curve.

    Never less than the largest single draw-off.

    Raises
    ------
    SizingError
        A fixture without units in the school, or more units than the curve knows.
    """
    largest = max((fixture(code).flow_m3s for code, count in counts.items() if count), default=0.0)
    return max(unit_curve.flow_m3s(curve, sum_of(school, counts)), largest)


@lru_cache
def din_buildings() -> dict[str, tuple[float, float, float]]:
    """Coefficients a, b, c of DIN 1988-300 by kind of building."""
    rows = [row for row in tables.rows("demand_coefficients") if row["method"] == "DIN 1988-300"]
    return {
        row["building_or_case"]: (float(row["a"]), float(row["b"]), float(row["c"])) for row in rows
    }


def in_use_units(rooms: Sequence[Mapping[str, float]]) -> Counter[str]:
    """What counts where rooms are usage units (DIN 1988-300): the two largest draw-offs of each.

    Each of ``rooms`` holds the fixtures of all rooms of one kind; there are as many rooms of it as
    its rarest fixture. A room with two draw-offs or fewer counts whole.
    """
    counted: Counter[str] = Counter()
    for room in rooms:
        here = {code: count for code, count in room.items() if count}
        alike = min(here.values(), default=0.0)
        if not alike or sum(here.values()) / alike < _SMALLEST_UNIT:
            counted.update({code: round(count) for code, count in here.items()})
            continue
        left = 2.0 * alike
        for code in sorted(here, key=lambda one: -figure("flow_din1988_300", one)):
            taken = min(here[code], left)
            counted[code] += round(taken)
            left -= taken
    return +counted


def din_1988_300(building: str, counts: Mapping[str, float]) -> float:
    """Peak flow [m3/s] = a (sum V_R)^b - c in l/s (DIN 1988-300).

    Never more than the sum nor less than the largest draw-off.

    Raises
    ------
    UnknownName
        No such building in the standard's table.
    OutOfRange
        A sum of calculation flows outside 0.2 to 500 l/s.
    """
    try:
        a, b, c = din_buildings()[building]
    except KeyError:
        raise UnknownName("kind of building", building, din_buildings()) from None
    total_lps = sum_of("flow_din1988_300", counts) / LPS
    if not 0.2 <= total_lps <= 500:
        raise OutOfRange("sum of calculation flows", total_lps, 0.2, 500.0, "l/s")
    largest_lps = (
        max(figure("flow_din1988_300", code) for code, count in counts.items() if count) / LPS
    )
    return min(max(a * math.pow(total_lps, b) - c, largest_lps), total_lps) * LPS


@lru_cache
def _probabilities() -> dict[str, tuple[float, float]]:
    """The chance that a fixture runs, and the flow that goes with that chance [m3/s]."""
    return {
        row["fixture"]: (float(row["p_peak"]), float(row["q_lps"]) * LPS)
        for row in tables.rows("demand_fixture_pq")
    }


def running_chance(code: str) -> tuple[float, float]:
    """The chance that a fixture runs at any moment of the peak hour, and at what flow [m3/s].

    Raises
    ------
    SizingError
        A fixture whose chance no table gives.
    """
    found = fixture(code)
    if found.probability_row not in _probabilities():
        raise SizingError(f"nobody gives the chance that a {found.label} runs")
    chance, flow = _probabilities()[found.probability_row]
    return chance, max(flow, found.flow_m3s)


def by_probability(
    counts: Mapping[str, float], *, zero_truncated: bool, percentile: float = 0.99
) -> Statistical:
    """The flow that is exceeded one time in a hundred in the peak hour, by exact convolution.

    The chance that a fixture runs is of homes in the peak hour (``data/demand_fixture_pq.csv``);
    its flow is its own, and never less than the one that the chance was found with: a bath or a
    cistern that fills slower runs longer.

    Raises
    ------
    SizingError
        A fixture whose chance no table gives.
    """
    groups = [Group(round(count), *running_chance(code)) for code, count in counts.items()]
    return statistical(groups, percentile=percentile, zero_truncated=zero_truncated)
