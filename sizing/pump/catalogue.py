"""A catalogue: pumps with what a choice needs to know, and the same as arrays for matching."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property, lru_cache
from typing import overload

import numpy as np
from numpy.typing import NDArray

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2
from sizing.hydraulics.friction import Array
from sizing.pump.curve import (
    REFERENCE_DENSITY_KG_M3,
    Arrangement,
    PumpCurve,
    arranged,
    at_speed,
    times,
)
from sizing.pump.curve_table import CurveTable, Indices, curve_table, joined, read_at, slopes_of
from sizing.pump.identity import HASH_DIGITS, LONGEST_SLUG, identity, slug_of

OWN = "own-"  # how the ids of pumps begin that stand in one job alone
_BEST_FLOW_STEPS = 64
_BLOCK = 16384  # rows at a time: the working arrays stay small
_MOST_ARRANGEMENTS = 2
_PUMPS_KEPT = 1024


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
    drinking_water: bool | None = None
    noise_db: float | None = None
    price: float | None = None
    warranty_years: float | None = None
    note: str = ""
    suction: str = ""
    length_m: float | None = None
    # share of full speed down to which it may be slowed; None: fixed speed
    slowest_speed: float | None = None
    control: str = ""
    materials: str = ""
    seal: str = ""
    elastomers: str = ""
    stock: float | None = None
    lead_days: float | None = None
    discontinued: bool = False
    successor: str = ""
    variant: str = ""  # which impeller or speed the curve is of, where one pump has several
    impeller_m: float | None = None
    speed_rpm: float | None = None
    bearings: str = ""
    least_flow_m3s: float | None = None  # under which its maker does not let it run for long
    frequency_hz: float | None = None  # of the mains that the curve is stated at
    also_hz: float | None = None  # another mains frequency that the motor is made for
    most_starts_per_s: float | None = None  # that its maker allows
    least_run_s: float | None = None  # that its maker asks of every start
    together: int = 1  # how many of it the curve, power and price stand for
    scaled_hz: float = 0.0  # the curve was scaled to this mains frequency; 0: it is the maker's

    @property
    def name(self) -> str:
        """Maker, model and variant; with how many of them where it is more than one."""
        one = ", ".join(filter(None, (f"{self.maker} {self.model}".strip(), self.variant)))
        return f"{self.together} × {one}" if self.together > 1 else one

    @property
    def rough(self) -> bool:
        """Whether its curve is only of the usual shape, through a few figures from its box."""
        return self.pump_id.startswith(OWN)

    @property
    def identity(self) -> str:
        """What makes it the same pump as another entry."""
        return identity(self.maker, self.model, self.variant)


TEXTS = tuple(field.name for field in fields(Pump) if field.type == "str")
FIGURES = tuple(
    field.name
    for field in fields(Pump)
    if field.type in ("float | None", "int | None", "bool | None", "bool")
)


class LazyPumps(Sequence[Pump]):
    """Pumps that are made one by one, when they are asked for.

    The latest are kept, for a job asks for the same again and again.
    """

    def __init__(self, count: int, make: Callable[[int], Pump]) -> None:
        self._count, self._make = count, lru_cache(maxsize=_PUMPS_KEPT)(make)

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, row: int) -> Pump: ...
    @overload
    def __getitem__(self, row: slice) -> Sequence[Pump]: ...
    def __getitem__(self, row: int | slice) -> Pump | Sequence[Pump]:
        if isinstance(row, slice):
            return [self._make(one) for one in range(*row.indices(self._count))]
        if not -self._count <= row < self._count:
            raise IndexError(row)
        return self._make(int(row) % self._count)


class Catalogue:
    """Pumps in a fixed order, with their curves and figures as arrays.

    The arrays are made once, when first asked for.

    ``bought`` says how many of a pump one row stands for, with those that stand by; ``running``
    how many of them run together.
    """

    bought = 1
    running = 1

    def __init__(self, pumps: Sequence[Pump]) -> None:
        self.pumps = pumps

    def __len__(self) -> int:
        return len(self.pumps)

    def arranged(self, arrangement: Arrangement, count: int, standby: int = 0) -> Catalogue:
        """The same pumps, each so many times in parallel or series.

        Priced with those that stand by; the last two asked for are kept.

        Raises
        ------
        SizingError
            An arrangement or a count that is none.
        """
        running = 1 if arrangement == "single" else count
        if running == 1 and not standby:
            return self
        key = (arrangement, count, standby)
        if key not in self._arranged:
            while len(self._arranged) >= _MOST_ARRANGEMENTS:
                self._arranged.pop(next(iter(self._arranged)))
            self._arranged[key] = _Arranged(self, arrangement, running, running + standby)
        return self._arranged[key]

    @cached_property
    def _arranged(self) -> dict[tuple[Arrangement, int, int], Catalogue]:
        return {}

    def at_mains(self, supply_hz: float) -> Catalogue:
        """The same pumps on mains of that frequency; the last one asked for is kept.

        A curve stated at another frequency, whose motor is made for this one too, is scaled by the
        affinity laws; all others stay as they are.
        """
        stated, also = self.column("frequency_hz"), self.column("also_hz")
        other = (np.abs(stated - supply_hz) >= 1.0) & (np.abs(also - supply_hz) < 1.0)
        if not other.any():
            return self
        if supply_hz not in self._at_mains:
            self._at_mains.clear()
            speed = np.where(other, supply_hz / np.where(other, stated, supply_hz), 1.0)
            self._at_mains[supply_hz] = _AtMains(self, speed, supply_hz)
        return self._at_mains[supply_hz]

    @cached_property
    def _at_mains(self) -> dict[float, Catalogue]:
        return {}

    def find(self, pump_id: str) -> int | None:
        """Row of the pump with that id, or None.

        An id written before ids told all pumps apart finds the one pump that it can mean.
        """
        rows = list(self._from(pump_id, lambda other: other == pump_id))
        if not rows and pump_id:
            longer = re.compile(rf"{re.escape(pump_id)}-[0-9a-f]{{{HASH_DIGITS}}}")
            rows = list(self._from(f"{pump_id}-", lambda other: bool(longer.fullmatch(other))))
        return rows[0] if len(rows) == 1 else None

    def _from(self, start: str, wanted: Callable[[str], bool]) -> Iterator[int]:
        """Rows in the order of their ids, of those that begin so and are wanted."""
        at = bisect_left(self.by_id, start, key=lambda row: self.pumps[row].pump_id)
        while at < len(self) and (other := self.pumps[self.by_id[at]].pump_id).startswith(start):
            if wanted(other):
                yield int(self.by_id[at])
            at += 1

    def siblings(self, pump: Pump) -> list[int]:
        """Rows of the pumps of the same maker and model.

        Its other impellers and speeds, and itself.
        """
        start, known = (
            slug_of(pump.maker, pump.model)[:LONGEST_SLUG] or "pump",
            identity(pump.maker, pump.model),
        )
        rows = self._from(start, lambda other: True)
        return [
            row for row in rows if identity(self.pumps[row].maker, self.pumps[row].model) == known
        ]

    @cached_property
    def by_id(self) -> Indices:
        """The rows in the order of their ids."""
        ids = [pump.pump_id for pump in self.pumps]
        return np.array(sorted(range(len(ids)), key=ids.__getitem__), dtype=np.intp)

    @cached_property
    def rank_by_id(self) -> Indices:
        """The place of every row in the order of the ids."""
        ranks = np.empty(len(self), dtype=np.intp)
        ranks[self.by_id] = np.arange(len(self))
        return ranks

    @cached_property
    def table(self) -> CurveTable:
        """The curves as arrays."""
        return curve_table([pump.curve for pump in self.pumps])

    def column(self, name: str) -> Array:
        """A figure of every pump as floats; NaN where the maker does not say."""
        if name not in self._columns:
            values = (getattr(pump, name) for pump in self.pumps)
            self._columns[name] = np.array(
                [np.nan if value is None else float(value) for value in values]
            )
        return self._columns[name]

    @cached_property
    def _columns(self) -> dict[str, Array]:
        return {}

    @cached_property
    def families(self) -> tuple[str, ...]:
        """The families there are; :attr:`family_codes` counts in this."""
        return tuple(sorted({pump.family for pump in self.pumps}))

    @cached_property
    def family_codes(self) -> NDArray[np.integer]:
        """The family of every pump, as its place in :attr:`families`."""
        place = {family: at for at, family in enumerate(self.families)}
        return np.array([place[pump.family] for pump in self.pumps], dtype=np.uint8)

    def in_families(self, allowed: Iterable[str]) -> NDArray[np.bool_]:
        """For every pump: whether it is of one of these families."""
        wanted = np.array([family in set(allowed) for family in self.families], dtype=bool)
        return wanted[self.family_codes] if len(self) else np.zeros(0, dtype=bool)

    @cached_property
    def powers_w(self) -> Array:
        """Input power at the points of the curves, as they lie in :attr:`table`.

        NaN where the maker gives none.
        """
        return _beside(self.pumps, lambda curve: curve.powers_w)

    @cached_property
    def npsh_required_m(self) -> Array:
        """NPSH required at the points of the curves; NaN where the maker gives none."""
        return _beside(self.pumps, lambda curve: curve.npsh_required_m)

    def power_at(self, rows: Indices, flow_m3s: Array) -> Array:
        """Input power [W] of some pumps, each at its own flow; NaN if unknown or off the curve."""
        return read_at(self.table.rows(rows), self.powers_w, flow_m3s)

    def npsh_required_at(self, rows: Indices, flow_m3s: Array) -> Array:
        """NPSH required [m] of some pumps, each at its own flow.

        NaN where unknown or off the curve.
        """
        return read_at(self.table.rows(rows), self.npsh_required_m, flow_m3s)

    def head_at(self, rows: Indices, flow_m3s: Array) -> Array:
        """Head [m] of some pumps, each at its own flow; NaN off the curve."""
        return read_at(self.table.rows(rows), self.table.heads_m, flow_m3s, self.table.slopes)

    @cached_property
    def best_flow_m3s(self) -> Array:
        """Flow of best efficiency of every pump.

        Of most water power where the maker gives no power.
        """
        slopes = slopes_of(self.table, self.powers_w)
        blocks = [slice(start, start + _BLOCK) for start in range(0, len(self), _BLOCK)]
        return np.concatenate(
            [
                np.zeros(0),
                *(_best_flows(self.table.rows(rows), self.powers_w, slopes) for rows in blocks),
            ]
        )


def _best_flows(table: CurveTable, powers_w: Array, power_slopes: Array) -> Array:
    first, end = table.first_flow_m3s, table.last_flow_m3s
    best, most = np.zeros(len(table)), np.full(len(table), -1.0)
    for share in np.linspace(0.0, 1.0, _BEST_FLOW_STEPS + 1):
        flow = first + share * (end - first)
        power = np.nan_to_num(read_at(table, powers_w, flow, power_slopes), nan=1.0)
        useful = (
            flow
            * read_at(table, table.heads_m, flow, table.slopes)
            / np.where(power > 0, power, np.inf)
        )
        best, most = np.where(useful > most, flow, best), np.maximum(useful, most)
    return best


def _beside(
    pumps: Sequence[Pump], column: Callable[[PumpCurve], tuple[float, ...] | None]
) -> Array:
    return joined([column(pump.curve) or (np.nan,) * len(pump.curve.flows_m3s) for pump in pumps])


def efficiency(flow_m3s: Array, head_m: Array, power_w: Array) -> Array:
    """Water power over input power, for cold water; NaN where the power is unknown."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2 * flow_m3s * head_m / power_w)


