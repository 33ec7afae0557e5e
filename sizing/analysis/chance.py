"""The chance that a pump makes its duty, by sampling every doubt of the route at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sizing.analysis.changed import Known
from sizing.analysis.sensitivity import route_with, smooth_and_aged, uncertain_figures
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve, losses_of_m
from sizing.pump.curve import PumpCurve

SAMPLES = 2000
SEED = 20260101  # the same figure gives the same chance, today and when the paper is printed again
_DEVIATIONS = 1.959964  # standard deviations that hold nineteen times in twenty
_LEG_COLUMNS = (
    "inside_diameter_m",
    "length_m",
    "roughness_m",
    "k_sum",
    "k1_sum",
    "pipe_share",
    "equivalent_length_m",
    "hazen_williams_c",
    "end_elevation_m",
)


@dataclass(frozen=True)
class Chance:
    """The chance that a pump makes its duty, with the error of the sampling.

    The error holds nineteen times in twenty. How often it runs off its curve's end goes with it.
    """

    pump_name: str
    share: float
    error: float
    off_end_share: float
    samples: int


@dataclass(frozen=True)
class Routes:
    """Many routes of one shape, sampled: each column of shape (legs, samples) or (samples,)."""

    system: SystemCurve
    legs: dict[str, Array]
    fixed: dict[str, Array]
    needed_m3s: Array

    def head_m(self, flow_m3s: Array) -> Array:
        """Head [m] that each route asks for at a flow of its own, shape (samples,)."""
        c, route = self.legs, self.system.route
        pipe, fittings = losses_of_m(
            c, flow_m3s, route.method, self.system.water.kinematic_viscosity_m2_s
        )
        upto = np.cumsum(pipe + fittings + self.system.device_losses_m(flow_m3s), axis=0)
        ends = sum((device.loss_m(flow_m3s) for device in route.devices), np.zeros_like(flow_m3s))
        best = np.full_like(flow_m3s, -np.inf)
        for number, point in enumerate(self.system.points):
            last = number == len(self.system.points) - 1
            head = upto[point.leg] - (1.0 - point.share) * pipe[point.leg] + (ends if last else 0.0)
            if not route.closed_loop:
                level = (
                    c["end_elevation_m"][point.leg]
                    if point.share == 1
                    else point.static_m + route.start_level_m
                )
                head = (
                    head
                    + level
                    - self.fixed["start_level_m"]
                    - self.fixed["supply_m"]
                    + (self.fixed["delivery_m"] if last else 0.0)
                )
                head = head + self.fixed["drawdown_s_m2"] * flow_m3s
            best = np.maximum(best, head)
        return best


def _numbers(system: SystemCurve, needed_m3s: float) -> Array:
    """A route as one row of numbers, in the order in which :func:`_routes` takes them apart."""
    route, water = system.route, system.water
    legs = [[getattr(leg, name) for leg in route.legs] for name in _LEG_COLUMNS]
    fixed = [
        route.start_level_m,
        water.head_m(route.supply_pressure_pa),
        water.head_m(route.delivery_pressure_pa),
        route.drawdown_s_m2,
        needed_m3s,
    ]
    return np.array([*np.ravel(legs), *fixed])


def _routes(system: SystemCurve, rows: Array) -> Routes:
    count = len(system.route.legs)
    each = {name: rows[:, at * count : (at + 1) * count].T for at, name in enumerate(_LEG_COLUMNS)}
    tail = rows[:, len(_LEG_COLUMNS) * count :].T
    each["length_m"] = np.maximum(each["length_m"], 0.0)
    each["roughness_m"] = np.clip(each["roughness_m"], 0.0, each["inside_diameter_m"] / 4)
    fixed = dict(
        zip(("start_level_m", "supply_m", "delivery_m", "drawdown_s_m2"), tail[:4], strict=True)
    )
    return Routes(system, each, fixed, np.maximum(tail[4], 1e-9))


@dataclass(frozen=True)
class Sampler:
    """How each figure moves the route, ready to be sampled.

    Between and beyond the two ends looked at it moves in straight lines.
    """

    system: SystemCurve
    now: Array
    down: Array
    up: Array
    pump_spread: float

    def sample(self, count: int = SAMPLES, seed: int = SEED) -> tuple[Routes, Array]:
        """So many routes, and the factor on the pump's head in each; the same for the same seed."""
        rng = np.random.default_rng(seed)
        z = rng.standard_normal((count, len(self.up))) / _DEVIATIONS
        rows = self.now + np.maximum(z, 0.0) @ self.up + np.maximum(-z, 0.0) @ self.down
        return _routes(
            self.system, rows
        ), 1.0 + self.pump_spread / _DEVIATIONS * rng.standard_normal(count)


def sampler(base: Known, rules: Rules) -> Sampler:
    """The job's doubts as directions in which its route may lie.

    Each figure's, each wall's, and the pump's own.
    """
    now = _numbers(base.system, base.demand.needed_m3s)
    down: list[Array] = []
    up: list[Array] = []
    for figure in uncertain_figures(base):
        for by, where in ((-figure.spread_si, down), (figure.spread_si, up)):
            found = route_with(base, figure, by)
            moved = (
                now
                if found is None or len(found[0].route.legs) != len(base.system.route.legs)
                else _numbers(*found)
            )
            where.append(moved - now)
    for smooth, rough in smooth_and_aged(base):
        down.append(_numbers(smooth, base.demand.needed_m3s) - now)
        up.append(_numbers(rough, base.demand.needed_m3s) - now)
    return Sampler(base.system, now, np.array(down), np.array(up), rules.value("TRU-09"))


def duty_met(curves: Sequence[PumpCurve], routes: Routes, head_factor: Array) -> Array:
    """Whether each pump makes the flow needed on each route, shape (pumps, samples), of truths.

    A pump whose head at the end of its curve is above what the route asks there runs off its end:
    its duty counts as met (:func:`off_end` marks it).
    """
    needed, asked = routes.needed_m3s, routes.head_m(routes.needed_m3s)
    met = np.empty((len(curves), len(needed)), dtype=bool)
    for row, curve in enumerate(curves):
        beyond = needed > curve.last_flow_m3s
        heads = curve.head_m(np.clip(needed, curve.flows_m3s[0], curve.last_flow_m3s))
        met[row] = heads * head_factor >= asked
        if beyond.any():
            met[row] = np.where(beyond, off_end(curve, routes, head_factor), met[row])
    return met


def off_end(curve: PumpCurve, routes: Routes, head_factor: Array) -> Array:
    """Whether a pump runs off the end of its curve on each route, shape (samples,)."""
    last = np.full_like(routes.needed_m3s, curve.last_flow_m3s)
    return np.asarray(
        float(curve.head_m(np.asarray(curve.last_flow_m3s))) * head_factor > routes.head_m(last)
    )


def chances(
    base: Known, curves: Sequence[tuple[str, PumpCurve]], count: int = SAMPLES
) -> tuple[Chance, ...]:
    """The chance of each pump, the first the chosen one, over the same routes."""
    routes, factor = sampler(base, base.rules).sample(count)
    met = duty_met([curve for _, curve in curves], routes, factor)
    found = []
    for (name, curve), row in zip(curves, met, strict=True):
        share = float(row.mean())
        error = max(
            _DEVIATIONS * float(np.sqrt(share * (1 - share) / count)), 3.0 / count
        )  # none in n: up to 3 in n may yet (rule of three)
        found.append(
            Chance(name, share, error, float(off_end(curve, routes, factor).mean()), count)
        )
    return tuple(found)
