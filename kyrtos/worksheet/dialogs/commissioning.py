"""Readings at the pump against the prediction: bucket, gauges and clamp, and what they mean."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.aftercare.commissioning import typed_readings
from sizing.analysis.commissioning import HandedOver, judged, promise_of, running_of
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.size import Sizing

_SIGN = {"as_predicted": "good"}


@dataclass(frozen=True)
class ReadField:
    """A reading as a field."""

    key: str
    label: str
    text: str
    placeholder: str
    problem: str


@dataclass(frozen=True)
class CommissioningView:
    """What the dialog shows."""

    fields: tuple[ReadField, ...]
    unsteady: bool
    state: str
    verdict: str
    look: str
    rows: tuple[tuple[str, str, str, str], ...]
    problem: str


def commissioning_view(asked: Asked) -> CommissioningView:
    """What was typed, and what it means as soon as enough was."""
    running, promise = running_of(asked.base), promise_of(asked.base)
    system = asked.base.sizing.job.units
    read = typed_readings.gather(
        {key: asked.given.get(key, "") for key in typed_readings.FIELDS}, system
    )
    found, problem = None, ""
    if read.enough:
        try:
            unsteady = bool(asked.given.get("unsteady"))
            readings = typed_readings.readings_of(read, promise, unsteady=unsteady)
            found = judged(readings, promise, running.curve, running.rules)
        except SizingError as told:
            problem = str(told)
    return CommissioningView(
        fields=read_fields(read, typed_readings.usual(promise, system)),
        unsteady=bool(asked.given.get("unsteady")),
        state="" if found is None else sign_of(found.diagnosis.code),
        verdict="" if found is None else verdict(found),
        look="" if found is None else f"Look first at: {found.diagnosis.look}.",
        rows=() if found is None else compared_rows(found, system),
        problem=problem,
    )


def read_fields(read: typed_readings.Typed, usual: dict[str, str]) -> tuple[ReadField, ...]:
    """Every reading as a field, with what is wrong beside it."""
    return tuple(
        ReadField(key, one.label, read.given[key], usual[key], read.problems.get(key, ""))
        for key, one in typed_readings.FIELDS.items()
    )


def signed(percent: float) -> str:
    """A whole number of percent with its sign; nothing has none."""
    whole = round(percent)
    return f"{whole:+d}" if whole else "0"


def sign_of(code: str) -> str:
    """The state's one word for a diagnosis."""
    return _SIGN.get(code, "watch")


def verdict(found: HandedOver) -> str:
    """What the readings mean, in a sentence."""
    label = found.diagnosis.label
    return f"{label[:1].upper()}{label[1:]}: {found.diagnosis.why}."


def compared_rows(found: HandedOver, system: System) -> tuple[tuple[str, str, str, str], ...]:
    """Each figure as measured with two sigmas, as predicted, and how far apart."""
    one, readings = found.compared, found.compared.readings
    curve = found.compared.promised.curve

    def said(value: float, sigma: float, dimension: str) -> str:
        shown = units.show(value, dimension, system)
        return f"{shown} ± {units.show(2 * sigma, dimension, system)}"

    def off(percent: float, sigmas: float) -> str:
        return f"{signed(percent)} % ({abs(sigmas):.1f} σ)"

    return (
        (
            "flow",
            said(readings.flow_m3s, readings.sigma(lambda r: r.flow_m3s), "flow"),
            units.show(one.predicted_flow_m3s, "flow", system),
            f"{signed(one.flow_percent)} %",
        ),
        (
            "head of the pump at that flow",
            said(readings.head_m, readings.sigma(lambda r: r.head_m), "length"),
            units.show(one.curve_head_m, "length", system),
            off(one.head.percent, one.head.sigmas),
        ),
        (
            "power drawn at that flow",
            said(readings.input_w, readings.sigma(lambda r: r.input_w), "power"),
            units.show(one.curve_input_w, "power", system),
            off(one.power.percent, one.power.sigmas),
        ),
        (
            "head that the run takes at that flow",
            said(readings.head_m, readings.sigma(lambda r: r.head_m), "length"),
            units.show(one.system_head_m, "length", system),
            off(one.system.percent, one.system.sigmas),
        ),
        (
            "wire to water",
            said(readings.efficiency, readings.sigma(lambda r: r.efficiency), "ratio"),
            units.show(curve.efficiency_at(one.predicted_flow_m3s) or 0.0, "ratio", system),
            "",
        ),
    )


def _applies(sizing: Sizing) -> bool:
    running = sizing.running
    return (
        running is not None
        and running.curve.powers_w is not None
        and not running.system.route.closed_loop
    )


DIALOG = Dialog(
    name="commissioning",
    words="handing over",
    key="i",
    tells="readings at the pump against the prediction, and what they mean",
    place="choosing",
    rank=13,
    view=commissioning_view,
    applies=_applies,
)
