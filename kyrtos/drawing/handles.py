"""What can be taken hold of in the picture: levels up and down, lengths to the side.

Each changes one field, as if it were typed.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from kyrtos.drawing.layout import Drawing
from kyrtos.drawing.scale import px
from sizing.base import units
from sizing.base.units import System
from sizing.document.build_route import the_leg

_STEPS: dict[System, float] = {
    "metric": 0.05,
    "us": 0.25,
    "uk": 0.05,
}  # of a level, in the shown unit
_LEAST_PX = 70.0  # a leg drawn upright or short is pulled as if it were this wide
_LENGTH_STEPS = 40  # of a length: one step changes it by a fortieth, rounded


@dataclass(frozen=True)
class Handle:
    """One handle.

    ``per_px`` is the change of its value for a pixel along its axis (downwards, or to the right).
    """

    path: str
    label: str
    axis: str
    x: str
    y: str
    value: str
    per_px: str
    step: str
    unit: str
    shown: str
    role: str

    @property
    def id(self) -> str:
        """Its id, fit for HTML."""
        return "h-" + self.path.replace(".", "-")


def handles(d: Drawing) -> Iterator[Handle]:
    """Every handle of a picture, in order of flow."""
    yield from _levels(d)
    for number, (entry, shape) in enumerate(zip(d.sizing.legs, d.section.legs, strict=True), 1):
        name = the_leg(entry, number)
        if entry.length is not None and not entry.survey:
            value = d.length.from_si(entry.length.si("length"))
            wide = max(shape.end[0] - shape.start[0], _LEAST_PX)
            yield _handle(
                d,
                f"legs.{entry.id}.length",
                f"length of {name}",
                "x",
                shape.middle,
                value,
                value / wide,
                _round_step(value / _LENGTH_STEPS),
                "length",
            )
        if entry.ends_at is not None and not d.curve.route.closed_loop:
            value = d.length.from_si(entry.ends_at.si("length"))
            yield _level(
                d, f"legs.{entry.id}.ends_at", f"level at which {name} ends", shape.end, value, 1
            )


def _levels(d: Drawing) -> Iterator[Handle]:
    inner, outer = d.sides()
    for number, level in enumerate(level for level in d.place.levels if level.path):
        at = d.y.pixel(level.elevation_m - d.zero)
        x = inner + (outer - inner) * (0.15 + 0.12 * (number % 3))
        yield _level(
            d,
            level.path,
            f"level: {level.label}",
            (x, at),
            level.sign * d.length.from_si(level.elevation_m),
            level.sign,
        )


def _level(
    d: Drawing, path: str, label: str, at: tuple[float, float], value: float, sign: int
) -> Handle:
    per_px = sign * (d.length.from_si(d.y.value(1.0)) - d.length.from_si(d.y.value(0.0)))
    return _handle(d, path, label, "y", at, value, per_px, _STEPS[d.units], "level")


def _handle(
    d: Drawing,
    path: str,
    label: str,
    axis: str,
    at: tuple[float, float],
    value: float,
    per_px: float,
    step: float,
    role: str,
) -> Handle:
    shown = units.show(d.length.to_si(value), "length", d.units)
    return Handle(
        path=path,
        label=label,
        axis=axis,
        x=px(at[0]),
        y=px(at[1]),
        value=f"{value:.6g}",
        per_px=f"{per_px:.6g}",
        step=f"{step:g}",
        unit=d.length.symbol,
        shown=shown,
        role=role,
    )


def _round_step(value: float) -> float:
    """The nearest of 0.05, 0.1, 0.5, 1, 5 ... to a step."""
    return min((0.05, 0.1, 0.5, 1.0, 5.0, 10.0, 50.0, 100.0), key=lambda one: abs(one - value))
