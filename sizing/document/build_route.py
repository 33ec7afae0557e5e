"""From the legs of a job document to a route in SI."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base import units
from sizing.base.errors import SizingError, check_range
from sizing.base.water import Water
from sizing.document import items
from sizing.document.answers import MissingFact, WrongFact
from sizing.document.job import Figure, JobDocument, LegEntry
from sizing.hydraulics import fittings, pipes, survey
from sizing.hydraulics.device import Device
from sizing.hydraulics.fittings import Counted
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve

LONGEST_LEG_M = 50_000.0
HIGHEST_LEVEL_M = 2_000.0


def bore_m(entry: LegEntry) -> float:
    """Inside diameter of a leg [m]: its own bore, else the table's for its pipe."""
    if entry.bore is not None:
        return entry.bore.si("bore")
    return pipes.pipe(entry.series, entry.nominal).inside_diameter_m


def pipe_label(entry: LegEntry) -> str:
    """What to call the pipe of a leg."""
    return (
        f"bore {entry.bore.shown()}"
        if entry.bore is not None
        else pipes.pipe(entry.series, entry.nominal).label
    )


def pipes_label(entry: LegEntry) -> str:
    """The same with how many lie side by side and the wall, where these are not as usual."""
    many = f"{entry.parallel} × " if entry.parallel > 1 else ""
    return many + pipe_label(entry) + (f", {pipes.wall(entry.wall).label}" if entry.wall else "")


def length_label(entry: LegEntry) -> str:
    """The length of a leg as it was typed, or as surveyed; '' while it is not known."""
    if entry.length is None and entry.survey:
        return f"{survey.length_m(entry.survey):.4g} m"
    return entry.length.shown() if entry.length else ""


def leg_name(entry: LegEntry, number: int) -> str:
    """What to call a leg."""
    return entry.name or f"leg {number}"


def the_leg(entry: LegEntry, number: int) -> str:
    """The same within a sentence: 'the riser', or 'leg 2'."""
    return f"the {entry.name}" if entry.name else f"leg {number}"


def legs_in_use(job: JobDocument) -> tuple[LegEntry, ...]:
    """The legs that count: all, but for wholly blank ones beside others that are known.

    So a leg that was just added does not take the result away; it is listed as missing meanwhile.
    """
    begun = tuple(
        leg for leg in job.legs if leg.length is not None or leg.ends_at is not None or leg.survey
    )
    return begun or job.legs


def left_out(job: JobDocument) -> tuple[MissingFact, ...]:
    """What is missing of the legs that do not count yet."""
    used = {leg.id for leg in legs_in_use(job)}
    return tuple(
        _missing(leg, "length", "length", number)
        for number, leg in enumerate(job.legs, 1)
        if leg.id not in used
    ) + tuple(
        _missing(leg, "pipe", "pipe", number)
        for number, leg in enumerate(job.legs, 1)
        if pipe_in_doubt(job, leg)
    )


def lacking(job: JobDocument, *, closed_loop: bool) -> tuple[MissingFact, ...]:
    """All that is missing of the legs that count; of wholly blank ones the first in full."""
    found = []
    used = legs_in_use(job)
    begun = [leg for leg in used if leg.length is not None or leg.ends_at is not None or leg.survey]
    for leg in begun or used[:1]:
        number = job.legs.index(leg) + 1
        if leg.length is None and not leg.survey:
            found.append(_missing(leg, "length", "length", number))
        if leg.ends_at is None and not leg.survey and not closed_loop:
            found.append(_missing(leg, "ends_at", "end level", number))
    return tuple(found)


def likely_ends(job: JobDocument, entry: LegEntry) -> tuple[tuple[str, Figure], ...]:
    """Levels that a leg may well end at, in words, while nobody has said: to be taken at a click.

    As high as the leg before ends, where there is one; or so much higher as the leg is long, as a
    riser is. Nothing while the leg's length is not known.
    """
    if entry.ends_at is not None or entry.length is None or entry.survey:
        return ()
    at = job.legs.index(entry)
    before = job.legs[at - 1].ends_at if at else None
    if at and before is None:
        return ()
    begin_m = before.si("length") if before else 0.0
    unit = units.unit(units.shown("length", job.units).unit, "length")
    top = unit.from_si(begin_m + entry.length.si("length"))
    straight_up = Figure(value=round(top, 3), unit=unit.symbol)
    level = (("level with the leg before", before),) if before else ()
    return (*level, ("straight up", straight_up))


