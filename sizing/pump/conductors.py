"""Conductors as sold, and the smallest that keeps the drop of a motor's cable within a share."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import UnknownName
from sizing.base.units import System
from sizing.pump.cable import Cable, cable

_RUNNING_C = 70.0  # what a loaded cable with PVC insulation warms to
_PER_K = 0.00393  # copper, IEC 60228
DIRECT_TO_V = 60.0  # small pumps on less run on a battery or panels, on more on the mains
POWER_FACTOR = 0.9  # of a small motor under load


@dataclass(frozen=True)
class Conductor:
    """A row of ``data/conductors.csv``; resistance at running temperature."""

    system: System
    size: str
    resistance_ohm_per_km: float


@lru_cache
def conductors() -> tuple[Conductor, ...]:
    """All of them, the thinnest of each system first."""
    found = []
    for row in tables.rows("conductors"):
        warmer = _RUNNING_C - float(row["temperature_c"])
        resistance = float(row["r_ohm_per_km"]) * (1 + _PER_K * max(warmer, 0.0))
        found.append(
            Conductor("us" if row["system"] == "awg" else "metric", row["size"], resistance)
        )
    return tuple(found)


def conductor(size: str) -> Conductor:
    """The conductor of a size.

    Raises
    ------
    UnknownName
    """
    for one in conductors():
        if one.size == size:
            return one
    raise UnknownName("size of a conductor", size, [one.size for one in conductors()])


def drop(
    one: Conductor, *, phases: int, supply_voltage_v: float, current_a: float, length_m: float
) -> Cable:
    """What a cable of that conductor drops on its way to a motor."""
    return cable(
        phases=phases,
        supply_voltage_v=supply_voltage_v,
        current_a=current_a,
        length_m=length_m,
        resistance_ohm_per_km=one.resistance_ohm_per_km,
        power_factor=POWER_FACTOR if supply_voltage_v > DIRECT_TO_V else 1.0,
    )


def smallest(
    system: System,
    *,
    share: float,
    phases: int,
    supply_voltage_v: float,
    current_a: float,
    length_m: float,
) -> Conductor | None:
    """The thinnest conductor of a system that drops no more than a share; None where none does."""
    for one in conductors():
        if one.system != ("us" if system == "us" else "metric"):
            continue
        found = drop(
            one,
            phases=phases,
            supply_voltage_v=supply_voltage_v,
            current_a=current_a,
            length_m=length_m,
        )
        if found.voltage_drop_fraction <= share:
            return one
    return None
