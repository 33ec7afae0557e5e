"""What was measured on the site over what the simulation makes of it, and the fit."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.time_chart import TimeChart, time_chart
from kyrtos.jobs import devices
from kyrtos.jobs.models import Recording
from kyrtos.jobs.recordings import log_of
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.kinds.pit import PitKind
from sizing.over_time.scenarios.measured_pit import MeasuredPit, measured_pit
from sizing.over_time.simulation.measured import Fitted
from sizing.size import Sizing

_WORDS = {"fail": "bad", "watch": "watch", "hold": "good"}


@dataclass(frozen=True)
class MeasuredView:
    """What the dialog shows; without a recording only the ways to one."""

    name: str
    goes_on: bool
    problem: str
    state: str
    verdict: str
    chart: TimeChart | None
    sums: tuple[tuple[str, str], ...]
    take: str  # the inflow as a figure of the job
    devices: bool


def measured_view(asked: Asked) -> MeasuredView:
    """The latest recording of the job, over its simulation."""
    return view_of(asked.base, asked.recording)


def view_of(base: Known, recording: Recording | None, problem: str = "") -> MeasuredView:
    """What the dialog shows of a recording; ``problem`` is what was wrong with a file just sent."""
    nothing = MeasuredView(
        name="" if recording is None else recording.name,
        goes_on=recording is not None and recording.ended is None,
        problem=problem or ("" if recording is None else recording.problem),
        state="",
        verdict="",
        chart=None,
        sums=(),
        take="",
        devices=devices.known(),
    )
    running = base.sizing.running
    if running is None or recording is None or recording.ended is None or not recording.text:
        return nothing
    system = base.sizing.job.units
    try:
        found = measured_pit(running, log_of(recording))
    except SizingError as told:
        text = str(told)
        return MeasuredView(**{**vars(nothing), "problem": problem or text})
    of_the_pit = base.sizing.kind.stated_is_inflow
    one = found.ran.outcome
    remedy = "" if one.state == "hold" else one.remedy
    return MeasuredView(
        **{
            **vars(nothing),
            "state": _WORDS[one.state],
            "verdict": f"{one.message.text(system)} {remedy}".strip(),
            "chart": time_chart(found.ran, recording.name, system),
            "sums": _sums(found, system),
            "take": units.show(found.inflow.value, "flow", system) if of_the_pit else "",
        }
    )


def _sums(found: MeasuredPit, system: System) -> tuple[tuple[str, str], ...]:
    rows = [("Comes in", _flow(found.inflow, system))]
    if found.at_night is not None:
        rows.append(("At night", _flow(found.at_night, system)))
    if found.pumped is not None:
        rows.append(("The pump gives", _flow(found.pumped, system)))
    rows.append(("Predicted", units.show(found.predicted_m3s, "flow", system)))
    if found.k_s2_m5 is not None:
        k = found.k_s2_m5
        head = f"K of the run at {units.show(found.predicted_m3s, 'flow', system)}"
        square = found.predicted_m3s**2
        rows.append((head, _length(k.value * square, k.error * square, system)))
        rows.append(("Predicted", _length(found.predicted_k_s2_m5 * square, None, system)))
    return tuple(rows)


def _flow(one: Fitted, system: System) -> str:
    shown = units.show(one.value, "flow", system)
    return f"{shown} ± {units.show(2 * one.error, 'flow', system)} ({one.count} stretches)"


def _length(value: float, error: float | None, system: System) -> str:
    shown = units.show(value, "length", system)
    return shown if error is None else f"{shown} ± {units.show(2 * error, 'length', system)}"


def _applies(sizing: Sizing) -> bool:
    return isinstance(sizing.kind, PitKind)


DIALOG = Dialog(
    name="measured",
    words="measured",
    key="n",
    tells="what a logger or the devices measured, and the fit",
    place="choosing",
    rank=10,
    view=measured_view,
    applies=_applies,
)
