"""A sum of head and power as it is done by hand: its facts, its steps, and what it comes to.

Head(Q) = static + pressure / (rho g) + sum over the legs of f (L + Le) / D V2 / (2 g), f by
Colebrook; hydraulic power rho g Q H, shaft power over the pump's efficiency, input power over the
motor's.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import scipy

from sizing.base.errors import SizingError, check_range
from sizing.base.water import GRAVITY_M_S2, Water
from sizing.hydraulics.friction import (
    darcy_friction_factor,
    reynolds,
    velocity_head_m,
    velocity_m_s,
)
from sizing.pump.curve import PumpCurve

Role = Literal["run", "supply", "return", "suction"]
QUANTITIES = ("flow", "head", "hydraulic_power", "shaft_power", "input_power")
NPSH = "npsh"  # asked only where the air over the water is among the facts


@dataclass(frozen=True)
class HandLeg:
    """A leg: its pipe, its fittings as so much more of it [m], and how many lie side by side."""

    role: Role
    length_m: float
    fittings_m: float
    nominal_m: float
    inside_diameter_m: float
    roughness_m: float
    abreast: int = 1
    outside_m: float | None = None


@dataclass(frozen=True)
class HandSum:
    """The facts of a sum [SI]; the units in which flow and pressure were written.

    ``curve`` None: the head that the wanted flow needs is asked; else where that pump runs.

    What stands from ``margin`` on need not be known; each makes further slips possible: the margin
    that is in the flow, fixture units and a day's water that the flow came from, the level of the
    outlet where a higher point governs, the air's pressure over the water, a loss by quick rules.
    ``wider`` tries slips besides that need no fact of their own.
    """

    flow_m3s: float
    flow_unit: str
    water: Water
    water_level_m: float
    pump_outlet_level_m: float
    discharge_level_m: float
    pressure_pa: float
    pressure_unit: str
    closed_loop: bool
    legs: tuple[HandLeg, ...]
    pump_efficiency: float
    motor_efficiency: float
    curve: PumpCurve | None = None
    open_flow_m3s: float | None = None
    margin: float = 1.0
    fixture_units: float | None = None
    daily_m3: float | None = None
    end_level_m: float | None = None
    air_pa: float | None = None
    quick_loss_m: float | None = None  # by the quick rules of so much an elbow and a metre
    wider: bool = False

    def __post_init__(self) -> None:
        check_range("flow", self.flow_m3s, 1e-12, 100.0, "m³/s")
        check_range("pump's efficiency", self.pump_efficiency, 1e-3, 1.0, "")
        check_range("motor's efficiency", self.motor_efficiency, 1e-3, 1.0, "")

    @property
    def static_m(self) -> float:
        """What it lifts."""
        return 0.0 if self.closed_loop else self.discharge_level_m - self.water_level_m


@dataclass(frozen=True)
class Steps:
    """The sum as it was done: the facts that it used, and where it left the right way."""

    facts: HandSum
    static_m: float
    pressure_m: float
    power_factor: float = 1.0
    bare_friction: bool = False  # f (L + Le), neither diameter nor velocity head
    fixed_flow_m3s: float | None = None  # of a pump, whatever its curve says
    friction_at_m3s: float | None = None  # told with another flow than runs
    shaft_is_input: bool = False
    water_is_shaft: bool = False
    pipes_added: bool = False  # of pipes side by side the losses were added
    exit_loss: bool = False  # a velocity head at the outlet
    share_of_length: float | None = None  # friction by so much of the pipe
    friction_by_rule_m: float | None = None  # whatever flows
    air_left_out: bool = False  # gauge pressure for absolute

    def changed(self, **changes: object) -> Steps:
        """The same with something of it changed."""
        return replace(self, **changes)  # type: ignore[arg-type]

    def with_facts(self, **changes: object) -> Steps:
        """The same on other facts."""
        return replace(self, facts=replace(self.facts, **changes))  # type: ignore[arg-type]

    def friction_m(self, flow_m3s: float) -> float:
        """Friction of all legs at a flow."""
        lost = 0.0
        viscosity = self.facts.water.kinematic_viscosity_m2_s
        if self.friction_by_rule_m is not None:
            return self.friction_by_rule_m
        if self.share_of_length is not None:
            return self.share_of_length * sum(leg.length_m for leg in self.facts.legs)
        for leg in self.facts.legs:
            bore = leg.inside_diameter_m
            speed = velocity_m_s(flow_m3s / leg.abreast, bore)
            factor = float(
                darcy_friction_factor(reynolds(speed, bore, viscosity), leg.roughness_m / bore)
            )
            along = factor * (leg.length_m + leg.fittings_m)
            along *= leg.abreast if self.pipes_added else 1
            lost += along if self.bare_friction else along / bore * float(velocity_head_m(speed))
        return lost

    def head_m(self, flow_m3s: float) -> float:
        """Head of the system at a flow, friction by the flow that it was told with."""
        at = flow_m3s if self.friction_at_m3s is None else self.friction_at_m3s
        last = self.facts.legs[-1].inside_diameter_m
        beyond = float(velocity_head_m(velocity_m_s(at, last))) if self.exit_loss else 0.0
        return self.static_m + self.pressure_m + self.friction_m(at) + beyond

    def npsh_m(self, flow_m3s: float) -> float | None:
        """What is left over the vapour at the pump; None where the air is not known."""
        facts = self.facts
        if facts.air_pa is None:
            return None
        air = 0.0 if self.air_left_out else facts.water.head_m(facts.air_pa)
        height = facts.water_level_m - facts.pump_outlet_level_m
        before = tuple(leg for leg in facts.legs if leg.role == "suction")
        lost = self.with_facts(legs=before).friction_m(flow_m3s) if before else 0.0
        return air + height - lost - facts.water.vapour_head_m

    def _runs_at_m3s(self) -> float:
        """Where the pump's curve meets the system."""
        curve = self.facts.curve
        assert curve is not None

        def spare(flow: float) -> float:
            lost = self.static_m + self.pressure_m + self.friction_m(flow)
            return float(curve.head_m(flow)) - lost

        first, last = curve.flows_m3s[0], curve.last_flow_m3s
        first = max(first, 1e-9 * last)
        if spare(first) <= 0:
            raise SizingError("by these steps the pump cannot lift it")
        if spare(last) >= 0:
            return last
        return float(scipy.optimize.brentq(spare, first, last, xtol=1e-15))

    def figures(self) -> Figures:
        """What the sum comes to.

        Raises
        ------
        SizingError
            By its steps the pump cannot lift it.
        """
        facts = self.facts
        if facts.curve is None:
            flow = facts.flow_m3s
        elif self.fixed_flow_m3s is not None:
            flow = self.fixed_flow_m3s
        else:
            flow = self._runs_at_m3s()
        head = self.head_m(flow)
        weight = facts.water.density_kg_m3 * GRAVITY_M_S2
        hydraulic = weight * flow * head * self.power_factor
        shaft = hydraulic / (1.0 if self.water_is_shaft else facts.pump_efficiency)
        given = shaft if self.shaft_is_input else shaft / facts.motor_efficiency
        return Figures(flow, head, hydraulic, shaft, given, self.npsh_m(flow))


@dataclass(frozen=True)
class Figures:
    """What a sum comes to: flow [m3/s], head [m], powers [W]."""

    flow: float
    head: float
    hydraulic_power: float
    shaft_power: float
    input_power: float
    npsh: float | None = None

    def of(self, quantity: str) -> float:
        """One of :data:`QUANTITIES`, or :data:`NPSH`.

        Raises
        ------
        SizingError
            It was not worked out.
        """
        value = getattr(self, quantity)
        if value is None:
            raise SizingError("the air's pressure over the water is not among the facts")
        return float(value)


def right(facts: HandSum) -> Steps:
    """The sum done right."""
    pressure = facts.pressure_pa / (facts.water.density_kg_m3 * GRAVITY_M_S2)
    return Steps(facts, facts.static_m, pressure)
