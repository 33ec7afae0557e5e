"""A day of draws out of a tank that nobody fills meanwhile."""

from __future__ import annotations

from dataclasses import replace

from sizing.base.message import Measure, message
from sizing.over_time.scenarios.base import Outcome, SimulationResult, clock


def out_of_a_tank(
    ran: SimulationResult, rows: tuple[tuple[float, float], ...], holds_m3: float
) -> SimulationResult:
    """The same day out of a tank that nobody fills: when it is empty."""
    drawn, ends = 0.0, [*(time for time, _ in rows[1:]), ran.end_s]
    for (begin, flow), end in zip(rows, ends, strict=True):
        if flow > 0 and drawn + flow * (end - begin) > holds_m3:
            said = message(
                "The tank's {holds} are drawn by {at}.",
                holds=Measure(holds_m3, "volume"),
                at=clock(begin + (holds_m3 - drawn) / flow),
            )
            outcome = ran.outcome
            if outcome.state == "hold":
                outcome = Outcome("watch", said, "Fill it before that, or take a larger tank.")
            return replace(ran, outcome=outcome)
        drawn += flow * (end - begin)
    return ran
