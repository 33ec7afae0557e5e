"""A catalogue: pumps with what a choice needs to know of them, and the same as arrays for matching."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from sizing.pipework.friction import Array
from sizing.pump.curve import Arrangement, PumpCurve, arranged
from sizing.pump.curve_table import CurveTable, Indices, curve_table, padded, pchip_slopes, read_at

_BEST_FLOW_STEPS = 64


@dataclass(frozen=True)
class Pump:
    """One pump as sold. None: the maker does not say. Money is in the shop's currency."""

    pump_id: str
    maker: str
    model: str
    family: str
    curve: PumpCurve
    solids_m: float | None = None
    width_m: float | None = None
    height_m: float | None = None
    lowest_stop_m: float | None = None
    discharge: str = ""
    voltage_v: float | None = None
    phases: int | None = None
    current_a: float | None = None
    motor_power_w: float | None = None
    hottest_c: float | None = None
    float_type: str = ""
    drinking_water: bool = False
    noise_db: float | None = None
    price: float | None = None
    warranty_years: float | None = None
    note: str = ""
    suction: str = ""
    length_m: float | None = None
    slowest_speed: float | None = None  # share of full speed down to which it may be slowed; None: fixed speed
    control: str = ""
    materials: str = ""
    seal: str = ""
    elastomers: str = ""
    stock: float | None = None
    lead_days: float | None = None
    discontinued: bool = False
    successor: str = ""
    together: int = 1  # how many of it the curve, power and price stand for

    @property
    def name(self) -> str:
        """Maker and model; with how many of them where it is more than one."""
        return f"{self.together} × {self.maker} {self.model}" if self.together > 1 else f"{self.maker} {self.model}"


class Catalogue:
    """Pumps in a fixed order, with their curves and figures as arrays (made once, when first asked for)."""

    def __init__(self, pumps: Sequence[Pump]) -> None:
        self.pumps = tuple(pumps)

    def __len__(self) -> int:
        return len(self.pumps)

    def arranged(self, arrangement: Arrangement, count: int, standby: int = 0) -> Catalogue:
        """The same pumps, each so many times in parallel or series, priced with those that stand by (made once).

        Raises
        ------
        SizingError
            An arrangement or a count that is none.
        """
        if (arrangement == "single" or count == 1) and not standby:
            return self
        key = (arrangement, count, standby)
        if key not in self._arranged:
            bought = (1 if arrangement == "single" else count) + standby
            self._arranged[key] = Catalogue([
                replace(pump, curve=arranged(pump.curve, arrangement, count), price=None if pump.price is None else pump.price * bought,
                        together=1 if arrangement == "single" else count)
                for pump in self.pumps
            ])  # fmt: skip
        return self._arranged[key]

    @cached_property
    def _arranged(self) -> dict[tuple[Arrangement, int, int], Catalogue]:
        return {}

    def find(self, pump_id: str) -> int | None:
        """Row of the pump with that id, or None."""
        return self._row_by_id.get(pump_id)

    @cached_property
    def _row_by_id(self) -> dict[str, int]:
        return {pump.pump_id: row for row, pump in enumerate(self.pumps)}

    @cached_property
    def table(self) -> CurveTable:
        """The curves as arrays."""
        return curve_table([pump.curve for pump in self.pumps])

    def column(self, name: str) -> Array:
        """A figure of every pump as floats; NaN where the maker does not say."""
        if name not in self._columns:
            values = (getattr(pump, name) for pump in self.pumps)
            self._columns[name] = np.array([np.nan if value is None else float(value) for value in values])
        return self._columns[name]

    @cached_property
    def _columns(self) -> dict[str, Array]:
        return {}

    @cached_property
    def families(self) -> np.ndarray[tuple[int], np.dtype[np.str_]]:
        """The family of every pump."""
        return np.array([pump.family for pump in self.pumps], dtype=str)

    @cached_property
    def _powers(self) -> tuple[Array, Array]:
        """Input power at the curve's points and its slopes, (N, P); NaN where the maker gives none."""
        blank = (np.nan, np.nan)
        values, _ = padded([pump.curve.powers_w or blank for pump in self.pumps])
        powers = np.full_like(self.table.flows_m3s, np.nan)
        powers[:, : values.shape[1]] = values
        slopes = np.full_like(powers, np.nan)
        for final in np.unique(self.table.last):
            rows, end = np.flatnonzero(self.table.last == final), int(final) + 1
            slopes[rows, :end] = pchip_slopes(self.table.flows_m3s[rows, :end], powers[rows, :end])
        return powers, slopes

    def power_at(self, rows: Indices, flow_m3s: Array) -> Array:
        """Input power [W] of some pumps, each at its own flow; NaN where unknown or off the curve."""
        powers, slopes = self._powers
        return read_at(self.table.rows(rows), powers[rows], slopes[rows], flow_m3s)

    def head_at(self, rows: Indices, flow_m3s: Array) -> Array:
        """Head [m] of some pumps, each at its own flow; NaN off the curve."""
        table = self.table.rows(rows)
        return read_at(table, table.heads_m, table.slopes, flow_m3s)

    @cached_property
    def best_flow_m3s(self) -> Array:
        """Flow of best efficiency of every pump; of most water power where the maker gives no power."""
        rows = np.arange(len(self))
        first, end = self.table.flows_m3s[:, 0], self.table.flows_m3s[rows, self.table.last]
        best, most = np.zeros(len(self)), np.full(len(self), -1.0)
        for share in np.linspace(0.0, 1.0, _BEST_FLOW_STEPS + 1):
            flow = first + share * (end - first)
            power = np.nan_to_num(self.power_at(rows, flow), nan=1.0)
            useful = flow * self.head_at(rows, flow) / np.where(power > 0, power, np.inf)
            best, most = np.where(useful > most, flow, best), np.maximum(useful, most)
        return best


EMPTY = Catalogue(())
