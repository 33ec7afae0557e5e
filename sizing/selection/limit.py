"""What must hold of a pump at work: tried over the whole catalogue, at the flow each would give.

A limit is a *must*: a pump that fails one would not live, is unsafe or cannot work, and falls out
with that reason. The same figures and the same thresholds stand in Proof (:mod:`sizing.checks`).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

import numpy as np
from numpy.typing import NDArray

from sizing.base.message import Measure, Message, message
from sizing.base.rounding import at_least, at_most
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OFF_END, operating_points
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3

if TYPE_CHECKING:
    from sizing.selection.sweep import Sweep

HOLDS, WATCH, ASK, FAILS = range(4)
States = NDArray[np.int8]
_TINY_W = 100.0  # shaded-pole and canned motors: half of the input is heat
_LOADS = 9  # points of the curve, from no flow to the flow reached, at which the load is looked at


class Limit(Protocol):
    """What :mod:`sizing.selection.match` needs of a limit."""

    @property
    def label(self) -> str:
        """Why a pump fell out, as a heading of a count."""

    @property
    def asks(self) -> str:
        """What to ask the maker for where the record is silent; '' where it never is."""

    def judged(self, sweep: Sweep) -> States:
        """For every row of the sweep: one of the four states."""

    def miss(self, sweep: Sweep, at: int) -> Message:
        """What is wrong with the pump at that place of the sweep, or not known of it."""


def by_steps(holds: NDArray[np.bool_], nearly: NDArray[np.bool_]) -> States:
    """States of figures that hold, nearly do (watch), or fail."""
    return np.where(holds, HOLDS, np.where(nearly, WATCH, FAILS)).astype(np.int8)


def npsh_margin_m(required_m: Array | float, rules: Rules) -> Array:
    """How much more NPSH should be there than a pump requires [m]: by NPSH-01 and NPSH-03."""
    by_ratio = (rules.low("NPSH-01") - 1.0) * np.asarray(required_m)
    return np.asarray(np.maximum(by_ratio, rules.value("NPSH-03")))


def npsh_states(available_m: Array, required_m: Array, rules: Rules) -> States:
    """Whether the water reaches a pump without boiling.

    Holds with the margin by ratio (NPSH-01) and in metres (NPSH-03), fails without any. Where the
    maker is silent: to be asked for unless so much is left that no usual pump wants more.
    """
    margin = npsh_margin_m(required_m, rules)
    found = by_steps(at_least(available_m - required_m, margin), available_m > required_m)
    silent = np.where(available_m >= rules.value("NPSH-07"), HOLDS, ASK)
    return np.where(np.isnan(required_m), silent, found).astype(np.int8)


@dataclass(frozen=True)
class Npsh:
    """The water reaches the pump without boiling; ``available_m`` by the flow."""

    available_m: Callable[[Array], Array]
    rules: Rules
    label: str = "would cavitate: too little pressure left in the suction"
    asks: str = "the NPSH it requires"

    def _figures(self, sweep: Sweep) -> tuple[Array, Array]:
        flow = sweep.operating_point.flow_m3s
        available = np.full(len(flow), np.nan)
        runs = np.isfinite(flow)
        available[runs] = self.available_m(flow[runs])
        return available, sweep.catalogue.npsh_required_at(sweep.rows, flow)

    def judged(self, sweep: Sweep) -> States:
        return npsh_states(*self._figures(sweep), self.rules)

    def miss(self, sweep: Sweep, at: int) -> Message:
        available, required = (Measure(float(one[at]), "length") for one in self._figures(sweep))
        if np.isnan(required.value_si):
            return message(
                "ask the maker for {asks}: only {available} is there",
                asks=self.asks,
                available=available,
            )
        return message(
            "would cavitate: wants {required} of NPSH, and {available} is there",
            required=required,
            available=available,
        )


@dataclass(frozen=True)
class StartsAgainst:
    """With no flow it has more head than the full line asks for at the level at which it starts.

    A drooping curve may cross the system's and yet never get there.
    """

    gain_m: float = 0.0  # by how much the water stands higher at the start than where it is sized
    label: str = "cannot start against a full line"
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        starts = sweep.operating_point.shutoff_margin_m + self.gain_m > 0
        return by_steps(starts, starts)

    def miss(self, sweep: Sweep, at: int) -> Message:
        lack = -float(sweep.operating_point.shutoff_margin_m[at]) - self.gain_m
        return message(
            "cannot start against a full line: {lack} too little head with no flow",
            lack=Measure(lack, "length"),
        )


def least_flow_states(share_of_best_flow: Array, rules: Rules) -> States:
    """Whether the flow is enough to keep a pump cool and steady (CHO-13)."""
    return by_steps(
        at_least(share_of_best_flow, rules.value("CHO-13")),
        at_least(share_of_best_flow, rules.low("CHO-13")),
    )


def far_right_states(share: Array, throttled: Array, rules: Rules) -> States:
    """Whether a pump runs too far right of its best flow, by its share of it (HI-01, CHO-17).

    ``throttled`` is the share at the flow needed: one that is within there is watched, and said to
    be throttled, however far it would run by itself.
    """
    usual = rules.high("HI-01")
    borne = np.asarray(at_most(share, rules.value("CHO-17"))) | np.asarray(
        at_most(throttled, usual)
    )
    return by_steps(np.asarray(at_most(share, usual)), borne)


@dataclass(frozen=True)
class FarRight:
    """It runs no further right of its best flow than it bears, or may be throttled to the duty."""

    rules: Rules
    label: str = "would run too far right of its best flow"
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        flow = sweep.operating_point.flow_m3s
        with np.errstate(invalid="ignore", divide="ignore"):
            throttled = sweep.share * sweep.wanted.flow_m3s / flow
        # the order knows who runs beside the preferred range: only what is refused counts here
        borne = far_right_states(sweep.share, throttled, self.rules) != FAILS
        return by_steps(borne, borne)

    def miss(self, sweep: Sweep, at: int) -> Message:
        return message(
            "would run at {share} of its best flow, {most} at the most (rule CHO-17)",
            share=Measure(float(sweep.share[at]), "ratio"),
            most=Measure(self.rules.value("CHO-17"), "ratio"),
        )


@dataclass(frozen=True)
class LeastFlow:
    """It runs at no less flow than keeps it cool and steady."""

    rules: Rules
    label: str = "would run at too little flow"
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        least = sweep.catalogue.column("least_flow_m3s")[sweep.rows] * sweep.catalogue.running
        kept = np.asarray(at_least(sweep.operating_point.flow_m3s, least))
        by_rule = least_flow_states(sweep.share, self.rules)
        return np.where(np.isnan(least), by_rule, by_steps(kept, kept)).astype(np.int8)

    def miss(self, sweep: Sweep, at: int) -> Message:
        least = sweep.catalogue.pumps[sweep.rows[at]].least_flow_m3s
        if least is not None:
            return message(
                "would run at {flow}, and its maker asks for {least} at least",
                flow=Measure(float(sweep.operating_point.flow_m3s[at]), "flow"),
                least=Measure(least * sweep.catalogue.running, "flow"),
            )
        return message(
            "would run at {share} of its best flow; under {least} it heats and shakes",
            share=Measure(float(sweep.share[at]), "ratio"),
            least=Measure(self.rules.low("CHO-13"), "ratio"),
        )


def motor_efficiency(motor_power_w: Array, rules: Rules) -> Array:
    """What share of the input arrives at the shaft (MOT-07): the low value for tiny motors."""
    tiny = motor_power_w < _TINY_W
    return np.where(tiny, rules.low("MOT-07"), rules.value("MOT-07"))


def load_states(load: Array, rules: Rules) -> States:
    """Whether a motor carries its load, a share of its rating (MOT-08); what is silent holds."""
    found = by_steps(at_most(load, 1.0), at_most(load, rules.value("MOT-08")))
    return np.where(np.isnan(load), HOLDS, found).astype(np.int8)


# Families whose motor stands in the air; the others are cooled by the water they stand in.
AIR_COOLED = ("jet", "booster", "transfer", "spa")
_THIN_AIR_FROM_M, _EACH_M = 1000.0, 100.0


def cooled_share(altitude_m: float, rules: Rules) -> float:
    """What is left of an air-cooled motor's rating in thin air (ELE-14; IEC 60034-1, NEMA MG 1)."""
    over_m = max(altitude_m - _THIN_AIR_FROM_M, 0.0)
    return max(1.0 - rules.value("ELE-14") * over_m / _EACH_M, 0.1)


