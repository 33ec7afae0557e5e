"""The pipe behind a job's pump as a line whose waves can be run."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from sizing.base import tables
from sizing.base.errors import SizingError
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import Running
from sizing.checks.ground import has_air_valves, summits
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.over_time.simulation.surge import Line
from sizing.over_time.simulation.transient import Leg, Vessel

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


_VALVE_K, _LEAST_VALVE_M = 1.5, 0.05
_SHORT = 0.05  # of the wave's travel: a leg shorter than that has no step of its own
_UNIT_M3S = 1.0  # any flow: friction of both goes by its square


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
class LongLine:
    """The pipe behind the pump as a line whose waves can be run.

    ``of_legs`` is which legs of the job each of its legs stands for: one too short for a wave's
    step goes with its neighbour. ``valve_m`` is what a valve at the end takes open, with the outlet
    (assumed: 1.5 velocity heads). ``air_valves`` are numbers of the legs at whose ends one sits.
    """

    legs: tuple[Leg, ...]
    of_legs: tuple[tuple[int, ...], ...]
    flow_m3s: float
    beyond_m: float
    vapour_m: float
    valve_m: float
    assumed_walls: tuple[str, ...]
    air_valves: tuple[int, ...] = ()
    vessel: Vessel | None = None

    @property
    def travel_s(self) -> float:
        """How long a wave takes from the pump to the end."""
        return sum(leg.length_m / leg.wave_speed_m_s for leg in self.legs)

    @property
    def length_m(self) -> float:
        """Of all legs."""
        return sum(leg.length_m for leg in self.legs)


def long_line(running: Running) -> LongLine:
    """The line of a job with its friction, fittings and devices as friction of its legs.

    Raises
    ------
    StiffnessUnknown
    SizingError
        There is no pipe behind the pump.
    """
    system, route, flow = running.system, running.system.route, running.flow_m3s
    pipe, fittings = system.losses_m(flow)
    lost = (pipe + fittings + system.device_losses_m(flow))[:, 0].tolist()
    found = list(lines(running))
    if not found:
        raise SizingError("the run has no pipe behind the pump yet")
    numbers = [running.legs.index(entry) for entry, _, _, _ in found]
    # a part without length has no place of its own: the last leg carries what it takes
    behind = [at for at, entry in enumerate(running.legs) if entry.side != "suction"]
    losses = [lost[at] for at in numbers]
    losses[-1] += sum(lost[at] for at in behind if at not in numbers)
    begins = min(route.start_level_m, route.legs[numbers[0]].end_elevation_m)
    legs = []
    for (_, line, speed, _), at, loss in zip(found, numbers, losses, strict=True):
        leg = route.legs[at]
        tops = ((top.share, top.elevation_m) for top in leg.tops)
        bore, length = line.inside_diameter_m, line.length_m
        head = speed**2 / (2 * GRAVITY_M_S2)
        own = math.sqrt(4 * flow / (math.pi * speed)) if speed > 0 else bore  # all its pipes as one
        legs.append(
            Leg(
                length_m=length,
                inside_diameter_m=own,
                wave_speed_m_s=line.wave_speed_m_s,
                friction_factor=loss * own / (length * head) if head > 0 else 0.0,
                ground=((0.0, begins), *tops, (1.0, leg.end_elevation_m)),
            )
        )
        begins = leg.end_elevation_m
    water, last = system.water, found[-1][2]
    joined, of_legs = _joined(legs, numbers)
    facts, air_m = running.facts, water.head_m(STANDARD_AIR_PA)
    valves: tuple[int, ...] = ()
    if has_air_valves(facts):
        joined, of_legs, valves = _with_air_valves(joined, of_legs)
    vessel_m3 = facts.optional("vessel_air") if facts.asks("vessel_air") else None
    return LongLine(
        air_valves=valves,
        vessel=Vessel(vessel_m3, air_m) if vessel_m3 else None,
        legs=joined,
        of_legs=of_legs,
        flow_m3s=flow,
        beyond_m=route.legs[-1].end_elevation_m + water.head_m(route.delivery_pressure_pa),
        vapour_m=water.vapour_head_m - air_m,
        valve_m=max(_VALVE_K * last**2 / (2 * GRAVITY_M_S2), _LEAST_VALVE_M),
        assumed_walls=tuple(entry.name or "a leg" for entry, _, _, assumed in found if assumed),
    )


def _joined(
    legs: list[Leg], numbers: list[int]
) -> tuple[tuple[Leg, ...], tuple[tuple[int, ...], ...]]:
    """Legs with those too short for a step of their own in with the next, or the one before."""
    least_s = _SHORT * sum(leg.length_m / leg.wave_speed_m_s for leg in legs)
    made: list[Leg] = []
    of: list[tuple[int, ...]] = []
    waiting: tuple[Leg, tuple[int, ...]] | None = None
    for leg, number in zip(legs, numbers, strict=True):
        before, held = waiting or (None, ())
        now, which = leg if before is None else _as_one(before, leg), (*held, number)
        waiting = None
        if now.length_m / now.wave_speed_m_s < least_s:
            waiting = now, which
        else:
            made.append(now)
            of.append(which)
    if waiting is not None:  # the last: never the only one
        made[-1], of[-1] = _as_one(made[-1], waiting[0]), (*of[-1], *waiting[1])
    return tuple(made), tuple(of)


def _as_one(first: Leg, then: Leg) -> Leg:
    """Two legs as one of the longer one's bore: length, travel, ground and loss are kept."""
    length = first.length_m + then.length_m
    travel = first.length_m / first.wave_speed_m_s + then.length_m / then.wave_speed_m_s
    longer = max(first, then, key=lambda one: one.length_m)
    bore, share = longer.inside_diameter_m, first.length_m / length
    loss = first.loss_m(_UNIT_M3S) + then.loss_m(_UNIT_M3S)
    head = (_UNIT_M3S / longer.area_m2) ** 2 / (2 * GRAVITY_M_S2)
    return Leg(
        length_m=length,
        inside_diameter_m=bore,
        wave_speed_m_s=length / travel,
        friction_factor=loss * bore / (length * head),
        ground=(
            *((share * at, height) for at, height in first.ground),
            *((share + (1 - share) * at, height) for at, height in then.ground[1:]),
        ),
    )


