"""The curve of one pump by itself: head and input power over flow."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kyrtos.drawing.plot import Axis, Plot, axis, plot
from kyrtos.drawing.scale import Scale, points, px
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Pump

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 620, 330, 44, 572, 14, 292
_READINGS = 60


@dataclass(frozen=True)
class Reading:
    """What is read off the curve at one flow, ready to be shown beside the marker."""

    x: str
    y: str
    power_y: str
    said: str


@dataclass(frozen=True)
class CurveChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    power_axis: Axis | None
    head: str
    power: str
    dots: tuple[tuple[str, str], ...]
    readings: tuple[Reading, ...]
    best: int  # of the readings, the one at best flow


def curve_chart(pump: Pump, system: System) -> CurveChart:
    """The chart of a pump."""
    curve = pump.curve
    x = Scale(0.0, curve.last_flow_m3s * 1.04, _LEFT, _RIGHT)
    y = Scale(0.0, max(curve.heads_m) * 1.08, _BOTTOM, _TOP)
    frame = plot(
        axis(x, units.shown_unit("flow", system), 7),
        axis(y, units.shown_unit("length", system), 6),
        _TOP,
        _BOTTOM,
    )
    power = _power_axis(pump)
    flows = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, _READINGS)
    reads = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, _READINGS + 1).tolist()
    return CurveChart(
        width=_WIDTH,
        height=_HEIGHT,
        title=f"Head{' and input power' if power else ''} of {pump.name} over its flow",
        plot=frame,
        power_axis=power,
        head=frame.line(flows.tolist(), curve.head_m(flows).tolist()),
        power=_power_line(pump, flows.tolist(), x, power) if power else "",
        dots=tuple(map(frame.dot, curve.flows_m3s, curve.heads_m)),
        readings=tuple(_reading(pump, flow, frame, power, system) for flow in reads),
        best=min(range(len(reads)), key=lambda at: abs(reads[at] - curve.best_flow_m3s)),
    )


def _power_axis(pump: Pump) -> Axis | None:
    if not pump.curve.powers_w:
        return None
    scale = Scale(0.0, max(pump.curve.powers_w) * 1.25, _BOTTOM, _TOP)
    return axis(scale, units.unit("W", "power"), 5)


def _power_line(pump: Pump, flows_m3s: list[float], x: Scale, power: Axis) -> str:
    return points(
        [(x.pixel(q), power.scale.pixel(pump.curve.power_at(q) or 0.0)) for q in flows_m3s]
    )


def _reading(
    pump: Pump, flow_m3s: float, frame: Plot, power: Axis | None, system: System
) -> Reading:
    x, y = frame.dot(flow_m3s, pump.curve.head_at(flow_m3s))
    watts = pump.curve.power_at(flow_m3s) or 0.0
    return Reading(
        x, y, px(power.scale.pixel(watts)) if power else "", _said(pump, flow_m3s, system)
    )


def _said(pump: Pump, flow_m3s: float, system: System) -> str:
    """Flow, head, power, efficiency and place on the curve, in words."""
    curve = pump.curve
    parts = [
        f"{units.show(flow_m3s, 'flow', system)} at"
        f" {units.show(curve.head_at(flow_m3s), 'length', system)}"
    ]
    power, efficiency = curve.power_at(flow_m3s), curve.efficiency_at(flow_m3s)
    if power is not None:
        parts.append(f"takes in {units.show(power, 'power', system)}")
    if efficiency is not None:
        parts.append(f"wire to water {units.show(efficiency, 'ratio', system)}")
    return ", ".join(
        [*parts, f"{units.show(flow_m3s / curve.best_flow_m3s, 'ratio', system)} of its best flow"]
    )
