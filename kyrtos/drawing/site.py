"""The place the water is drawn from, by its shape, and the ground round it, in pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kyrtos.drawing.scale import Point, Scale, points, px
from kyrtos.drawing.section import LegShape, Section, height_at
from sizing.kinds.base import Place, Shape

_PUMP_DRAWN_M = 0.32  # height at which a submersible's outlet is drawn over the floor
# Where the place's sides lie, as shares of the room left of the legs; and whether it is cut into
# the ground.
_SIDES: dict[Shape, tuple[float, float, bool]] = {
    "pit": (0.16, 1.0, True),
    "well": (0.48, 0.76, True),
    "pond": (0.02, 1.0, True),
    "tank": (0.1, 0.9, False),
    "main": (0.0, 0.5, False),
    "loop": (0.04, 0.96, False),
}
_WELL_PUMP_PX, _DRY_PUMP_PX = 20.0, 16.0


@dataclass(frozen=True)
class Site:
    """The place in heads over the water's energy at the source (``zero_m`` over the datum)."""

    place: Place
    zero_m: float

    def _level(self, code: str) -> float | None:
        level = self.place.level_m(code)
        return None if level is None else level - self.zero_m

    @property
    def floor(self) -> float:
        """Its floor."""
        found = self._level("floor")
        return -0.5 if found is None else found

    @property
    def rim(self) -> float:
        """Its rim, or the ground."""
        found = self._level("rim")
        return 0.5 if found is None else found

    @property
    def dry_pump(self) -> float | None:
        """Level of a pump that stands dry."""
        return None if self.place.pump_level_m is None else self.place.pump_level_m - self.zero_m

    @property
    def pump(self) -> float:
        """Where the pump's outlet is drawn."""
        if self.dry_pump is not None:
            return self.dry_pump
        hangs = self._level("stop")
        if self.place.shape == "well" and hangs is not None:
            return hangs
        return self.floor + min(_PUMP_DRAWN_M, 0.5 * (self.rim - self.floor))

    @property
    def begin(self) -> float:
        """Where the first leg starts.

        At the pump, or for a suction leg near the floor of what it draws from.
        """
        if self.dry_pump is None or self.place.shape in ("main", "loop"):
            return self.pump
        return self.floor + 0.15 * (self.rim - self.floor)

    @property
    def cut_in(self) -> bool:
        """Whether it is cut into the ground."""
        return _SIDES[self.place.shape][2] or (
            self.dry_pump is not None
            and self.floor < self.dry_pump - 0.5
            and self.place.shape == "tank"
        )

    @property
    def ground(self) -> float:
        """Level of the ground beside it."""
        if _SIDES[self.place.shape][2]:
            return self.rim
        return (
            self.floor
            if self.dry_pump is None
            else min(self.dry_pump, self.floor)
            if not self.cut_in
            else self.dry_pump
        )

    def levels(self) -> list[float]:
        """Every level that the picture must hold."""
        return [
            self.floor,
            self.rim,
            self.pump,
            self.begin,
            *(level.elevation_m - self.zero_m for level in self.place.levels),
        ]

    def ends(self, elevations_m: Sequence[float], closed_loop: bool) -> list[float]:
        """Where the legs end.

        A closed loop is drawn unrolled, at the pump's level and back into the tub.
        """
        if closed_loop:
            return [*(self.pump for _ in elevations_m[1:]), 0.4 * self.floor]
        return [elevation - self.zero_m for elevation in elevations_m]

    def sides(self, left: float, room: float) -> tuple[float, float]:
        """Its two sides [px]."""
        low, high, _ = _SIDES[self.place.shape]
        return left + room * low, left + room * high

    def outline(self, y: Scale, inner: float, outer: float) -> list[Point]:
        """Its walls; nothing for a main."""
        if self.place.shape == "main":
            return []
        rim, floor = y.pixel(self.rim), y.pixel(self.floor)
        return [(inner, rim), (inner, floor), (outer, floor), (outer, rim)]

    def pump_box(self, y: Scale, section: Section) -> tuple[float, float]:
        """Top and height of the pump as drawn [px]."""
        at = section.pump[1]
        if self.dry_pump is not None:
            return at - _DRY_PUMP_PX / 2, _DRY_PUMP_PX
        return at, _WELL_PUMP_PX if self.place.shape == "well" else y.pixel(self.floor) - at

    def earth(
        self, y: Scale, section: Section, *, left: float, right: float, base: float, sides: Point
    ) -> list[Point]:
        """The earth: with a hole for what is cut into it.

        Rising with the legs from a pit, flat under a building.
        """
        inner, outer = sides
        ground, floor = y.pixel(self.ground), y.pixel(self.floor)
        hole = (
            [(inner, ground), (inner, floor), (outer, floor), (outer, ground)]
            if self.cut_in
            else []
        )
        if not _SIDES[self.place.shape][2]:
            return [(left, ground), *hole, (right, ground), (right, base), (left, base)]
        wall = outer + 8
        surface = [
            (wall, ground),
            (wall, min(_pipe_at(section.legs, wall), ground)),
            *((x, min(at, base)) for x, at in section.ground if x > wall),
        ]
        end = surface[-1]
        last = (right, min(end[1] + 10, base))
        return [
            (left, ground),
            *hole,
            *surface,
            (min(end[0] + 12, right), end[1] + 6),
            last,
            (right, base),
            (left, base),
        ]


