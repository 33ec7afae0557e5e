"""What a run may not have, whatever pump is on it: high points before the pump, wrong fittings."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, message
from sizing.checks.base import Check, Site, alone, state
from sizing.document.build_route import leg_name

_HUMP_M = 0.05  # less than this holds no air worth a word
# What fibres and rags hang on in water with raw sewage.
_CATCHES_RAGS = {
    "check_spring_inline": "a spring-loaded check valve",
    "check_lift": "a lift check valve",
    "foot_poppet": "a strainer",
    "foot_hinged": "a strainer",
    "suction_strainer": "a strainer",
    "y_strainer": "a strainer",
    "globe_valve": "a globe valve",
    "diaphragm_valve": "a diaphragm valve",
}


@alone("the highest point of the suction")
def air_lock_check(site: Site) -> Iterator[Check]:
    """No part of a suction pipe may lie over the pump: air gathers there, and it loses its prime.

    Nothing where the main's pressure, or the water itself, stands over that point.
    """
    route = site.system.route
    legs = route.legs[: route.suction_legs]
    if not legs or route.closed_loop:
        return
    points = [
        *(leg.end_elevation_m for leg in legs[:-1]),
        *(top.elevation_m for leg in legs for top in leg.tops),
    ]
    if not points:
        return
    full_m = route.start_level_m + site.system.water.head_m(route.supply_pressure_pa)
    over_m = max(points) - max(legs[-1].end_elevation_m, full_m)
    yield Check(
        "air_lock",
        "Suction without a high point",
        state(over_m <= _HUMP_M),
        message(
            "The suction climbs to a point {over} over the pump and the water: air gathers there.",
            over=Measure(over_m, "length"),
        )
        if over_m > _HUMP_M
        else message("The suction climbs steadily to the pump, or the water stands over it."),
        "Lay the suction so that it only climbs towards the pump, or set the pump higher than every"
        " part of it.",
        about="site",
    )


@alone("the suction of each pump")
def own_suction_check(site: Site) -> Iterator[Check]:
    """Pumps that lift share no suction pipe: one that stands lets air into the one that runs."""
    route = site.system.route
    pumps = site.facts.bought_pumps
    lift_m = route.suction_lift_m
    if pumps < 2 or lift_m <= 0.0:
        return
    yield Check(
        "own_suction",
        "A suction pipe for each pump",
        "fail",
        message(
            "{pumps} pumps draw through one suction pipe, {lift} up: the one that stands lets air"
            " into the one that runs (rule BST-05).",
            pumps=str(pumps),
            lift=Measure(lift_m, "length"),
        ),
        "Give each pump its own suction pipe and foot valve down to the water.",
        about="site",
    )


@alone("fittings that rags hang on")
def rags_check(site: Site) -> Check:
    """Raw sewage passes no spring-loaded valve and no strainer for long."""
    found = [
        (leg_name(leg, number), _CATCHES_RAGS[one.fitting])
        for number, leg in enumerate(site.legs, 1)
        for one in leg.fittings
        if one.fitting in _CATCHES_RAGS
    ]
    return Check(
        "rags",
        "Fittings that sewage passes",
        state(not found),
        message("Nothing in the run holds rags back.")
        if not found
        else message(
            "The {leg} has {fitting}: rags hang on it and block it.",
            leg=found[0][0],
            fitting=found[0][1],
        ),
        "Fit a ball or swing check valve made for sewage and full-bore valves; no strainer.",
        about="site",
    )