def loads(power_w: Array, motor_power_w: Array, density_kg_m3: float, rules: Rules) -> Array:
    """Shaft power over the motor's rating: input times the motor's efficiency (MOT-07) and density.

    The curves of makers are for cold fresh water. ``motor_power_w`` is the rating as it holds where
    the motor stands.
    """
    efficiency = motor_efficiency(motor_power_w, rules)
    shaft_w = power_w * efficiency * density_kg_m3 / REFERENCE_DENSITY_KG_M3
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(shaft_w / motor_power_w)


def way_there(first_m3s: Array, flow_m3s: Array) -> list[Array]:
    """Flows from a curve's first point to the one that is reached, at which the load is looked at.

    Some pumps take most power at no flow.
    """
    return [np.maximum(first_m3s, part * flow_m3s) for part in np.linspace(0.0, 1.0, _LOADS)]


@dataclass(frozen=True)
class MotorLoad:
    """The motor carries the worst load on the way from no flow to the flow that is reached."""

    density_kg_m3: float
    rules: Rules
    altitude_m: float = 0.0
    label: str = "its motor would be overloaded"
    asks: str = ""

    def figures(self, sweep: Sweep) -> Array:
        """The worst load of each pump as a share of its motor's rating; NaN where not stated."""
        catalogue, rows = sweep.catalogue, sweep.rows
        flow = sweep.operating_point.flow_m3s
        first = catalogue.table.first_flow_m3s[rows]
        worst = np.full(len(rows), -np.inf)
        for on_the_way in way_there(first, flow):
            worst = np.fmax(worst, catalogue.power_at(rows, on_the_way))
        thin = np.where(
            catalogue.in_families(AIR_COOLED)[rows], cooled_share(self.altitude_m, self.rules), 1.0
        )
        rated = catalogue.column("motor_power_w")[rows] * catalogue.running * thin
        known = np.where(np.isfinite(worst), worst, np.nan)
        return loads(known, rated, self.density_kg_m3, self.rules)

    def judged(self, sweep: Sweep) -> States:
        return load_states(self.figures(sweep), self.rules)

    def miss(self, sweep: Sweep, at: int) -> Message:
        return message(
            "its motor would be overloaded: {load} of its rating",
            load=Measure(float(self.figures(sweep)[at]), "ratio"),
        )


