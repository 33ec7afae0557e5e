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
from sizing.scenarios.base import Band, Line, Outcome, Ran
from sizing.scenarios.pit_day import level_marks
from sizing.scenarios.pit_model import flow_at_level, pit_of
from sizing.simulation import measured
from sizing.simulation.measured import Fitted, Log
from sizing.simulation.pit import Inflow, run_pit

_SURE = 2.0  # standard errors
_MODEL = 0.05  # what curve and plan area may be off by, whatever the log says
_MOST_POINTS = 3000


@dataclass(frozen=True)
class MeasuredPit:
    """The chart of both, and what was fitted; None where the log does not show it."""

    ran: Ran
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
    level = log.values["level"]
    rows = np.flatnonzero(np.isfinite(level))
    begin = float(np.clip(level[rows[0]], 0.0, pit.rim_m))
    lasts = max(log.lasts_s, 1.0)
    rows_in = measured.inflow_by_rise(log, area)
    run = run_pit(pit, Inflow(rows_in), end_s=lasts, initial_level_m=begin)
    seen = measured.thinned(log, _MOST_POINTS)
    here = np.isfinite(seen.values["level"])
    middle = (pit.start_m + pit.stop_m) / 2
    predicted = flow_at_level(running, middle, pit.stop_m)
    curve, system = running.curve, running.system
    static = system.head_at(0.0) - (middle - pit.stop_m)
    k = None
    if given is not None and curve.flows_m3s[0] < given.value <= curve.last_flow_m3s:
        step = 1e-3 * given.value
        slope = (curve.head_at(given.value) - curve.head_at(given.value - step)) / step
        k = measured.run_k(given, curve.head_at(given.value), static, slope)
    return MeasuredPit(
        ran=Ran(
            end_s=lasts,
            line=Line("level in the pit", "length", tuple(run.timeline.samples(_MOST_POINTS))),
            beside=Line(
                "measured",
                "length",
                tuple(
                    zip(
                        seen.times_s[here].tolist(),
                        seen.values["level"][here].tolist(),
                        strict=True,
                    )
                ),
            ),
            marks=level_marks(pit),
            bands=(
                Band(
                    "pump",
                    tuple(
                        (float(log.times_s[a]), float(log.times_s[b]))
                        for a, b, falls in measured.stretches(log)
                        if falls
                    ),
                ),
            ),
            happenings=(),
            sums=(),
            outcome=_outcome(inflow, night, given, predicted, running.demand.inflow_m3s),
            below=Line("comes in", "flow", rows_in, steps=True),
            upright=True,
        ),
        inflow=inflow,
        at_night=night,
        pumped=given,
        predicted_m3s=predicted,
        k_s2_m5=k,
        predicted_k_s2_m5=(system.head_at(predicted) - system.head_at(0.0)) / predicted**2,
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
