"""The signature picture.

Site and curve on one height scale, as a frozen model whose numbers are text.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kyrtos.drawing import label_requests
from kyrtos.drawing.compare_chart import band_points
from kyrtos.drawing.handles import Handle, handles
from kyrtos.drawing.layout import NARROW, WIDE, Drawing, Frame, duty_px, needed_m3s, tie_px
from kyrtos.drawing.plot import Label, Plot, axis, label, plot
from kyrtos.drawing.scale import points, px
from kyrtos.drawing.site import Ending, ending, storeys
from sizing.base.units import System
from sizing.document import build_route
from sizing.document.own_pumps import rough
from sizing.pump.catalogue import OWN
from sizing.pump.curve import one_of
from sizing.size import Sizing

__all__ = ["NARROW", "WIDE", "Frame", "Picture", "picture"]
_CURVE_STEPS = 48


@dataclass(frozen=True)
class LegLine:
    leg_id: str
    pipe: str
    grade: str
    title: str
    mark: str


@dataclass(frozen=True)
class CurveLine:
    role: str
    points: str
    title: str


@dataclass(frozen=True)
class Water:
    x: str
    y: str
    width: str
    height: str


@dataclass(frozen=True)
class Mark:
    role: str
    x1: str
    x2: str
    y: str


@dataclass(frozen=True)
class Picture:
    """Everything the template prints, and nothing that it must work out."""

    width: int
    height: int
    title: str
    description: str
    plot: Plot
    chart: str
    split: str
    ground: str
    pit: str
    water: Water
    marks: tuple[Mark, ...]
    legs: tuple[LegLine, ...]
    curves: tuple[CurveLine, ...]
    band: str  # in which a rough curve lies
    needed_x: str
    needed_width: str
    plot_height: str
    lift: tuple[str, str, str]
    pump_x: str
    pump_y: str
    pump_height: str
    outlet: tuple[str, str]
    duty: tuple[str, str] | None
    tie: tuple[str, str] | None
    own_point: tuple[str, str] | None
    static_tie: str
    labels: tuple[Label, ...]
    handles: tuple[Handle, ...]
    ending: Ending
    storeys: tuple[tuple[str, str, str], ...]
    font: str


def picture(sizing: Sizing, system: System, frame: Frame = WIDE) -> Picture | None:
    """The picture of a sizing, or None while the run is not known."""
    if sizing.system is None or sizing.ledger is None or sizing.place is None:
        return None
    d = Drawing(sizing, system, frame)
    page = _plot(d)
    return Picture(
        width=frame.width,
        height=frame.height,
        title=_title(d),
        description=_description(d),
        plot=page,
        chart=px(frame.chart),
        split=px(frame.split),
        ground=ground_of(d),
        pit=points(d.site.outline(d.y, *d.sides())),
        water=water_of(d),
        marks=tuple(_marks(d)),
        legs=tuple(_legs(d)),
        curves=tuple(_curves(d, page)),
        band=_band(d, page),
        needed_x=px(d.x.pixel(needed_m3s(d))),
        needed_width=px(d.x.pixel(min(needed_m3s(d) * 1.3, d.x.high)) - d.x.pixel(needed_m3s(d))),
        plot_height=px(frame.bottom - frame.top),
        lift=(px(d.section.lift_top[0]), px(d.section.lift_foot[1]), px(d.section.lift_top[1])),
        pump_x=px(d.section.pump[0] - 7),
        pump_y=px(d.site.pump_box(d.y, d.section)[0]),
        pump_height=px(d.site.pump_box(d.y, d.section)[1]),
        outlet=(px(d.section.outlet[0]), px(d.section.outlet[1])),
        duty=duty_px(d),
        tie=tie_px(d),
        own_point=_own_point(d),
        static_tie=px(d.y.pixel(d.curve.static_head_m)),
        labels=tuple(label(one) for one in label_requests.placed(d)),
        handles=tuple(handles(d)),
        ending=ending(d.place, d.section.outlet, d.y.pixel(0.0), frame.split - 4),
        storeys=tuple(storeys(d.place, d.zero, d.y, d.section.pump[0] - 30, frame.split - 8)),
        font=px(frame.font),
    )


def _title(d: Drawing) -> str:
    return (
        "Section of the site and the pump's curve on one height scale:"
        f" {d.sizing.job.title or 'untitled job'}"
    )


def _description(d: Drawing) -> str:
    chosen = d.sizing.chosen
    lift = (
        f"The route asks for {d.head(d.ledger.total_head_m)} at {d.flow_text(d.ledger.flow_m3s)},"
        f" of which {d.head(d.curve.static_head_m)} is static."
    )
    return f"{lift} {chosen.candidate.pump.name} is drawn on it." if chosen else lift


def _plot(d: Drawing) -> Plot:
    """Heights across the whole page, flows along the chart."""
    wide, frame = d.frame is WIDE, d.frame
    x = axis(d.x, d.flow, 6 if wide else 4)
    y = axis(d.y, d.length, 9 if wide else 6, datum=True)
    return plot(x, y, frame.top, frame.bottom, frame.left)


def ground_of(d: Drawing) -> str:
    """The earth, as the points of a polygon."""
    f = d.frame
    return points(
        d.site.earth(d.y, d.section, left=f.left, right=f.split - 4, base=f.bottom, sides=d.sides())
    )


def water_of(d: Drawing) -> Water:
    """The water that is drawn from."""
    inner, outer = d.sides()
    top, floor = d.y.pixel(0.0), d.y.pixel(d.site.floor)
    return Water(
        px(inner),
        px(top),
        px(outer - inner),
        px(0.0 if d.place.shape == "main" else max(floor - top, 0)),
    )


def _marks(d: Drawing) -> list[Mark]:
    inner, outer = d.sides()
    found = []
    for level in d.place.levels:
        if level.code in ("start", "lag", "alarm", "inlet"):
            found.append(
                Mark(
                    level.code,
                    px(inner),
                    px(inner + 0.3 * (outer - inner)),
                    px(d.y.pixel(level.elevation_m - d.zero)),
                )
            )
    return found


def _legs(d: Drawing) -> list[LegLine]:
    made = []
    for number, (entry, shape) in enumerate(zip(d.sizing.legs, d.section.legs, strict=True), 1):
        middle = shape.middle
        mark = f"translate({px(middle[0])} {px(middle[1])})" if shape.shortened else ""
        of_pipe = f"{build_route.length_label(entry)} of {build_route.pipes_label(entry)}"
        title = f"{build_route.leg_name(entry, number)}: {of_pipe}"
        made.append(LegLine(entry.id, points(shape.pipe), points(shape.grade), title, mark))
    return made


def _each(d: Drawing, frame: Plot) -> list[CurveLine]:
    """The curve of one pump alone, where several run together."""
    chosen = d.sizing.chosen
    if chosen is None or chosen.candidate.pump.together == 1:
        return []
    pump = chosen.candidate.pump
    one = one_of(pump.curve, d.sizing.job.arrangement, pump.together)
    flows = np.linspace(one.flows_m3s[0], min(one.last_flow_m3s, d.x.high), _CURVE_STEPS)
    return [
        CurveLine(
            "each",
            frame.line(flows.tolist(), one.head_m(flows).tolist()),
            f"one of the {pump.together} alone",
        )
    ]


def _band(d: Drawing, frame: Plot) -> str:
    """The band of the chosen pump where it is known only by its box, and runs alone."""
    chosen = d.sizing.chosen
    if chosen is None or not chosen.candidate.pump.rough or chosen.candidate.pump.together > 1:
        return ""
    name = chosen.candidate.pump.pump_id
    own = next((one for one in d.sizing.job.own_pumps if f"{OWN}{one.id}" == name), None)
    return "" if own is None else band_points(frame, rough(own), d.x.high)


def _own_point(d: Drawing) -> tuple[str, str] | None:
    """Where each of several pumps runs on its own curve."""
    chosen = d.sizing.chosen
    if (
        chosen is None
        or chosen.operating_point.point is None
        or chosen.candidate.pump.together == 1
    ):
        return None
    count, parallel = chosen.candidate.pump.together, d.sizing.job.arrangement == "parallel"
    flow, head = d.ledger.flow_m3s, d.ledger.total_head_m
    return px(d.x.pixel(flow / count if parallel else flow)), px(
        d.y.pixel(head if parallel else head / count)
    )


def _curves(d: Drawing, frame: Plot) -> list[CurveLine]:
    flows = np.linspace(0.0, d.x.high, _CURVE_STEPS)
    made = []
    for rank, one in enumerate(d.shown):
        curve = one.pump.curve
        own = np.linspace(curve.flows_m3s[0], min(curve.last_flow_m3s, d.x.high), _CURVE_STEPS)
        role = "chosen" if rank == 0 and d.sizing.chosen else "other"
        made.append(
            CurveLine(role, frame.line(own.tolist(), curve.head_m(own).tolist()), one.pump.name)
        )
    made.reverse()  # the chosen one on top
    made += _each(d, frame)
    made.append(
        CurveLine(
            "system",
            frame.line(flows.tolist(), d.curve.head_m(flows).tolist()),
            "what this site asks for",
        )
    )
    return made
