"""The sizes of one leg side by side.

Speed against its limits, head, and what that does to the flow and the pump.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sizing.analysis.changed import Known, NotYet
from sizing.document.build_route import bore_m
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.pump.catalogue import Catalogue
from sizing.size import size

Pace = Literal["slow", "ideal", "fast", "unknown"]
PACE_WORDS: dict[Pace, str] = {
    "slow": "too slow",
    "ideal": "in its band",
    "fast": "too fast",
    "unknown": "",
}
_NARROWEST, _WIDEST, _MOST = 0.45, 2.3, 9


@dataclass(frozen=True)
class SizeOption:
    """One size of a leg: at the flow needed, and with the pump that is there now.

    ``pump_name`` is the one that would be chosen.
    """

    pipe: str
    bore_m: float
    now: bool
    velocity_m_s: float
    pace: Pace
    leg_loss_m: float
    head_m: float
    flow_m3s: float | None
    pump_name: str
    fits: int


@dataclass(frozen=True)
class Sizes:
    leg: LegEntry
    number: int
    band_m_s: tuple[float, float] | None
    options: tuple[SizeOption, ...]


def sizes(base: Known, catalogue: Catalogue, leg_id: str) -> Sizes:
    """The sizes of the leg's own family round the one it has.

    Raises
    ------
    NotYet, SizingError
        The leg does not count yet; there is no such leg.
    """
    entry = base.sizing.job.leg(leg_id)
    ids = [leg.id for leg in base.sizing.legs]
    if leg_id not in ids:
        raise NotYet("give the leg its length first")
    index, wanted = ids.index(leg_id), band(base, leg_id)
    now = bore_m(entry)
    around = [
        nominal
        for nominal in pipes.sizes(entry.series)
        if _NARROWEST <= pipes.pipe(entry.series, nominal).inside_diameter_m / now <= _WIDEST
    ]
    nearest = sorted(
        around, key=lambda nominal: abs(pipes.pipe(entry.series, nominal).inside_diameter_m - now)
    )[:_MOST]
    options = [
        _option(base, catalogue, entry, nominal, index, wanted)
        for nominal in around
        if nominal in nearest
    ]
    return Sizes(
        entry,
        base.sizing.job.legs.index(entry) + 1,
        wanted,
        tuple(sorted(options, key=lambda one: one.bore_m)),
    )


def band(base: Known, leg_id: str) -> tuple[float, float] | None:
    """The speeds that the kind's check wants in the leg [m/s]; None while none is checked."""
    return next(
        (check.band for check in base.sizing.checks if check.code == f"velocity_{leg_id}"), None
    )


def _option(
    base: Known,
    catalogue: Catalogue,
    entry: LegEntry,
    nominal: str,
    index: int,
    wanted: tuple[float, float] | None,
) -> SizeOption:
    changed = entry.model_copy(update={"nominal": nominal, "bore": None})
    found = size(base.sizing.job.with_leg(changed), catalogue, base.rules)
    system, needed = found.system, base.demand.needed_m3s
    if system is None:
        raise NotYet(found.problems[0] if found.problems else "the run is not known with that size")
    pipe, fittings = system.losses_m(needed)
    speed = float(system.velocities_m_s(needed)[index, 0])
    run = found.chosen.operating_point if found.chosen else None
    return SizeOption(
        pipe=pipes.pipe(entry.series, nominal).label,
        bore_m=bore_m(changed),
        now=entry.bore is None and nominal == entry.nominal,
        velocity_m_s=speed,
        pace=pace(speed, wanted),
        leg_loss_m=float(pipe[index, 0] + fittings[index, 0]),
        head_m=system.head_at(needed),
        flow_m3s=run.point.flow_m3s if run and run.point else None,
        pump_name=found.chosen.candidate.pump.name if found.chosen and found.chosen.fits else "",
        fits=found.match.fit_count if found.match else 0,
    )


def pace(speed_m_s: float, wanted: tuple[float, float] | None) -> Pace:
    """A speed against the band that is wanted; 'unknown' without one."""
    if wanted is None:
        return "unknown"
    return "slow" if speed_m_s < wanted[0] else "fast" if speed_m_s > wanted[1] else "ideal"
