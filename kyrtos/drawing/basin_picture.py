"""A basin to scale, in section and in plan: pumps, floats with their swing, hatch, pipes, levels.

A height that nobody states of a pump is drawn as one and a half times its width.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from kyrtos.drawing.handles import Handle
from kyrtos.drawing.scale import px
from sizing.analysis.basins import Built, Site
from sizing.base import units
from sizing.base.units import System
from sizing.storage.basin_build import FLOAT_M, GAP_M

WIDTH, HEIGHT = 760, 400
_TOP, _BOTTOM, _SECTION_X, _PLAN_X, _PLAN_Y = 62, 356, 236, 596, 196
_WIDEST_SECTION, _WIDEST_PLAN = 220.0, 250.0
_WALL_PX, _APART = 6.0, 14.0
_OUTLET_M, _PIPE_M = 0.3, 0.1  # of the outlet under the cover, and across: drawn so
_PUMP_SHAPE = 1.5  # height over width
_STEPS: dict[System, float] = {"metric": 0.01, "us": 0.25, "uk": 0.01}
_NAMES = {"stop": "stops", "start": "starts", "alarm": "alarm", "inlet": "inlet"}
_PATHS = {"stop": "stop_level", "start": "start_level", "alarm": "alarm_level"}


@dataclass(frozen=True)
class Box:
    x: str
    y: str
    width: str
    height: str


@dataclass(frozen=True)
class Float:
    """A float on its arm: the joint, the float up and down, all in pixels."""

    role: str
    joint_x: str
    joint_y: str
    x: str
    y: str
    down_x: str
    down_y: str


@dataclass(frozen=True)
class LevelLine:
    role: str
    y: str
    text: str
    text_y: str


@dataclass(frozen=True)
class Dimension:
    """A measure between two points, upright or across."""

    x1: str
    y1: str
    x2: str
    y2: str
    text: str
    text_x: str
    text_y: str
    anchor: str


@dataclass(frozen=True)
class BasinPicture:
    """Everything the template prints; coordinates as text."""

    width: int
    height: int
    title: str
    inside: Box
    water: Box
    wall: str  # path
    cover: tuple[Box, ...]
    hatch: Box | None
    ground: tuple[str, str, str]  # y, and both ends
    ground_water_y: str
    outside_x: str  # of the wall, to the right
    frost_y: str
    pumps: tuple[Box, ...]
    rails: tuple[tuple[str, str, str], ...]  # x, top, bottom
    riser: str  # path
    inlet: Box
    floats: tuple[Float, ...]
    levels: tuple[LevelLine, ...]
    dimensions: tuple[Dimension, ...]
    plan_x: str
    plan_y: str
    plan_r: str
    plan_wall_r: str
    plan_pumps: tuple[Box, ...]
    plan_hatch: Box | None
    plan_floats: tuple[tuple[str, str, str], ...]  # x, y, swing
    plan_inlet: Box
    handles: tuple[Handle, ...]


class _Drawing:
    """Metres to pixels: ``y`` from the floor up, ``x`` from the basin's middle."""

    def __init__(self, built: Built, site: Site, system: System) -> None:
        self.built, self.site, self.system = built, site, system
        one = built.candidate
        self.scale = min(
            (_BOTTOM - _TOP) / one.depth_m,
            _WIDEST_SECTION / one.diameter_m,
        )
        self.plan_scale = _WIDEST_PLAN / one.diameter_m * 0.92
        self.half = one.diameter_m / 2 * self.scale

    def x(self, metres: float) -> float:
        return _SECTION_X + metres * self.scale

    def y(self, level_m: float) -> float:
        return _BOTTOM - level_m * self.scale

    def box(self, left: float, top: float, width: float, height: float) -> Box:
        return Box(px(left), px(top), px(width), px(height))

    def said(self, metres: float) -> str:
        return units.show(metres, "length", self.system)


