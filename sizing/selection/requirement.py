"""Hard requirements: what a pump must be or have, whatever its curve.

Each can say why a pump fails.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from sizing.base.message import Measure, Message, message
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_columns import families

Truths = NDArray[np.bool_]


class Requirement(Protocol):
    """What :mod:`sizing.selection.match` needs of a requirement."""

    @property
    def label(self) -> str:
        """Why a pump fell out, as a heading of a count."""

    def met(self, catalogue: Catalogue) -> Truths:
        """For every pump: whether it meets this."""

    def shortfall(self, catalogue: Catalogue) -> Array:
        """For every pump: by what share of the wanted figure it misses.

        0 when met, inf when not a matter of degree.
        """

    def miss(self, pump: Pump) -> Message:
        """Why this pump fails."""


@dataclass(frozen=True)
class FamilyIn:
    """The pump is of one of these families."""

    allowed: tuple[str, ...]
    label: str = "another family of pump"

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.in_families(self.allowed)

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        return message("a {family} pump, not made for this", family=families()[pump.family])


@dataclass(frozen=True)
class StillMade:
    """The pump can still be bought."""

    label: str = "no longer made"

    def met(self, catalogue: Catalogue) -> Truths:
        return np.asarray(catalogue.column("discontinued") == 0.0)

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        return (
            message("no longer made; {successor} took its place", successor=pump.successor)
            if pump.successor
            else message("no longer made")
        )


@dataclass(frozen=True)
class AtLeast:
    """A figure of the pump is at least so much; a maker's silence fails it."""

    field: str
    value_si: float
    dimension: str
    label: str
    short: str  # 'passes only {has}; {wanted} wanted'

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.column(self.field) >= self.value_si

    def shortfall(self, catalogue: Catalogue) -> Array:
        return _share_missed(self.value_si - catalogue.column(self.field), self.value_si)

    def miss(self, pump: Pump) -> Message:
        return _miss(self.short, getattr(pump, self.field), self.value_si, self.dimension)


@dataclass(frozen=True)
class AtMost:
    """A figure of the pump is at most so much; a maker's silence fails it."""

    field: str
    value_si: float
    dimension: str
    label: str
    short: str

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.column(self.field) <= self.value_si

    def shortfall(self, catalogue: Catalogue) -> Array:
        return _share_missed(catalogue.column(self.field) - self.value_si, self.value_si)

    def miss(self, pump: Pump) -> Message:
        return _miss(self.short, getattr(pump, self.field), self.value_si, self.dimension)


@dataclass(frozen=True)
class DrinkingWater:
    """The maker lists the pump for drinking water."""

    label: str = "not listed for drinking water"

    def met(self, catalogue: Catalogue) -> Truths:
        return catalogue.column("drinking_water") > 0

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        return message("not listed for drinking water")


@dataclass(frozen=True)
class Supply:
    """The motor runs on the supply there is: phases equal, voltage near the rated one."""

    voltage_v: float
    phases: int
    tolerance: float
    label: str = "another electrical supply"

    def met(self, catalogue: Catalogue) -> Truths:
        rated = catalogue.column("voltage_v")
        near = np.abs(self.voltage_v - rated) <= self.tolerance * rated
        return np.asarray(near & (catalogue.column("phases") == self.phases))

    def shortfall(self, catalogue: Catalogue) -> Array:
        return np.where(self.met(catalogue), 0.0, np.inf)

    def miss(self, pump: Pump) -> Message:
        if pump.voltage_v is None or pump.phases is None:
            return message("the maker does not say which supply it needs")
        return message(
            "needs {rated}, {phases}-phase; there is {there}, {supply}-phase",
            rated=Measure(pump.voltage_v, "voltage"),
            phases=pump.phases,
            there=Measure(self.voltage_v, "voltage"),
            supply=self.phases,
        )


def _share_missed(lack: Array, wanted: float) -> Array:
    share = np.maximum(lack, 0.0) / max(abs(wanted), 1e-12)
    return np.asarray(np.nan_to_num(share, nan=np.inf))


def _miss(template: str, has: float | None, wanted: float, dimension: str) -> Message:
    if has is None:
        return message(
            "the maker does not give a figure that is needed here ({wanted} wanted)",
            wanted=Measure(wanted, dimension),
        )
    return message(template, has=Measure(has, dimension), wanted=Measure(wanted, dimension))
