"""Surge on a job's line: a valve that closes and a pump that trips, along the ground.

Wave speed of each leg by its material and wall; the worst leg's Joukowsky rise within the wave's
time there and back, after that in proportion (rules of :mod:`sizing.simulation.surge`). On a trip
the fall is no more than the pump's own head, since water is drawn on through a pump that stops;
the outlet sends the wave back, so that a point bears it whole only where the pump stops sooner than
the wave runs from there to the outlet and back, else in proportion. Where vapour is reached the
column parts: then this is no longer for a rule.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from sizing.analysis.changed import Known, NotYet
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import Running, state
from sizing.checks.pressure import rated_legs
from sizing.checks.surge import StiffnessUnknown, lines
from sizing.document.build_route import leg_name

_A_LITTLE_M = 0.5  # under the air's pressure: no joint minds


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
    vapour_head_m: float
    assumed_walls: tuple[str, ...]

    @property
    def within_rating(self) -> bool | None:
        """None where no rating is known."""
        return None if self.rating_pa is None else self.peak_pressure_pa <= self.rating_pa

    @property
    def lowest(self) -> Place:
        """Where the line comes nearest to vapour."""
        return min(self.places, key=lambda one: one.lowest_head_m)

    @property
    def vapour_reached(self) -> bool:
        """Whether the column parts: a specialist's matter."""
        return self.lowest.lowest_head_m <= self.vapour_head_m

    @property
    def sucks(self) -> bool:
        """Whether the pressure falls under the air's by more than a hand's breadth of water."""
        return self.lowest.lowest_head_m < -_A_LITTLE_M

    @property
    def state(self) -> str:
        """Hold, watch or fail."""
        if self.vapour_reached or self.within_rating is False:
            return "fail"
        return state(not self.sucks, nearly=True)


def surge_of(base: Known, *, closes_s: float, stops_s: float) -> SurgeOfJob:
    """A valve at the end that closes within a time, and a pump that stops within another.

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
        found = list(lines(running))
    except StiffnessUnknown as unknown:
        raise NotYet(str(unknown)) from None
    if not found:
        raise NotYet("the run has no pipe behind the pump yet")
    length = sum(line.length_m for _, line, _, _ in found)
    there = sum(line.length_m / line.wave_speed_m_s for _, line, _, _ in found)
    critical, speed = 2 * there, length / there
    density = running.system.water.density_kg_m3
    instant = max(density * line.wave_speed_m_s * v for _, line, v, _ in found)
    moving = sum(line.length_m * v for _, line, v, _ in found)  # m2/s: what has to be stopped

    def change(time_s: float) -> float:
        return instant if time_s <= critical else min(instant, 2 * density * moving / time_s)

    rise = change(closes_s)
    rated = sorted(rated_legs(running), key=lambda one: one.rating_pa)
    weight = density * GRAVITY_M_S2
    fall_m = min(instant / weight, max(running.operating_head_m, 0.0))

    def felt_m(to_the_end_m: float) -> float:
        if to_the_end_m <= 0:  # the outlet keeps its level
            return 0.0
        back_s = 2 * to_the_end_m / speed
        return fall_m * (1.0 if stops_s <= back_s else back_s / stops_s)

    peak = weight * max(running.operating_head_m, 0.0) + rise
    rating = rated[0].rating_pa if rated else None
    spare = None if rating is None else rating - (peak - rise)
    return SurgeOfJob(
        wave_speed_m_s=speed,
        critical_time_s=critical,
        velocity_m_s=moving / length,
        instant_rise_pa=instant,
        closing_rise_pa=rise,
        trip_fall_pa=weight * felt_m(length),
        peak_pressure_pa=peak,
        rating_pa=rating,
        rated=rated[0].pipe if rated else "",
        closure_needed_s=_closure(spare, instant, 2 * density * moving),
        places=tuple(_places(running, rise / weight, length, felt_m)),
        vapour_head_m=running.system.water.vapour_head_m
        - running.system.water.head_m(STANDARD_AIR_PA),
        assumed_walls=tuple(entry.name or "a leg" for entry, _, _, assumed in found if assumed),
    )


def _closure(spare_pa: float | None, instant_pa: float, per_s: float) -> float | None:
    """The time in which a valve may close: 0 where at once does, None where no time would."""
    if spare_pa is None or spare_pa <= 0:
        return None
    return 0.0 if instant_pa <= spare_pa else per_s / spare_pa


def _places(
    running: Running, rise_m: float, length_m: float, felt_m: Callable[[float], float]
) -> Iterator[Place]:
    """The pump, each leg's end, and the tops of surveyed ground between.

    ``felt_m`` is what a trip takes away so far from the outlet.
    """
    system, flow = running.system, running.flow_m3s
    route = system.route
    end = route.legs[-1].end_elevation_m + system.water.head_m(route.delivery_pressure_pa)
    pipe, fittings = system.losses_m(flow)
    lost = (pipe + fittings + system.device_losses_m(flow))[:, 0].tolist()
    behind = [at for at, entry in enumerate(running.legs) if entry.side != "suction"]
    grade = end + sum(lost[at] for at in behind)
    begins = min(route.start_level_m, route.legs[behind[0]].end_elevation_m)
    yield Place(0.0, begins, "the pump", grade, grade - felt_m(length_m), grade + rise_m)
    distance = 0.0
    for at in behind:
        entry, leg = running.legs[at], route.legs[at]
        if entry.survey and len(entry.survey) > 2:
            top = max(entry.survey[1:-1], key=lambda one: one.elevation_m)
            share = top.distance_m / max(entry.survey[-1].distance_m, 1e-9)
            yield Place(
                distance + share * leg.length_m,
                top.elevation_m,
                f"the top of {leg_name(entry, at + 1)}",
                grade - share * lost[at],
                grade - share * lost[at] - felt_m(length_m - distance - share * leg.length_m),
                grade - share * lost[at] + rise_m,
            )
        distance += leg.length_m
        grade -= lost[at]
        yield Place(
            distance,
            leg.end_elevation_m,
            f"the end of {leg_name(entry, at + 1)}",
            grade,
            grade - felt_m(max(length_m - distance, 0.0)),
            grade + rise_m,
        )
