"""How often a pump in a pit starts at the inflow that can really come.

At a constant inflow q one round of pumps that take turns lasts T(q) = sum of V / (Qi - q) +
(V - Vd) / q over them, V the storage from start to stop, Vd what runs back at once when a pump
stops; each starts once in it. The worst inflow is the one with the shortest round, up to the peak:
half of the pump's flow, where so much comes and nothing runs back (the usual rule V = Q T / 4).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from sizing.base.errors import check_range
from sizing.hydraulics.friction import Array

_CLOSE = 1e-12


def worst_inflow_m3s(
    peak_m3s: float, pump_flow_m3s: Array, storage_m3: float, drain_back_m3: float = 0.0
) -> Array:
    """The inflow up to a peak at which equal pumps of these flows start most often [m3/s]."""
    share = math.sqrt(max(storage_m3 - drain_back_m3, 0.0) / storage_m3)
    return np.minimum(peak_m3s, np.asarray(pump_flow_m3s) * share / (1.0 + share))


def starts_per_s(
    storage_m3: float,
    pump_flow_m3s: Array,
    inflow_m3s: Array | float,
    drain_back_m3: float = 0.0,
    turns: float = 1.0,
) -> Array:
    """Starts a second of each of equal pumps that take turns, at a steady inflow.

    Infinite where what runs back starts the pump again; zero where it never stops.
    """
    if drain_back_m3 >= storage_m3:
        return np.full_like(np.asarray(pump_flow_m3s, dtype=float), np.inf)
    with np.errstate(divide="ignore"):
        runs = storage_m3 / np.maximum(np.asarray(pump_flow_m3s) - inflow_m3s, 0.0)
        rests = (storage_m3 - drain_back_m3) / np.asarray(inflow_m3s)
        return np.asarray(1.0 / (turns * (runs + rests)))


@dataclass(frozen=True)
class Starts:
    """Starts at the worst inflow that can come; None where what runs back starts it again."""

    pumps_taking_turns: int
    half_flow_rule_starts_per_s: float
    pumps_keep_up_at_peak: bool
    restarts_at_once: bool
    storage_needed_m3: float
    worst_inflow_m3s: float | None = None
    worst_inflow_is_peak: bool | None = None
    starts_per_s: float | None = None
    run_time_s: float | None = None
    rest_time_s: float | None = None
    shortest_run_time_s: float | None = None
    within_allowed: bool | None = None


def starts(
    pump_flows_m3s: Sequence[float],
    *,
    alternating: bool,
    storage_m3: float,
    drain_back_m3: float,
    peak_inflow_m3s: float,
    allowed_starts_per_s: float,
) -> Starts:
    """Starts of pumps of any flows, one running at a time; without turns the first does all.

    Raises
    ------
    OutOfRange
        Storage, peak or allowed starts not above zero.
    """
    check_range("storage", storage_m3, _CLOSE, 1e6, "m³")
    check_range("peak inflow", peak_inflow_m3s, _CLOSE, 1e3, "m³/s")
    check_range("allowed starts", allowed_starts_per_s, _CLOSE, 1e3, "/s")
    flows = np.array(pump_flows_m3s if alternating else pump_flows_m3s[:1], dtype=float)
    slowest, largest = float(flows.min()), float(flows.max())
    most = min(peak_inflow_m3s, slowest * (1 - 1e-9))

    def round_s(inflow: float, storage: float) -> float:
        runs = float((storage / (flows - inflow)).sum())
        return runs + len(flows) * (storage - drain_back_m3) / inflow

    def worst(storage: float) -> float:
        if round_s(most * (1 - 1e-7), storage) > round_s(most, storage):
            return most
        found = scipy.optimize.minimize_scalar(
            round_s,
            bounds=(most * 1e-9, most),
            args=(storage,),
            method="bounded",
            options={"xatol": most * 1e-10},
        )
        return float(found.x)

    def excess(storage: float) -> float:
        return 1.0 / round_s(worst(storage), storage) - allowed_starts_per_s

    low = max(drain_back_m3, 0.0) + 1e-9
    high = max(low, largest / allowed_starts_per_s + drain_back_m3) * 2.0
    needed = float(scipy.optimize.brentq(excess, low, high, xtol=1e-12)) if excess(low) > 0 else low
    bare = Starts(
        pumps_taking_turns=len(flows),
        half_flow_rule_starts_per_s=largest / (4.0 * storage_m3 * len(flows)),
        pumps_keep_up_at_peak=peak_inflow_m3s < slowest,
        restarts_at_once=drain_back_m3 >= storage_m3,
        storage_needed_m3=needed,
    )
    if bare.restarts_at_once:
        return bare
    inflow = worst(storage_m3)
    rate = 1.0 / round_s(inflow, storage_m3)
    return Starts(
        **{
            **vars(bare),
            "worst_inflow_m3s": inflow,
            "worst_inflow_is_peak": inflow == peak_inflow_m3s,
            "starts_per_s": rate,
            "run_time_s": storage_m3 / (largest - inflow),
            "rest_time_s": (storage_m3 - drain_back_m3) / inflow,
            "shortest_run_time_s": storage_m3 / largest,
            "within_allowed": rate <= allowed_starts_per_s,
        }
    )
