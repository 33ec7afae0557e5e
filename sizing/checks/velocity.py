"""The speed of the water in every leg."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import Check, Site, alone, state
from sizing.document.job import LegEntry

_BORNE = 1.25  # of the fastest speed: watched up to it, fails beyond


@dataclass(frozen=True)
class Speeds:
    """Rules by id on the speed in a kind's pipes: the slowest ('' for none) and the fastest.

    Suction legs have one of their own, where it is named; where they lift the water, that rule's
    slowest counts too: air gathers in slow water under less than the air's pressure. Slow water is
    watched; under the rule ``settles``, where it is named, it fails.
    """

    fastest: str
    why: str
    slowest: str = ""
    suction_fastest: str = ""
    settles: str = ""


@alone("the velocity in the pipes")
def velocities(site: Site, flow_m3s: float, speeds: Speeds) -> Iterator[Check]:
    """The speed in every leg at a flow: where the pump runs, or what is needed while none does.

    It is the site's fault where the flow needed alone would be as bad, else the pump's.
    """
    now = site.system.velocities_m_s(flow_m3s)[:, 0]
    needed = site.system.velocities_m_s(site.demand.needed_m3s)[:, 0]
    for index in range(len(site.legs)):
        found = _velocity(site, index, flow_m3s, float(now[index]), speeds)
        at_need = _velocity(site, index, flow_m3s, float(needed[index]), speeds)
        yield replace(found, about="site" if at_need.state == found.state else "pump")


def _slowest(site: Site, leg: LegEntry, speeds: Speeds) -> str:
    """The rule on the slowest water in a leg; '' for none."""
    if leg.side == "suction" and speeds.suction_fastest and site.system.route.suction_lift_m > 0.0:
        stated = site.rules.rule(speeds.suction_fastest).part("low") is not None
        return speeds.suction_fastest if stated else ""
    return speeds.slowest


def _velocity(site: Site, index: int, flow_m3s: float, speed: float, speeds: Speeds) -> Check:
    leg, rules = site.legs[index], site.rules
    suction = speeds.suction_fastest and leg.side == "suction"
    fast = speeds.suction_fastest if suction else speeds.fastest
    slow = _slowest(site, leg, speeds)
    low = rules.low(slow) if slow else 0.0
    high, settles = rules.high(fast), rules.value(speeds.settles) if speeds.settles else 0.0
    named = sorted({slow, fast, speeds.settles} - {""})
    bore_m = site.system.route.legs[index].inside_diameter_m
    remedy = "Take a wider pipe: fast water costs head, hammers and wears."
    if speed < low:
        stays = "lets air gather in a suction line" if suction else "lets things settle"
        remedy = f"Take a narrower pipe: slow water {stays}."
    share = site.system.route.legs[index].pipe_share
    return Check(
        code=f"velocity_{leg.id}",
        label=f"Speed in the {leg.name or f'leg {index + 1}'}",
        state=state(
            bool(at_least(speed, low) and at_most(speed, high)),
            bool(at_least(speed, settles) and at_most(speed, _BORNE * high)),
        ),
        message=message(
            "{speed}; " + ("{low} to {high} " if low else "up to {high} ") + "{why} ({rules}).",
            speed=Measure(speed, "velocity"),
            low=Measure(low, "velocity"),
            high=Measure(high, "velocity"),
            why=speeds.why,
            rules=f"rule{'s' if len(named) > 1 else ''} {' and '.join(named)}",
        ),
        remedy=remedy,
        working=Working(
            "Speed",
            "v = flow / (π d² / 4)",
            (
                ("flow in the pipe", Measure(flow_m3s * share, "flow")),
                ("bore", Measure(bore_m, "bore")),
            ),
            Measure(speed, "velocity"),
            "continuity",
        ),
        band=(low, high),
    )
