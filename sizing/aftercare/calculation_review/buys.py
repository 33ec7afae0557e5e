"""Which pump a figure would have bought: how much a slip matters."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.curve_table import Indices

_ROOM = 1.0  # of the head asked for: what is bought gives that at least


def by_duty(
    catalogue: Catalogue, families: Iterable[str], flow_m3s: float, head_m: float
) -> Pump | None:
    """The pump of some families that gives a flow at a head with the least to spare."""
    rows: Indices = np.flatnonzero(catalogue.in_families(families))
    if not len(rows):
        return None
    heads: Array = catalogue.head_at(rows, np.full(len(rows), flow_m3s))
    spare = heads - _ROOM * head_m
    return _least(catalogue, rows, np.where(np.isfinite(spare) & (spare >= 0), spare, np.inf))


def by_power(catalogue: Catalogue, families: Iterable[str], shaft_w: float) -> Pump | None:
    """The pump of some families whose motor is the smallest that has a power."""
    rows: Indices = np.flatnonzero(catalogue.in_families(families))
    if not len(rows):
        return None
    motors = catalogue.column("motor_power_w")[rows]
    return _least(catalogue, rows, np.where(motors >= shaft_w, motors, np.inf))


def _least(catalogue: Catalogue, rows: Indices, lack: Array) -> Pump | None:
    best = int(np.argmin(lack))
    return catalogue.pumps[int(rows[best])] if np.isfinite(lack[best]) else None
