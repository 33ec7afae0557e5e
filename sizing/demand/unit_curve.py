"""From fixture units to a design flow, by each school's table (``demand_curves.csv``)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from sizing.base import tables
from sizing.base.errors import OutOfRange, UnknownName
from sizing.hydraulics.friction import Array


@dataclass(frozen=True)
class UnitCurve:
    """A table of units against flow [m3/s], with where it is from and how far it can be trusted."""

    name: str
    unit: str
    units: Array
    flows_m3s: Array
    source: str
    confidence: str
    note: str


@lru_cache
def curves() -> dict[str, UnitCurve]:
    """Every curve by its name."""
    rows: dict[str, list[dict[str, str]]] = {}
    for row in tables.rows("demand_curves"):
        rows.setdefault(row["curve"], []).append(row)
    return {name: _curve(name, found) for name, found in rows.items()}


def _curve(name: str, rows: list[dict[str, str]]) -> UnitCurve:
    pairs = sorted((float(row["x"]), float(row["flow_lps"]) * 1e-3) for row in rows)
    x, flow = (np.array(column) for column in zip(*pairs, strict=True))
    return UnitCurve(
        name=name,
        unit=rows[0]["x_unit"],
        units=x,
        flows_m3s=flow,
        source=rows[0]["source"],
        confidence=rows[0]["confidence"],
        note=rows[0]["note"],
    )


def curve(name: str) -> UnitCurve:
    """The curve of that name.

    Raises
    ------
    UnknownName
    """
    try:
        return curves()[name]
    except KeyError:
        raise UnknownName("demand curve", name, curves()) from None


def flow_m3s(name: str, units: float) -> float:
    """Design flow [m3/s] for a sum of units.

    Straight lines between the table's points, nothing beyond them.

    Raises
    ------
    OutOfRange
        Fewer or more units than the table holds.
    UnknownName
        No such curve.
    """
    found = curve(name)
    if not found.units[0] <= units <= found.units[-1]:
        raise OutOfRange(
            "sum of units", units, float(found.units[0]), float(found.units[-1]), found.unit
        )
    return float(np.interp(units, found.units, found.flows_m3s))
