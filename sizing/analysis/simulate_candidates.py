"""The pumps that fit a job, and those that nearly do, run through the same, the best first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from sizing.analysis.changed import Known, NotYet
from sizing.base.errors import SizingError
from sizing.checks.base import Running
from sizing.document.job import Figure
from sizing.operating_point.one import operating_point
from sizing.over_time.scenarios.base import Scenario, SimulationResult
from sizing.selection.match import Candidate

MOST = 10
_RANKS = {"hold": 0, "watch": 1, "fail": 2}


@dataclass(frozen=True)
class Beside:
    """One pump and what became of it; ``fits`` says whether it meets all that is asked."""

    candidate: Candidate
    fits: bool
    ran: SimulationResult


def beside(
    base: Known, scenario: Scenario, given: Mapping[str, Figure], most: int = MOST
) -> tuple[Beside, ...]:
    """The fits of a job run through a scenario, and a few near misses, the best outcome first.

    A pump that cannot be run is left out.

    Raises
    ------
    NotYet
        No pump that runs.
    """
    running, found = base.sizing.running, base.sizing.match
    if running is None or found is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    answers = scenario.answers(given)
    rows = []
    for one, fits in [
        *((each, True) for each in found.fits[:most]),
        *((each, False) for each in found.near_misses[: max(most - len(found.fits), 2)]),
    ]:
        other = _in_place(running, one)
        if other is None:
            continue
        try:
            rows.append(Beside(one, fits, scenario.run(other, answers)))
        except SizingError:
            continue
    return tuple(
        sorted(rows, key=lambda row: (_RANKS[row.ran.outcome.state], not row.fits, row.ran.worse))
    )


def _in_place(running: Running, one: Candidate) -> Running | None:
    """Another pump at work on the same site; None where it does not run there."""
    curve = one.pump.curve
    found = operating_point(curve, running.system)
    if found.point is None:
        return None
    flow = found.point.flow_m3s
    return replace(
        running,
        pump=replace(one, flow_m3s=flow, head_m=found.point.head_m),
        curve=curve,
        operating_point=found,
        flow_m3s=flow,
        ledger=running.system.ledger(flow),
    )
