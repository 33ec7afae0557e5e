"""The sizes of a leg side by side."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.wording import flow_text
from sizing.analysis import sizes
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.document.build_route import the_leg
from sizing.pump.catalogue import Catalogue


@dataclass(frozen=True)
class SizeRow:
    key: str
    pipe: str
    bore: str
    now: bool
    speed: str
    pace: str
    loss: str
    head: str
    flow: str
    pump: str


@dataclass(frozen=True)
class SizesView:
    leg_id: str
    leg_name: str
    band: str
    rows: tuple[SizeRow, ...]
    others: tuple[tuple[str, str], ...]


def sizes_view(base: Known, catalogue: Catalogue, leg_id: str) -> SizesView:
    """The sizes of a leg side by side; without a leg named, of the first."""
    system, job = base.sizing.job.units, base.sizing.job
    found = sizes.sizes(base, catalogue, leg_id or base.sizing.legs[0].id)
    band = ""
    if found.band_m_s:
        low, high = (units.show(speed, "velocity", system) for speed in found.band_m_s)
        band = f"{low} to {high}" if found.band_m_s[0] else f"up to {high}"
    rows = tuple(
        SizeRow(
            key=str(number) if number < 10 else "",
            pipe=one.pipe,
            bore=units.show(one.bore_m, "bore", system),
            now=one.now,
            speed=units.show(one.velocity_m_s, "velocity", system),
            pace=sizes.PACE_WORDS[one.pace],
            loss=units.show(one.leg_loss_m, "length", system),
            head=units.show(one.head_m, "length", system),
            flow=flow_text(one.flow_m3s, system) if base.curve else "",
            pump=one.pump_name or "none fits",
        )
        for number, one in enumerate(found.options, 1)
    )
    others = tuple(
        (leg.id, the_leg(leg, job.legs.index(leg) + 1))
        for leg in base.sizing.legs
        if leg.id != found.leg.id
    )
    return SizesView(found.leg.id, the_leg(found.leg, found.number), band, rows, others)


DIALOG = Dialog(
    name="sizes",
    words="sizes side by side",
    key="s",
    tells="sizes of a leg side by side",
    place="head",
    rank=3,
    view=lambda asked: sizes_view(asked.base, asked.catalogue, asked.given.get("leg", "")),
    about_leg=True,
)
