"""What several parts of the picture share: page, scales, and where everything lies."""

from __future__ import annotations

import math
from dataclasses import dataclass

from kyrtos.drawing.scale import Scale, px, step
from kyrtos.drawing.section import Section, section
from kyrtos.drawing.site import Site
from sizing.base import units
from sizing.base.units import System
from sizing.selection.match import Candidate
from sizing.size import Sizing


@dataclass(frozen=True)
class Frame:
    """The page: how wide and high, where section and chart lie."""

    width: int
    height: int
    left: float
    pit: float
    split: float
    chart: float
    right: float
    top: float
    bottom: float
    font: float
    others: int


WIDE = Frame(
    width=920,
    height=400,
    left=46,
    pit=92,
    split=560,
    chart=588,
    right=908,
    top=16,
    bottom=366,
    font=12,
    others=3,
)
NARROW = Frame(
    width=390,
    height=240,
    left=30,
    pit=42,
    split=216,
    chart=230,
    right=384,
    top=12,
    bottom=206,
    font=10,
    others=1,
)


class Drawing:
    """One picture in the making: the scales and what several parts of it share."""

    def __init__(self, sizing: Sizing, system: System, frame: Frame) -> None:
        assert sizing.system is not None
        assert sizing.ledger is not None
        assert sizing.place is not None
        self.sizing, self.units, self.frame = sizing, system, frame
        self.curve, self.ledger, self.place = sizing.system, sizing.ledger, sizing.place
        self.zero = (
            0.0
            if self.curve.route.closed_loop
            else self.curve.route.start_level_m
            + self.curve.water.head_m(self.curve.route.supply_pressure_pa)
        )
        self.site = Site(self.place, self.zero)
        self.ends = self.site.ends(
            [leg.end_elevation_m for leg in self.curve.route.legs], self.curve.route.closed_loop
        )
        self.shown = shown_curves(sizing, frame.others)
        self.length = units.shown_unit("length", system)
        self.flow = units.shown_unit("flow", system)
        self.y = Scale(*self._heights(), frame.bottom, frame.top)
        self.x = Scale(0.0, self._most_flow(), frame.chart, frame.right)
        self.section = self._section()

    def _heights(self) -> tuple[float, float]:
        elevations = [*self.ends, *self.site.levels()]
        top = max(1.0, self.ledger.total_head_m, *elevations)
        chosen = self.sizing.chosen
        shut_off = chosen.candidate.pump.curve.shut_off_head_m if chosen else 0.0
        top = max(top * 1.12, min(max(shut_off, self.curve.static_head_m) * 1.06, top * 1.9))
        before = range(self.curve.route.suction_legs)
        sinks = sum(
            line.head_m
            for line in self.ledger.lines
            if line.code == "drawdown"
            or (line.leg is not None and line.leg in before and line.code in ("pipe", "fittings"))
        )
        low = min(-sinks, *elevations)
        return low - 0.03 * (top - low), top

    def _most_flow(self) -> float:
        wanted = self.sizing.demand.needed_m3s if self.sizing.demand else 0.0
        ends = [one.pump.curve.last_flow_m3s for one in self.shown[:1]]
        most = max(
            1.35 * self.ledger.flow_m3s,
            1.5 * wanted,
            *(min(end, 2.2 * max(wanted, self.ledger.flow_m3s)) for end in ends or [0.0]),
        )
        size = self.flow.to_si(step(self.flow.from_si(most), 6)) - self.flow.to_si(0.0)
        return math.ceil(most / size - 1e-9) * size

    def _section(self) -> Section:
        inner, outer = self.sides()
        at = {
            "well": (inner + outer) / 2,
            "main": self.frame.left + 8,
            "tank": outer - 6,
            "loop": outer - 6,
        }.get(self.place.shape, self.frame.left + self.frame.pit * 0.62)
        return section(
            self.curve,
            self.ledger,
            y=self.y,
            left=at,
            right=self.frame.split - 26,
            ends=self.ends,
            begin=self.site.begin,
            pump=self.site.pump,
            rim=self.site.ground,
            building=bool(self.place.storeys_m),
        )

    def sides(self) -> tuple[float, float]:
        return self.site.sides(self.frame.left, self.frame.pit)

    def head(self, value: float) -> str:
        return units.show(value, "length", self.units)

    def flow_text(self, value: float) -> str:
        return units.show(value, "flow", self.units)


def shown_curves(sizing: Sizing, others: int) -> list[Candidate]:
    """The chosen pump first, then the nearest rivals: a fit or two, and near misses."""
    found = [sizing.chosen.candidate] if sizing.chosen else []
    if sizing.match:
        rivals = [
            *sizing.match.fits[1:2],
            *sizing.match.near_misses[:1],
            *sizing.match.fits[:4],
            *sizing.match.near_misses[:2],
        ]
        curves = {one.pump.curve.heads_m for one in found}  # twins of one curve are drawn once
        for one in rivals:
            if one.pump.curve.heads_m not in curves:
                curves.add(one.pump.curve.heads_m)
                found.append(one)
    return found[: 1 + others]


def needed_m3s(d: Drawing) -> float:
    """The flow needed; zero while it is not known."""
    return d.sizing.demand.needed_m3s if d.sizing.demand else 0.0


def tie_px(d: Drawing) -> tuple[str, str] | None:
    """Where the run's own curve stands at the flow that runs: level with the lift's head.

    Under the duty where taps hold the flow and the pump has head to spare.
    """
    if duty_px(d) is None:
        return None
    return px(d.x.pixel(d.ledger.flow_m3s)), px(d.y.pixel(d.ledger.total_head_m))


def duty_px(d: Drawing) -> tuple[str, str] | None:
    """Where the pump runs, on the chart."""
    if d.sizing.chosen is None or d.sizing.chosen.operating_point.point is None:
        return None
    point = d.sizing.chosen.operating_point.point
    return px(d.x.pixel(point.flow_m3s)), px(d.y.pixel(point.head_m))
