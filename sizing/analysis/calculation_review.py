"""Somebody else's figure for a job: what slip explains it, line by line beside the right sum.

The facts are the job's own, up to the point that governs its head. Fittings count as so much pipe
(Le = K D / f at the flow needed), things with a loss of their own as a pressure; a pump whose power
is not stated is taken as usual of its size (assumed).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from sizing.aftercare.calculation_review.explain import Explained, explain, rounding_of, slipped
from sizing.aftercare.calculation_review.hand_sum import Figures, HandLeg, HandSum, Steps, right
from sizing.analysis.changed import Known, NotYet
from sizing.base import quantity
from sizing.base.errors import SizingError
from sizing.base.message import Measure
from sizing.document.job import Figure
from sizing.hydraulics import friction, pipes
from sizing.hydraulics.quick_rules import aquarium_rule
from sizing.hydraulics.system_curve import Ledger

FLOW_UNITS = ("m³/h", "L/min", "gpm", "gph", "imp_gpm")
_STATIC, _PRESSURES, _DRAWDOWN = (
    ("static",),
    ("delivery_pressure", "supply_pressure", "device"),
    ("drawdown",),
)
_OUTLET_M = 0.4  # of a submerged pump over the water at its lowest, assumed
_MOTOR, _WIRE = 0.7, 0.3  # usual of a small pump, where its maker says nothing
DIMENSIONS = {
    "flow": "flow",
    "head": "length",
    "hydraulic_power": "power",
    "shaft_power": "power",
    "input_power": "power",
}


@dataclass(frozen=True)
class SideBySide:
    """One line of the two sums; ``wrong`` marks where they part."""

    label: str
    right: Measure
    theirs: Measure
    wrong: bool


@dataclass(frozen=True)
class SecondLook:
    """A figure, what explains it, and the two sums beside each other."""

    explained: Explained
    value_si: float
    quantity: str
    facts: HandSum
    lines: tuple[SideBySide, ...]

    @property
    def times(self) -> float:
        """How many times the right figure theirs is."""
        return self.value_si / self.explained.right_figure


def calculation_review(
    base: Known, name: str, figure: Figure, *, flow_unit: str, of_a_pump: bool
) -> SecondLook:
    """What explains somebody's figure of one of the quantities.

    Parameters
    ----------
    flow_unit : in which that somebody wrote flows.
    of_a_pump : it was asked where the pump runs, else what the flow needs.

    Raises
    ------
    NotYet
        The run is not known, branches, or no pump is chosen where one is asked after.
    SizingError
        A figure that is not above nothing.
    """
    value_si = figure.si(DIMENSIONS[name])
    if value_si <= 0:
        raise SizingError("a figure above nothing is wanted")
    facts = facts_of(base, flow_unit, of_a_pump=of_a_pump)
    found = explain(facts, name, value_si, rounding_of(figure.shown()))
    return SecondLook(found, value_si, name, facts, side_by_side(facts, found))


def of_job(base: Known) -> SecondLook | None:
    """The figure that stands on a job, looked at; None where none does.

    Raises like :func:`calculation_review`.
    """
    asked = base.sizing.job.second_look
    if asked is None:
        return None
    return calculation_review(
        base, asked.quantity, asked.figure, flow_unit=asked.flow_unit, of_a_pump=asked.of_a_pump
    )


def side_by_side(facts: HandSum, found: Explained) -> tuple[SideBySide, ...]:
    """The right sum and the one with the slips that were found, line by line."""
    steps = right(facts)
    theirs = steps
    for one in found.slips:
        theirs = one.change(theirs)
    other = slipped(steps, found.slips) or steps.figures()
    return tuple(_lines(steps, theirs, steps.figures(), other))


def facts_of(base: Known, flow_unit: str, *, of_a_pump: bool) -> HandSum:
    """The job as a sum by hand; raises like :func:`calculation_review`."""
    sizing, system = base.sizing, base.system
    route = system.route
    if any(leg.pipe_share != 1.0 for leg in route.legs):
        raise NotYet("a sum by hand has one pipe after the other: this run branches")
    if of_a_pump and base.curve is None:
        raise NotYet("where a pump runs can be asked as soon as one is chosen")
    flow = base.demand.needed_m3s
    ledger = system.ledger(flow)
    heads = {
        codes: sum(one.head_m for one in ledger.lines if one.counted and one.code in codes)
        for codes in (_STATIC, _PRESSURES, _DRAWDOWN)
    }
    whole, motor = _efficiencies(base, flow)
    level = sizing.place.pump_level_m if sizing.place else None
    water_level = route.start_level_m - heads[_DRAWDOWN]
    return HandSum(
        flow_m3s=flow,
        flow_unit=flow_unit,
        water=system.water,
        water_level_m=water_level,
        pump_outlet_level_m=water_level + _OUTLET_M if level is None else level,
        discharge_level_m=water_level + heads[_STATIC] + heads[_DRAWDOWN],
        pressure_pa=system.water.pressure_pa(heads[_PRESSURES]),
        pressure_unit="psi" if sizing.job.units == "us" else "kPa",
        closed_loop=route.closed_loop,
        legs=tuple(_legs(base, flow, ledger)),
        pump_efficiency=whole / motor,
        motor_efficiency=motor,
        curve=base.curve if of_a_pump else None,
        open_flow_m3s=base.curve.last_flow_m3s if of_a_pump and base.curve else None,
        end_level_m=_end_level_m(base, water_level, heads[_STATIC] + heads[_DRAWDOWN]),
        quick_loss_m=_quick_loss_m(base),
        wider=True,
    )


def _quick_loss_m(base: Known) -> float | None:
    """Friction by the aquarium trade's quick rules, which are used far beyond aquariums."""
    counted: Counter[str] = Counter()
    for leg in base.sizing.legs:
        counted.update({one.fitting: one.count for one in leg.fittings})
    found = aquarium_rule(base.system, counted, base.rules)
    return found.loss_m if found.loss_m > 0 else None


