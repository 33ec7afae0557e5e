"""The sizes of a leg, or of the whole run, side by side."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from kyrtos.worksheet.dialogs.words import flow_text
from sizing.analysis import run_sizes, sizes
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.document.build_route import the_leg
from sizing.pump.catalogue import Catalogue

WHOLE_RUN = "run"  # no leg has this id


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
class RunRow:
    """The whole run a number of sizes wider or narrower."""

    key: str
    words: str
    text: str
    now: bool
    speed: str
    pace: str
    loss: str
    head: str
    spared: str
    matters: bool
    flow: str
    pump: str


@dataclass(frozen=True)
class RunView:
    rows: tuple[RunRow, ...]
    others: tuple[tuple[str, str], ...]
    least: str  # of the head: what a size must spare to matter
    leg_id: str = WHOLE_RUN


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


def run_view(base: Known, catalogue: Catalogue) -> RunView:
    """The whole run a size narrower or wider at a time, up to where it stops mattering."""
    system = base.sizing.job.units
    rows = tuple(
        RunRow(
            key=str(number) if number < 10 else "",
            words=_pipes(one),
            text=one.text,
            now=one.steps == 0,
            speed=units.show(one.fastest_m_s, "velocity", system),
            pace=sizes.PACE_WORDS[one.pace],
            loss=units.show(one.loss_m, "length", system),
            head=units.show(one.head_m, "length", system),
            spared="" if one.spared_m is None else units.show(one.spared_m, "length", system),
            matters=one.matters,
            flow=flow_text(one.flow_m3s, system) if base.curve else "",
            pump=one.pump_name or "none fits",
        )
        for number, one in enumerate(run_sizes.run_sizes(base, catalogue), 1)
    )
    others = tuple(
        (leg.id, the_leg(leg, base.sizing.job.legs.index(leg) + 1)) for leg in base.sizing.legs
    )
    return RunView(rows, others, units.show(run_sizes.MATTERS, "ratio", system))


def _pipes(option: run_sizes.RunOption) -> str:
    return ", ".join(dict.fromkeys(pipe for _, pipe in option.pipes))


def view(asked: Asked) -> SizesView | RunView:
    """Of the leg asked about, or of the whole run."""
    leg_id = asked.given.get("leg", "")
    if leg_id == WHOLE_RUN:
        return run_view(asked.base, asked.catalogue)
    return sizes_view(asked.base, asked.catalogue, leg_id)


DIALOG = Dialog(
    name="sizes",
    words="sizes side by side",
    key="s",
    tells="sizes of a leg, or of the whole run, side by side",
    place="head",
    rank=3,
    view=view,
    about_leg=True,
)
