"""Hard requirements: what a pump must be or have, whatever its curve.

Each knows three answers: met, failed, and not stated. What the maker does not state is no reason
against a pump, but one to ask.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from sizing.base.message import Measure, Message, message
from sizing.base.rounding import ROUNDING, at_least, at_most
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_columns import families

Truths = NDArray[np.bool_]


class Requirement(Protocol):
    """What :mod:`sizing.selection.match` needs of a requirement."""

    @property
    def label(self) -> str:
        """Why a pump fell out, as a heading of a count."""

    @property
    def asks(self) -> str:
        """What to ask the maker for, where the record is silent; '' where it never is."""

    def met(self, catalogue: Catalogue) -> Truths:
        """For every pump: whether it is stated to meet this."""

    def unknown(self, catalogue: Catalogue) -> Truths:
        """For every pump: whether its record does not say."""

    def shortfall(self, catalogue: Catalogue) -> Array:
        """For every pump: by what share of the wanted figure it misses.

        0 when met, inf when not a matter of degree.
        """

    def miss(self, pump: Pump) -> Message:
        """Why this pump fails."""


@runtime_checkable
class AsksByPump(Protocol):
    """A requirement on several figures, of which a record may lack only some."""

    def asks_of(self, pump: Pump) -> str:
        """What this pump's record lacks."""


def asks_of(requirement: Requirement, pump: Pump) -> str:
    """What to ask the maker of a pump for, by a requirement on which the record is silent."""
    return requirement.asks_of(pump) if isinstance(requirement, AsksByPump) else requirement.asks


class _Always:
    """A requirement that knows no degrees; most are on what every record states."""

    asks = ""

    def met(self, catalogue: Catalogue) -> Truths:
        raise NotImplementedError

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.zeros(len(catalogue), dtype=bool)

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)


@dataclass(frozen=True)
class FamilyIn(_Always):
    """The pump is of one of these families."""

    allowed: tuple[str, ...]
    label: str = "another family of pump"

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.in_families(self.allowed)

    def miss(self, pump: Pump) -> Message:
        return message("a {family} pump, not made for this", family=families()[pump.family])


@dataclass(frozen=True)
class StillMade(_Always):
    """The pump can still be bought."""

    label: str = "no longer made"

    def met(self, catalogue: Catalogue) -> Truths:
        return np.asarray(catalogue.column("discontinued") == 0.0)

    def miss(self, pump: Pump) -> Message:
        return (
            message("no longer made; {successor} took its place", successor=pump.successor)
            if pump.successor
            else message("no longer made")
        )


@dataclass(frozen=True)
class _Figure:
    """A figure of the pump against a wanted one."""

    field: str
    value_si: float
    dimension: str
    label: str
    short: str  # 'passes only {has}; {wanted} wanted'
    asks: str = ""

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.isnan(catalogue.column(self.field))

    def miss(self, pump: Pump) -> Message:
        has = getattr(pump, self.field)
        if has is None:
            return message(
                "the maker does not say {asks}; {wanted} is wanted",
                asks=self.asks or self.label,
                wanted=_shown(self.value_si, self.dimension),
            )
        return message(
            self.short,
            has=_shown(has, self.dimension),
            wanted=_shown(self.value_si, self.dimension),
        )


def _shown(value_si: float, dimension: str) -> Measure | str:
    return Measure(value_si, dimension) if dimension else f"{value_si:g}"


class AtLeast(_Figure):
    """A figure of the pump is at least so much."""

    def met(self, catalogue: Catalogue) -> Truths:
        return np.asarray(at_least(catalogue.column(self.field), self.value_si))

    def shortfall(self, catalogue: Catalogue) -> Array:
        return _share_missed(self.value_si - catalogue.column(self.field), self.value_si)


class AtMost(_Figure):
    """A figure of the pump is at most so much."""

    def met(self, catalogue: Catalogue) -> Truths:
        return np.asarray(at_most(catalogue.column(self.field), self.value_si))

    def shortfall(self, catalogue: Catalogue) -> Array:
        return _share_missed(catalogue.column(self.field) - self.value_si, self.value_si)