def basin_picture(built: Built, site: Site, system: System, *, may_drag: bool) -> BasinPicture:
    """The picture of a basin; ``may_drag`` where its levels are those of the job."""
    d = _Drawing(built, site, system)
    one, room = built.candidate, built.room
    top = d.y(one.depth_m)
    left, right = d.x(0) - d.half, d.x(0) + d.half
    wide = room.pump_width_m * d.scale
    tall = min(wide * _PUMP_SHAPE, (one.start_m * 0.95) * d.scale)
    places = [d.x(place) for place in room.pump_places_m]
    outlet_y = top + _OUTLET_M * d.scale
    pipe = max(_PIPE_M * d.scale, 5.0)
    inlet_y = d.y(one.inlet_m)
    beyond = right + 46
    return BasinPicture(
        width=WIDTH,
        height=HEIGHT,
        title=f"Basin {d.said(one.diameter_m)} across, {d.said(one.depth_m)} deep, to scale",
        inside=d.box(left, top, 2 * d.half, _BOTTOM - top),
        water=d.box(left, d.y(one.stop_m), 2 * d.half, _BOTTOM - d.y(one.stop_m)),
        wall=(
            f"M{px(left)} {px(top)}V{_BOTTOM}H{px(right)}V{px(top)}"
            f"M{px(left - _WALL_PX)} {px(top)}V{_BOTTOM + 6}H{px(right + _WALL_PX)}V{px(top)}"
        ),
        cover=tuple(_cover(d, left, right, top)),
        hatch=_hatch(d, top),
        ground=(px(top), px(left - 60), px(beyond + 14)),
        ground_water_y=_under_cover(d, site.ground_water_m),
        outside_x=px(right + _WALL_PX + 4),
        frost_y=_under_cover(d, site.frost_m),
        pumps=tuple(d.box(at - wide / 2, _BOTTOM - tall, wide, tall) for at in places),
        rails=tuple(
            (px(at + side * wide / 3), px(top), px(_BOTTOM - tall))
            for at in places
            for side in (-1, 1)
        ),
        riser=(
            f"M{px(places[0])} {px(_BOTTOM - tall)}V{px(outlet_y)}H{px(left - 46)}"
            + "".join(
                f"M{px(at)} {px(_BOTTOM - tall)}V{px(outlet_y)}H{px(places[0])}"
                for at in places[1:]
            )
        ),
        inlet=d.box(right, inlet_y - pipe, 46, pipe),
        floats=tuple(_floats(d, max(places) + wide / 2)),
        levels=tuple(_levels(d)),
        dimensions=tuple(_dimensions(d, left, right, top)),
        plan_x=str(_PLAN_X),
        plan_y=str(_PLAN_Y),
        plan_r=px(one.diameter_m / 2 * d.plan_scale),
        plan_wall_r=px(one.diameter_m / 2 * d.plan_scale + _WALL_PX),
        plan_pumps=tuple(_plan_pumps(d)),
        plan_hatch=_plan_hatch(d),
        plan_floats=tuple(_plan_floats(d)),
        plan_inlet=_plan_inlet(d),
        handles=tuple(_handles(d, left)) if may_drag else (),
    )


def _under_cover(d: _Drawing, metres: float | None) -> str:
    if metres is None:
        return ""
    return px(d.y(max(d.built.candidate.depth_m - metres, -0.02)))


def _cover(d: _Drawing, left: float, right: float, top: float) -> Iterator[Box]:
    hatch = d.site.hatch_m
    if hatch is None or hatch >= d.built.candidate.diameter_m:
        yield d.box(left - 10, top - 7, right - left + 20, 7)
        return
    half = hatch / 2 * d.scale
    yield d.box(left - 10, top - 7, d.x(0) - half - left + 10, 7)
    yield d.box(d.x(0) + half, top - 7, right + 10 - d.x(0) - half, 7)


def _hatch(d: _Drawing, top: float) -> Box | None:
    if d.site.hatch_m is None:
        return None
    half = min(d.site.hatch_m / 2 * d.scale, d.half + 10)
    return d.box(d.x(0) - half, top - 12, 2 * half, 4)


