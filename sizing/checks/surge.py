"""What a pump that trips does to a long line, and what runs on after it stopped."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from sizing.base import tables
from sizing.base.errors import SizingError
from sizing.base.message import Measure, message
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import Check, Running, Site, alone
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.simulation.surge import Line

BULK_MODULUS_PA = 2.19e9  # water at 20 °C
_RESTRAINT = 0.91  # 1 - 0.3^2: a line held along its length
_USUAL_WALL = 1 / 11  # of the bore, where nobody states the wall


@lru_cache
def _moduli() -> dict[str, float]:
    return {row["material"]: float(row["modulus_gpa"]) * 1e9 for row in tables.rows("pipe_moduli")}


def modulus_pa(material: str) -> float | None:
    """Young's modulus of a pipe's material [Pa]; None for hoses, which nobody states it of."""
    plain = material.lower()
    if "hose" in plain or "tubing" in plain:
        return None
    found = sorted((name for name in _moduli() if name.lower() in plain), key=len)
    return _moduli()[found[-1]] if found else None


_POINTS = 12  # of a leg at which the wave is looked at
_STOPS_S = 1.0  # a small pump without a flywheel
_SIPHON_BREAKS_M = 9.0  # of suction at the top: more, and air comes out of the water


class StiffnessUnknown(SizingError):
    """A pipe of which nobody states how stiff it is."""


def lines(running: Running) -> Iterator[tuple[LegEntry, Line, float, bool]]:
    """Each leg behind the pump as a line, its velocity [m/s], and whether its wall is assumed."""
    flow = running.flow_m3s
    speeds = running.system.velocities_m_s(flow)[:, 0]
    legs = running.system.route.legs
    for at, (entry, leg) in enumerate(zip(running.legs, legs, strict=True)):
        if entry.side == "suction" or leg.length_m <= 0:
            continue
        pipe = pipes.pipe(entry.series, entry.nominal)
        modulus = modulus_pa(pipe.material)
        if modulus is None:
            raise StiffnessUnknown(
                f"nobody states how stiff {pipe.label} is: its waves are not known"
            )
        outside = pipe.outside_diameter_m
        wall = None if outside is None else (outside - pipe.inside_diameter_m) / 2
        assumed = wall is None or wall <= 0 or entry.bore is not None
        line = Line(
            density_kg_m3=running.system.water.density_kg_m3,
            bulk_modulus_pa=BULK_MODULUS_PA,
            inside_diameter_m=leg.inside_diameter_m,
            wall_m=leg.inside_diameter_m * _USUAL_WALL if assumed or wall is None else wall,
            pipe_modulus_pa=modulus,
            restraint_c1=_RESTRAINT,
            length_m=leg.length_m,
        )
        yield entry, line, float(speeds[at]), assumed


@dataclass(frozen=True)
class _Lowest:
    """Where a line comes nearest to vapour when its pump trips."""

    head_m: float  # over the pipe
    along_m: float
    fall_m: float


def _lowest(running: Running) -> _Lowest | None:
    """By Joukowsky's whole fall wherever the pump stops sooner than the wave is back.

    Nearer to the outlet in proportion. No reflections count, and water drawn on through the pump
    neither: it is a warning, no proof.
    """
    found = list(lines(running))
    length = sum(line.length_m for _, line, _, _ in found)
    if length < running.rules.value("CHO-23"):
        return None
    system, route = running.system, running.system.route
    fall_m = max(line.wave_speed_m_s * speed for _, line, speed, _ in found) / GRAVITY_M_S2
    wave_m_s = length / sum(line.length_m / line.wave_speed_m_s for _, line, _, _ in found)
    pipe, fittings = system.losses_m(running.flow_m3s)
    lost = (pipe + fittings + system.device_losses_m(running.flow_m3s))[:, 0].tolist()
    behind = [
        at
        for at, entry in enumerate(running.legs)
        if entry.side != "suction" and route.legs[at].length_m > 0
    ]
    grade = route.legs[-1].end_elevation_m + system.water.head_m(route.delivery_pressure_pa)
    grade += sum(lost[at] for at in behind)
    along = 0.0
    begins = min(route.start_level_m, route.legs[behind[0]].end_elevation_m)
    lowest: _Lowest | None = None
    for at in behind:
        leg = route.legs[at]
        ground = [(0.0, begins), *((top.share, top.elevation_m) for top in leg.tops)]
        ground.append((1.0, leg.end_elevation_m))
        for point in range(_POINTS + 1):
            share = point / _POINTS
            back_s = 2 * (length - along - share * leg.length_m) / wave_m_s
            felt = fall_m * min(back_s / _STOPS_S, 1.0)
            head = grade - share * lost[at] - felt - _height(ground, share)
            if lowest is None or head < lowest.head_m:
                lowest = _Lowest(head, along + share * leg.length_m, felt)
        along, grade, begins = along + leg.length_m, grade - lost[at], leg.end_elevation_m
    return lowest


def _height(ground: list[tuple[float, float]], share: float) -> float:
    """The pipe's height so far along, straight between what is known."""
    for (before, low), (after, high) in pairwise(ground):
        if share <= after:
            part = (share - before) / (after - before) if after > before else 1.0
            return low + part * (high - low)
    return ground[-1][1]


@alone("the surge when the pump trips")
def surge_checks(running: Running) -> Iterator[Check]:
    """Whether the water column may part in a long line when the pump trips."""
    if running.system.route.closed_loop:
        return
    try:
        found = _lowest(running)
    except StiffnessUnknown:
        return
    if found is None:
        return
    vapour_m = running.system.water.vapour_head_m - running.system.water.head_m(STANDARD_AIR_PA)
    parts = found.head_m <= vapour_m
    yield Check(
        "surge",
        "Surge when the pump trips",
        "fail" if parts else "hold",
        message(
            "The wave takes up to {fall}; {along} along the line {head} would be left over the pipe"
            + (
                ", under vapour pressure: the water column may part there, and closes with a blow."
                if parts
                else ": the column holds."
            )
            + " By Joukowsky's rule, without reflections.",
            fall=Measure(found.fall_m, "length"),
            along=Measure(found.along_m, "length", 0),
            head=Measure(found.head_m, "length"),
        ),
        "Set an air valve at the high point, stop the pump slowly, or fit a vessel; check that the"
        " pipe bears vacuum; have the surge of a long main worked out.",
        about="site",
    )


@alone("the siphon after the stop")
def siphon_check(site: Site) -> Iterator[Check]:
    """Whether water runs on through the pipe when the pump stops."""
    route = site.system.route
    surface, end = route.start_level_m, route.legs[-1].end_elevation_m
    top = max(
        height
        for leg in route.legs
        for height in (leg.end_elevation_m, *(one.elevation_m for one in leg.tops))
    )
    # a common main stands under pressure at rest too; a bed's or a nozzle's goes with the flow
    by_main = route.delivery_pressure_pa > 0 and site.facts.asks("main_pressure")
    held = route.closed_loop or route.supply_pressure_pa > 0 or by_main
    if held or end >= surface or top - surface > _SIPHON_BREAKS_M:
        return
    yield Check(
        "siphon",
        "Siphon at rest",
        "fail",
        message(
            "The pipe ends {below} under the water that it is drawn from: once full it siphons on"
            " when the pump stops, until the intake draws air.",
            below=Measure(surface - end, "length"),
        ),
        "End it over that water, or let air in at the highest point (a vacuum breaker, a small"
        " hole): a check valve does not hold it.",
        about="site",
    )