@dataclass(frozen=True)
class PowerStated(_Always):
    """The maker gives the input power over the flow."""

    label: str = "no input power given"
    asks: str = "the input power over the flow"

    def met(self, catalogue: Catalogue) -> Truths:
        return np.asarray(~np.isnan(catalogue.powers_w[catalogue.table.starts]))

    def unknown(self, catalogue: Catalogue) -> Truths:
        return ~self.met(catalogue)

    def miss(self, pump: Pump) -> Message:
        return message("the maker does not say {asks}", asks=self.asks)


@dataclass(frozen=True)
class DrinkingWater:
    """The maker lists the pump for drinking water."""

    label: str = "not listed for drinking water"
    asks: str = "whether it is listed for drinking water"

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.column("drinking_water") > 0

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.isnan(catalogue.column("drinking_water"))

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        if pump.drinking_water is None:
            return message("the maker does not say {asks}", asks=self.asks)
        return message("not listed for drinking water")


@dataclass(frozen=True)
class Supply:
    """The motor runs on the supply there is: phases equal, voltage near the rated one."""

    voltage_v: float
    phases: int
    tolerance: float
    label: str = "another electrical supply"
    asks: str = "which supply its motor needs"

    def met(self, catalogue: Catalogue) -> Truths:
        rated, phases = catalogue.column("voltage_v"), catalogue.column("phases")
        return np.asarray(self._near(rated) & (phases == self.phases))

    def unknown(self, catalogue: Catalogue) -> Truths:
        """Silent on one of the two, and not known to be wrong by the other."""
        rated, phases = catalogue.column("voltage_v"), catalogue.column("phases")
        silent, right = np.isnan(rated) | np.isnan(phases), self._near(rated) | np.isnan(rated)
        return np.asarray(silent & right & (np.isnan(phases) | (phases == self.phases)))

    def _near(self, rated: Array) -> Truths:
        return np.abs(self.voltage_v - rated) <= (self.tolerance + ROUNDING) * rated

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        if pump.voltage_v is None or pump.phases is None:
            return message("the maker does not say {asks}", asks=self.asks)
        return message(
            "needs {rated}, {phases}-phase; there is {there}, {supply}-phase",
            rated=Measure(pump.voltage_v, "voltage"),
            phases=pump.phases,
            there=Measure(self.voltage_v, "voltage"),
            supply=self.phases,
        )


@dataclass(frozen=True)
class Mains:
    """The motor is made for the frequency of the mains; a silent record means the usual one."""

    supply_hz: float
    usual_hz: float
    label: str = "another mains frequency"
    asks: str = "whether its motor is made for this mains frequency"

    def met(self, catalogue: Catalogue) -> Truths:
        stated = catalogue.column("frequency_hz")
        silent = np.isnan(stated) & self._same(np.full(len(catalogue), self.usual_hz))
        return np.asarray(silent | self._same(stated) | self._same(catalogue.column("also_hz")))

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.isnan(catalogue.column("frequency_hz")) & ~self.met(catalogue)

    def _same(self, hertz: Array) -> Truths:
        return np.asarray(np.abs(hertz - self.supply_hz) < 1.0)

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        there = Measure(self.supply_hz, "mains")
        if pump.frequency_hz is None:
            return message("the maker does not say {asks} ({there})", asks=self.asks, there=there)
        return message(
            "made for mains of {rated}; there is {there}, at which it would run at another speed"
            " and load",
            rated=Measure(pump.frequency_hz, "mains"),
            there=there,
        )


def _share_missed(lack: Array, wanted: float) -> Array:
    share = np.maximum(lack, 0.0) / max(abs(wanted), 1e-12)
    share = np.where(share <= ROUNDING, 0.0, share)
    return np.asarray(np.nan_to_num(share, nan=np.inf))