def _floats(d: _Drawing, from_x: float) -> Iterator[Float]:
    """The duty float swings from stop to start; the alarm's hangs where it sounds."""
    one, arm = d.built.candidate, d.built.room.float_arm_m
    joint_m = (one.start_m + one.stop_m) / 2
    x = from_x + GAP_M * d.scale
    reach = max(arm * 0.7071, 0.05)
    yield Float(
        "start",
        px(x),
        px(d.y(joint_m)),
        px(x + reach * d.scale),
        px(d.y(one.start_m)),
        px(x + reach * d.scale),
        px(d.y(one.stop_m)),
    )
    alarm = d.y(one.alarm_m)
    yield Float("alarm", px(x), px(alarm), px(x + 14), px(alarm), px(x + 10), px(alarm + 14))


def _levels(d: _Drawing) -> Iterator[LevelLine]:
    one, last = d.built.candidate, float("inf")
    found = [("stop", one.stop_m), ("start", one.start_m)]
    if one.lag_m is not None:
        found.append(("start", one.lag_m))
    found += [("alarm", one.alarm_m), ("inlet", one.inlet_m)]
    for role, level in sorted(found, key=lambda pair: pair[1]):
        place = min(d.y(level), last - _APART)
        last = place
        name = "second starts" if level == one.lag_m else _NAMES[role]
        yield LevelLine(role, px(d.y(level)), f"{name} {d.said(level)}", px(place + 4))


def _dimensions(d: _Drawing, left: float, right: float, top: float) -> Iterator[Dimension]:
    one = d.built.candidate
    y = _BOTTOM + 24
    yield Dimension(
        *(px(left), str(y), px(right), str(y)),
        f"⌀ {d.said(one.diameter_m)}",
        px(d.x(0)),
        str(y + 14),
        "middle",
    )
    x = right + 100
    yield Dimension(
        *(px(x), px(top), px(x), str(_BOTTOM)),
        d.said(one.depth_m),
        px(x + 6),
        px((top + _BOTTOM) / 2),
        "start",
    )
    if d.built.inlet_under_cover_m > 1e-3:
        yield Dimension(
            *(px(x - 44), px(top), px(x - 44), px(d.y(one.inlet_m))),
            d.said(d.built.inlet_under_cover_m),
            px(x - 50),
            px((top + d.y(one.inlet_m)) / 2 + 4),
            "end",
        )


def _plan_pumps(d: _Drawing) -> Iterator[Box]:
    room, s = d.built.room, d.plan_scale
    wide = room.pump_width_m * s
    for place in room.pump_places_m:
        yield d.box(_PLAN_X + place * s - wide / 2, _PLAN_Y - wide / 2, wide, wide)


def _plan_hatch(d: _Drawing) -> Box | None:
    if d.site.hatch_m is None:
        return None
    side = d.site.hatch_m * d.plan_scale
    return d.box(_PLAN_X - side / 2, _PLAN_Y - side / 2, side, side)


def _plan_floats(d: _Drawing) -> Iterator[tuple[str, str, str]]:
    room, s = d.built.room, d.plan_scale
    at = room.pump_width_m / 2 + GAP_M
    for side in (1, -1):
        arm = room.float_arm_m if side == 1 else 0.1
        reach = at + arm + FLOAT_M / 2
        yield px(_PLAN_X), px(_PLAN_Y + side * reach * s), px(FLOAT_M / 2 * s)


def _plan_inlet(d: _Drawing) -> Box:
    r = d.built.candidate.diameter_m / 2 * d.plan_scale
    pipe = max(_PIPE_M * d.plan_scale, 6.0)
    return d.box(_PLAN_X + r, _PLAN_Y - pipe / 2, 24, pipe)


def _handles(d: _Drawing, left: float) -> Iterator[Handle]:
    """The job's own levels, to be dragged up and down."""
    one, length = d.built.candidate, units.shown_unit("length", d.system)
    for at, (role, level) in enumerate(
        (("stop", one.stop_m), ("start", one.start_m), ("alarm", one.alarm_m))
    ):
        value = length.from_si(level)
        yield Handle(
            path=f"answers.{_PATHS[role]}",
            label=f"level: {_NAMES[role]}",
            axis="y",
            x=px(left + 22 + 26 * at),
            y=px(d.y(level)),
            value=f"{value:.6g}",
            per_px=f"{-length.from_si(1.0 / d.scale):.6g}",
            step=f"{_STEPS[d.system]:g}",
            unit=length.symbol,
            shown=d.said(level),
            role="level",
        )
