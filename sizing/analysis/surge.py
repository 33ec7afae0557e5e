"""Surge on a job's line: a valve that closes and a pump that trips, along the ground.

Both by the method of characteristics (:mod:`sizing.over_time.simulation.transient`) on the line of
:mod:`sizing.checks.surge`, the same as in Proof. Where vapour is reached the column parts: what
follows on that is beyond it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known, NotYet
from sizing.base.errors import SizingError
from sizing.base.water import GRAVITY_M_S2
from sizing.checks.base import CheckState, Running
from sizing.checks.long_line import LongLine, long_line
from sizing.checks.surge import (
    A_LITTLE_M,
    BALL,
    Trip,
    against_rating,
    closing_of,
    judged_trip,
    slows_s,
    trip_of,
    valve_may_close_in_s,
)
from sizing.document.build_route import leg_name
from sizing.over_time.simulation.transient import Transient, Valve

_FIGURES = ("distance_m", "elevation_m", "steady_grade_m", "lowest_grade_m", "highest_grade_m")


def _gate_area(share: float) -> float:
    """What a disc that has come down so far leaves of a round bore."""
    apart = 1.0 - share
    covered = (2 / np.pi) * (np.arccos(apart) - apart * np.sqrt(1 - apart**2))
    return float(1.0 - covered)


LAWS: dict[str, tuple[str, tuple[tuple[float, float, float], ...]]] = {
    "ball": ("ball valve", BALL),
    "gate": ("gate valve", tuple((s / 10, _gate_area(s / 10), 1.0) for s in range(11))),
    "even": ("area closed evenly", ()),
}


@dataclass(frozen=True)
class Place:
    """A point of the line: where, how high, and what stands over it [m]."""

    distance_m: float
    elevation_m: float
    name: str
    steady_grade_m: float
    lowest_grade_m: float
    highest_grade_m: float

    @property
    def steady_head_m(self) -> float:
        """Over the pipe, as it runs."""
        return self.steady_grade_m - self.elevation_m

    @property
    def highest_head_m(self) -> float:
        """Over the pipe, when the valve closes."""
        return self.highest_grade_m - self.elevation_m

    @property
    def lowest_head_m(self) -> float:
        """Over the pipe, when the pump trips."""
        return self.lowest_grade_m - self.elevation_m


@dataclass(frozen=True)
class SurgeOfJob:
    """What a job's line comes to."""

    wave_speed_m_s: float
    critical_time_s: float
    velocity_m_s: float
    instant_rise_pa: float
    closing_rise_pa: float
    trip_fall_pa: float
    peak_pressure_pa: float
    rating_pa: float | None
    rated: str
    closure_needed_s: float | None
    places: tuple[Place, ...]
    profile: tuple[Place, ...]  # the same all along the line
    vapour_head_m: float
    trip: Trip  # as Proof judges it
    valve_parts: bool  # the wave that comes back from the valve parts the column
    assumed_walls: tuple[str, ...]
    slows_s: float  # to half its speed, by its inertia

    @property
    def within_rating(self) -> bool | None:
        """None where no rating is known."""
        return None if self.rating_pa is None else self.peak_pressure_pa <= self.rating_pa

    @property
    def lowest(self) -> Place:
        """Where the line comes nearest to vapour."""
        return min(self.places, key=lambda one: one.lowest_head_m)

    @property
    def parts(self) -> bool:
        """Whether the column parts, or may: a specialist's matter."""
        return self.trip.parts or self.trip.near_vapour

    @property
    def sucks(self) -> bool:
        """Whether the pressure falls under the air's by more than a hand's breadth of water."""
        return self.trip.least_m < -A_LITTLE_M

    @property
    def state(self) -> CheckState:
        """Hold, watch or fail: of the trip, and of the valve."""
        valve_fails = self.within_rating is False or self.valve_parts
        return "fail" if valve_fails else self.trip.state


def surge_of(
    base: Known, *, closes_s: float, stops_s: float | None = None, law: str = "ball"
) -> SurgeOfJob:
    """A valve at the end that closes within a time, and a pump that trips, or stops in another.

    Raises
    ------
    NotYet
        No pump that runs; a closed loop; a hose, of which nobody states the stiffness.
    """
    running = base.sizing.running
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    if running.system.route.closed_loop:
        raise NotYet("a closed loop has no line in which waves run to and fro")
    try:
        line = long_line(running)
        closing = closing_of(running, line, Valve(closes_s, LAWS[law][1]))
        trip = trip_of(running, line, stops_s)
    except SizingError as problem:
        raise NotYet(str(problem)) from None
    weight = running.system.water.density_kg_m3 * GRAVITY_M_S2
    speeds = [line.flow_m3s / leg.area_m2 for leg in line.legs]
    instant = max(
        weight / GRAVITY_M_S2 * leg.wave_speed_m_s * speed
        for leg, speed in zip(line.legs, speeds, strict=True)
    )
    rated = against_rating(running, line, closing)
    peak = weight * float(closing.highest_over_pipe_m.max())
    profile = tuple(_profile(closing, trip))
    return SurgeOfJob(
        wave_speed_m_s=line.length_m / line.travel_s,
        critical_time_s=2 * line.travel_s,
        velocity_m_s=sum(leg.length_m * speed for leg, speed in zip(line.legs, speeds, strict=True))
        / line.length_m,
        instant_rise_pa=instant,
        closing_rise_pa=weight * float((closing.highest_m - closing.steady_m).max()),
        trip_fall_pa=weight * float((trip.steady_m - trip.lowest_m).max()),
        peak_pressure_pa=peak if rated is None else rated.highest_pa,
        rating_pa=None if rated is None else rated.rating_pa,
        rated="" if rated is None else rated.label,
        closure_needed_s=valve_may_close_in_s(running, line, LAWS[law][1]),
        places=tuple(_places(running, line, profile)),
        profile=profile,
        vapour_head_m=line.vapour_m,
        trip=judged_trip(running, line, trip),
        valve_parts=closing.separates is not None,
        assumed_walls=line.assumed_walls,
        slows_s=slows_s(running),
    )


def _profile(closing: Transient, trip: Transient) -> Iterator[Place]:
    """The envelope of both at the places of the trip's grid."""
    highest = np.interp(trip.distance_m, closing.distance_m, closing.highest_m)
    for at, distance in enumerate(trip.distance_m.tolist()):
        yield Place(
            distance_m=distance,
            elevation_m=float(trip.axis_m[at]),
            name="",
            steady_grade_m=float(trip.steady_m[at]),
            lowest_grade_m=float(trip.lowest_m[at]),
            highest_grade_m=float(max(highest[at], trip.highest_m[at])),
        )


def _places(running: Running, line: LongLine, profile: tuple[Place, ...]) -> Iterator[Place]:
    """The pump, each leg's end, and the tops of surveyed ground between."""
    along_m = [one.distance_m for one in profile]

    def at(distance_m: float, name: str) -> Place:
        figures = {
            field: float(np.interp(distance_m, along_m, [getattr(one, field) for one in profile]))
            for field in _FIGURES
        }
        return Place(name=name, **figures)

    yield at(0.0, "the pump")
    along = 0.0
    for number in (one for group in line.of_legs for one in group):
        entry, leg = running.legs[number], running.system.route.legs[number]
        if leg.tops:
            top = max(leg.tops, key=lambda one: one.elevation_m)
            where = f"the top of {leg_name(entry, number + 1)}"
            yield at(along + top.share * leg.length_m, where)
        along += leg.length_m
        yield at(along, f"the end of {leg_name(entry, number + 1)}")