class _Arranged(Catalogue):
    """The pumps of another catalogue, each several times."""

    def __init__(
        self, alone: Catalogue, arrangement: Arrangement, running: int, bought: int
    ) -> None:
        check_range("number of pumps", running, 1, 100, "")
        super().__init__(
            LazyPumps(
                len(alone), lambda row: several(alone.pumps[row], arrangement, running, bought)
            )
        )
        self._alone, self.bought, self.running = alone, bought, running
        self._flow, self._head = times(arrangement, running)

    @cached_property
    def table(self) -> CurveTable:
        return (
            self._alone.table
            if self.running == 1
            else self._alone.table.scaled(self._flow, self._head)
        )

    def column(self, name: str) -> Array:
        return self._alone.column(name) * (self.bought if name == "price" else 1)

    @property
    def by_id(self) -> Indices:
        return self._alone.by_id

    @property
    def families(self) -> tuple[str, ...]:
        return self._alone.families

    @property
    def family_codes(self) -> NDArray[np.integer]:
        return self._alone.family_codes

    @cached_property
    def powers_w(self) -> Array:
        return self._alone.powers_w if self.running == 1 else self._alone.powers_w * self.running

    @property
    def npsh_required_m(self) -> Array:
        return self._alone.npsh_required_m

    @cached_property
    def best_flow_m3s(self) -> Array:
        return self._alone.best_flow_m3s * self._flow


