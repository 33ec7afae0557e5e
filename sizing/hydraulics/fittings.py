"""What a fitting costs: its K by three published methods, its equivalent length."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

import numpy as np

from sizing.base import tables, units
from sizing.base.errors import SizingError, UnknownName, check_range
from sizing.base.tables import number

Method = Literal["tp410", "hooper", "darby"]
METHODS: tuple[Method, ...] = get_args(Method)
CLEAN_STEEL_ROUGHNESS_M = 4.572e-5  # 0.0018 in, the roughness for which TP-410 gives its f_T
_IN = units.unit("in", "length").scale
MOST_OF_ONE_KIND = 500


class NoCoefficient(SizingError):
    """A fitting whose loss hangs on its own make: no table can give a K."""


@dataclass(frozen=True)
class Fitting:
    """A row of ``data/fittings.csv``; None where a method has no figure for it."""

    fitting_id: str
    label: str
    length_over_diameter: float | None
    k_fixed: float | None
    k_typical: float | None
    hooper: tuple[float, float] | None
    darby: tuple[float, float, float] | None
    k_formula: str
    source: str
    confidence: str


@dataclass(frozen=True)
class Counted:
    """So many of one fitting, as typed in a leg."""

    fitting_id: str
    count: int


def _several(row: dict[str, str], *columns: str) -> tuple[float, ...] | None:
    values = [number(row[column]) for column in columns]
    return None if None in values else tuple(value for value in values if value is not None)


@lru_cache
def fittings() -> dict[str, Fitting]:
    """Every fitting by its id."""
    labels = {row["fitting_id"]: row["label"] for row in reversed(tables.rows("fitting_words"))}
    made = {}
    for row in tables.rows("fittings"):
        label = labels.get(row["fitting_id"]) or ", ".join(
            filter(None, (row["fitting"], row["variant"]))
        )
        hooper, darby = (
            _several(row, "hooper_K1", "hooper_Kinf"),
            _several(row, "darby_K1", "darby_Ki", "darby_Kd_in"),
        )
        made[row["fitting_id"]] = Fitting(
            fitting_id=row["fitting_id"],
            label=label,
            length_over_diameter=number(row["tp410_L_over_D"]),
            k_fixed=number(row["K_fixed"]),
            k_typical=number(row["K_typical"]),
            hooper=None if hooper is None else (hooper[0], hooper[1]),
            darby=None if darby is None else (darby[0], darby[1], darby[2]),
            k_formula=row["K_formula"],
            source=row["source"],
            confidence=row["confidence"],
        )
    return made


def fitting(fitting_id: str) -> Fitting:
    """The fitting with that id.

    Raises
    ------
    UnknownName
        With near ids, when there is none.
    """
    try:
        return fittings()[fitting_id]
    except KeyError:
        raise UnknownName("fitting", fitting_id, fittings()) from None


def turbulent_factor(inside_diameter_m: float) -> float:
    """f_T, the friction factor of clean steel in full turbulence.

    0.25 / log10(3.7 d / roughness)2 (TP-410); raises OutOfRange for a bore that no pipe has.
    """
    check_range("inside diameter", inside_diameter_m, 1e-3, 20.0, "m")
    return float(0.25 / np.square(np.log10(3.7 * inside_diameter_m / CLEAN_STEEL_ROUGHNESS_M)))


def k_tp410(item: Fitting, inside_diameter_m: float) -> float:
    """K = f_T x L/D; else the fixed or the typical K of the row.

    Raises
    ------
    NoCoefficient
        When the row has none of them (a meter, a filter: use its own curve).
    """
    if item.length_over_diameter is not None:
        return turbulent_factor(inside_diameter_m) * item.length_over_diameter
    for value in (item.k_fixed, item.k_typical):
        if value is not None:
            return value
    if (
        item.hooper is not None
    ):  # reduced-bore valves are only in Hooper's list: its limit at high Reynolds number
        return item.hooper[1] * (1.0 + _IN / inside_diameter_m)
    raise NoCoefficient(
        f"{item.label} has no K of its own: {item.k_formula or 'take the loss from its own curve'}"
    )


def k_value(
    fitting_id: str,
    inside_diameter_m: float,
    *,
    method: Method = "tp410",
    reynolds: float | None = None,
) -> float:
    """Loss coefficient K of one fitting, on the velocity in the pipe it sits in.

    Parameters
    ----------
    inside_diameter_m : bore of the pipe [m].
    method : 'tp410' (K = f_T L/D), 'hooper' (2-K, 1981: K1/Re + Kinf (1 + 1/ID_in)) or 'darby'
        (3-K, 2001: K1/Re + Ki (1 + Kd / Dn_in^0.3), nominal size taken as the bore). A fitting
        that the method does not list takes its TP-410 value.
    reynolds : needed by 'hooper' and 'darby'.

    Raises
    ------
    UnknownName, NoCoefficient
    """
    item = fitting(fitting_id)
    inches = inside_diameter_m / _IN
    if method == "hooper" and item.hooper and reynolds:
        return item.hooper[0] / reynolds + item.hooper[1] * (1.0 + 1.0 / inches)
    if method == "darby" and item.darby and reynolds:
        return item.darby[0] / reynolds + item.darby[1] * (
            1.0 + item.darby[2] / math.pow(inches, 0.3)
        )
    if method not in METHODS:
        raise UnknownName("fitting method", method, METHODS)
    return k_tp410(item, inside_diameter_m)


def k_parts(fitting_id: str, inside_diameter_m: float, method: Method) -> tuple[float, float]:
    """K of one fitting as (K at high Reynolds number, K1): K = first + K1 / Re.

    K1 is zero where the method lists none.

    Raises
    ------
    UnknownName, NoCoefficient
    """
    item = fitting(fitting_id)
    first = {"hooper": item.hooper, "darby": item.darby}.get(method)
    if first is None:
        return k_tp410(item, inside_diameter_m), 0.0
    return k_value(fitting_id, inside_diameter_m, method=method, reynolds=math.inf), first[0]


def k_sum(counted: Iterable[Counted], inside_diameter_m: float) -> float:
    """Sum of K (TP-410) of the fittings of one leg."""
    return sum(one.count * k_value(one.fitting_id, inside_diameter_m) for one in counted)


def equivalent_length_m(fitting_id: str, inside_diameter_m: float) -> float:
    """Length of pipe [m] that loses as much: L/D x d, or K d / f_T where only K is known.

    Raises
    ------
    UnknownName, NoCoefficient, OutOfRange
    """
    check_range("inside diameter", inside_diameter_m, 1e-3, 20.0, "m")
    item = fitting(fitting_id)
    if item.length_over_diameter is not None:
        return item.length_over_diameter * inside_diameter_m
    return (
        k_tp410(item, inside_diameter_m) * inside_diameter_m / turbulent_factor(inside_diameter_m)
    )


def trade_equivalent_length_m(table: str, name: str, nominal: str) -> float:
    """Equivalent length [m] as printed in a trade table, by exact lookup.

    The table is ``data/fittings_eq_length.csv``.

    Raises
    ------
    UnknownName
        When the table has no such fitting at that size.
    """
    rows = {
        (r["table"], r["fitting"], r["nominal"]): r["eq_m"]
        for r in tables.rows("fittings_eq_length")
    }
    try:
        return float(rows[table, name, nominal])
    except KeyError:
        raise UnknownName(
            "trade table row", f"{table}, {name}, {nominal}", [", ".join(key) for key in rows]
        ) from None