def pipe_in_doubt(job: JobDocument, entry: LegEntry) -> bool:
    """Whether what stands in a leg's pipe field names none yet: then no other takes its place."""
    return f"legs.{entry.id}.pipe" in job.pending


def _missing(entry: LegEntry, field: str, label: str, number: int) -> MissingFact:
    return MissingFact(f"legs.{entry.id}.{field}", f"{label} of {the_leg(entry, number)}", "run")


def _needed(figure: Figure | None, entry: LegEntry, field: str, label: str, number: int) -> float:
    if figure is None:
        raise _missing(entry, field, label, number)
    return figure.si("length")


@dataclass(frozen=True)
class Ends:
    """What lies before and behind the legs.

    Levels [m] over the job's datum, heads [m of this water].

    In a closed loop levels and pressures count nothing. ``share_of_common_legs`` is the flow in
    every leg but the first over the pump's own, where other pumps push into the same main;
    ``share_of_legs`` that in every leg, where some of the flow leaves at the pump.
    """

    start_level_m: float = 0.0
    delivery_head_m: float = 0.0
    supply_head_m: float = 0.0
    closed_loop: bool = False
    drawdown_s_m2: float = 0.0
    devices: tuple[Device, ...] = ()
    share_of_common_legs: float = 1.0
    share_of_legs: float = 1.0
    liquid_wall: str = ""  # where nobody names one, by what the pipe carries; '' for clean water
    first_leg_from_m: float | None = None  # where that is not the level drawn from: a deep pump


_SLACK = 1.001  # a leg that climbs all its length may be a hair short by rounding
DEFAULT_ALLOWANCE = 0.15  # of the pipe's friction, for fittings: the crude school


def allowance(job: JobDocument) -> float:
    """Share of the pipe's friction that the crude school allows for fittings."""
    return DEFAULT_ALLOWANCE if job.allowance is None else job.allowance.si("ratio")


def share(entry: LegEntry) -> float:
    """Share of the pump's flow that a leg carries."""
    return 1.0 if entry.share is None else entry.share.si("ratio")


def length_m(entry: LegEntry, number: int) -> float:
    """Length of a leg [m]: as typed, else along its survey.

    Raises
    ------
    MissingFact, SizingError
        Neither is there; or it is shorter than the ground that was surveyed.
    """
    surveyed = survey.length_m(entry.survey)
    if entry.length is None and entry.survey:
        return surveyed
    found = _needed(entry.length, entry, "length", "length", number)
    if found < 0.999 * surveyed:
        raise SizingError(
            f"{the_leg(entry, number)} is {found:.4g} m long, and its survey runs over"
            f" {surveyed:.4g} m"
        )
    return found


def _end_m(entry: LegEntry, number: int) -> float:
    if entry.ends_at is None and entry.survey:
        return entry.survey[-1].elevation_m
    return _needed(entry.ends_at, entry, "ends_at", "end level", number)


def _fittings(entry: LegEntry, job: JobDocument, inside_m: float, leg_m: float) -> dict[str, float]:
    """What the fittings of a leg cost by the job's school: parts of a :class:`Leg`."""
    counted = [Counted(one.fitting, one.count) for one in entry.fittings]
    if job.fitting_method == "percent":
        return {"k_sum": 0.0, "equivalent_length_m": allowance(job) * leg_m}
    if job.fitting_method == "equivalent_length":
        return {
            "k_sum": 0.0,
            "equivalent_length_m": sum(
                one.count * fittings.equivalent_length_m(one.fitting_id, inside_m)
                for one in counted
            ),
        }
    if job.fitting_method == "k":
        return {"k_sum": fittings.k_sum(counted, inside_m)}
    pairs = [
        (one.count, *fittings.k_parts(one.fitting_id, inside_m, job.fitting_method))
        for one in counted
    ]
    return {
        "k_sum": sum(count * k for count, k, _ in pairs),
        "k1_sum": sum(count * k1 for count, _, k1 in pairs),
    }