NO_RATING_PA = 1.0  # stands for none at all: of a pipe in water hotter than its standard goes


@dataclass(frozen=True)
class Rated:
    """A leg's part in the limit on pressure: its rating and the head over its lowest point."""

    leg_name: str
    pipe: str
    rating_pa: float
    rise_m: float  # of the water drawn from (with its pressure) over the leg's lowest point


@dataclass(frozen=True)
class PressureRating:
    """Against a shut valve no pipe comes under more than it is rated for."""

    legs: tuple[Rated, ...]
    system: SystemCurve
    label: str = "more pressure at shut-off than the pipe is rated for"
    asks: str = ""

    def worst(self, sweep: Sweep) -> tuple[Array, NDArray[np.intp]]:
        """The highest pressure over its rating, and in which leg, of each pump."""
        highest = sweep.highest_head_m
        shares = np.array(
            [
                self.system.water.pressure_pa(1.0) * (highest + one.rise_m) / one.rating_pa
                for one in self.legs
            ]
        )
        leg = shares.argmax(axis=0)
        return np.take_along_axis(shares, leg[None], axis=0)[0], leg

    def judged(self, sweep: Sweep) -> States:
        if not self.legs:
            return np.zeros(len(sweep.rows), dtype=np.int8)
        held = np.asarray(at_most(self.worst(sweep)[0], 1.0))
        return by_steps(held, held)

    def miss(self, sweep: Sweep, at: int) -> Message:
        shares, legs = self.worst(sweep)
        leg = self.legs[int(legs[at])]
        if leg.rating_pa <= NO_RATING_PA:
            return message(
                "the {leg} ({pipe}) is not made for water so hot",
                leg=leg.leg_name,
                pipe=leg.pipe,
            )
        return message(
            "against a shut valve {pressure} in the {leg} ({pipe}), which is rated {rating}",
            pressure=Measure(float(shares[at]) * leg.rating_pa, "pressure"),
            leg=leg.leg_name,
            pipe=leg.pipe,
            rating=Measure(leg.rating_pa, "pressure"),
        )


