"""How many still run after so many years: the steps with their interval, and the fit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from kyrtos.drawing.plot import Plot, axis, plot
from kyrtos.drawing.scale import Scale, points
from sizing.aftercare.reliability.survival import Lifetimes, Step
from sizing.base import units
from sizing.base.units import Unit

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 620, 334, 44, 600, 28, 272
_POINTS = 50
_YEARS = Unit("years", "age", 1.0)


@dataclass(frozen=True)
class LifeChart:
    """Everything the template prints."""

    width: int
    height: int
    title: str
    plot: Plot
    steps: str
    band: str
    fit: str
    at_risk: tuple[tuple[str, str], ...]  # at a tick, how many pumps the curve stands on there
    at_risk_y: int


def life_chart(life: Lifetimes, name: str) -> LifeChart | None:
    """The chart of a group; None where none has failed yet."""
    if not life.curve:
        return None
    last = max(life.curve[-1].years * 1.15, 1.0)
    frame = plot(
        axis(Scale(0.0, last, _LEFT, _RIGHT), _YEARS, 8),
        axis(Scale(0.0, 1.0, _BOTTOM, _TOP), units.unit("%", "ratio"), 5),
        _TOP,
        _BOTTOM,
    )
    low, high = (_stairs(life.curve, pick, last) for pick in ("low", "high"))
    fit = ""
    if life.weibull is not None:
        years = np.linspace(0.0, last, _POINTS)
        shares = [life.weibull.share_at(float(one)) for one in years]
        fit = frame.line(years.tolist(), shares)
    assert frame.y is not None
    x, y = frame.x.scale, frame.y.scale
    return LifeChart(
        width=_WIDTH,
        height=_HEIGHT,
        title=f"Share of {name} that still run, by years in service",
        plot=frame,
        steps=frame.line(*zip(*_stairs(life.curve, "share", last))),
        band=points([(x.pixel(at), y.pixel(share)) for at, share in [*low, *reversed(high)]]),
        fit=fit,
        at_risk=tuple(_at_risk(life.curve, frame, last)),
        at_risk_y=_HEIGHT - 4,
    )


def _at_risk(curve: tuple[Step, ...], frame: Plot, last: float) -> Iterator[tuple[str, str]]:
    """By the ticks of the years; nothing past the last failure, where no step tells it."""
    for tick in frame.x.ticks:
        years = (float(tick.at) - _LEFT) / (_RIGHT - _LEFT) * last
        told = next((step.at_risk for step in curve if step.years >= years - 1e-6), None)
        if told is not None:
            yield tick.at, str(told)


def _stairs(curve: tuple[Step, ...], pick: str, last: float) -> list[tuple[float, float]]:
    found, share = [(0.0, 1.0)], 1.0
    for step in curve:
        found.append((step.years, share))
        share = getattr(step, pick)
        found.append((step.years, share))
    return [*found, (last, share)]
