"""What a pump that trips does to a long line, and what runs on after it stopped."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import SizingError, check_range
from sizing.base.message import Measure, message
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.checks.pressure import weakest_of
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.simulation.surge import Line
from sizing.simulation.transient import Leg, Runs, Transient, Valve, run_line

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


def collapse_pa(modulus: float, outside_m: float, wall_m: float) -> float:
    """Outer pressure at which a long round pipe buckles: 2 E / (1 - nu2) (s / (D - s))3 (Bresse).

    Raises
    ------
    OutOfRange
        A wall that no pipe has.
    """
    check_range("wall over the outside diameter", wall_m / outside_m, 1e-5, 0.49, "")
    return 2.0 * modulus / (1.0 - _POISSON**2) * (wall_m / (outside_m - wall_m)) ** 3


_POISSON = 0.4  # of plastics; metals have less, and more to spare
OVAL = 2.0  # times the vacuum that a pipe should bear: none is quite round (assumed)
STOPS_S = 1.0  # a small pump without a flywheel
A_LITTLE_M = 0.5  # under the air's pressure: no joint minds
_VALVE_K, _LEAST_VALVE_M = 1.5, 0.05
_PERIODS = 3  # after the event: what comes later is smaller
_REACHES, _MOST_OFF, _MOST_STEPS = 40, 0.05, 800
_SHORT = 0.05  # of the wave's travel: a leg shorter than that has no step of its own
_SLOWEST = 60.0  # travels of the wave: what goes slower is run as that, which is on the safe side
_UNIT_M3S = 1.0  # any flow: friction of both goes by its square
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
class LongLine:
    """The pipe behind the pump as a line whose waves can be run.

    ``of_legs`` is which legs of the job each of its legs stands for: one too short for a wave's
    step goes with its neighbour. ``valve_m`` is what a valve at the end takes open, with the outlet
    (assumed: 1.5 velocity heads).
    """

    legs: tuple[Leg, ...]
    of_legs: tuple[tuple[int, ...], ...]
    flow_m3s: float
    beyond_m: float
    vapour_m: float
    valve_m: float
    assumed_walls: tuple[str, ...]

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
    return LongLine(
        legs=joined,
        of_legs=of_legs,
        flow_m3s=flow,
        beyond_m=route.legs[-1].end_elevation_m + water.head_m(route.delivery_pressure_pa),
        vapour_m=water.vapour_head_m - water.head_m(STANDARD_AIR_PA),
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


def trip_of(running: Running, line: LongLine, stops_s: float = STOPS_S) -> Transient:
    """The pump loses its power: its speed falls evenly to nothing, its check valve holds.

    Standing still it lets through what the line draws on, against its own resistance.
    """
    stops_s = min(stops_s, _SLOWEST * line.travel_s)
    return run_line(
        line.legs,
        flow_m3s=line.flow_m3s,
        begins=replace(_pump(running, line, line.beyond_m), runs_down_s=stops_s),
        beyond_m=line.beyond_m,
        duration_s=stops_s + _PERIODS * 2 * line.travel_s,
        vapour_m=line.vapour_m,
        least_reaches=_reaches(line, stops_s),
        most_off=_MOST_OFF,
    )


def _pump(running: Running, line: LongLine, before_m: float) -> Runs:
    """The pump with its curve as a - b Q2 through where it runs, over what it draws from."""
    losses = sum(leg.loss_m(line.flow_m3s) for leg in line.legs)
    head = max(running.operating_head_m, 1e-3)
    shut = max(running.curve.shut_off_head_m, 1.001 * head)
    level = before_m + losses - head
    return Runs(level, shut, (shut - head) / line.flow_m3s**2, checked=True)


def _reaches(line: LongLine, lasts_s: float) -> int:
    """As many as steps are borne: a long event in a short line needs few."""
    travels = lasts_s / line.travel_s + 2 * _PERIODS
    return int(min(max(_MOST_STEPS / travels, len(line.legs), 6), _REACHES))


def closing_of(running: Running, line: LongLine, valve: Valve) -> Transient:
    """A valve at the end closes while the pump runs on, its curve taken as a - b Q2."""
    before = line.beyond_m + line.valve_m
    valve = replace(valve, closes_s=min(valve.closes_s, _SLOWEST * line.travel_s))
    return run_line(
        line.legs,
        flow_m3s=line.flow_m3s,
        begins=_pump(running, line, before),
        beyond_m=line.beyond_m,
        duration_s=valve.closes_s + _PERIODS * 2 * line.travel_s,
        vapour_m=line.vapour_m,
        valve=valve,
        before_valve_m=before,
        least_reaches=_reaches(line, valve.closes_s),
        most_off=_MOST_OFF,
    )


@dataclass(frozen=True)
class OverRating:
    """The leg whose rating waves come nearest to or pass, and what they bring there [Pa]."""

    label: str
    rating_pa: float
    highest_pa: float

    @property
    def bears(self) -> bool:
        """Whether it bears them."""
        return self.highest_pa <= self.rating_pa


def against_rating(running: Running, line: LongLine, found: Transient) -> OverRating | None:
    """The leg that has least to spare; None where no rating is known."""
    water = running.system.water
    weight = water.density_kg_m3 * GRAVITY_M_S2
    worst: OverRating | None = None
    first = 0
    for numbers, last in zip(line.of_legs, found.ends, strict=True):
        ratings = [weakest_of(running.legs[at], water.temperature_c) for at in numbers]
        known = min((one for one in ratings if one), key=lambda one: one[1], default=None)
        most = weight * float(found.highest_over_pipe_m[first : last + 1].max())
        first = last + 1
        if known is None:
            continue
        one = OverRating(known[0], known[1], most)
        if worst is None or one.rating_pa - most < worst.rating_pa - worst.highest_pa:
            worst = one
    return worst


def least_against_vacuum(running: Running, line: LongLine, found: Transient) -> float | None:
    """How many times the vacuum of the waves the weakest leg bears; None where there is none."""
    weight = running.system.water.density_kg_m3 * GRAVITY_M_S2
    stiff = {entry.id: one for entry, one, _, _ in lines(running)}
    least, first = None, 0
    for numbers, last in zip(line.of_legs, found.ends, strict=True):
        vacuum_pa = -weight * float(found.lowest_over_pipe_m[first : last + 1].min())
        first = last + 1
        if vacuum_pa <= weight * A_LITTLE_M:
            continue
        for at in numbers:
            pipe = stiff.get(running.legs[at].id)
            if pipe is None:
                continue
            outside = pipe.inside_diameter_m + 2.0 * pipe.wall_m
            bears = collapse_pa(pipe.pipe_modulus_pa, outside, pipe.wall_m)
            times = bears / min(vacuum_pa, STANDARD_AIR_PA)
            least = times if least is None else min(least, times)
    return least


@alone("the surge when the pump trips")
def surge_checks(running: Running) -> Iterator[Check]:
    """Whether a long line's column parts, or its pipe is passed, when the pump trips."""
    if running.system.route.closed_loop or running.facts.asks("panels"):
        return  # a drive on panels slows down with the sun
    try:
        line = long_line(running)
    except SizingError:
        return
    if line.length_m < running.rules.value("CHO-23"):
        return
    found = trip_of(running, line)
    over = found.lowest_over_pipe_m
    place = int(over.argmin())
    rated = against_rating(running, line, found)
    parts, passes = found.separates is not None, rated is not None and not rated.bears
    times = least_against_vacuum(running, line, found)
    flat = times is not None and times < 1.0
    yield Check(
        "surge",
        "Surge when the pump trips",
        state(
            not parts
            and not passes
            and over[place] >= -A_LITTLE_M
            and (times is None or times >= OVAL),
            not (parts or passes or flat),
        ),
        message(
            "The wave takes up to {fall}; {along} along the line {head} is left over the pipe"
            + (
                ", under vapour pressure: the water column may part there, and closes with a blow."
                if parts
                else ", under the air's pressure: joints may suck in air there."
                if over[place] < -A_LITTLE_M
                else ": the column holds."
            )
            + (" It comes back with {most}, and {pipe} bears {rating}." if passes else "")
            + (
                ""
                if times is None
                else " The vacuum presses the pipe flat."
                if flat
                else " The pipe bears {times} times that vacuum before it is pressed flat."
            )
            + " By characteristics; the pump stops within {stops} (assumed)"
            + (", and what follows on the parting is beyond them." if parts else "."),
            fall=Measure(float((found.steady_m - found.lowest_m).max()), "length"),
            along=Measure(float(found.distance_m[place]), "length", 0),
            head=Measure(float(over[place]), "length"),
            most=Measure(rated.highest_pa if rated else 0.0, "pressure"),
            times=f"{times or 0.0:.0f}",
            pipe=rated.label if rated else "",
            rating=Measure(rated.rating_pa if rated else 0.0, "pressure"),
            stops=Measure(STOPS_S, "time"),
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
