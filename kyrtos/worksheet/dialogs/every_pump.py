"""Every pump of the catalogue on the job, to search and to pick from."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis.every_pump import every_pump
from sizing.base import units
from sizing.size import Sizing


@dataclass(frozen=True)
class PumpRow:
    pump_id: str
    name: str
    standing: str
    flow: str
    why: str
    picked: bool


@dataclass(frozen=True)
class EveryPumpView:
    words: str
    rows: tuple[PumpRow, ...]
    count: int
    searched: int


def every_pump_view(asked: Asked) -> EveryPumpView:
    """The pumps that hold the words, each with where it stands and why."""
    sizing, words = asked.base.sizing, asked.given.get("words", "")[:60]
    found = every_pump(asked.base, asked.on_site, words)
    picked = sizing.chosen.candidate.pump.pump_id if sizing.chosen else ""
    system = sizing.job.units
    return EveryPumpView(
        words=words,
        rows=tuple(
            PumpRow(
                pump_id=one.candidate.pump.pump_id,
                name=one.candidate.pump.name,
                standing=one.standing,
                flow=(
                    units.show(one.candidate.flow_m3s, "flow", system)
                    if one.candidate.status == "operates"
                    else ""
                ),
                why="; ".join(reason.text(system) for reason in one.candidate.reasons),
                picked=one.candidate.pump.pump_id == picked,
            )
            for one in found.rows
        ),
        count=found.count,
        searched=found.searched,
    )


def _applies(sizing: Sizing) -> bool:
    return sizing.match is not None and sizing.rough_head_m is None


DIALOG = Dialog(
    name="every_pump",
    words="every pump",
    key="e",
    tells="every pump, and why it is in or out",
    place="choosing",
    rank=9,
    view=every_pump_view,
    applies=_applies,
)
