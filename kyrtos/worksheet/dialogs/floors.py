"""The pressure at each floor."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from sizing.analysis import floors
from sizing.analysis.changed import Known
from sizing.base import units


@dataclass(frozen=True)
class FloorRow:
    number: int
    level: str
    peak: str
    still: str
    remark: str
    worst: bool


@dataclass(frozen=True)
class FloorsView:
    rows: tuple[FloorRow, ...]
    flow: str
    most: str


def floors_view(base: Known) -> FloorsView:
    """The pressure at each floor, from the top down as a building stands."""
    system = base.sizing.job.units
    found = floors.floors(base)

    def remark(floor: floors.Floor) -> str:
        words = [
            "reducing valve wanted" if floor.too_high else "",
            "too little at the peak" if floor.too_low else "",
        ]
        words.append("worst outlet" if floor.number == found.worst else "")
        return ", ".join(filter(None, words))

    rows = tuple(
        FloorRow(
            number=floor.number,
            level=units.show(floor.level_m, "length", system),
            peak=units.show(floor.peak_pa, "pressure", system),
            still=units.show(floor.still_pa, "pressure", system),
            remark=remark(floor),
            worst=floor.number == found.worst,
        )
        for floor in reversed(found.floors)
    )
    return FloorsView(
        rows,
        units.show(found.flow_m3s, "flow", system),
        units.show(found.most_pa, "pressure", system),
    )


DIALOG = Dialog(
    name="floors",
    words="pressure at each floor",
    key="d",
    tells="the pressure at each floor",
    place="head",
    rank=6,
    view=lambda asked: floors_view(asked.base),
    applies=lambda sizing: "floors" in sizing.kind.dialogs,
)
