"""What the surveyed ground of a leg means: where air gathers, where the pipe runs part full."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise

from sizing.base.errors import check_range
from sizing.base.message import Measure, Message
from sizing.base.water import GRAVITY_M_S2
from sizing.checks.base import Check, Running, alone, state
from sizing.document.answers import Facts

# ground that rises by less before it falls again gathers no air worth a valve
_SUMMIT_RISES_M = 0.5
_SAFE, _BY_SLOPE, _LARGE_POCKET = 1.1, 0.56, 0.61
_AIR_VALVES = "air_valves"  # the question whether there are any


def has_air_valves(facts: Facts) -> bool:
    """Whether somebody said that every high point has one."""
    return facts.asks(_AIR_VALVES) and facts.choice(_AIR_VALVES) == "summits"


def clearing_velocity_m_s(inside_diameter_m: float, fall: float) -> float:
    """Velocity that carries a pocket of air down a pipe behind a high point [m/s].

    V = 1.1 sqrt(g D) (0.56 sqrt(S) + 0.61), S the sine of the fall, for large pockets (Escarameia,
    Investigating hydraulic removal of air from water pipelines, 2007; tried on 150 mm to S = 0.38).

    Raises
    ------
    OutOfRange
    """
    check_range("inside diameter", inside_diameter_m, 1e-4, 10.0, "m")
    check_range("fall", fall, 0.0, 1.0, "")
    wave = math.sqrt(GRAVITY_M_S2 * inside_diameter_m)
    return _SAFE * wave * (_BY_SLOPE * math.sqrt(fall) + _LARGE_POCKET)


@alone("air and part-full stretches over the ground")
def ground_checks(running: Running) -> Iterator[Check]:
    """What the surveyed ground of a leg means.

    Which point governs, where air gathers, and where the pipe runs part full.
    """
    for index, leg in enumerate(running.system.route.legs):
        if leg.tops:
            yield _ground(running, index)


def _ground(running: Running, index: int) -> Check:
    route, ledger, entry = running.system.route, running.ledger, running.legs[index]
    leg = route.legs[index]
    begins = route.legs[index - 1].end_elevation_m if index else entry.survey[0].elevation_m
    ground = [
        (0.0, begins),
        *((top.share * leg.length_m, top.elevation_m) for top in leg.tops),
        (leg.length_m, leg.end_elevation_m),
    ]
    at, top = max(ground, key=lambda point: point[1])
    tops, dry = summits(ground), _part_full_m(running, index, ground)
    valved = has_air_valves(running.facts)
    speed = float(running.system.velocities_m_s(running.flow_m3s)[index, 0])
    steepest = max((_falls_behind(ground, top) for top in tops), default=0.0)
    clears = clearing_velocity_m_s(leg.inside_diameter_m, min(steepest, 1.0))
    parts = ["Its highest ground is {top}, {at} along."]
    values = {"top": Measure(top, "length"), "at": Measure(at, "length", 0)}
    if ledger.governing_leg == index and ledger.governing_share < 1:
        values["governs"] = Measure(ledger.governing_share * leg.length_m, "length", 0)
        parts.append(" The ground at {governs} governs the head.")
    if tops:
        values |= {
            f"summit{number}": Measure(along, "length", 0) for number, (along, _) in enumerate(tops)
        }
        values |= {"speed": Measure(speed, "velocity"), "clears": Measure(clears, "velocity")}
        where = ", ".join(f"{{summit{number}}}" for number in range(len(tops)))
        parts.append(f" Air gathers where it falls again: at {where}.")
        parts.append(
            " Air valves let it out."
            if valved
            else " The water carries it on: {speed}, where {clears} is enough."
            if speed >= clears
            else " It stays and chokes the flow: {speed}, where carrying it on takes {clears}."
        )
    if dry:
        values["dry"] = Measure(dry, "length", 0)
        parts.append(
            " Behind the governing ground {dry} lies over its own grade line and runs part full."
        )
    remedy = "Set an air valve at each high point and look after it (rule RET-04)"
    if running.facts.asks(_AIR_VALVES):
        remedy += ", and say so under Surge in the run"
    remedy += (
        "; where it runs part full, hold it full by a valve at its end, or reckon with noise, air"
        " and odour."
        if dry
        else "."
    )
    return Check(
        f"ground_{entry.id}",
        f"Ground along the {entry.name or f'leg {index + 1}'}",
        state(not dry and (valved or not tops), valved or not tops or speed >= clears),
        Message("".join(parts), values),
        remedy,
        about="site",
    )


def _falls_behind(ground: list[tuple[float, float]], top: tuple[float, float]) -> float:
    """The steepest fall of the pipe from a high point until it rises again."""
    steepest = 0.0
    for (start, level), (stop, lower) in pairwise(ground[ground.index(top) :]):
        if lower > level:
            break
        steepest = max(steepest, (level - lower) / (stop - start))
    return steepest


def summits(ground: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points (distance, height) [m] that the ground climbs to and falls from again.

    By enough for air to stay.
    """
    found: list[tuple[float, float]] = []
    low, high = ground[0][1], ground[0]
    for point in ground[1:]:
        if point[1] > high[1]:
            high = point
        if high[1] - low >= _SUMMIT_RISES_M and high[1] - point[1] >= _SUMMIT_RISES_M:
            found.append(high)
            low, high = point[1], point
        elif point[1] < low:
            low, high = point[1], point
    return found


def _part_full_m(running: Running, index: int, ground: list[tuple[float, float]]) -> float:
    """Length of a leg [m] behind the governing point that lies over the grade line.

    The line is drawn back from the end.
    """
    system, ledger = running.system, running.ledger
    if index < ledger.governing_leg:
        return 0.0
    pipe, fittings = system.losses_m(running.flow_m3s)
    leg = system.route.legs[index]
    behind = float((pipe + fittings)[index + 1 :, 0].sum())
    end = (
        system.route.legs[-1].end_elevation_m
        + system.water.head_m(system.route.delivery_pressure_pa)
        + behind
    )
    begins = ledger.governing_share * leg.length_m if index == ledger.governing_leg else 0.0
    total = 0.0
    for (start, level), (stop, _) in pairwise(ground):
        grade = end + float(pipe[index, 0]) * (1.0 - start / leg.length_m)
        if stop > begins and level > grade + 1e-6:
            total += stop - max(start, begins)
    return total