def _pipe_at(legs: Sequence[LegShape], x: float) -> float:
    """Height of the pipe [px] at a place along the section."""
    return next(
        (
            height_at(leg.pipe, x)
            for leg in legs
            if leg.start[0] <= x <= leg.end[0] and leg.end[0] > leg.start[0]
        ),
        legs[-1].end[1],
    )


@dataclass(frozen=True)
class Ending:
    """What the water comes to: strokes and water as points of polylines, ready to print."""

    water: str = ""
    walls: str = ""


_TANK_PX, _TAP_PX = 34.0, 9.0


def ending(place: Place, outlet: Point, surface_y: float, right: float) -> Ending:
    """The tank, fall, tap or main at the outlet, left of ``right``.

    ``surface_y`` is where a fall ends.
    """
    x, y = outlet
    wide = max(min(_TANK_PX, right - x), 8.0)
    if place.outlet == "tank":
        box = [(x - 4, y - 9), (x - 4, y + 20), (x + wide - 4, y + 20), (x + wide - 4, y - 9)]
        return Ending(
            points(
                [(x - 4, y + 1), (x - 4, y + 20), (x + wide - 4, y + 20), (x + wide - 4, y + 1)]
            ),
            points(box),
        )
    if place.outlet == "fall":
        lip = min(x + wide * 0.5, right)
        return Ending(
            points(
                [
                    (x, y - 1.5),
                    (lip, y - 1.5),
                    (lip + 3, surface_y),
                    (lip - 3, surface_y),
                    (lip - 4, y + 3),
                    (x, y + 3),
                ]
            )
        )
    if place.outlet == "tap":
        return Ending("", points([(x, y), (x + _TAP_PX, y), (x + _TAP_PX, y + _TAP_PX)]))
    if place.outlet == "main":
        return Ending(
            points([(x - 3, y - 4), (x + wide, y - 4), (x + wide, y + 4), (x - 3, y + 4)]),
            points([(x - 3, y - 4), (x + wide, y - 4)]) + " " + px(x + wide) + "," + px(y - 4),
        )
    return Ending()


def storeys(
    place: Place, zero_m: float, y: Scale, left: float, right: float
) -> list[tuple[str, str, str]]:
    """The floors of a building as (x1, x2, y), where they lie within the picture."""
    found = []
    for level in place.storeys_m:
        at = level - zero_m
        if y.low <= at <= y.high:
            found.append((px(left), px(right), px(y.pixel(at))))
    return found
