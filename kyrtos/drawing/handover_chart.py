"""Readings against what was promised: the curve with its tolerance, the run, the measured point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kyrtos.drawing.plot import Plot, axis, plot
from kyrtos.drawing.scale import Scale, points
from sizing.aftercare.commissioning.error_ellipse import ellipse
from sizing.aftercare.commissioning.grades import band, grade
from sizing.analysis.commissioning import HandedOver
from sizing.base import units
from sizing.base.units import System

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 620, 360, 48, 600, 18, 322
_POINTS = 60


@dataclass(frozen=True)
class HandoverChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    band: str
    head: str
    run: str
    measured_run: str
    promised: tuple[str, str]
    measured: tuple[str, str]
    ellipse: str
    grade: str


def handover_chart(found: HandedOver, system: System, grade_code: str) -> HandoverChart:
    """The chart of a comparison; raises UnknownName for a grade that there is none of."""
    compared, readings = found.compared, found.compared.readings
    promised, of = compared.promised, grade(grade_code)
    curve = promised.curve
    low_q, low_h, high_q, high_h = band(curve, of)
    most_q = max(float(high_q[-1]), readings.flow_m3s * 1.1)
    most_h = max(float(np.max(high_h)), readings.head_m * 1.1)
    frame = plot(
        axis(Scale(0.0, most_q, _LEFT, _RIGHT), units.shown_unit("flow", system), 7),
        axis(Scale(0.0, most_h * 1.02, _BOTTOM, _TOP), units.shown_unit("length", system), 6),
        _TOP,
        _BOTTOM,
    )
    flows = np.linspace(curve.flows_m3s[0], curve.last_flow_m3s, _POINTS)
    along = np.linspace(0.0, most_q, _POINTS)
    edge = [*zip(low_q, low_h), *reversed(list(zip(high_q, high_h)))]
    round_it = ellipse(readings)
    return HandoverChart(
        width=_WIDTH,
        height=_HEIGHT,
        title="Measured flow and head with their error, against the pump's curve and the run",
        plot=frame,
        band=points(_inside(frame, edge)),
        head=frame.line(flows.tolist(), curve.head_m(flows).tolist()),
        run=frame.line(along.tolist(), (promised.static_m + promised.k_s2_m5 * along**2).tolist()),
        measured_run=frame.line(
            along.tolist(), (readings.static_m + readings.k_s2_m5 * along**2).tolist()
        ),
        promised=frame.dot(compared.predicted_flow_m3s, compared.predicted_head_m),
        measured=frame.dot(readings.flow_m3s, min(max(readings.head_m, 0.0), most_h)),
        ellipse=points(_inside(frame, round_it)),
        grade=of.code,
    )


def _inside(frame: Plot, edge: object) -> list[tuple[float, float]]:
    """Points held within the plot, so that no area runs out of it."""
    assert frame.y is not None
    x, y = frame.x.scale, frame.y.scale
    return [
        (x.pixel(min(max(q, 0.0), x.high)), y.pixel(min(max(h, 0.0), y.high)))
        for q, h in edge  # type: ignore[attr-defined]
    ]
