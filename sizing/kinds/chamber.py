"""Whether pumps go into the chamber they are meant for, with their cords and guards."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sizing.base.message import Filling, Measure, Message, message
from sizing.base.rounding import at_most
from sizing.document.answers import Facts, Question
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Catalogue, Pump
from sizing.selection.requirement import Requirement, Truths


def _size(key: str, label: str, help_: str = "") -> Question:
    return Question(
        key=key,
        label=label,
        stage="run",
        dimension="size",
        low=0.03,
        high=5.0,
        usual=(0.1, 1.5),
        optional=True,
        help=help_,
        in_doubt=False,
    )


QUESTIONS = (
    _size("chamber", "Return chamber is wide", "The narrower side: the pump has to go in."),
    _size("chamber_length", "and long", "All its pumps stand in a row along it."),
    _size("chamber_height", "and high", "From its floor to whatever lies over the pump."),
    Question(
        key="chamber_clear",
        label="Cord and guard take",
        stage="run",
        dimension="size",
        low=0.0,
        high=0.5,
        usual=(0.005, 0.06),
        default="10 mm",
        source="a cord's bend and a strainer, beside each pump",
        shown_when=("chamber", ()),
        in_doubt=False,
    ),
)


@dataclass(frozen=True)
class InChamber:
    """So many pumps stand in a row in a chamber, each turned either way, with room beside it."""

    width_m: float
    length_m: float  # infinite where it is not told
    height_m: float
    clear_m: float
    pumps: int
    label: str = "does not go into the chamber"
    asks: str = "its sizes"

    def _lack_m(self, catalogue: Catalogue) -> Array:
        """What is missing at the tightest place [m]: nothing or less where all go in, NaN unsaid.

        A side that the chamber does not bound may be unsaid; without it the pump counts as square.
        """
        wide, long, high = (catalogue.column(name) for name in ("width_m", "length_m", "height_m"))
        if math.isinf(self.length_m):
            long = np.where(np.isnan(long), wide, long)
        ways = [
            np.maximum(across - self.width_m, self._row_m(along) - self.length_m)
            for across, along in ((wide, long), (long, wide))
        ]
        height = high - self.height_m if math.isfinite(self.height_m) else np.full_like(wide, -1.0)
        return np.asarray(np.maximum(np.minimum(*ways) + self.clear_m, height + self.clear_m))

    def _row_m(self, along_m: Array) -> Array:
        """Length of the row, less the clearance of its last pump [m]."""
        return self.pumps * along_m + (self.pumps - 1) * self.clear_m

    def met(self, catalogue: Catalogue) -> Truths:
        with np.errstate(invalid="ignore"):
            return np.asarray(at_most(self.width_m + self._lack_m(catalogue), self.width_m))

    def unknown(self, catalogue: Catalogue) -> Truths:
        return np.asarray(np.isnan(self._lack_m(catalogue)))

    def shortfall(self, catalogue: Catalogue) -> Array:
        lack = np.nan_to_num(self._lack_m(catalogue), nan=np.inf)
        return np.maximum(lack, 0.0) / self.width_m

    def asks_of(self, pump: Pump) -> str:
        """Which of its sizes the chamber bounds and the record lacks."""
        bounds = (
            ("width", pump.width_m, True),
            ("length", pump.length_m, math.isfinite(self.length_m)),
            ("height", pump.height_m, math.isfinite(self.height_m)),
        )
        lacks = [name for name, value, bound in bounds if bound and value is None]
        return "its " + " and ".join(lacks)

    def miss(self, pump: Pump) -> Message:
        high, clear = pump.height_m, Measure(self.clear_m, "size")
        if high is not None and not at_most(high + self.clear_m, self.height_m):
            return message(
                "it is {high} high; the chamber leaves {room}, less {clear} for cord and guard",
                high=Measure(high, "size"),
                room=Measure(self.height_m, "size"),
                clear=clear,
            )
        plan = [pump.width_m, pump.length_m if math.isfinite(self.length_m) else None]
        room = [self.width_m, self.length_m if math.isfinite(self.length_m) else None]
        values: dict[str, Filling] = {"pumps": self.pumps}
        values |= {f"p{at}": Measure(one, "size") for at, one in enumerate(plan) if one}
        values |= {f"r{at}": Measure(one, "size") for at, one in enumerate(room) if one}
        many = "{pumps} of " if self.pumps > 1 else "it is "
        return message(
            many
            + " × ".join(f"{{{key}}}" for key in values if key.startswith("p") and key != "pumps")
            + (" wide" if len(values) == 3 else "")
            + "; the chamber takes "
            + " × ".join(f"{{{key}}}" for key in values if key.startswith("r"))
            + ", less {clear} for cord and guard",
            clear=clear,
            **values,
        )


def fits_chamber(facts: Facts) -> Iterator[Requirement]:
    """That all pumps go into the chamber; nothing where its width is not told."""
    width = facts.optional("chamber")
    if width is None:
        return
    length, height = facts.optional("chamber_length"), facts.optional("chamber_height")
    narrow, long = (width, math.inf) if length is None else sorted((width, length))
    yield InChamber(
        width_m=narrow,
        length_m=long,
        height_m=math.inf if height is None else height,
        clear_m=facts.si("chamber_clear"),
        pumps=facts.bought_pumps,
    )