class _AtMains(Catalogue):
    """The pumps of another catalogue, each at a speed of its own."""

    def __init__(self, stated: Catalogue, speed: Array, supply_hz: float) -> None:
        def made(row: int) -> Pump:
            pump = stated.pumps[row]
            return pump if speed[row] == 1.0 else at_frequency(pump, supply_hz)

        super().__init__(LazyPumps(len(stated), made))
        self._stated, self._speed = stated, speed
        self._of_points = np.repeat(speed, stated.table.last + 1)

    @cached_property
    def table(self) -> CurveTable:
        table, speed = self._stated.table, self._of_points
        return replace(
            table,
            flows_m3s=table.flows_m3s * speed,
            heads_m=table.heads_m * speed**2,
            slopes=table.slopes * speed,
        )

    def column(self, name: str) -> Array:
        return self._stated.column(name)

    @property
    def by_id(self) -> Indices:
        return self._stated.by_id

    @property
    def families(self) -> tuple[str, ...]:
        return self._stated.families

    @property
    def family_codes(self) -> NDArray[np.integer]:
        return self._stated.family_codes

    @cached_property
    def powers_w(self) -> Array:
        return self._stated.powers_w * self._of_points**3

    @cached_property
    def npsh_required_m(self) -> Array:
        return self._stated.npsh_required_m * self._of_points**2

    @cached_property
    def best_flow_m3s(self) -> Array:
        return self._stated.best_flow_m3s * self._speed


def at_frequency(pump: Pump, supply_hz: float) -> Pump:
    """A pump on other mains than its curve is stated at, by the affinity laws.

    Flow goes with the speed, head and NPSH with its square, power with its cube; the slip of the
    motor is left out.

    Raises
    ------
    SizingError
        Nobody says at which frequency its curve was made.
    """
    if pump.frequency_hz is None:
        raise SizingError("the frequency that the curve is stated at is not known")
    curve = at_speed(pump.curve, supply_hz / pump.frequency_hz)
    if curve.npsh_required_m is not None:
        squared = (supply_hz / pump.frequency_hz) ** 2
        required = tuple(value * squared for value in pump.curve.npsh_required_m or ())
        curve = replace(curve, npsh_required_m=required)
    return replace(pump, curve=curve, scaled_hz=supply_hz)


def several(pump: Pump, arrangement: Arrangement, running: int, bought: int) -> Pump:
    """One pump so many times, as one: its common curve, and the price of all that are bought."""
    price = None if pump.price is None else pump.price * bought
    return replace(
        pump, curve=arranged(pump.curve, arrangement, running), price=price, together=running
    )


EMPTY = Catalogue(())