def _with_air_valves(
    legs: tuple[Leg, ...], of_legs: tuple[tuple[int, ...], ...]
) -> tuple[tuple[Leg, ...], tuple[tuple[int, ...], ...], tuple[int, ...]]:
    """The legs parted at the high points of the ground, and those at whose ends a valve sits.

    A high point too near to a joint for a step of its own has its valve at the joint.
    """
    least_s = _SHORT * sum(leg.length_m / leg.wave_speed_m_s for leg in legs)
    ground: list[tuple[float, float]] = []
    along = 0.0
    for leg in legs:
        ground += [(along + share * leg.length_m, height) for share, height in leg.ground]
        along += leg.length_m
    tops = [distance for distance, _ in summits(ground)]
    made: list[Leg] = []
    of: list[tuple[int, ...]] = []
    valves: list[int] = []
    along = 0.0
    for leg, which in zip(legs, of_legs, strict=True):
        least_m = least_s * leg.wave_speed_m_s
        begins, ends = along, along + leg.length_m
        if made and any(begins - least_m < top < begins + least_m for top in tops):
            valves.append(len(made) - 1)
        cuts = [top - begins for top in tops if begins + least_m <= top <= ends - least_m]
        for start, stop in zip((0.0, *cuts), (*cuts, leg.length_m), strict=True):
            made.append(_part_of(leg, start / leg.length_m, stop / leg.length_m))
            of.append(which)
            if stop < leg.length_m:
                valves.append(len(made) - 1)
        along = ends
    return tuple(made), tuple(of), tuple(dict.fromkeys(valves))


def _part_of(leg: Leg, first: float, last: float) -> Leg:
    """A leg between two shares of its length."""
    shares, heights = zip(*leg.ground, strict=True)

    def height(share: float) -> float:
        return float(np.interp(share, shares, heights))

    between = [point for point in leg.ground if first + 1e-9 < point[0] < last - 1e-9]
    ground = [(first, height(first)), *between, (last, height(last))]
    return replace(
        leg,
        length_m=(last - first) * leg.length_m,
        ground=tuple(((share - first) / (last - first), level) for share, level in ground),
    )
