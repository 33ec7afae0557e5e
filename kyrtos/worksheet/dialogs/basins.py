"""Which basin would do, and what the pit that is there bears."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from kyrtos.drawing.basin_picture import BasinPicture, basin_picture
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis import basins
from sizing.analysis.basins import Built, Site
from sizing.analysis.changed import Known
from sizing.base import quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.pit import PitKind
from sizing.size import Sizing
from sizing.storage import basin_list
from sizing.storage.basin_design import Candidate, Wanted
from sizing.storage.basin_list import OnSale

_LONGEST = 40
_MOST_RESERVE_S = 7 * 86_400.0
# Of the ground and the lid: label, dimension, the unit of a bare number, and the most [SI].
SITE_FIELDS = {
    "hatch": ("hatch, across", "length", "mm", "in", 5.0),
    "water": ("ground water under the cover", "length", "m", "ft", 30.0),
    "weight": ("the basin weighs", "mass", "kg", "lb", 1e6),
    "frost": ("frost reaches down", "length", "m", "ft", 5.0),
}
_NOTHING_M = 1e-9  # a rounding, not a height
_JUST = 1.001  # what stands at its limit keeps it


@dataclass(frozen=True)
class BasinRow:
    """One size in words."""

    size: str
    size_mm: str  # diameter and depth, to be taken into the job
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
    price: str


@dataclass(frozen=True)
class SiteField:
    """A field on the ground and the lid."""

    key: str
    label: str
    text: str
    problem: str


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
    site_fields: tuple[SiteField, ...]
    shown: tuple[tuple[str, str, bool], ...]  # which can be drawn: code, name, which is
    picture: BasinPicture
    notes: tuple[tuple[str, str], ...]  # state and sentence
    query: str
    own_list: bool


@dataclass(frozen=True)
class Picked:
    """What was asked for, and the basin that is drawn."""

    found: basins.Basins
    code: str
    built: Built
    site: Site

    @property
    def wanted(self) -> Wanted:
        """What the drawn one has to do."""
        return self.found.borne if self.code == "here" else self.found.wanted


def picked(
    base: Known, given: Mapping[str, str], shop: Sequence[OnSale]
) -> tuple[Picked, dict[str, str]]:
    """The basins as asked, with the one to be drawn; and what cannot be read, by field.

    Raises
    ------
    NotYet
    """
    system = base.sizing.job.units
    wish, wish_problem = _size(given.get("wish", "")[:_LONGEST], system)
    reserve, reserve_problem = _time(given.get("reserve", "")[:_LONGEST])
    site, problems = read_site(given, system)
    problems |= {"wish": wish_problem, "reserve": reserve_problem}
    found = basins.basins(base, reserve_s=reserve, wish_m=wish, shop=shop)
    able = {"here": found.here_as_it_is, "best": found.best, "wish": found.wish}
    code = given.get("show", "")
    if found.wish is not None and given.get("wish", "") != given.get("drew", ""):
        code = "wish"  # what is asked for is drawn
    one = able.get(code)
    if one is None:
        code, one = "here", found.here_as_it_is
    return Picked(found, code, basins.built(base, one, site), site), problems


def basins_view(asked: Asked) -> BasinsView:
    """Every usual size, the wish, and the pit that is there, one of them drawn."""
    system = asked.base.sizing.job.units
    given = {key: str(text) for key, text in asked.given.items()}
    one, problems = picked(asked.base, given, asked.basins)
    found, wanted = one.found, one.found.wanted
    names = {"here": "the pit here", "best": "the best on the list", "wish": "the wanted one"}
    able = {"here": True, "best": found.best is not None, "wish": found.wish is not None}
    kept = ("wish", "reserve", *SITE_FIELDS)
    return BasinsView(
        asks=_asks(wanted, system),
        rows=tuple(_row(each, found, system, each == found.best) for each in found.rows),
        here=_row(found.here, found, system, False),
        here_says=_here(found, system),
        here_does=found.here.does,
        wish=None if found.wish is None else _row(found.wish, found, system, False),
        wish_text=given.get("wish", "")[:_LONGEST],
        reserve_text=given.get("reserve", "")[:_LONGEST],
        problems=(problems.get("wish", ""), problems.get("reserve", "")),
        site_fields=tuple(
            SiteField(key, row[0], given.get(key, "")[:_LONGEST], problems.get(key, ""))
            for key, row in SITE_FIELDS.items()
        ),
        shown=tuple((code, names[code], code == one.code) for code in names if able[code]),
        picture=basin_picture(one.built, one.site, system, may_drag=one.code == "here"),
        notes=tuple(build_notes(one.built, one.wanted, system)),
        query=urlencode(
            {key: given[key][:_LONGEST] for key in kept if given.get(key)}
            | {"show": one.code, "drew": given.get("wish", "")[:_LONGEST]}
        ),
        own_list=bool(asked.basins),
    )


def build_notes(built: Built, wanted: Wanted, system: System) -> Iterator[tuple[str, str]]:
    """Whether it does, can be built and worked in: state and sentence of each thing."""
    room, one = built.room, built.candidate
    if not one.wide_enough:
        least = _long(wanted.least_diameter_m, system)
        yield "bad", f"Too narrow for the pump and its float: {least} at least (rule CHO-05)."
    starts, most = one.starts_per_pump_per_h(wanted), wanted.allowed_starts_per_h
    if starts > most * _JUST:
        yield "bad", f"The pump would start {starts:.0f} times an hour; {most:.0f} are borne."
    run = one.run_time_no_inflow_s(wanted)
    if run * _JUST < wanted.minimum_run_time_s:
        least = units.show(wanted.minimum_run_time_s, "time", system)
        yield (
            "bad",
            f"The pump would empty it in {units.show(run, 'time', system)}; {least} is the least.",
        )
    if room.pumps_fit:
        yield "good", f"{_pumps(room.pumps)} within the wall."
    else:
        yield "bad", "The pumps do not fit side by side: take a wider basin."
    spare = room.floats_spare_m
    if spare >= 0:
        yield "good", f"The floats swing clear of wall and pumps, {_long(spare, system)} to spare."
    else:
        yield (
            "watch",
            f"A float on an arm for that travel wants {_long(-spare, system)} more beside the pump:"
            " a float on a rod, a pressure switch, or a wider basin.",
        )
    if built.hatch_spare_m is not None:
        if built.hatch_spare_m >= 0:
            yield (
                "good",
                f"The pump passes the hatch on its rails, {_long(built.hatch_spare_m, system)} to"
                " spare.",
            )
        else:
            yield (
                "bad",
                f"The pump does not pass the hatch: {_long(-built.hatch_spare_m, system)} more is"
                " needed.",
            )
    if built.frost_spare_m is not None:
        deep = built.frost_spare_m >= 0
        yield (
            "good" if deep else "watch",
            f"The inlet lies {_long(built.inlet_under_cover_m, system)} under the cover, "
            + ("below the frost." if deep else "within the frost: insulate it or go deeper."),
        )
    if built.outlet_spare_m is not None:
        deep = built.outlet_spare_m >= 0
        yield (
            "good" if deep else "watch",
            "The outlet pipe lies "
            + ("below the frost." if deep else "within the frost: lay it deeper, or let it drain."),
        )
    if built.flotation is not None:
        if built.flotation.holds:
            yield "good", "Empty in that ground water its own weight holds it, a tenth to spare."
        else:
            collar = units.show(built.flotation.collar_m3, "volume", system)
            yield (
                "watch",
                f"Empty in that ground water it floats: {collar} of concrete round its foot hold"
                " it, soil not counted. A structural engineer decides.",
            )
    if one.short_m > 1e-6:
        yield "bad", f"The inlet lies {_long(one.short_m, system)} too low over its alarm."


def _pumps(count: int) -> str:
    return "The pump stands" if count == 1 else f"The {count} pumps stand side by side"


def _size(text: str, system: System) -> tuple[tuple[float, float] | None, str]:
    """Diameter and depth, such as 54 by 90 in."""
    if not text.strip():
        return None, ""
    try:
        return basin_list.size(text, system), ""
    except SizingError as problem:
        return None, str(problem)


def read_site(given: Mapping[str, str], system: System) -> tuple[Site, dict[str, str]]:
    """What the ground and the lid ask, and what of it cannot be read, by field."""
    found: dict[str, float | None] = {}
    problems: dict[str, str] = {}
    for key, (_, dimension, metric, us, high) in SITE_FIELDS.items():
        text = given.get(key, "")[:_LONGEST]
        if not text.strip():
            continue
        try:
            unit = us if system == "us" else metric
            value = quantity.typed(text, dimension, unit).si
        except SizingError as problem:
            problems[key] = str(problem)
            continue
        if not 0 <= value <= high:
            shown = units.show(high, dimension, system)
            problems[key] = f"type between nothing and {shown}"
        else:
            found[key] = value
    return (
        Site(
            hatch_m=found.get("hatch"),
            ground_water_m=found.get("water"),
            frost_m=found.get("frost"),
            basin_kg=found.get("weight") or 0.0,
        ),
        problems,
    )


def _time(text: str) -> tuple[float, str]:
    if not text.strip():
        return 0.0, ""
    try:
        found = quantity.typed(text, "time", "h").si
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


def _row(one: Candidate, found: basins.Basins, system: System, best: bool) -> BasinRow:
    wanted = found.wanted
    sold = found.listed.get((one.diameter_m, one.depth_m))
    if not one.wide_enough:
        note = "too narrow"
    elif not one.does:
        note = f"{_long(-one.spare_m, system)} too shallow"
    else:
        note = f"{_long(one.spare_m, system)} to spare" if one.spare_m > 1e-3 else "just does"
    return BasinRow(
        size=f"{_long(one.diameter_m, system)} × {_long(one.depth_m, system)}",
        size_mm=f"{round(one.diameter_m * 1e3)} x {round(one.depth_m * 1e3)} mm",
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
        price=_price(sold),
    )


def _price(sold: OnSale | None) -> str:
    if sold is None or (sold.price is None and not sold.to_order):
        return ""
    said = "" if sold.price is None else units.show(sold.price, "money", "metric")
    return f"{said} to order".strip() if sold.to_order else said


def _here(found: basins.Basins, system: System) -> str:
    """What the pit that is there bears, and what cures it where it does not."""
    flow = units.show(found.wanted.working_flow_m3s, "flow", system)
    most = found.here_bears_m3s
    kept = "With that reserve" if found.wanted.reserve_time_s else "With its levels"
    if most is None and found.here.does:
        return "The pit that is there does for this pump, and for no larger motor."
    if most is None:
        return f"{kept} the floats find no room in the pit that is there: only another cures that."
    bears = units.show(most, "flow", system)
    if found.here.does and most < found.wanted.working_flow_m3s:
        return (
            "The pit that is there does for this pump, whose motor bears more starts and shorter"
            f" runs than most; of others it bears up to {bears}, and this one gives {flow}."
        )
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
