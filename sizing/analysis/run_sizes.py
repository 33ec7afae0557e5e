"""Pipe sizes for the whole run at once: every leg a size narrower or wider together.

In a closed loop the suction legs go along; elsewhere they keep theirs, since what they may be
hangs on the pump's inlet and NPSH. A leg of a bore that no table has keeps it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known, NotYet
from sizing.analysis.sizes import Pace, band, pace
from sizing.document.job import JobDocument, LegEntry
from sizing.hydraulics import pipes
from sizing.pump.catalogue import Catalogue
from sizing.size import size

MATTERS = 0.01  # of the total head: a size more that spares less than this has stopped mattering
_NARROWER, _MOST = 2, 8
_TOO_MUCH = 4.0  # times the head of today: narrower ones are not worth showing


@dataclass(frozen=True)
class RunOption:
    """One step of the whole run: at the flow needed, and with the pump chosen then."""

    steps: int  # sizes wider than now; 0 now, below it narrower
    pipes: tuple[tuple[str, str], ...]  # leg id and pipe, of the legs that change
    fastest_m_s: float
    pace: Pace
    loss_m: float
    head_m: float
    spared_m: float | None  # of head, against the size before; None for the first
    matters: bool  # whether it spares enough to be worth its price
    flow_m3s: float | None
    pump_name: str

    @property
    def text(self) -> str:
        """The change as the field ``run`` takes it: 'b: PE100 SDR11 63 mm; c: …'."""
        return "; ".join(f"{leg}: {pipe}" for leg, pipe in self.pipes)


def run_sizes(base: Known, catalogue: Catalogue) -> tuple[RunOption, ...]:
    """From two sizes narrower up to the first that no longer matters.

    Raises
    ------
    NotYet
        No leg that a table has.
    """
    job = base.sizing.job
    going = [leg for leg in base.sizing.legs if _goes_along(base, leg)]
    if not going:
        raise NotYet("no leg here has a pipe of a table whose size could change")
    found: list[RunOption] = []
    for steps in range(-_NARROWER, _MOST):
        wider = [_stepped(leg, steps) for leg in going]
        if any(leg is None for leg in wider):
            if steps < 0:
                continue
            break  # a leg has come to the end of its family
        option = _option(base, catalogue, job, [leg for leg in wider if leg], steps, found)
        if option is None:
            continue
        found.append(option)
        if steps > 0 and not option.matters:
            break
    now = next(one.head_m for one in found if one.steps == 0)
    return tuple(one for one in found if one.head_m <= _TOO_MUCH * now)


def _goes_along(base: Known, leg: LegEntry) -> bool:
    return leg.bore is None and (leg.side == "delivery" or base.system.route.closed_loop)


def _stepped(leg: LegEntry, steps: int) -> LegEntry | None:
    """The leg so many sizes wider within its family; None where the family has no such size."""
    bores = {
        nominal: pipes.pipe(leg.series, nominal).inside_diameter_m
        for nominal in pipes.sizes(leg.series)
    }
    family = sorted(bores, key=bores.__getitem__)
    at = family.index(leg.nominal) + steps
    return leg.model_copy(update={"nominal": family[at]}) if 0 <= at < len(family) else None


def _option(
    base: Known,
    catalogue: Catalogue,
    job: JobDocument,
    legs: list[LegEntry],
    steps: int,
    before: list[RunOption],
) -> RunOption | None:
    changed = job
    for leg in legs:
        changed = changed.with_leg(leg)
    found = size(changed, catalogue, base.rules)
    if found.system is None:
        return None
    needed = base.demand.needed_m3s
    speeds, paces = zip(*_speeds(base, legs, found.system.velocities_m_s(needed)), strict=True)
    head = float(found.system.head_at(needed))
    pipe, fittings = found.system.losses_m(needed)
    spared = before[-1].head_m - head if before else None
    run = found.chosen.operating_point if found.chosen else None
    return RunOption(
        steps=steps,
        pipes=tuple((leg.id, pipes.pipe(leg.series, leg.nominal).label) for leg in legs),
        fastest_m_s=max(speeds),
        pace=_worst(paces),
        loss_m=float(np.sum(pipe) + np.sum(fittings)),
        head_m=head,
        spared_m=spared,
        matters=spared is None or spared >= MATTERS * head,
        flow_m3s=run.point.flow_m3s if run and run.point else None,
        pump_name=found.chosen.candidate.pump.name if found.chosen and found.chosen.fits else "",
    )


def _speeds(
    base: Known, legs: list[LegEntry], velocities: np.ndarray
) -> Iterator[tuple[float, Pace]]:
    ids = [leg.id for leg in base.sizing.legs]
    for leg in legs:
        speed = float(velocities[ids.index(leg.id), 0])
        yield speed, pace(speed, band(base, leg.id))


def _worst(paces: tuple[Pace, ...]) -> Pace:
    return next((one for one in ("fast", "slow", "ideal") if one in paces), "unknown")
