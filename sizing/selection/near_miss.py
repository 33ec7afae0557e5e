"""What would make a near miss do.

Pipe one size wider, less to lift, or a little less flow accepted.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from sizing.base.errors import SizingError
from sizing.base.message import Filling, Measure, message
from sizing.document.build_route import the_leg
from sizing.document.job import JobDocument, LegEntry
from sizing.hydraulics import pipes
from sizing.hydraulics.system_curve import SystemCurve
from sizing.selection.match import Candidate, Match


@dataclass(frozen=True)
class Wider:
    """A leg one size wider.

    The head [m] that this saves at the flow needed, and the length [m] of pipe that it takes.
    """

    leg_name: str
    pipe_label: str
    saved_m: float
    length_m: float
    job: JobDocument  # with that leg


def wider_pipes(
    job: JobDocument,
    legs: tuple[LegEntry, ...],
    system: SystemCurve,
    flow_m3s: float,
    build: Callable[[JobDocument], SystemCurve],
) -> tuple[Wider, ...]:
    """Every leg that has a next size in its family, the shortest first.

    ``build`` makes the system curve of a changed job.
    """
    found = []
    for entry, leg in zip(legs, system.route.legs, strict=True):
        nominal = next_size(entry)
        if nominal is None:
            continue
        changed = job.with_leg(entry.model_copy(update={"nominal": nominal}))
        try:
            saved = system.head_at(flow_m3s) - build(changed).head_at(flow_m3s)
        except SizingError:  # a school of friction that no table covers at that size
            continue
        found.append(
            Wider(
                the_leg(entry, job.legs.index(entry) + 1),
                pipes.pipe(entry.series, nominal).label,
                saved,
                leg.length_m,
                changed,
            )
        )
    return tuple(sorted(found, key=lambda one: one.length_m))


def next_size(entry: LegEntry, *, wider: bool = True) -> str | None:
    """The next size of a leg's family; None for the last of them and for a bore of its own."""
    if entry.bore is not None:
        return None
    bore = pipes.pipe(entry.series, entry.nominal).inside_diameter_m
    sizes = {
        one: pipes.pipe(entry.series, one).inside_diameter_m for one in pipes.sizes(entry.series)
    }
    if wider:
        found = [one for one, inside in sizes.items() if inside > bore * 1.001]
        return min(found, key=lambda one: sizes[one], default=None)
    found = [one for one, inside in sizes.items() if inside < bore / 1.001]
    return max(found, key=lambda one: sizes[one], default=None)


def outlet_governs_by_m(system: SystemCurve, flow_m3s: float) -> float:
    """By how much the outlet may come down before other ground asks for more head [m].

    Zero where that governs already, or in a closed loop.
    """
    if system.route.closed_loop:
        return 0.0
    heads = system.heads_to_points_m(flow_m3s).ravel()
    return max(float(heads[-1] - heads[:-1].max(initial=-math.inf)), 0.0)


def close_the_gaps(
    match: Match,
    wider: tuple[Wider, ...],
    outlet_by_m: float,
    does: Callable[[Candidate, JobDocument], bool],
) -> Match:
    """The match, with what would close the gap of every near miss that gives too little flow.

    ``does`` tries a pump on a changed job, with all its limits: no wider pipe is told that fails
    one.
    """
    return replace(
        match,
        near_misses=tuple(_closed(one, wider, outlet_by_m, does) for one in match.near_misses),
    )


def _closed(
    near: Candidate,
    wider: tuple[Wider, ...],
    outlet_by_m: float,
    does: Callable[[Candidate, JobDocument], bool],
) -> Candidate:
    if near.short_of is None:
        return near
    short, lack_m = near.short_of
    remedies: list[str] = []
    values: dict[str, Filling] = {"short": Measure(short, "ratio", 1)}
    if not math.isnan(lack_m):
        enough = next((one for one in wider if one.saved_m >= lack_m and does(near, one.job)), None)
        if enough:
            remedies.append("{pipe} for {leg}")
            values |= {"pipe": enough.pipe_label, "leg": enough.leg_name}
        remedies.append(
            "an outlet {lack} lower" if lack_m <= outlet_by_m else "{lack} less to overcome"
        )
        values["lack"] = Measure(lack_m, "length")
    remedies.append("{short} less " + ("flow" if not math.isnan(lack_m) else "asked of it"))
    return replace(
        near, reasons=(*near.reasons, message("would do with " + ", or ".join(remedies), **values))
    )
