"""Readings at the pump against the prediction: bucket, gauges and clamp, and what they mean."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis.handing_over import HandedOver, ReadOff, handing_over, running_of
from sizing.base import numbers, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.checks.base import Running
from sizing.document.job import Figure
from sizing.document.read_figure import check_bounds
from sizing.handover.readings import Reading
from sizing.size import Sizing

_LONGEST = 60
_LEVELS = (-1e4, 1e4)
# key: label, dimension, metric and US unit of a bare number, usual plus-or-minus as a share, bounds
_FIELDS = {
    "flow": ("flow: bucket and watch, or a meter", "flow", "m³/h", "gpm", 0.03, (1e-7, 10.0)),
    "outlet": ("gauge behind the pump", "pressure", "bar", "psi", 0.02, (-1e5, 1e8)),
    "height": ("that gauge over the datum", "length", "m", "ft", 0.0, _LEVELS),
    "bore": ("bore where it sits", "bore", "mm", "in", 0.0, (1e-3, 5.0)),
    "inlet": ("gauge before the pump, if any", "pressure", "bar", "psi", 0.02, (-1e5, 1e8)),
    "inlet_height": ("that gauge over the datum", "length", "m", "ft", 0.0, _LEVELS),
    "level": ("water that it draws from", "length", "m", "ft", 0.0, _LEVELS),
    "volts": ("volts", "voltage", "V", "V", 0.005, (1.0, 1e5)),
    "amps": ("amps", "current", "A", "A", 0.02, (1e-3, 1e4)),
    "factor": ("power factor, cos φ", "factor", "×", "×", 0.02, (0.05, 1.5)),
}
_MUST = ("flow", "outlet", "volts", "amps")
_LEVEL_SIGMA_M = 0.02
_WIDEST = 1e-3  # of what a figure may be at most: a plus-or-minus of one about nothing
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
class HandingOverView:
    """What the dialog shows."""

    fields: tuple[ReadField, ...]
    unsteady: bool
    state: str
    verdict: str
    look: str
    rows: tuple[tuple[str, str, str, str], ...]
    problem: str


def handing_over_view(asked: Asked) -> HandingOverView:
    """What was typed, and what it means as soon as enough was."""
    running = running_of(asked.base)
    system = asked.base.sizing.job.units
    given = {key: str(asked.given.get(key, ""))[:_LONGEST] for key in _FIELDS}
    read: dict[str, Reading] = {}
    problems: dict[str, str] = {}
    for key, text in given.items():
        if not text.strip():
            continue
        try:
            read[key] = _read(key, text, system)
        except SizingError as told:
            problems[key] = str(told)
    found, problem = None, ""
    if not problems and all(key in read for key in _MUST):
        try:
            found = handing_over(asked.base, _read_off(read, running, asked))
        except SizingError as told:
            problem = str(told)
    usual = _usual(running, system)
    return HandingOverView(
        fields=tuple(
            ReadField(key, row[0], given[key], usual.get(key, ""), problems.get(key, ""))
            for key, row in _FIELDS.items()
        ),
        unsteady=bool(asked.given.get("unsteady")),
        state="" if found is None else _SIGN.get(found.diagnosis.code, "watch"),
        verdict="" if found is None else _verdict(found),
        look="" if found is None else f"Look first at: {found.diagnosis.look}.",
        rows=() if found is None else _rows(found, system),
        problem=problem,
    )


def _read(key: str, text: str, system: System) -> Reading:
    """A reading with its plus-or-minus (two sigmas), or the usual one of its kind."""
    label, dimension, metric, us, share, (low, high) = _FIELDS[key]
    figure = Figure.read(numbers.as_kept(text), dimension, us if system == "us" else metric)
    check_bounds(figure, low, high, label, dimension)
    value, spread = figure.si(dimension), figure.plus_minus_si(dimension)
    if spread is not None and spread > max(abs(value), high * _WIDEST):
        raise SizingError("the plus-or-minus is larger than the figure: read it again")
    return Reading(value, abs(value) * share / 2 if spread is None else spread / 2)


def _read_off(read: dict[str, Reading], running: Running, asked: Asked) -> ReadOff:
    route = running.system.route
    first = route.legs[min(route.suction_legs, len(route.legs) - 1)]
    plain = Reading(route.start_level_m, _LEVEL_SIGMA_M)
    bore = read["bore"].value if "bore" in read else first.inside_diameter_m
    height = read["height"].value if "height" in read else route.start_level_m
    return ReadOff(
        flow_m3s=read["flow"],
        outlet_pa=read["outlet"],
        outlet_height_m=height,
        outlet_bore_m=bore,
        inlet_pa=read.get("inlet"),
        inlet_height_m=read["inlet_height"].value if "inlet_height" in read else height,
        inlet_bore_m=route.legs[0].inside_diameter_m if route.suction_legs else bore,
        water_level_m=read.get("level", plain),
        volts=read["volts"],
        amps=read["amps"],
        power_factor=read.get("factor", Reading(0.85, 0.03)),
        unsteady=bool(asked.given.get("unsteady")),
    )


def _usual(running: Running, system: System) -> dict[str, str]:
    route = running.system.route
    first = route.legs[min(route.suction_legs, len(route.legs) - 1)]
    return {
        "flow": "10 l in 24 s",
        "outlet": "0.8 bar ± 0.02 bar" if system != "us" else "12 psi ± 0.3 psi",
        "height": units.show(route.start_level_m, "length", system),
        "bore": units.show(first.inside_diameter_m, "bore", system),
        "inlet": "none",
        "level": units.show(route.start_level_m, "length", system),
        "volts": "230 V",
        "amps": "3.1 A",
        "factor": "0.85",
    }


def _verdict(found: HandedOver) -> str:
    label = found.diagnosis.label
    return f"{label[:1].upper()}{label[1:]}: {found.diagnosis.why}."


def _rows(found: HandedOver, system: System) -> tuple[tuple[str, str, str, str], ...]:
    """Each figure as measured with two sigmas, as predicted, and how far apart."""
    one, readings = found.compared, found.compared.readings
    curve = found.compared.promised.curve

    def said(value: float, sigma: float, dimension: str) -> str:
        shown = units.show(value, dimension, system)
        return f"{shown} ± {units.show(2 * sigma, dimension, system)}"

    def off(percent: float, sigmas: float) -> str:
        return f"{percent:+.0f} % ({abs(sigmas):.1f} σ)"

    return (
        (
            "flow",
            said(readings.flow_m3s, readings.sigma(lambda r: r.flow_m3s), "flow"),
            units.show(one.predicted_flow_m3s, "flow", system),
            f"{one.flow_percent:+.0f} %",
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
    name="handing_over",
    words="handing over",
    key="i",
    tells="readings at the pump against the prediction, and what they mean",
    place="choosing",
    rank=13,
    view=handing_over_view,
    applies=_applies,
)
