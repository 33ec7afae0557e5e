"""Which basin would do, and what the pit that is there bears."""

from __future__ import annotations

import re
from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis import basins
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.pit import PitKind
from sizing.size import Sizing
from sizing.storage.basin_design import Candidate, Wanted

_LONGEST = 40
_MOST_RESERVE_S = 7 * 86_400.0
_BETWEEN_M = (0.1, 10.0)
_NOTHING_M = 1e-9  # a rounding, not a height


@dataclass(frozen=True)
class BasinRow:
    """One size in words."""

    size: str
    note: str
    best: bool
    does: bool
    stop: str
    start: str
    alarm: str
    inlet: str
    starts: str
    run: str
    wasted: str


@dataclass(frozen=True)
class BasinsView:
    """What the dialog shows."""

    asks: tuple[str, ...]
    rows: tuple[BasinRow, ...]
    here: BasinRow
    here_says: str
    here_does: bool
    wish: BasinRow | None
    wish_text: str
    reserve_text: str
    problems: tuple[str, str]


def basins_view(asked: Asked) -> BasinsView:
    """Every usual size, the wish, and the pit that is there."""
    system = asked.base.sizing.job.units
    wish_text = asked.given.get("wish", "")[:_LONGEST]
    reserve_text = asked.given.get("reserve", "")[:_LONGEST]
    wish, wish_problem = _size(wish_text, system)
    reserve, reserve_problem = _time(reserve_text)
    found = basins.basins(asked.base, reserve_s=reserve, wish_m=wish)
    wanted = found.wanted
    return BasinsView(
        asks=_asks(wanted, system),
        rows=tuple(_row(one, wanted, system, one == found.best) for one in found.rows),
        here=_row(found.here, wanted, system, False),
        here_says=_here(found, system),
        here_does=found.here.does,
        wish=None if found.wish is None else _row(found.wish, wanted, system, False),
        wish_text=wish_text,
        reserve_text=reserve_text,
        problems=(wish_problem, reserve_problem),
    )


def _size(text: str, system: System) -> tuple[tuple[float, float] | None, str]:
    """Diameter and depth, such as 54 by 90 in."""
    if not text.strip():
        return None, ""
    parts = re.split(r"\s*(?:x|×|by)\s*", text.strip().lower())
    if len(parts) != 2:
        return None, "type diameter by depth, such as 900 x 1500 mm or 54 by 90 in"
    unit = "in" if system == "us" else "mm"
    named = re.search(r"(mm|cm|m|in|ft|\"|')$", parts[1])
    if named and not re.search(r"[a-z\"']$", parts[0]):
        parts[0] += f" {named[1]}"  # the unit after the second holds for both
    try:
        read = [quantity.read(numbers.as_kept(one), "length", unit).si for one in parts]
    except SizingError as problem:
        return None, str(problem)
    if not all(_BETWEEN_M[0] <= one <= _BETWEEN_M[1] for one in read):
        return None, "a basin is between 0.1 m and 10 m wide and deep"
    return (read[0], read[1]), ""


def _time(text: str) -> tuple[float, str]:
    if not text.strip():
        return 0.0, ""
    try:
        found = quantity.read(numbers.as_kept(text), "time", "h").si
    except SizingError as problem:
        return 0.0, str(problem)
    if not 0 <= found <= _MOST_RESERVE_S:
        return 0.0, "a reserve is between nothing and a week"
    return found, ""


def _long(metres: float, system: System) -> str:
    return units.show(metres if abs(metres) > _NOTHING_M else 0.0, "length", system)


def _asks(wanted: Wanted, system: System) -> tuple[str, ...]:
    flow = units.show(wanted.working_flow_m3s, "flow", system)
    found = [
        f"{units.show(wanted.storage_m3, 'volume', system)} from start to stop: at most"
        f" {wanted.allowed_starts_per_h:.0f} starts an hour at {flow}, and no run under"
        f" {units.show(wanted.minimum_run_time_s, 'time', system)}",
        f"stops at {_long(max(wanted.submergence_m, wanted.least_stop_m), system)}, as on the job"
        " or the pump's lowest",
        f"alarm {_long(wanted.alarm_above_m, system)} over the start, inlet"
        f" {_long(wanted.inlet_below_cover_m, system)} below the cover, as on the job",
        f"inlet at least {_long(wanted.inlet_above_alarm_m, system)} over the alarm (assumed)",
        f"at least {_long(wanted.least_diameter_m, system)} wide: pump and float (rule CHO-05)",
    ]
    if wanted.turns > 1:
        found[0] += f", {wanted.turns} pumps taking turns"
    if wanted.drain_back_m3 > 0:
        back = units.show(wanted.drain_back_m3, "volume", system)
        found[0] += f", and {back} for what runs back"
    return tuple(found)


def _row(one: Candidate, wanted: Wanted, system: System, best: bool) -> BasinRow:
    if not one.wide_enough:
        note = "too narrow"
    elif not one.does:
        note = f"{_long(-one.spare_m, system)} too shallow"
    else:
        note = f"{_long(one.spare_m, system)} to spare" if one.spare_m > 1e-3 else "just does"
    return BasinRow(
        size=f"{_long(one.diameter_m, system)} × {_long(one.depth_m, system)}",
        note=note,
        best=best,
        does=one.does,
        stop=_long(one.stop_m, system),
        start=_long(one.start_m, system),
        alarm=_long(one.alarm_m, system),
        inlet=_long(one.inlet_m, system),
        starts=f"{one.starts_per_pump_per_h(wanted):.0f}",
        run=units.show(one.run_time_no_inflow_s(wanted), "time", system),
        wasted=units.show(one.wasted_volume_m3, "volume", system),
    )


def _here(found: basins.Basins, system: System) -> str:
    """What the pit that is there bears, and what cures it where it does not."""
    flow = units.show(found.wanted.working_flow_m3s, "flow", system)
    most = found.here_bears_m3s
    kept = "With that reserve" if found.wanted.reserve_time_s else "With its levels"
    if most is None:
        return f"{kept} the floats find no room in the pit that is there: only another cures that."
    bears = units.show(most, "flow", system)
    if found.here.does:
        return (
            f"The pit that is there bears pumps up to {bears} without short cycling; this one gives"
            f" {flow}. The floats may stand as in its row."
        )
    return (
        f"The pit that is there bears pumps up to {bears}, and this one gives {flow}: a bigger"
        " basin is the cure, or a weaker pump; nothing else is."
    )


def _applies(sizing: Sizing) -> bool:
    return isinstance(sizing.kind, PitKind)


DIALOG = Dialog(
    name="basins",
    words="which basin",
    key="b",
    tells="which basin would do, and what the pit bears",
    place="choosing",
    rank=8,
    view=basins_view,
    applies=_applies,
)
