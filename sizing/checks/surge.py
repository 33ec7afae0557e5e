"""What a pump that trips and a valve that closes do to a long line, and what runs on after it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from sizing.base.errors import SizingError, check_range
from sizing.base.message import Measure, message
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import Check, CheckState, Running, Site, alone, state
from sizing.checks.long_line import LongLine, lines, long_line
from sizing.checks.pressure import weakest_of
from sizing.over_time.simulation.transient import Runs, Transient, Valve, run_line
from sizing.pump.inertia import halves_its_speed_s
from sizing.pump.power import hydraulic_power_w

OVAL = 2.0  # times the vacuum that a pipe should bear: none is quite round (assumed)
A_LITTLE_M = 0.5  # under the air's pressure: no joint minds
_NEAR_VAPOUR_M = 1.0  # over vapour: within what grid and steady friction leave open (assumed)
# share of the closing time, of the area, coefficient: a quarter-turn ball valve as it is turned
# evenly (usual figures, assumed)
BALL = (
    (0.0, 1.0, 0.82),
    (0.2, 0.78, 0.66),
    (0.4, 0.49, 0.54),
    (0.6, 0.24, 0.49),
    (0.8, 0.07, 0.47),
    (1.0, 0.0, 0.46),
)
_POISSON = 0.4  # of plastics; metals have less, and more to spare
_PERIODS = 3  # after the event: what comes later is smaller
_REACHES, _MOST_OFF, _MOST_STEPS = 40, 0.05, 800
_SLOWEST = 60.0  # travels of the wave: what goes slower is run as that, which is on the safe side
_STANDS = 10.0  # times the time to half its speed: a hundredth of its head is left
_POOR = 0.5  # efficiency of a pump whose motor nobody states (assumed)
_TWO_POLES_RPM = 57.6  # for each hertz: two poles and the slip of a small motor (assumed)
_USUAL_HZ = 50.0
_SIPHON_BREAKS_M = 9.0  # of suction at the top: more, and air comes out of the water


def collapse_pa(modulus: float, outside_m: float, wall_m: float) -> float:
    """Outer pressure at which a long round pipe buckles: 2 E / (1 - nu2) (s / (D - s))3 (Bresse).

    Raises
    ------
    OutOfRange
        A wall that no pipe has.
    """
    check_range("wall over the outside diameter", wall_m / outside_m, 1e-5, 0.49, "")
    return 2.0 * modulus / (1.0 - _POISSON**2) * (wall_m / (outside_m - wall_m)) ** 3


def slows_s(running: Running) -> float:
    """Time in which the pump comes to half its speed without power.

    By its motor's rating, or what the water takes up over a poor efficiency; of two poles where
    nobody states its speed.
    """
    pump, facts = running.pump.pump, running.facts
    shaft_w = pump.motor_power_w
    if shaft_w is None:
        density = running.system.water.density_kg_m3
        shaft_w = hydraulic_power_w(running.flow_m3s, running.operating_head_m, density) / _POOR
        shaft_w /= running.running
    hz = facts.si("supply_frequency") if facts.asks("supply_frequency") else _USUAL_HZ
    return halves_its_speed_s(max(shaft_w, 1.0), pump.speed_rpm or _TWO_POLES_RPM * hz)


# A line is run anew only when something of it changed: every edit asks, and the dialog besides.
_ran = lru_cache(maxsize=64)(run_line)


def trip_of(running: Running, line: LongLine, stops_s: float | None = None) -> Transient:
    """The pump loses its power and slows by its inertia; or it is stopped softly in a time.

    Its check valve holds. Standing still it lets through what the line draws on, against its own
    resistance.
    """
    pump = _pump(running, line, line.beyond_m)
    if stops_s is None:
        half_s = min(slows_s(running), _SLOWEST / _STANDS * line.travel_s)
        begins, lasts_s = replace(pump, inertia_s=half_s), _STANDS * half_s
    else:
        lasts_s = min(stops_s, _SLOWEST * line.travel_s)
        begins = replace(pump, runs_down_s=lasts_s)
    return _ran(
        line.legs,
        flow_m3s=line.flow_m3s,
        begins=begins,
        beyond_m=line.beyond_m,
        duration_s=lasts_s + _PERIODS * 2 * line.travel_s + _swing_s(line),
        vapour_m=line.vapour_m,
        vessel=line.vessel,
        air_valves=line.air_valves,
        least_reaches=_reaches(line, lasts_s + _swing_s(line)),
        most_off=_MOST_OFF,
    )


def _swing_s(line: LongLine) -> float:
    """Time in which the water swings to and fro against a vessel's air; nothing without one.

    As a rigid column against the air at its pressure: T = 2 pi sqrt(V sum(L / A) / (n g H)).
    """
    if line.vessel is None:
        return 0.0
    over_m = line.beyond_m - line.legs[0].ground[0][1] + line.vessel.air_m
    moved = sum(leg.length_m / leg.area_m2 for leg in line.legs)
    stiff = line.vessel.exponent * GRAVITY_M_S2 * max(over_m, 1.0)
    swing_s = 2.0 * math.pi * math.sqrt(line.vessel.air_m3 * moved / stiff)
    return min(swing_s, _SLOWEST * line.travel_s)


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
    return _ran(
        line.legs,
        flow_m3s=line.flow_m3s,
        begins=_pump(running, line, before),
        beyond_m=line.beyond_m,
        duration_s=valve.closes_s + _PERIODS * 2 * line.travel_s,
        vapour_m=line.vapour_m,
        valve=valve,
        before_valve_m=before,
        vessel=line.vessel,
        air_valves=line.air_valves,
        least_reaches=_reaches(line, valve.closes_s),
        most_off=_MOST_OFF,
    )


_LONGEST_CLOSURE_S, _HALVINGS = 120.0, 7


def valve_may_close_in_s(
    running: Running, line: LongLine, law: tuple[tuple[float, float, float], ...]
) -> float | None:
    """The time in which a valve may close: 0 where at once does, None where none tried would."""

    def does(closes_s: float) -> bool:
        found = closing_of(running, line, Valve(closes_s, law))
        rated = against_rating(running, line, found)
        return rated is None or rated.bears

    if does(0.0):
        return 0.0
    if not does(_LONGEST_CLOSURE_S):
        return None
    low, high = 0.0, _LONGEST_CLOSURE_S
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if does(middle) else (middle, high)
    return high


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


@alone("the surge in the line")
def surge_checks(running: Running) -> Iterator[Check]:
    """Whether a long line bears a pump that trips, and one with a quick valve its closing."""
    closes_s = (
        running.facts.optional("valve_closes") if running.facts.asks("valve_closes") else None
    )
    if running.system.route.closed_loop or running.facts.asks("panels"):
        return  # a drive on panels slows down with the sun
    try:
        line = long_line(running)
    except SizingError:
        return
    if line.length_m >= running.rules.value("CHO-23"):
        yield _trip_check(running, line)
    if closes_s is not None:
        yield _closing_check(running, line, closes_s)


@dataclass(frozen=True)
class Trip:
    """A line after the pump tripped, judged: the same for Proof and for the dialog.

    ``least_m`` is what is left over the pipe where it is least, ``place`` that place's index.
    ``vacuums`` is how many times the vacuum of its waves the weakest pipe bears.
    """

    found: Transient
    place: int
    least_m: float
    rated: OverRating | None
    vacuums: float | None
    near_vapour: bool

    @property
    def parts(self) -> bool:
        """Whether the column reaches vapour."""
        return self.found.separates is not None

    @property
    def passes(self) -> bool:
        """Whether the wave that comes back is over a rating."""
        return self.rated is not None and not self.rated.bears

    @property
    def flat(self) -> bool:
        """Whether the vacuum presses a pipe flat."""
        return self.vacuums is not None and self.vacuums < 1.0

    @property
    def state(self) -> CheckState:
        """Hold, watch or fail."""
        bears = self.vacuums is None or self.vacuums >= OVAL
        harmed = self.parts or self.near_vapour or self.passes or self.flat
        return state(not harmed and self.least_m >= -A_LITTLE_M and bears, not harmed)


def judged_trip(running: Running, line: LongLine, found: Transient) -> Trip:
    """What a trip, run, means for the line."""
    over = found.lowest_over_pipe_m
    place = int(over.argmin())
    return Trip(
        found=found,
        place=place,
        least_m=float(over[place]),
        rated=against_rating(running, line, found),
        vacuums=least_against_vacuum(running, line, found),
        near_vapour=bool(over[place] < line.vapour_m + _NEAR_VAPOUR_M),
    )


def _trip_check(running: Running, line: LongLine) -> Check:
    trip = judged_trip(running, line, trip_of(running, line))
    found, rated = trip.found, trip.rated
    return Check(
        "surge",
        "Surge when the pump trips",
        trip.state,
        message(
            "The head falls by up to {fall}; {along} along the line {head} is left over the pipe"
            + (
                ", under vapour pressure: the water column may part there, and closes with a blow."
                if trip.parts
                else ", so near to vapour that the water column may part there."
                if trip.near_vapour
                else ", under the air's pressure: joints may suck in air there."
                if trip.least_m < -A_LITTLE_M
                else ": the column holds."
            )
            + (" It comes back with {most}, and {pipe} bears {rating}." if trip.passes else "")
            + (
                ""
                if trip.vacuums is None
                else " The vacuum presses the pipe flat."
                if trip.flat
                else " The pipe bears {times} times that vacuum before it is pressed flat."
            )
            + " By characteristics; the pump slows to half its speed in {slows}, by its inertia"
            + (", and what follows on the parting is beyond them." if trip.parts else ".")
            + _fitted(line, found),
            fall=Measure(float((found.steady_m - found.lowest_m).max()), "length"),
            along=Measure(float(found.distance_m[trip.place]), "length", 0),
            head=Measure(trip.least_m, "length"),
            most=Measure(rated.highest_pa if rated else 0.0, "pressure"),
            times=f"{trip.vacuums or 0.0:.0f}",
            pipe=rated.label if rated else "",
            rating=Measure(rated.rating_pa if rated else 0.0, "pressure"),
            slows=Measure(slows_s(running), "time", 2),
            valves=str(len(line.air_valves)),
            air=Measure(found.most_air_m3 or 0.0, "volume"),
        ),
        "Set air valves at the high points or a surge vessel at the pump, and say so under Surge in"
        " the run: they are worked out with it. A soft stop does not help when the power fails."
        " Have the surge of a long main worked out by a specialist.",
        about="site",
    )


def _fitted(line: LongLine, found: Transient) -> str:
    """What stands against surge in the line."""
    return (" Air valves at its high points: {valves}." if line.air_valves else "") + (
        " The vessel's air grows to {air}: it must hold more than that."
        if found.most_air_m3 is not None
        else ""
    )


def _closing_check(running: Running, line: LongLine, closes_s: float) -> Check:
    found = closing_of(running, line, Valve(closes_s, BALL))
    rated = against_rating(running, line, found)
    bears, parts = rated is None or rated.bears, found.separates is not None
    needed_s = None if bears else valve_may_close_in_s(running, line, BALL)
    weight = running.system.water.density_kg_m3 * GRAVITY_M_S2
    return Check(
        "surge_valve",
        "Surge when a valve closes",
        state(bears and not parts and rated is not None, bears and not parts),
        message(
            "Closed in {closes}, a ball valve at the far end brings {most} into the pipe"
            + (
                "; nobody states what the pipe bears."
                if rated is None
                else "; {pipe} bears {rating}."
            )
            + (" The wave that comes back parts the water column." if parts else "")
            + (
                ""
                if bears
                else " It may close in {needed} or more."
                if needed_s is not None
                else " No closing time up to two minutes is slow enough."
            ),
            closes=Measure(closes_s, "time"),
            most=Measure(
                rated.highest_pa if rated else weight * float(found.highest_over_pipe_m.max()),
                "pressure",
            ),
            pipe=rated.label if rated else "",
            rating=Measure(rated.rating_pa if rated else 0.0, "pressure"),
            needed=Measure(needed_s or 0.0, "time"),
        ),
        "Take a valve that closes more slowly, a wider pipe or one of a higher rating, or fit a"
        " surge vessel near the valve.",
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
