"""Pipe by pump."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import money
from sizing.analysis import grid
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.document.build_route import the_leg

_SHOWN_PUMPS = 12


@dataclass(frozen=True)
class CellView:
    flow: str
    speed: str
    cost: str
    state: str
    now: bool
    pump_id: str
    pipe: str


@dataclass(frozen=True)
class GridView:
    leg_id: str
    leg_name: str
    sizes: tuple[tuple[str, str], ...]
    rows: tuple[tuple[str, bool, tuple[CellView, ...]], ...]
    others: tuple[tuple[str, str], ...]
    more: int


def grid_view(base: Known, leg_id: str, currency: str) -> GridView:
    """Pipe sizes of a leg against pumps; without a leg named, of the longest."""
    system, job = base.sizing.job.units, base.sizing.job
    legs = base.system.route.legs
    longest = base.sizing.legs[max(range(len(legs)), key=lambda at: legs[at].length_m)].id
    found = grid.grid(base, leg_id or longest)

    def cell(one: grid.Cell, row: grid.GridRow, column: int) -> CellView:
        flow = (
            units.show(one.flow_m3s, "flow", system) if one.flow_m3s is not None else "does not run"
        )
        speed = (
            units.show(one.velocity_m_s, "velocity", system) if one.velocity_m_s is not None else ""
        )
        word = {
            "fits": "" if one.in_band else "speed out of its band",
            "short": "too little",
            "off": "",
        }[one.state]
        return CellView(
            flow=flow,
            speed=speed,
            cost=money(one.cost_per_year, currency),
            state=word,
            now=row.now and column == found.now,
            pump_id=row.pump.pump_id,
            pipe=found.sizes[column],
        )

    rows = tuple(
        (
            row.pump.name,
            row.now,
            tuple(cell(one, row, column) for column, one in enumerate(row.cells)),
        )
        for row in found.rows[:_SHOWN_PUMPS]
    )
    sizes = tuple(
        (label, units.show(bore, "bore", system))
        for label, bore in zip(found.sizes, found.bores_m, strict=True)
    )
    others = tuple(
        (leg.id, the_leg(leg, job.legs.index(leg) + 1))
        for leg in base.sizing.legs
        if leg.id != found.leg.id
    )
    return GridView(
        leg_id=found.leg.id,
        leg_name=the_leg(found.leg, job.legs.index(found.leg) + 1),
        sizes=sizes,
        rows=rows,
        others=others,
        more=max(len(found.rows) - _SHOWN_PUMPS, 0),
    )


DIALOG = Dialog(
    name="grid",
    words="pipe by pump",
    key="x",
    tells="pipe by pump in one grid",
    place="choosing",
    rank=2,
    view=lambda asked: grid_view(asked.base, asked.given.get("leg", ""), asked.currency),
    about_leg=True,
)
