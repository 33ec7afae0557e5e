"""One or two pumps or a standby; other impellers and speeds."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import money, shown
from sizing.analysis import arrangements
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Catalogue


@dataclass(frozen=True)
class OptionRow:
    label: str
    now: bool
    flow: str
    meets: bool
    left: str
    speed: str
    full: str
    throttled: str
    slowed: str
    cost: str
    cost_slowed: str
    turns: str
    note: str
    arrangement: str
    count: int
    standby: int


@dataclass(frozen=True)
class SiblingRow:
    pump_id: str
    label: str
    now: bool
    flow: str
    what: str
    power: str
    cost: str


@dataclass(frozen=True)
class ArrangementsView:
    rows: tuple[OptionRow, ...]
    siblings: tuple[SiblingRow, ...]
    speed_range: str


def arrangements_view(base: Known, catalogue: Catalogue, currency: str) -> ArrangementsView:
    """Every arrangement of the chosen model, and its other impellers and speeds."""
    system = base.sizing.job.units
    rows = tuple(_option_row(one, system, currency) for one in arrangements.options(base))
    siblings = tuple(
        _sibling_row(one, system, currency) for one in arrangements.siblings(base, catalogue)
    )
    told = arrangements.speed_range(base)
    return ArrangementsView(rows, siblings, told.text(system) if told else "")


def _option_row(one: arrangements.Option, system: System, currency: str) -> OptionRow:
    flow = "does not run" if one.flow_m3s is None else units.show(one.flow_m3s, "flow", system)
    speed = None if one.speed_ratio is None or one.speed_ratio > 1 else one.speed_ratio
    return OptionRow(
        label=one.label,
        now=one.now,
        flow=flow,
        meets=one.meets,
        left=units.show(one.left_share, "ratio", system),
        speed=shown(speed, "ratio", system),
        full=shown(one.power_full_w, "power", system),
        throttled=shown(one.power_throttled_w, "power", system),
        slowed=shown(one.power_speed_w, "power", system),
        cost=money(one.cost_full, currency),
        cost_slowed=money(one.cost_speed, currency),
        turns=shown(one.turns_share, "ratio", system),
        note=one.note.text(system),
        arrangement=one.arrangement,
        count=one.count,
        standby=one.standby,
    )


def _sibling_row(one: arrangements.Sibling, system: System, currency: str) -> SiblingRow:
    found = one.candidate
    return SiblingRow(
        pump_id=found.pump.pump_id,
        label=found.pump.variant or found.pump.name,
        now=one.now,
        flow=(
            units.show(found.flow_m3s, "flow", system)
            if found.status == "operates"
            else "does not run"
        ),
        what="fits" if found.fits else "; ".join(reason.text(system) for reason in found.reasons),
        power=shown(found.power_w, "power", system),
        cost=money(found.cost_per_year, currency),
    )


DIALOG = Dialog(
    name="arrangements",
    words="one, two, a standby",
    key="a",
    tells="one or two pumps or a standby",
    place="choosing",
    rank=3,
    view=lambda asked: arrangements_view(asked.base, asked.on_site, asked.currency),
)
