"""Things in a leg whose loss their makers tell.

Typed as short text, read as figures, reckoned as devices.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.base.water import Water, water
from sizing.document.job import MOST_ITEMS, Figure, ItemEntry, ItemPoint
from sizing.hydraulics.device import Device

HOW = "write for example filter 0.2 to 0.5 bar at 10 m³/h; meter 0.25 bar at 2.5 m³/h"
_ANY_C = 15.0  # whether a curve falls does not hang on the water
_NAME = re.compile(r"^\s*(?:(?P<called>[^:]+):|(?P<name>[^\d.]*?))\s*(?=[-+]?[\d.])")
_POINT = re.compile(
    r"^(?P<loss>.+?)(?:\s+to\s+(?P<dirty>.+?))?\s+at\s+(?P<flow>.+)$", re.IGNORECASE
)


def read(text: str, system: System) -> tuple[ItemEntry, ...]:
    """Items typed as 'name loss at flow', with ``;`` between them.

    A filter's loss may grow from clean 'to' dirty; further points of a curve follow behind a comma
    and a blank: 'meter 0.1 bar at 1 m³/h, 0.4 bar at 2 m³/h'. A loss is a head or a pressure.

    Raises
    ------
    SizingError
        Text that is none, a loss that falls as the flow grows, or more items than a leg takes.
    """
    found = tuple(_item(part.strip(), system) for part in text.split(";") if part.strip())
    if len(found) > MOST_ITEMS:
        raise SizingError(f"these are {len(found)} items; a leg takes at most {MOST_ITEMS}")
    return found


def _item(text: str, system: System) -> ItemEntry:
    named = _NAME.match(text)
    name = (named["called"] or named["name"] or "").strip() if named else ""
    if named is None or not name:
        raise SizingError(f"'{text}' wants a name, its loss and the flow of that loss: {HOW}")
    points = tuple(_point(part, system) for part in re.split(r",\s+", text[named.end() :]))
    made = ItemEntry(name=name[:60], points=points)
    for dirty in (False, True):  # a curve that falls is told at once
        device(made, water(_ANY_C), dirty=dirty)
    return made


def _point(text: str, system: System) -> ItemPoint:
    parts = _POINT.match(text.strip())
    if parts is None:
        raise SizingError(f"'{text.strip()}' wants a loss and the flow of that loss: {HOW}")
    flow = Figure.read(parts["flow"], "flow", units.shown("flow", system).unit)
    if parts["dirty"] is None:
        return ItemPoint(flow=flow, loss=_loss(parts["loss"], system))
    dirty = _loss(parts["dirty"], system)
    bare = re.fullmatch(r"[\d.,/ ]+", parts["loss"])  # '0.2 to 0.5 bar': both are in bar
    clean = _loss(f"{parts['loss']} {dirty.unit}" if bare else parts["loss"], system)
    return ItemPoint(flow=flow, loss=clean, dirty=dirty)


def dimension_of(figure: Figure) -> str:
    """Whether a loss was typed as a pressure or as a head."""
    return "pressure" if units.find(figure.unit, "pressure") else "length"


def _loss(text: str, system: System) -> Figure:
    """A loss as a pressure or a head; a bare number is a head."""
    try:
        return (
            Figure.read(text, "pressure", "?")
            if re.search(r"[^\d\s.,/]", text)
            else Figure.read(text, "length", units.shown("length", system).unit)
        )
    except SizingError as no_pressure:
        try:
            return Figure.read(text, "length", units.shown("length", system).unit)
        except SizingError:
            raise SizingError(f"{no_pressure}; a loss is a pressure or a head: {HOW}") from None


def _si(figure: Figure) -> tuple[str, float]:
    dimension = dimension_of(figure)
    return dimension, figure.si(dimension)


def device(item: ItemEntry, liquid: Water, *, dirty: bool) -> Device:
    """An item as a device of the route, clean or due for cleaning.

    Raises
    ------
    SizingError
        A loss that falls as the flow grows.
    """
    points = []
    for point in item.points:
        dimension, loss = _si(point.dirty if dirty and point.dirty else point.loss)
        points.append(
            (point.flow.si("flow"), liquid.head_m(loss) if dimension == "pressure" else loss)
        )
    if any(flow < 0 or loss < 0 for flow, loss in points) or points[-1][0] <= 0:
        raise SizingError(f"flow and loss of the {item.name} must be more than zero")
    return Device.of_curve(item.name, tuple(sorted(points)))


def write(items: Sequence[ItemEntry]) -> str:
    """The short text of some items, such that :func:`read` gives them back."""
    return "; ".join(
        f"{item.name}: {', '.join(_written(point) for point in item.points)}" for item in items
    )


def _written(point: ItemPoint) -> str:
    loss = (
        point.loss.shown()
        if point.dirty is None
        else f"{point.loss.shown()} to {point.dirty.shown()}"
    )
    return f"{loss} at {point.flow.shown()}"