def _end_level_m(base: Known, water_level_m: float, static_m: float) -> float | None:
    """Where the pipe ends, when a higher point on the way governs; None else."""
    route = base.system.route
    end = route.legs[-1].end_elevation_m
    return end if not route.closed_loop and end < water_level_m + static_m - 0.01 else None


def _legs(base: Known, flow: float, ledger: Ledger) -> Iterator[HandLeg]:
    """The legs up to the governing point, the last of them as far as it lies before that."""
    system = base.system
    speeds = system.velocities_m_s(flow)[:, 0]
    viscosity = system.water.kinematic_viscosity_m2_s
    for at, (entry, leg) in enumerate(zip(base.sizing.legs, system.route.legs, strict=True)):
        if at > ledger.governing_leg:
            return
        share = ledger.governing_share if at == ledger.governing_leg else 1.0
        bore = leg.inside_diameter_m
        factor = float(
            friction.darcy_friction_factor(
                friction.reynolds(speeds[at], bore, viscosity), leg.roughness_m / bore
            )
        )
        head = float(friction.velocity_head_m(speeds[at]))
        lost = sum(
            one.head_m
            for one in ledger.lines
            if one.counted and one.code == "fittings" and one.leg == at
        )
        yield HandLeg(
            "run",
            leg.length_m * share,
            lost / (factor * head) * bore if head > 0 else 0.0,
            _nominal_m(entry.series, entry.nominal, bore),
            bore,
            leg.roughness_m,
            outside_m=pipes.pipe(entry.series, entry.nominal).outside_diameter_m,
        )


def _nominal_m(series: str, nominal: str, bore_m: float) -> float:
    """What a pipe is called, as a length; its bore where the name is no size."""
    try:
        return quantity.read(nominal, "length", "mm").si
    except SizingError:
        return pipes.pipe(series, nominal).outside_diameter_m or bore_m


def _efficiencies(base: Known, flow: float) -> tuple[float, float]:
    """Wire to water, and the motor's."""
    curve = base.curve
    if curve is None or not curve.covers(flow):
        return _WIRE, _MOTOR
    whole = curve.efficiency_at(flow)
    return (_WIRE, _MOTOR) if whole is None else (min(max(whole, 0.02), 0.9), max(_MOTOR, whole))


def _lines(steps: Steps, theirs: Steps, done: Figures, other: Figures) -> list[SideBySide]:
    """Both sums from the lift to the power; a line is wrong where they part by over 0.1 %."""
    rows = [
        ("flow", "flow", done.flow, other.flow),
        ("lift", "length", steps.static_m, theirs.static_m),
        ("pressure as head", "length", steps.pressure_m, theirs.pressure_m),
        (
            "friction",
            "length",
            done.head - steps.static_m - steps.pressure_m,
            other.head - theirs.static_m - theirs.pressure_m,
        ),
        ("head", "length", done.head, other.head),
        ("water power", "power", done.hydraulic_power, other.hydraulic_power),
        ("shaft power", "power", done.shaft_power, other.shaft_power),
        ("drawn from the supply", "power", done.input_power, other.input_power),
    ]
    if done.npsh is not None and other.npsh is not None:
        rows.append(("NPSH available", "length", done.npsh, other.npsh))
    return [
        SideBySide(
            label,
            Measure(one, dimension),
            Measure(two, dimension),
            abs(one - two) > 1e-3 * max(abs(one), abs(two)),
        )
        for label, dimension, one, two in rows
    ]
