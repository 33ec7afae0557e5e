"""The curve of one pump by itself: head and input power over flow."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kyrtos.drawing.picture import Tick
from kyrtos.drawing.scale import Scale, points, px, ticks
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
    left: str
    right: str
    top: str
    bottom: str
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    power_ticks: tuple[Tick, ...]
    head: str
    power: str
    dots: tuple[tuple[str, str], ...]
    x_unit: str
    y_unit: str
    readings: tuple[Reading, ...]
    best: int  # of the readings, the one at best flow


def curve_chart(pump: Pump, system: System) -> CurveChart:
    """The chart of a pump."""
    curve, flow, head = (
        pump.curve,
        units.shown_unit("flow", system),
        units.shown_unit("length", system),
    )
    x = Scale(0.0, curve.last_flow_m3s * 1.04, _LEFT, _RIGHT)
    y = Scale(0.0, max(curve.heads_m) * 1.08, _BOTTOM, _TOP)
    power = Scale(0.0, max(curve.powers_w or (1.0,)) * 1.25, _BOTTOM, _TOP)
    flows = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, 60)
    heads = zip(flows.tolist(), curve.head_m(flows).tolist(), strict=True)
    watts = [(q, curve.power_at(q) or 0.0) for q in flows.tolist()] if curve.powers_w else []
    reads = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, _READINGS + 1).tolist()
    readings = tuple(
        Reading(
            px(x.pixel(q)),
            px(y.pixel(curve.head_at(q))),
            px(power.pixel(curve.power_at(q) or 0.0)) if curve.powers_w else "",
            _said(pump, q, system),
        )
        for q in reads
    )
    return CurveChart(
        _WIDTH,
        _HEIGHT,
        f"Head{' and input power' if watts else ''} of {pump.name} over its flow",
        px(_LEFT),
        px(_RIGHT),
        px(_TOP),
        px(_BOTTOM),
        axis_ticks(x, flow, 7),
        axis_ticks(y, head, 6),
        (
            tuple(
                Tick(px(power.pixel(value)), units.number_text(value, 0))
                for value in ticks(0, power.high, 5)
            )
            if watts
            else ()
        ),
        points([(x.pixel(q), y.pixel(h)) for q, h in heads]),
        points([(x.pixel(q), power.pixel(w)) for q, w in watts]),
        tuple(
            (px(x.pixel(q)), px(y.pixel(h)))
            for q, h in zip(curve.flows_m3s, curve.heads_m, strict=True)
        ),
        flow.symbol,
        head.symbol,
        readings,
        min(range(len(reads)), key=lambda at: abs(reads[at] - curve.best_flow_m3s)),
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


def axis_ticks(scale: Scale, unit: units.Unit, most: int) -> tuple[Tick, ...]:
    """Round ticks along a scale in SI, written in a unit."""
    values = ticks(unit.from_si(scale.low), unit.from_si(scale.high), most)
    decimals = 0 if all(value == int(value) for value in values) else 1
    return tuple(
        Tick(px(scale.pixel(unit.to_si(value))), units.number_text(value, decimals))
        for value in values
    )
