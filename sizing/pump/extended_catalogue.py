"""A catalogue with a few pumps more, such as those that stand in one job alone."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, LazyPumps, Pump
from sizing.pump.curve_table import CurveTable, Indices


class CatalogueAndMore(Catalogue):
    """The rows of a catalogue, and behind them those of a second one. No array is made anew."""

    def __init__(self, first: Catalogue, more: Sequence[Pump]) -> None:
        self._first, self._more = first, Catalogue(more)
        count = len(first)
        super().__init__(
            LazyPumps(
                count + len(more),
                lambda row: first.pumps[row] if row < count else more[row - count],
            )
        )

    @cached_property
    def by_id(self) -> Indices:
        rows: list[int] = list(self._first.by_id)
        for row in range(len(self._first), len(self)):
            at = bisect_left(rows, self.pumps[row].pump_id, key=lambda one: self.pumps[one].pump_id)
            rows.insert(at, row)
        return np.array(rows, dtype=np.intp)

    @cached_property
    def table(self) -> CurveTable:
        first, more = self._first.table, self._more.table
        return CurveTable(
            flows_m3s=np.concatenate([first.flows_m3s, more.flows_m3s]),
            heads_m=np.concatenate([first.heads_m, more.heads_m]),
            slopes=np.concatenate([first.slopes, more.slopes]),
            starts=np.concatenate([first.starts, more.starts + len(first.flows_m3s)]),
            last=np.concatenate([first.last, more.last]),
            droops=np.concatenate([first.droops, more.droops]),
        )

    def column(self, name: str) -> Array:
        return np.concatenate([self._first.column(name), self._more.column(name)])

    @cached_property
    def families(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys([*self._first.families, *self._more.families]))

    @cached_property
    def family_codes(self) -> NDArray[np.integer]:
        place = {family: at for at, family in enumerate(self.families)}
        added = np.array([place[pump.family] for pump in self._more.pumps], dtype=np.uint8)
        return np.concatenate([self._first.family_codes, added])

    @cached_property
    def powers_w(self) -> Array:
        return np.concatenate([self._first.powers_w, self._more.powers_w])

    @cached_property
    def npsh_required_m(self) -> Array:
        return np.concatenate([self._first.npsh_required_m, self._more.npsh_required_m])

    @cached_property
    def best_flow_m3s(self) -> Array:
        return np.concatenate([self._first.best_flow_m3s, self._more.best_flow_m3s])