def leg(
    entry: LegEntry,
    number: int,
    job: JobDocument,
    liquid: Water,
    *,
    closed_loop: bool = False,
    flow_share: float = 1.0,
    liquid_wall: str = "",
) -> Leg:
    """One leg in SI, by the job's schools; ``flow_share`` comes on top of the leg's own.

    ``liquid_wall`` stands where the leg names no wall.

    Raises
    ------
    MissingFact
        Its length or the level it ends at is not known yet.
    SizingError
        No table knows a Hazen-Williams C of its wall.
    """
    if pipe_in_doubt(job, entry):
        raise _missing(entry, "pipe", "pipe", number)
    inside, long_m = bore_m(entry), length_m(entry, number)
    usual_wall = pipes.wall_by_liquid(entry.series, liquid_wall)
    wall = pipes.wall_of(entry.series, entry.wall or usual_wall)
    if wall.hazen_williams_c is None and job.friction == "hazen_williams":
        raise SizingError(
            f"no table knows a Hazen-Williams C for {wall.label}: reckon by Darcy-Weisbach"
        )
    return Leg(
        inside_diameter_m=inside,
        length_m=long_m,
        roughness_m=min(wall.roughness_m, inside / 4),
        hazen_williams_c=wall.hazen_williams_c or 150.0,
        end_elevation_m=0.0 if closed_loop else _end_m(entry, number),
        flow_share=flow_share * share(entry),
        name=leg_name(entry, number),
        parallel=entry.parallel,
        devices=tuple(
            items.device(one, liquid, dirty=job.filters == "dirty") for one in entry.items
        ),
        tops=() if closed_loop else survey.tops(entry.survey),
        loss_share=1.0 if job.as_built is None else job.as_built.si("ratio"),
        **_fittings(entry, job, inside, long_m),
    )


def route(job: JobDocument, ends: Ends, liquid: Water) -> Route:
    """The route of a job between its ends.

    Raises
    ------
    MissingFact, SizingError
        A figure that is not known yet; no leg; a leg shorter than its climb; a delivery leg before
        a suction leg.
    """
    if not job.legs:
        raise SizingError("the run has no pipe yet: add a leg")
    used = legs_in_use(job)
    legs = tuple(
        leg(
            entry,
            job.legs.index(entry) + 1,
            job,
            liquid,
            closed_loop=ends.closed_loop,
            flow_share=ends.share_of_legs * (1.0 if index == 0 else ends.share_of_common_legs),
            liquid_wall=ends.liquid_wall,
        )
        for index, entry in enumerate(used)
    )
    if not ends.closed_loop:
        first = ends.start_level_m if ends.first_leg_from_m is None else ends.first_leg_from_m
        _refuse_short_legs(job, used, legs, first)
    check_range("length of a leg", max(one.length_m for one in legs), 0.0, LONGEST_LEG_M, "m")
    suction = sum(1 for entry in used if entry.side == "suction")
    if suction == len(used):
        behind = next((leg for leg in job.legs if leg.side == "delivery"), None)
        if behind is None:
            raise SizingError(
                "no leg lies behind the pump: add one, or say of one that it lies behind"
            )
        raise _missing(behind, "length", "length", job.legs.index(behind) + 1)
    if any(entry.side == "suction" for entry in used[suction:]):
        raise SizingError("a suction leg stands behind a delivery leg: the suction legs come first")
    return Route(
        legs=legs,
        start_level_m=ends.start_level_m,
        supply_pressure_pa=liquid.pressure_pa(ends.supply_head_m),
        delivery_pressure_pa=liquid.pressure_pa(ends.delivery_head_m),
        closed_loop=ends.closed_loop,
        suction_legs=suction,
        method=job.friction,
        fittings_by=job.fitting_method,
        devices=ends.devices,
        drawdown_s_m2=ends.drawdown_s_m2,
    )


def _refuse_short_legs(
    job: JobDocument, used: Sequence[LegEntry], legs: Sequence[Leg], first_m: float
) -> None:
    """No pipe is shorter than it climbs or falls, from where the first one begins.

    A pump under water may hang anywhere below its surface, so a first leg that falls is no slip.
    """
    begins = first_m

    def shown(value_m: float) -> str:
        return units.show(value_m, "length", job.units)

    for entry, one in zip(used, legs, strict=True):
        climb = one.end_elevation_m - begins
        if (climb if begins is first_m else abs(climb)) > one.length_m * _SLACK:
            raise WrongFact(
                f"legs.{entry.id}.length",
                f"{the_leg(entry, job.legs.index(entry) + 1)} is too short: {shown(one.length_m)}"
                f" long, and it has to {'climb' if climb > 0 else 'fall'} {shown(abs(climb))}"
                f" (from {shown(begins)} to {shown(one.end_elevation_m)})",
            )
        begins = one.end_elevation_m


def system_curve(job: JobDocument, ends: Ends, liquid: Water) -> SystemCurve:
    """The system curve of a job; raises like :func:`route`."""
    return SystemCurve(route(job, ends, liquid), liquid)
