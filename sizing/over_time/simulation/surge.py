"""Surge: waves when a valve closes or a pump trips, against what pipe and summits bear.

Joukowsky's rise rho a v for a change within 2 L / a, after that in proportion 2 L / (a t)
(Allievi's slow closure, first order, on the safe side for a uniform line). Wave speed
a = sqrt(K / rho) / sqrt(1 + (K / E)(D / e) c1). No reflections, no column separation: where vapour
is reached a specialist is needed.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.water import GRAVITY_M_S2


@dataclass(frozen=True)
class Line:
    """The water and the pipe."""

    density_kg_m3: float
    bulk_modulus_pa: float
    inside_diameter_m: float
    wall_m: float
    pipe_modulus_pa: float
    restraint_c1: float
    length_m: float

    def __post_init__(self) -> None:
        check_range("density", self.density_kg_m3, 1.0, 5000.0, "kg/m³")
        check_range("wall", self.wall_m, 1e-5, 1.0, "m")
        check_range("inside diameter", self.inside_diameter_m, 1e-4, 10.0, "m")
        check_range("length", self.length_m, 1e-3, 1e6, "m")

    @property
    def wave_speed_m_s(self) -> float:
        """How fast a pressure wave runs in it."""
        soft = self.bulk_modulus_pa / self.pipe_modulus_pa
        soft *= self.inside_diameter_m / self.wall_m * self.restraint_c1
        return math.sqrt(self.bulk_modulus_pa / self.density_kg_m3) / math.sqrt(1 + soft)

    @property
    def critical_time_s(self) -> float:
        """There and back of the wave: what is done sooner is done at once."""
        return 2 * self.length_m / self.wave_speed_m_s

    def change_pa(self, velocity_m_s: float, time_s: float) -> float:
        """Rise (or fall) when the flow stops within a time."""
        at_once = self.density_kg_m3 * self.wave_speed_m_s * velocity_m_s
        if time_s <= self.critical_time_s:
            return at_once
        return at_once * self.critical_time_s / time_s


def derated(rows: Sequence[tuple[float, float]], temperature_c: float) -> float:
    """A pipe's share of its rating at a temperature, linear between rows, held beyond them."""
    before = rows[0]
    for row in rows:
        if temperature_c <= row[0]:
            if row is before or row[0] == before[0]:
                return row[1]
            share = (temperature_c - before[0]) / (row[0] - before[0])
            return before[1] + share * (row[1] - before[1])
        before = row
    return before[1]


@dataclass(frozen=True)
class Surge:
    """A closing valve and a tripping pump; pressures gauge [Pa], grade lines [m]."""

    wave_speed_m_s: float
    critical_time_s: float
    instant_rise_pa: float
    closing_rise_pa: float
    closure_is_quick: bool
    peak_pressure_pa: float
    rating_pa: float
    within_rating: bool
    closure_time_needed_s: float | None
    trip_fall_pa: float
    lowest_grade_m: float
    summit_pressure_pa: float
    vapour_reached: bool
    below_atmosphere: bool

    @property
    def needs_a_specialist(self) -> bool:
        """Whether waves like these are no longer for a rule: the column would part."""
        return self.vapour_reached


def surge(
    line: Line,
    *,
    velocity_m_s: float,
    closure_time_s: float,
    operating_pressure_pa: float,
    rating_pa: float,
    stop_time_s: float,
    static_grade_m: float,
    summit_elevation_m: float,
    atmosphere_pa: float,
    vapour_pressure_pa: float,
) -> Surge:
    """Both, for a uniform line; ``rating_pa`` as derated for its temperature."""
    weight = line.density_kg_m3 * GRAVITY_M_S2
    instant = line.change_pa(velocity_m_s, 0.0)
    rise = line.change_pa(velocity_m_s, closure_time_s)
    spare = rating_pa - operating_pressure_pa
    needed: float | None = 0.0
    if spare <= 0:
        needed = None
    elif instant > spare:
        needed = 2 * line.density_kg_m3 * line.length_m * velocity_m_s / spare
    fall = line.change_pa(velocity_m_s, stop_time_s)
    lowest = static_grade_m - fall / weight
    unlimited = weight * (lowest - summit_elevation_m)
    return Surge(
        wave_speed_m_s=line.wave_speed_m_s,
        critical_time_s=line.critical_time_s,
        instant_rise_pa=instant,
        closing_rise_pa=rise,
        closure_is_quick=closure_time_s <= line.critical_time_s,
        peak_pressure_pa=operating_pressure_pa + rise,
        rating_pa=rating_pa,
        within_rating=operating_pressure_pa + rise <= rating_pa,
        closure_time_needed_s=needed,
        trip_fall_pa=fall,
        lowest_grade_m=lowest,
        summit_pressure_pa=max(unlimited, vapour_pressure_pa - atmosphere_pa),
        vapour_reached=unlimited + atmosphere_pa <= vapour_pressure_pa,
        below_atmosphere=unlimited < 0,
    )
