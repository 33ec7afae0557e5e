"""What an old pump did: a band of flow and head, from the best that is known of it."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.replacement.old_pump import OldPump, PowerFound
from sizing.base.water import GRAVITY_M_S2, water
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.operating_point.one import operating_point
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import PumpCurve
from sizing.pump.curve_table import Indices

_WATER = water(15.0)
_ROUGHNESS_M = 1e-5  # old plastic
_K_USUAL = 6.0  # check valve, four bends, outlet: what such a run has (assumed)
_STATIC_SHARE = 0.7  # of a pump's head, where nobody knows the lift (assumed)
_MIDDLE = (0.7, 1.1)  # of its best flow: where a pump that served ran
_RUN = (1.1, 1.5)  # head over the lift, where the pipe is not known
_PUMP_EFFICIENCY = (0.25, 0.5)  # small pumps, water power over shaft power
_CLOSED = ("spa", "circulation", "filter")  # loops: no lift
_NEAR_POWER = 1.35  # times apart that two powers may be and still be of one size
_FEWEST = 3
_OF_A_KIND = (15, 85)  # percentiles of the family's heads at a flow


def is_closed_loop(families: Collection[str]) -> bool:
    """Whether all of these families run in loops, where no lift is to be told."""
    return bool(families) and all(one in _CLOSED for one in families)


@dataclass(frozen=True)
class Duty:
    """A band of flow [m3/s] and head [m], and how it was found."""

    flow_low_m3s: float
    flow_high_m3s: float
    head_low_m: float
    head_high_m: float
    how: str

    @property
    def flow_m3s(self) -> float:
        """Its middle, by ratio."""
        return math.sqrt(self.flow_low_m3s * self.flow_high_m3s)

    @property
    def head_m(self) -> float:
        """Its middle, by ratio."""
        return math.sqrt(self.head_low_m * self.head_high_m)


def run_of(old: OldPump) -> SystemCurve | None:
    """The run of an old pump, where lift, length and bore are known."""
    if old.lift_m is None or old.length_m is None or old.bore_m is None:
        return None
    leg = Leg(old.bore_m, max(old.length_m, old.lift_m), _ROUGHNESS_M, _K_USUAL, old.lift_m)
    return SystemCurve(Route((leg,), 0.0), _WATER)


def promised_run(promise: Promise) -> SystemCurve:
    """The run that an old job promised."""
    return _with_k(promise.static_m, promise.k_s2_m5)


def _with_k(static_m: float, k_s2_m5: float) -> SystemCurve:
    """A run of a height and a K, as one fitting of that loss."""
    bore = 0.1
    k_sum = k_s2_m5 * 2.0 * GRAVITY_M_S2 * (math.pi / 4 * bore**2) ** 2
    return SystemCurve(Route((Leg(bore, 0.0, 0.0, k_sum, static_m),), 0.0), _WATER)


def through(duty: Duty, lift_m: float | None, family: str) -> SystemCurve:
    """A run that goes through a duty: its lift, and the rest of the head as loss."""
    head, flow = duty.head_m, duty.flow_m3s
    static = 0.0 if family in _CLOSED else _STATIC_SHARE * head if lift_m is None else lift_m
    static = min(static, 0.95 * head)
    return _with_k(static, (head - static) / flow**2)


def old_duty(
    old: OldPump,
    power: PowerFound | None,
    curve: PumpCurve | None,
    catalogue: Catalogue,
    rows: Indices,
    run: SystemCurve | None = None,
    *,
    closed_loop: bool = False,
) -> Duty | None:
    """The band that an old pump worked in; None where nothing says anything of it.

    In the order of what is surer: its curve on its run, its curve alone, flow and run, power and
    lift, pumps of its power and family (``rows`` of the catalogue). ``run`` is one that is known
    already, such as of an old job.
    """
    run = run or run_of(old)
    if curve is not None:
        return _of_its_curve(old, curve, run)
    if old.flow_m3s is not None:
        found = _of_flow(old, run)
        if found is not None:
            return found
        if closed_loop:
            return _of_its_loop(old.flow_m3s, old.flow_share, catalogue, rows)
    shaft = _shaft_w(old, power)
    if shaft is not None and old.lift_m is not None and old.lift_m > 0.2:
        return _of_power(old.lift_m, shaft, old.flow_m3s)
    if shaft is not None:
        return _of_peers(shaft, catalogue, rows, fewest=1 if closed_loop else _FEWEST)
    return None


def _of_its_loop(flow_m3s: float, share: float, catalogue: Catalogue, rows: Indices) -> Duty | None:
    """A flow round a loop: the head that pumps of its family make there, for nothing is lifted."""
    reach = rows[catalogue.table.rows(rows).last_flow_m3s >= flow_m3s]
    heads = catalogue.head_at(reach, np.full(len(reach), flow_m3s))
    if not len(reach):
        return None
    bottom, top = (float(np.percentile(heads, at)) for at in _OF_A_KIND)
    low, high = (flow_m3s * (1 + side * share) for side in (-1, 1))
    how = f"its flow, at the head that {len(reach)} pumps of such loops make there"
    return Duty(low, high, max(bottom, 0.1), max(top, 0.1), how)


def _of_its_curve(old: OldPump, curve: PumpCurve, run: SystemCurve | None) -> Duty:
    if run is not None:
        point = operating_point(curve, run).point
        if point is not None:
            flow, head = point.flow_m3s, point.head_m
            return Duty(0.93 * flow, 1.07 * flow, 0.95 * head, 1.05 * head, "its curve on its run")
    if old.flow_m3s is not None and old.flow_m3s <= curve.last_flow_m3s:
        flow, share = old.flow_m3s, old.flow_share
        low, high = flow * (1 - share), min(flow * (1 + share), curve.last_flow_m3s)
        heads = sorted(float(curve.head_m(one)) for one in (low, high))
        return Duty(low, high, heads[0], heads[1], "its curve at the flow that was measured")
    flows = [share * curve.best_flow_m3s for share in _MIDDLE]
    flows = [min(one, curve.last_flow_m3s) for one in flows]
    heads = sorted(float(curve.head_m(one)) for one in flows)
    return Duty(flows[0], flows[1], heads[0], heads[1], "the middle of its curve (no run known)")


def _of_flow(old: OldPump, run: SystemCurve | None) -> Duty | None:
    assert old.flow_m3s is not None  # who calls has it
    low, high = (old.flow_m3s * (1 + side * old.flow_share) for side in (-1, 1))
    if run is not None:
        heads = [float(run.head_at(one)) for one in (low, high)]
        return Duty(low, high, max(heads[0], 0.1), max(heads[1], 0.2), "its flow on its run")
    if old.lift_m is not None and old.lift_m > 0.2:
        heads = [old.lift_m * share for share in _RUN]
        return Duty(low, high, heads[0], heads[1], "its flow, and its lift with some for the pipe")
    return None


def _shaft_w(old: OldPump, power: PowerFound | None) -> float | None:
    return old.label_power_w if power is None else power.plate.shaft_power_w


def _of_power(lift_m: float, shaft_w: float, flow_m3s: float | None) -> Duty:
    heads = [lift_m * share for share in _RUN]
    weight = _WATER.density_kg_m3 * GRAVITY_M_S2
    middle = lift_m * math.sqrt(_RUN[0] * _RUN[1])
    flows = [share * shaft_w / (weight * middle) for share in _PUMP_EFFICIENCY]
    if flow_m3s is not None:
        flows = [0.9 * flow_m3s, 1.1 * flow_m3s]
    how = "its power and its lift, at the efficiency of small pumps: a wide band"
    return Duty(flows[0], flows[1], heads[0], heads[1], how)


def _of_peers(shaft_w: float, catalogue: Catalogue, rows: Indices, *, fewest: int) -> Duty | None:
    """Pumps of the family whose motor is as strong, where they work best."""
    motors = catalogue.column("motor_power_w")[rows]
    alike = np.abs(np.log(np.maximum(motors, 1e-9) / shaft_w)) <= math.log(_NEAR_POWER)
    peers = rows[np.flatnonzero(alike)]
    if len(peers) < fewest:
        return None
    flows = catalogue.best_flow_m3s[peers]
    heads = catalogue.head_at(peers, flows)
    low, high = (float(np.percentile(flows, at)) for at in _OF_A_KIND)
    bottom, top = (float(np.percentile(heads, at)) for at in _OF_A_KIND)
    how = f"what {len(peers)} pumps of its power and family do: a wide band"
    return Duty(low, high, bottom, top, how)
