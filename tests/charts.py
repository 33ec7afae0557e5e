"""Ten printed charts of our own, as leaflets, scans and photographs come, with the truth."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

WIDTH, HEIGHT = 960, 660
LEFT, RIGHT, BOTTOM, TOP = 100.0, 860.0, 570.0, 70.0
_FINE = 3  # drawn so much larger and made smaller: smooth edges as in print
Curve = Callable[[float], float]


@dataclass(frozen=True)
class Drawn:
    """A curve of a chart: its head (or other value) over flow, how it is drawn."""

    value: Curve
    colour: str = "#111"
    width: float = 2.6
    dashed: bool = False
    top: float = 0.0  # the value at the upper edge, where it is read on an axis of its own


@dataclass(frozen=True)
class Chart:
    """A chart: its axes, its curves (the first is the one to be traced) and how it was printed."""

    name: str
    curves: tuple[Drawn, ...]
    flow: tuple[float, float] = (0.0, 12.0)
    head: tuple[float, float] = (0.0, 20.0)
    flow_step: float = 2.0
    grid: str = ""
    grid_width: float = 1.0
    ink: str = "#111"
    paper: str = "#fff"
    tilt: float = 0.0  # radians
    log: bool = False
    photographed: bool = False
    from_share: float = 0.0
    to_share: float = 1.0
    also_click: tuple[float, ...] = ()  # where a third click is needed, as shares of the curve

    def page(self, flow: float, head: float) -> tuple[float, float]:
        """The pixel of a flow and a head."""
        low, high = self.flow
        along = (
            math.log(flow / low) / math.log(high / low) if self.log else (flow - low) / (high - low)
        )
        up = (head - self.head[0]) / (self.head[1] - self.head[0])
        x, y = LEFT + along * (RIGHT - LEFT), BOTTOM - up * (BOTTOM - TOP)
        dx, dy = x - WIDTH / 2, y - HEIGHT / 2
        cos, sin = math.cos(self.tilt), math.sin(self.tilt)
        return WIDTH / 2 + dx * cos - dy * sin, HEIGHT / 2 + dx * sin + dy * cos

    def flow_at(self, share: float) -> float:
        """The flow at a share of the way along the traced curve."""
        low, high = self.flow
        at = self.from_share + share * (self.to_share - self.from_share)
        return low * (high / low) ** at if self.log else low + at * (high - low)

    def place(self, share: float, which: int = 0) -> tuple[float, float]:
        """The pixel of a place along a curve, by the share of its flows."""
        flow = self.flow_at(share)
        return self.page(flow, self._height(self.curves[which], flow))

    def _height(self, curve: Drawn, flow: float) -> float:
        value = curve.value(flow)
        return value / curve.top * self.head[1] if curve.top else value

    def picture(self) -> Image.Image:
        """The chart as its reader gets it."""
        image = Image.new("RGB", (WIDTH * _FINE, HEIGHT * _FINE), self.paper)
        pen = ImageDraw.Draw(image)
        if self.grid:
            for line in self._grid():
                self._line(pen, line, self.grid, self.grid_width)
        corner, right = self.page(self.flow[0], self.head[0]), self.page(self.flow[1], self.head[0])
        self._line(pen, [corner, right], self.ink, 1.8)
        self._line(pen, [corner, self.page(self.flow[0], self.head[1])], self.ink, 1.8)
        self._numbers(pen)
        for curve in reversed(self.curves):
            places = [
                self.page(flow, self._height(curve, flow))
                for flow in (self.flow_at(share) for share in np.linspace(0, 1, 241))
            ]
            pieces = [places[at : at + 7] for at in range(0, 241, 9)] if curve.dashed else [places]
            for piece in pieces:
                self._line(pen, piece, curve.colour, curve.width)
        image = image.resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
        return _photographed(image) if self.photographed else image

    def _numbers(self, pen) -> None:
        """What is printed along the axes, and what they show."""
        font = ImageFont.load_default(15 * _FINE)

        def put(place, text, dx, dy) -> None:
            at = ((place[0] + dx) * _FINE, (place[1] + dy) * _FINE)
            pen.text(at, text, fill=self.ink, font=font, anchor="mm")

        for flow in self._flows() if not self.log else (1.0, 10.0, 100.0):
            put(self.page(flow, self.head[0]), f"{flow:g}", 0, 15)
        for head in self._heads():
            put(self.page(self.flow[0], head), f"{head:g}", -18, 0)
        put(self.page(self.flow_at(0.5), self.head[0]), "capacity Q", 0, 48)

    def _flows(self) -> list[float]:
        low, high = self.flow
        if self.log:
            return [one * ten for ten in (1.0, 10.0) for one in range(1, 10)] + [100.0]
        return [float(one) for one in np.arange(low, high + 1e-9, self.flow_step)]

    def _heads(self) -> list[float]:
        return [float(one) for one in np.linspace(*self.head, 6)]

    def _grid(self) -> list[list[tuple[float, float]]]:
        low, high = self.flow
        return [
            [self.page(flow, self.head[0]), self.page(flow, self.head[1])] for flow in self._flows()
        ] + [[self.page(low, head), self.page(high, head)] for head in self._heads()]

    @staticmethod
    def _line(pen, places, colour, width) -> None:
        pen.line(
            [(x * _FINE, y * _FINE) for x, y in places],
            fill=colour,
            width=round(width * _FINE),
            joint="curve",
        )

    def png(self) -> bytes:
        """The picture as a file."""
        out = io.BytesIO()
        self.picture().save(out, "PNG")
        return out.getvalue()


def _photographed(image: Image.Image) -> Image.Image:
    """Uneven light, a little blur, grain, and the marks of JPEG."""
    image = image.filter(ImageFilter.GaussianBlur(1.1))
    rng = np.random.default_rng(5)
    across, down = np.meshgrid(np.linspace(0, 1, WIDTH), np.linspace(0, 1, HEIGHT))
    light = (0.95 - 0.35 * across * down - 0.12 * down)[..., None]
    grain = rng.normal(0.0, 5.0, (HEIGHT, WIDTH, 1))
    shot = np.clip(np.asarray(image) * light * np.array([1.0, 0.97, 0.9]) + grain, 0, 255)
    out = io.BytesIO()
    Image.fromarray(shot.astype("uint8")).save(out, "JPEG", quality=70)
    return Image.open(out).convert("RGB")


def _falling(high: float, at_end: float, most: float, power: float = 1.9) -> Curve:
    return lambda flow: high - (high - at_end) * (flow / most) ** power


def _hump(best: float, at: float) -> Curve:
    return lambda flow: best * (1 - (flow / at - 1) ** 2)


CHARTS = (
    Chart("plain", (Drawn(_falling(17.0, 4.0, 12)),)),
    Chart("light grid", (Drawn(_falling(18.5, 2.0, 12, 2.3)),), grid="#bbb"),
    Chart("dark grid", (Drawn(_falling(16.0, 5.0, 12)),), grid="#222", grid_width=0.8),
    Chart("tilted", (Drawn(_falling(17.0, 1.0, 12)),), grid="#ccc", tilt=math.radians(2.5)),
    Chart(
        "photographed",
        (Drawn(_falling(15.0, 3.0, 12), "#222"),),
        grid="#aaa",
        tilt=math.radians(-1.6),
        photographed=True,
    ),
    Chart(
        "crossing colours",
        (
            Drawn(_falling(18.0, 3.0, 12), "#1a3f8f"),
            Drawn(_hump(62.0, 8.0), "#c0271d", top=80.0),
            Drawn(lambda flow: 1.2 + 0.03 * flow**2, "#2a7d3a", top=10.0),
        ),
        grid="#ccc",
    ),
    Chart(
        "three impellers",
        (
            Drawn(_falling(14.0, 3.0, 12)),
            Drawn(_falling(16.5, 5.0, 12)),
            Drawn(_falling(11.5, 1.0, 12)),
        ),
        grid="#ccc",
    ),
    Chart(
        "logarithmic",
        (Drawn(lambda flow: 55.0 - 0.0046 * flow**2),),
        flow=(1.0, 100.0),
        head=(0.0, 60.0),
        grid="#c4c4c4",
        log=True,
    ),
    Chart(
        "dashed",
        (Drawn(_falling(26.0, 9.0, 50, 1.7), dashed=True), Drawn(_falling(19.0, 4.0, 50))),
        flow=(0.0, 50.0),
        head=(0.0, 30.0),
        flow_step=10.0,
        grid="#ddd",
    ),
    Chart(
        "white on blue",
        (Drawn(_falling(17.0, 6.0, 12, 2.1), "#f4f7ff"),),
        grid="#5f86c4",
        ink="#e8eefc",
        paper="#1f4b94",
    ),
)
ALIKE = Chart(
    "crossing, all black",
    (Drawn(_falling(18.0, 2.0, 12)), Drawn(_hump(64.0, 7.0), top=80.0)),
    grid="#ccc",
    also_click=(0.35,),
)
