"""What a logger measured of a job's pit over what the simulation makes of it, and the fit of both.

The pit is run with the inflow that each rise of the log says, from the level that it began at. What
the pump gives is told from how fast it falls, and with the pump's curve the K of the run.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.checks.base import Running
from sizing.kinds import kind as find_kind
from sizing.kinds.pit import PitKind
from sizing.over_time.scenarios.base import Band, Line, Outcome, SimulationResult
from sizing.over_time.scenarios.pit_day import level_marks
from sizing.over_time.scenarios.pit_model import flow_at_level, pit_of
from sizing.over_time.simulation import measured
from sizing.over_time.simulation.measured import Fitted, Log
from sizing.over_time.simulation.pit import Inflow, Pit, run_pit

_SURE = 2.0  # standard errors
_MODEL = 0.05  # what curve and plan area may be off by, whatever the log says
_MOST_POINTS = 3000


@dataclass(frozen=True)
class MeasuredPit:
    """The chart of both, and what was fitted; None where the log does not show it."""

    ran: SimulationResult
    inflow: Fitted
    at_night: Fitted | None
    pumped: Fitted | None
    predicted_m3s: float
    k_s2_m5: Fitted | None
    predicted_k_s2_m5: float


def measured_pit(running: Running, log: Log) -> MeasuredPit:
    """A log over the simulation of a job's pit.

    Raises
    ------
    SizingError
        No pit; or a log that shows no rise of the level.
    """
    if not isinstance(find_kind(running.job.kind), PitKind):
        raise SizingError("only a pit's levels are read: this job has none")
    pit = pit_of(running)
    area = pit.area.volume_m3(pit.rim_m) / pit.rim_m
    inflow = measured.inflow(log, area)
    if inflow is None:
        raise SizingError("the level never rises in that log: no inflow can be told from it")
    night = measured.inflow(log, area, at_night=True)
    given = measured.pumped(log, area, inflow.value)
    middle = (pit.start_m + pit.stop_m) / 2
    predicted = flow_at_level(running, middle, pit.stop_m)
    system = running.system
    outcome = _outcome(inflow, night, given, predicted, running.demand.inflow_m3s)
    return MeasuredPit(
        ran=_drawn(pit, log, measured.inflow_by_rise(log, area), outcome),
        inflow=inflow,
        at_night=night,
        pumped=given,
        predicted_m3s=predicted,
        k_s2_m5=_k_of_the_run(running, given, above_stop_m=middle - pit.stop_m),
        predicted_k_s2_m5=(system.head_at(predicted) - system.head_at(0.0)) / predicted**2,
    )


def _k_of_the_run(running: Running, given: Fitted | None, *, above_stop_m: float) -> Fitted | None:
    """K by the pump's curve at the flow that was measured; None where it says nothing there."""
    curve = running.curve
    if given is None or not curve.flows_m3s[0] < given.value <= curve.last_flow_m3s:
        return None
    step = 1e-3 * given.value
    head = curve.head_at(given.value)
    slope = (head - curve.head_at(given.value - step)) / step
    return measured.run_k(given, head, running.system.head_at(0.0) - above_stop_m, slope)


def _drawn(
    pit: Pit, log: Log, inflow_m3s: tuple[tuple[float, float], ...], outcome: Outcome
) -> SimulationResult:
    """The pit run with that inflow from the level that the log began at, the log beside it."""
    level = log.values["level"]
    first = np.flatnonzero(np.isfinite(level))[0]
    begin, lasts = float(np.clip(level[first], 0.0, pit.rim_m)), max(log.lasts_s, 1.0)
    run = run_pit(pit, Inflow(inflow_m3s), end_s=lasts, initial_level_m=begin)
    seen = measured.thinned(log, _MOST_POINTS)
    here = np.isfinite(seen.values["level"])
    points = zip(seen.times_s[here].tolist(), seen.values["level"][here].tolist(), strict=True)
    falls = [(a, b) for a, b, falling in measured.stretches(log) if falling]
    spans = tuple((float(log.times_s[a]), float(log.times_s[b])) for a, b in falls)
    return SimulationResult(
        end_s=lasts,
        line=Line("level in the pit", "length", tuple(run.timeline.samples(_MOST_POINTS))),
        beside=Line("measured", "length", tuple(points)),
        marks=level_marks(pit),
        bands=(Band("pump", spans),),
        events=(),
        sums=(),
        outcome=outcome,
        below=Line("comes in", "flow", inflow_m3s, steps=True),
        upright=True,
    )


def _outcome(
    inflow: Fitted, night: Fitted | None, given: Fitted | None, predicted: float, told: float
) -> Outcome:
    takes = message("Your pit takes in {flow}.", flow=Measure(inflow.value, "flow"))
    if night is not None:
        takes = message("Your pit takes in {night} at night.", night=Measure(night.value, "flow"))
    if given is None:
        return Outcome("watch", takes, "The level never falls: no pump ran while it was logged.")
    off = abs(given.value - predicted)
    within = off <= _SURE * given.error + _MODEL * predicted
    said = Message(
        takes.template
        + " The pump gives {gives}, and {wanted} was predicted: "
        + ("within what both are sure of." if within else "more than their errors apart."),
        {
            **takes.values,
            "gives": Measure(given.value, "flow"),
            "wanted": Measure(predicted, "flow"),
        },
    )
    more = inflow.value > 1.1 * told
    if more:
        return Outcome("watch", said, "More comes in than was told: size it again with that.")
    if within:
        return Outcome("hold", said)
    return Outcome(
        "watch",
        said,
        "Look at the float's travel and the plan of the pit first, then at valve, check valve and"
        " pump.",
        about="pump",
    )
