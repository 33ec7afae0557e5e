"""The picture before the facts are there: a usual site of the kind, what is missing marked on it.

What is known is drawn as known, the rest in grey; each missing fact has a number where it is
measured, and the list beside it leads to its field.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from kyrtos.drawing import labels
from kyrtos.drawing.labels import Box, Wish
from kyrtos.drawing.layout import NARROW, WIDE, Drawing, Frame
from kyrtos.drawing.picture import Water, ground_of, water_of
from kyrtos.drawing.plot import Label, label
from kyrtos.drawing.scale import Point, points, px
from kyrtos.drawing.site import Ending, ending, storeys
from sizing.analysis.typical import TypicalSite
from sizing.base import units
from sizing.base.units import System
from sizing.document import build_route
from sizing.document.answers import MissingFact

# On a phone there is no list beside the drawing, so it has the whole width.
BLANK_NARROW = replace(NARROW, split=384, chart=388, right=400)
_OFF_PX = 11.0  # of a dimension line from what it measures
_LONGEST_LABEL = 44
_APART_PX = 19.0  # of two numbers, so that both can be read
_LINE_PX = 23.0  # of the list beside the drawing
_SHORT_LEVEL_M = 3.0  # heights below are written as the trade writes sizes


@dataclass(frozen=True)
class BlankLeg:
    points: str
    known: bool
    title: str


@dataclass(frozen=True)
class LevelLine:
    x1: str
    x2: str
    y: str
    known: bool


@dataclass(frozen=True)
class Missing:
    """A missing fact: its number, where it is measured ('' for no place), and its field."""

    number: int
    label: str
    field: str
    x: str
    y: str
    list_y: str


@dataclass(frozen=True)
class BlankPicture:
    """Everything the template prints, and nothing that it must work out."""

    width: int
    height: int
    title: str
    font: str
    ground: str
    pit: str
    water: Water
    legs: tuple[BlankLeg, ...]
    levels: tuple[LevelLine, ...]
    pump_x: str
    pump_y: str
    pump_height: str
    ending: Ending
    storeys: tuple[tuple[str, str, str], ...]
    labels: tuple[Label, ...]
    missing: tuple[Missing, ...]
    dimensions: tuple[str, ...]
    list_x: str
    wide: bool


def blank_picture(
    site: TypicalSite, missing: tuple[MissingFact, ...], system: System, frame: Frame = WIDE
) -> BlankPicture | None:
    """The picture of a site that is not known yet; None where it cannot be drawn."""
    if site.sizing.system is None or site.sizing.ledger is None or site.sizing.place is None:
        return None
    d = Drawing(site.sizing, system, frame)
    pump_y, pump_high = d.site.pump_box(d.y, d.section)
    marks = tuple(_missing(d, missing))
    return BlankPicture(
        width=frame.width,
        height=frame.height,
        title=f"A usual site of a {site.sizing.kind.label} job, and what is still needed of yours",
        font=px(frame.font),
        ground=ground_of(d),
        pit=points(d.site.outline(d.y, *d.sides())),
        water=water_of(d),
        legs=tuple(_legs(d, site)),
        levels=tuple(_levels(d, site)),
        pump_x=px(d.section.pump[0] - 7),
        pump_y=px(pump_y),
        pump_height=px(pump_high),
        ending=ending(d.place, d.section.outlet, d.y.pixel(0.0), frame.split - 4),
        storeys=tuple(storeys(d.place, d.zero, d.y, d.section.pump[0] - 30, frame.split - 8)),
        labels=tuple(_labels(d, site, marks)),
        missing=marks,
        dimensions=tuple(_dimensions(d)),
        list_x=px(frame.chart),
        wide=frame is WIDE,
    )


def _legs(d: Drawing, site: TypicalSite) -> Iterator[BlankLeg]:
    for number, (entry, shape) in enumerate(zip(d.sizing.legs, d.section.legs, strict=True), 1):
        asked = {f"legs.{entry.id}.{name}" for name in ("length", "ends_at", "pipe")}
        known = not asked & site.made_up
        yield BlankLeg(points(shape.pipe), known, build_route.leg_name(entry, number))


def _levels(d: Drawing, site: TypicalSite) -> Iterator[LevelLine]:
    inner, outer = d.sides()
    for level in d.place.levels:
        if level.code in ("floor", "rim"):
            continue
        at = px(d.y.pixel(level.elevation_m - d.zero))
        yield LevelLine(px(inner), px(outer), at, level.path not in site.made_up)


def _dimensions(d: Drawing) -> Iterator[str]:
    """Dimension lines of what is dug: its depth at its side, its width under its floor."""
    if d.place.shape not in ("pit", "well"):
        return
    inner, outer = d.sides()
    rim, floor = d.y.pixel(d.site.rim), d.y.pixel(d.site.floor)
    side, under = inner - _OFF_PX, floor + _OFF_PX
    yield (
        f"M{px(side)} {px(rim)}V{px(floor)}M{px(side - 4)} {px(rim)}h8M{px(side - 4)} {px(floor)}h8"
    )
    if d.place.shape == "pit":
        yield (
            f"M{px(inner)} {px(under)}H{px(outer)}M{px(inner)} {px(under - 4)}v8"
            f"M{px(outer)} {px(under - 4)}v8"
        )


def _labels(d: Drawing, site: TypicalSite, marks: tuple[Missing, ...]) -> list[Label]:
    """Legs and levels by name, with their figures where these are known."""
    wishes = [_leg_wish(d, site, number) for number in range(len(d.section.legs))]
    _, outer = d.sides()
    for level in d.place.levels:
        made_up = level.path in site.made_up
        if level.code == "floor":
            continue
        height = level.elevation_m - (d.place.level_m("floor") or 0.0)
        way = "size" if abs(height) < _SHORT_LEVEL_M and d.place.shape == "pit" else "length"
        figure = "" if made_up or not level.path else f" {units.show(height, way, d.units)}"
        wishes.append(
            Wish(
                f"{level.label}{figure}",
                outer,
                d.y.pixel(level.elevation_m - d.zero),
                "place",
                d.frame.font - 1,
                2,
                ("right", "above right", "below right"),
                furthest=8.0,
            )
        )
    bounds = Box(d.frame.left + 2, d.frame.top - 6, d.frame.split, d.frame.bottom - 2)
    taken = [
        Box(float(one.x) - 10, float(one.y) - 10, float(one.x) + 10, float(one.y) + 10)
        for one in marks
        if one.x
    ]
    return [label(one) for one in labels.place(wishes, bounds, taken)]


def _leg_wish(d: Drawing, site: TypicalSite, index: int) -> Wish:
    entry, shape = d.sizing.legs[index], d.section.legs[index]
    name = build_route.leg_name(entry, index + 1)
    if f"legs.{entry.id}.length" not in site.made_up:
        name += f" {build_route.length_label(entry)}"
    sides = ("below right", "below", "right", "above left", "left")
    return Wish(name, *shape.middle, "leg", d.frame.font - 1, 1, sides, must=True)


def _spots(d: Drawing) -> dict[str, Point]:
    """Where the fact of a field is measured, for those that are measured on site."""
    inner, outer = d.sides()
    middle = (inner + outer) / 2
    found: dict[str, Point] = {}
    for level in d.place.levels:
        if level.path:
            found[level.path] = (middle, d.y.pixel(level.elevation_m - d.zero))
    floor = d.y.pixel(d.site.floor)
    for key in ("pit_diameter", "pit_width", "pit_length"):
        found[f"answers.{key}"] = (middle, floor + _OFF_PX)
    for key in ("tank_volume", "well_depth"):
        found.setdefault(f"answers.{key}", (middle, floor))
    for key in ("rise", "rise_time", "source_level", "static_level", "tested_yield"):
        found.setdefault(f"answers.{key}", (middle, d.y.pixel(0.0)))
    rim = d.y.pixel(d.site.rim)
    found["answers.pit_depth"] = (inner - _OFF_PX, (rim + floor) / 2)
    for key in ("pump_setting", "supply_pressure"):
        found.setdefault(f"answers.{key}", d.section.pump)
    for entry, shape in zip(d.sizing.legs, d.section.legs, strict=True):
        found[f"legs.{entry.id}.length"] = shape.middle
        found[f"legs.{entry.id}.pipe"] = shape.middle
        found[f"legs.{entry.id}.ends_at"] = shape.end
    return found


def _missing(d: Drawing, missing: tuple[MissingFact, ...]) -> Iterator[Missing]:
    """In the order one walks: what is measured at the source, along the run, then the rest."""
    spots = _spots(d)
    walked = sorted(
        missing, key=lambda one: spots[one.path][0] if one.path in spots else float("inf")
    )
    taken: list[Point] = []
    for number, one in enumerate(walked, 1):
        at = spots.get(one.path)
        if at is not None:
            at = _free(at, taken, d.frame)
            taken.append(at)
        yield Missing(
            number=number,
            label=_in_list(one.label),
            field="f-" + one.path.replace(".", "-"),
            x="" if at is None else px(at[0]),
            y="" if at is None else px(at[1]),
            list_y=px(d.frame.top + 44 + number * _LINE_PX),
        )


def _in_list(text: str) -> str:
    """A label with a capital, as short as the list has room for."""
    if len(text) > _LONGEST_LABEL:
        text = text.partition(" (")[0]
    return f"{text[:1].upper()}{text[1:]}"


def _free(at: Point, taken: list[Point], frame: Frame) -> Point:
    """A place near by that no other number has."""
    x, y = max(at[0], frame.left + 8), min(max(at[1], frame.top + 8), frame.bottom - 8)
    while any(abs(x - other[0]) < _APART_PX and abs(y - other[1]) < _APART_PX for other in taken):
        x += _APART_PX
    return x, y
