"""How often a motor may start and how short it may run: as its maker states, else by house rule.

Small motors of pumps in pits bear more than large ones (rules CHO-21 and CHO-22).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sizing.base.message import Measure, Message, message
from sizing.base.rounding import at_least, at_most
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import Pump
from sizing.selection.limit import States, by_steps
from sizing.selection.sweep import Sweep

TOO_OFTEN, TOO_SHORT = "would start too often in this pit", "would run too short a time"
_SMALL_MOTOR_W = 1500.0


@dataclass(frozen=True)
class Borne:
    """Two bounds of a figure: what is usual, and what is refused beyond. Arrays, or one figure."""

    usual: Array
    refused: Array


def starts_borne(rules: Rules, rule: str, motor_power_w: Array, stated_per_s: Array) -> Borne:
    """Starts a second: what the maker states (NaN: nothing), else the rule's."""
    most = rules.high(rule)
    small = motor_power_w <= _SMALL_MOTOR_W
    by_rule = np.where(small, max(rules.value("CHO-21"), most), most)
    known = ~np.isnan(stated_per_s)
    return Borne(
        np.where(known, stated_per_s, rules.value(rule)), np.where(known, stated_per_s, by_rule)
    )


def runs_borne(rules: Rules, rule: str, motor_power_w: Array, stated_s: Array) -> Borne:
    """A run [s]: what the maker states (NaN: nothing), else the rule's."""
    least = rules.low(rule)
    small = motor_power_w <= _SMALL_MOTOR_W
    by_rule = np.where(small, min(rules.value("CHO-22"), least), least)
    known = ~np.isnan(stated_s)
    return Borne(np.where(known, stated_s, rules.value(rule)), np.where(known, stated_s, by_rule))


def starts_of(pump: Pump, rules: Rules, rule: str) -> Borne:
    """What one pump bears of starts a second."""
    return starts_borne(rules, rule, _known(pump.motor_power_w), _known(pump.most_starts_per_s))


def runs_of(pump: Pump, rules: Rules, rule: str) -> Borne:
    """What one pump bears of runs [s]."""
    return runs_borne(rules, rule, _known(pump.motor_power_w), _known(pump.least_run_s))


def _known(figure: float | None) -> Array:
    return np.asarray(np.nan if figure is None else figure, dtype=float)


def starts_states(starts_per_s: Array, borne: Borne) -> States:
    """Starts a second: within the usual, within what is refused, or over it."""
    return by_steps(
        np.asarray(at_most(starts_per_s, borne.usual)),
        np.asarray(at_most(starts_per_s, borne.refused)),
    )


def run_states(run_s: Array, borne: Borne) -> States:
    """A run [s]: the usual, what is borne, or shorter than that."""
    return by_steps(
        np.asarray(at_least(run_s, borne.usual)), np.asarray(at_least(run_s, borne.refused))
    )


@dataclass(frozen=True)
class ByFlowAndMotor:
    """A limit on a figure that follows from the flow, of which each motor bears so much.

    ``stated`` is the column of what its maker states.
    """

    figure: Callable[[Array], Array]
    borne: Callable[[Array, Array], Borne]  # by the motor's rating and what is stated
    states: Callable[[Array, Borne], States]
    stated: str
    template: str  # with {figure}
    dimension: str
    label: str
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        power = sweep.catalogue.column("motor_power_w")[sweep.rows]
        stated = sweep.catalogue.column(self.stated)[sweep.rows]
        with np.errstate(invalid="ignore"):
            figure = self.figure(sweep.operating_point.flow_m3s)
            return self.states(figure, self.borne(power, stated))

    def miss(self, sweep: Sweep, at: int) -> Message:
        flow = sweep.operating_point.flow_m3s[[at]]
        return message(self.template, figure=Measure(float(self.figure(flow)[0]), self.dimension))


def starts_limit(figure: Callable[[Array], Array], rule: str, rules: Rules) -> ByFlowAndMotor:
    """Starts a second of each pump in the worst hour that occurs, by its flow."""
    return ByFlowAndMotor(
        figure,
        lambda power_w, stated: starts_borne(rules, rule, power_w, stated),
        starts_states,
        "most_starts_per_s",
        "would start {figure} in the worst hour that occurs",
        "frequency",
        TOO_OFTEN,
    )


def run_time_limit(figure: Callable[[Array], Array], rule: str, rules: Rules) -> ByFlowAndMotor:
    """The shortest run [s], by the pump's flow."""
    return ByFlowAndMotor(
        figure,
        lambda power_w, stated: runs_borne(rules, rule, power_w, stated),
        run_states,
        "least_run_s",
        "would empty the pit in {figure}: too short a run for its motor",
        "time",
        TOO_SHORT,
    )
