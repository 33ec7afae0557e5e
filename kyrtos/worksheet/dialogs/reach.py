"""How far a main can go."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.reach_chart import ReachChart, reach_chart
from kyrtos.worksheet.dialogs.base import Dialog
from sizing.analysis import reach
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.size import Sizing


@dataclass(frozen=True)
class ReachView:
    name: str
    chart: ReachChart
    rows: tuple[tuple[str, str, str, str, str, str, bool], ...]
    septic: str
    daily_known: bool


def reach_view(base: Known) -> ReachView:
    """How far a main can go by speed, head and standing time, as a chart and a table."""
    system = base.sizing.job.units
    found = reach.reaches(base)

    def far(value: float | None) -> str:
        return "not known" if value is None else units.show(value, "length", system, 0)

    rows = tuple(
        (
            one.pipe,
            units.show(one.velocity_m_s, "velocity", system) + ("" if one.scours else " too slow"),
            far(one.head_limit_m),
            far(one.fine_limit_m),
            far(one.septic_limit_m),
            far(one.watched_m),
            one.now,
        )
        for one in found.rows
    )
    daily = any(one.fine_limit_m is not None for one in found.rows)
    return ReachView(
        found.leg_name,
        reach_chart(found, system),
        rows,
        units.show(found.septic_s, "time", system),
        daily,
    )


def _applies(sizing: Sizing) -> bool:
    return "reach" in sizing.kind.dialogs and sizing.kind.daily_volume_m3(sizing.facts) is not None


DIALOG = Dialog(
    name="reach",
    words="how far it can go",
    key="d",
    tells="how far a main can go",
    place="head",
    rank=5,
    view=lambda asked: reach_view(asked.base),
    applies=_applies,
)
