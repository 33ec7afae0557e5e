"""A main over distance.

Speed, head and retention time together, for each size, and the stretch where all three hold.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from sizing.analysis.changed import Known, NotYet, changed_demand, changed_system
from sizing.analysis.inverse import longest_run_m
from sizing.base.units import SECONDS_PER_DAY
from sizing.document.build_route import bore_m, the_leg
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.hydraulics.friction import velocity_m_s
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.one import operating_point

_NARROWEST, _WIDEST = 0.55, 1.9


@dataclass(frozen=True)
class Reach:
    """One size of the main. Lengths are of that leg [m].

    Those by retention time are None where the daily volume is not known.

    ``feasible_m`` is how far all three hold; ``watched_m`` how far they do with the retention time
    that is only watched.
    """

    pipe: str
    now: bool
    velocity_m_s: float
    scours: bool
    head_limit_m: float
    fine_limit_m: float | None
    septic_limit_m: float | None
    feasible_m: float
    watched_m: float


@dataclass(frozen=True)
class Reaches:
    leg_id: str
    leg_name: str
    length_m: float
    scour_m_s: float
    head_m: float
    fine_s: float
    septic_s: float
    rows: tuple[Reach, ...]


def reaches(base: Known) -> Reaches:
    """Every size of the longest leg round the one it has.

    The head is the chosen pump's at the flow needed.

    Raises
    ------
    NotYet
        A closed loop; no pump; or its curve ends before the flow.
    """
    if base.system.route.closed_loop:
        raise NotYet("a closed loop has no far end")
    flow = base.demand.needed_m3s
    if not base.pump.covers(flow):
        raise NotYet("the pump's curve ends before the flow that is needed: pick another")
    legs = base.system.route.legs
    index = max(range(len(legs)), key=lambda at: legs[at].length_m)
    entry, rules = base.sizing.legs[index], base.rules
    rows = []
    for nominal in pipes.sizes(entry.series):
        changed = entry.model_copy(update={"nominal": nominal, "bore": None})
        if _NARROWEST <= bore_m(changed) / legs[index].inside_diameter_m <= _WIDEST:
            rows.append(_reach(base, index, entry, changed))
    return Reaches(
        leg_id=entry.id,
        leg_name=the_leg(entry, base.sizing.job.legs.index(entry) + 1),
        length_m=legs[index].length_m,
        scour_m_s=rules.low(base.sizing.kind.scour_rule_of(base.sizing.facts)),
        head_m=base.pump.head_at(flow),
        fine_s=rules.high("RET-01"),
        septic_s=rules.high("RET-02"),
        rows=tuple(rows),
    )


def _reach(base: Known, index: int, entry: LegEntry, changed: LegEntry) -> Reach:
    """How far the leg may go in the size of ``changed``."""
    job, rules = base.sizing.job.with_leg(changed), base.rules
    system, flow = changed_system(base, job), changed_demand(base, job).needed_m3s
    found = None
    if base.pump.covers(flow):  # what scours this size, or what is needed anyway
        found = longest_run_m(replace(base, system=system), index, flow, base.pump.head_at(flow))
    limit = 0.0 if found is None else found
    own = operating_point(base.pump, system).point
    runs = flow if own is None else own.flow_m3s  # what the pump really gives in it
    speed = float(velocity_m_s(runs * system.route.legs[index].pipe_share, bore_m(changed)))
    scours = speed >= rules.low(base.sizing.kind.scour_rule_of(base.sizing.facts)) * (1 - 1e-9)
    fine_m, septic_m = (
        _filled_within(base, index, system, rules.high(rule)) for rule in ("RET-01", "RET-02")
    )
    return Reach(
        pipe=pipes.pipe(entry.series, changed.nominal).label,
        now=entry.bore is None and changed.nominal == entry.nominal,
        velocity_m_s=speed,
        scours=scours,
        head_limit_m=limit,
        fine_limit_m=fine_m,
        septic_limit_m=septic_m,
        feasible_m=min(limit, math.inf if fine_m is None else fine_m) if scours else 0.0,
        watched_m=min(limit, math.inf if septic_m is None else septic_m) if scours else 0.0,
    )


def _filled_within(base: Known, index: int, system: SystemCurve, time_s: float) -> float | None:
    """The run [m] that a mean day's water fills in a time; None where that is not known."""
    daily = base.sizing.kind.daily_volume_m3(base.sizing.facts)
    if daily is None:
        return None
    legs = base.system.route.legs
    others = sum(leg.volume_m3 for at, leg in enumerate(legs) if at != index)
    leg = system.route.legs[index]
    per_metre = math.pi / 4 * leg.inside_diameter_m**2 * leg.parallel
    return max((time_s / SECONDS_PER_DAY * daily - others) / per_metre, 0.0)
