"""The speed of the water in every leg."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, state
from sizing.hydraulics.friction import Array


def velocities(
    running: Running, slowest: str, fastest: str, why: str, *, suction_fastest: str = ""
) -> Iterator[Check]:
    """The speed in every leg against two rules by id ('' for no slowest).

    Suction legs against one of their own, where it is named.
    """
    speeds = running.system.velocities_m_s(running.flow_m3s)[:, 0]
    for index, leg in enumerate(running.legs):
        fast = suction_fastest if suction_fastest and leg.side == "suction" else fastest
        low = running.rules.low(slowest) if slowest else 0.0
        yield _velocity(
            running,
            index,
            speeds,
            low,
            running.rules.high(fast),
            sorted({slowest, fast} - {""}),
            why,
        )


def _velocity(
    running: Running, index: int, speeds: Array, low: float, high: float, rules: list[str], why: str
) -> Check:
    leg, speed, bore_m = (
        running.legs[index],
        float(speeds[index]),
        running.system.route.legs[index].inside_diameter_m,
    )
    remedy = (
        "Take a narrower pipe: slow water lets things settle."
        if speed < low
        else "Take a wider pipe: fast water costs head, hammers and wears."
    )
    share = running.system.route.legs[index].pipe_share
    return Check(
        code=f"velocity_{leg.id}",
        label=f"Speed in the {leg.name or f'leg {index + 1}'}",
        state=state(low <= speed <= high, speed < low or speed <= 1.25 * high),
        message=message(
            "{speed}; " + ("{low} to {high} " if low else "up to {high} ") + why + " ({rules}).",
            speed=Measure(speed, "velocity"),
            low=Measure(low, "velocity"),
            high=Measure(high, "velocity"),
            rules=f"rule{'s' if len(rules) > 1 else ''} {' and '.join(rules)}",
        ),
        remedy=remedy,
        working=Working(
            "Speed",
            "v = flow / (π d² / 4)",
            (
                ("flow in the pipe", Measure(running.flow_m3s * share, "flow")),
                ("bore", Measure(bore_m, "bore")),
            ),
            Measure(speed, "velocity"),
            "continuity",
        ),
        band=(low, high),
    )
