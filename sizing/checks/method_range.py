"""Whether the method of friction in force holds for these pipes, this water, these speeds."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Filling, Measure, Message, message
from sizing.checks.base import Check, Running, alone
from sizing.hydraulics import friction
from sizing.hydraulics.system_curve import SystemCurve


@alone("the range of the friction formula")
def range_check(running: Running) -> Iterator[Check]:
    """Whether the school of friction in force holds for these pipes, water and speeds."""
    found = list(out_of_range(running.system, running.flow_m3s))
    if found:
        values: dict[str, Filling] = {
            f"{key}{number}": value
            for number, one in enumerate(found)
            for key, value in one.values.items()
        }
        parts = [
            one.template.format(**{key: f"{{{key}{number}}}" for key in one.values})
            for number, one in enumerate(found)
        ]
        label = friction.VALIDITY[running.system.route.method].label
        yield Check(
            "friction_range",
            f"Range of {label}",
            "watch",
            Message(f"{label} leaves its range: {'; '.join(parts)}.", values),
            "Reckon the friction by Darcy-Weisbach.",
            weight="note",
        )


def out_of_range(system: SystemCurve, flow_m3s: float) -> Iterator[Message]:
    """Where a school leaves the range it was made for."""
    valid = friction.VALIDITY[system.route.method]
    low, high = valid.temperature_c
    if not low <= system.water.temperature_c <= high:
        yield message(
            "made for water of {low} to {high}",
            low=Measure(low, "temperature"),
            high=Measure(high, "temperature"),
        )
    speeds = system.velocities_m_s(flow_m3s)[:, 0]
    bores = [leg.inside_diameter_m for leg in system.route.legs]
    for values, bounds, dimension, words in (
        (
            bores,
            valid.inside_diameter_m,
            "bore",
            "made for bores of {low} to {high}; one here has {value}",
        ),
        (
            speeds,
            valid.velocity_m_s,
            "velocity",
            "made for {low} to {high}; one leg runs at {value}",
        ),
    ):
        outside = [float(value) for value in values if not bounds[0] <= value <= bounds[1]]
        if outside:
            yield message(
                words,
                low=Measure(bounds[0], dimension),
                high=Measure(bounds[1], dimension),
                value=Measure(outside[0], dimension),
            )
