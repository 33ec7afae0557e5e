"""The order for a basin to the workshop: section and plan with their measures, and what goes in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from kyrtos.drawing.basin_picture import BasinPicture, basin_picture
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from kyrtos.shops.services import basins_of
from kyrtos.worksheet.dialogs.basins import build_notes, picked
from sizing.analysis.changed import known
from sizing.base import units
from sizing.size import Sizing


@dataclass(frozen=True)
class BasinOrder:
    """What the template prints."""

    shop: Shop
    title: str
    customer: str
    site: str
    picture: BasinPicture
    rows: tuple[tuple[str, str], ...]
    notes: tuple[tuple[str, str], ...]


def basin_order_view(sizing: Sizing, job: Job, given: Mapping[str, str]) -> BasinOrder:
    """The order for the basin that is asked for, as it was drawn.

    Raises
    ------
    NotYet
        No pit, or no pump yet that runs.
    """
    base, system = known(sizing), sizing.job.units
    one, _ = picked(base, given, basins_of(job.shop))
    basin, room = one.built.candidate, one.built.room

    def said(metres: float) -> str:
        return units.show(metres, "length", system)

    rows = [
        ("Inside diameter", said(basin.diameter_m)),
        ("Depth, floor to cover", said(basin.depth_m)),
        ("Inlet, invert over the floor", said(basin.inlet_m)),
        ("Inlet, invert under the cover", said(one.built.inlet_under_cover_m)),
        ("Pump stops at", said(basin.stop_m)),
        ("Pump starts at", said(basin.start_m)),
        *([] if basin.lag_m is None else [("Second pump starts at", said(basin.lag_m))]),
        ("Alarm at", said(basin.alarm_m)),
        ("Holds from stop to start", units.show(basin.working_volume_m3, "volume", system)),
        ("Pumps", f"{room.pumps} × {base.pump_name}"),
    ]
    if one.site.hatch_m is not None:
        rows.append(("Hatch, clear", said(one.site.hatch_m)))
    if one.built.flotation is not None and not one.built.flotation.holds:
        collar = units.show(one.built.flotation.collar_m3, "volume", system)
        rows.append(("Concrete collar, at least", collar))
    return BasinOrder(
        shop=job.shop,
        title=sizing.job.title,
        customer=sizing.job.customer,
        site=sizing.job.site,
        picture=basin_picture(one.built, one.site, system, may_drag=False),
        rows=tuple(rows),
        notes=tuple(build_notes(one.built, one.wanted, system)),
    )
