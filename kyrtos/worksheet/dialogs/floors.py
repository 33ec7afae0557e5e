"""The pressure at each floor, with the pump below and from a tank on the roof."""

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
    roof_peak: str
    roof_still: str
    roof_remark: str


@dataclass(frozen=True)
class FloorsView:
    rows: tuple[FloorRow, ...]
    flow: str
    most: str
    rule: str
    roof_level: str
    lift: str
    boost: str  # '' where gravity serves every floor


def floors_view(base: Known) -> FloorsView:
    """The pressure at each floor, from the top down; the pump below beside a tank on the roof."""
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
            roof_peak=units.show(floor.from_roof.peak_pa, "pressure", system),
            roof_still=units.show(floor.from_roof.still_pa, "pressure", system),
            roof_remark=", ".join(
                filter(
                    None,
                    (
                        "reducing valve wanted" if floor.from_roof.too_high else "",
                        "wants a boost" if floor.from_roof.too_low else "",
                    ),
                )
            ),
        )
        for floor in reversed(found.floors)
    )
    return FloorsView(
        rows=rows,
        flow=units.show(found.flow_m3s, "flow", system),
        most=units.show(found.most_pa, "pressure", system),
        rule=found.most_rule,
        roof_level=units.show(found.roof_level_m, "length", system),
        lift=units.show(found.lift_m, "length", system),
        boost=units.show(found.boost_m, "length", system) if found.boost_m > 0 else "",
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