@dataclass(frozen=True)
class ByFlow:
    """A limit on a figure that follows from the flow alone: ``figure`` of it, its states, words."""

    figure: Callable[[Array], Array]
    states: Callable[[Array], States]
    template: str  # with {figure}
    dimension: str
    label: str
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        flow = sweep.operating_point.flow_m3s
        with np.errstate(invalid="ignore"):
            return self.states(self.figure(flow))

    def miss(self, sweep: Sweep, at: int) -> Message:
        flow = sweep.operating_point.flow_m3s[[at]]
        return message(self.template, figure=Measure(float(self.figure(flow)[0]), self.dimension))


@dataclass(frozen=True)
class AtLowest:
    """A limit by the flow, at the most that a pump draws: on the system at its least head."""

    system: SystemCurve
    limit: ByFlow

    @property
    def label(self) -> str:
        return self.limit.label

    @property
    def asks(self) -> str:
        return self.limit.asks

    def _most(self, sweep: Sweep) -> Array:
        table = sweep.catalogue.table.rows(sweep.rows)
        points = operating_points(table, self.system)
        off = points.status == OFF_END
        drawn = np.where(off, table.last_flow_m3s, points.flow_m3s)
        return np.fmax(drawn, sweep.operating_point.flow_m3s)

    def judged(self, sweep: Sweep) -> States:
        with np.errstate(invalid="ignore"):
            return self.limit.states(self.limit.figure(self._most(sweep)))

    def miss(self, sweep: Sweep, at: int) -> Message:
        figure = float(self.limit.figure(self._most(sweep)[[at]])[0])
        return message(self.limit.template, figure=Measure(figure, self.limit.dimension))


@dataclass(frozen=True)
class Reaches:
    """With nothing drawn it reaches a head [m], and so much more for it to hold well."""

    head_m: float
    well: float
    label: str
    asks: str = ""

    def judged(self, sweep: Sweep) -> States:
        highest = sweep.highest_head_m
        return by_steps(highest >= self.well * self.head_m, highest >= self.head_m)

    def miss(self, sweep: Sweep, at: int) -> Message:
        return message(
            self.label + ": {highest} of {wanted}",
            highest=Measure(float(sweep.highest_head_m[at]), "length"),
            wanted=Measure(self.head_m, "length"),
        )


def not_over(figure: Array, usual: float, most: float) -> States:
    """States of a figure that should stay within the usual and must stay within the most."""
    return by_steps(at_most(figure, usual), at_most(figure, most))


def not_under(figure: Array, usual: float, least: float) -> States:
    """States of a figure that should reach the usual and must reach the least."""
    return by_steps(at_least(figure, usual), at_least(figure, least))
