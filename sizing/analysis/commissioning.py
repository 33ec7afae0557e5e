"""What a job's sizing promises of its pump, and readings at it against that.

The promise is the pump's own curve on the job's own run: the static head as sized, K from where it
runs.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.aftercare.commissioning.diagnosis import Diagnosis, diagnose
from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.readings import Compared, Readings, compare
from sizing.analysis.changed import Known, NotYet
from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.checks.base import Running
from sizing.kinds.pit import pit_plan
from sizing.pump.curve import PumpCurve


@dataclass(frozen=True)
class HandedOver:
    """The readings against the prediction, and what they mean."""

    compared: Compared
    diagnosis: Diagnosis


def running_of(base: Known) -> Running:
    """The pump at work on a job.

    Raises
    ------
    NotYet
        No pump that runs, or one whose maker gives no power.
    """
    running = base.sizing.running
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    if running.curve.powers_w is None:
        raise NotYet("the maker gives no power of this pump: what it draws cannot be judged")
    if running.system.route.closed_loop:
        raise NotYet("in a closed loop there is no height to read against: measure over the pump")
    return running


def promise_of(base: Known) -> Promise:
    """What a job's sizing promises; raises like :func:`running_of`."""
    running = running_of(base)
    system, route = running.system, running.system.route
    static, flow = system.head_at(0.0), running.flow_m3s
    first = route.legs[min(route.suction_legs, len(route.legs) - 1)]
    phases = int(running.facts.choice("phases")) if running.facts.asks("phases") else 1
    return Promise(
        static_m=static,
        k_s2_m5=max((running.operating_head_m - static) / flow**2, 0.0),
        start_level_m=route.start_level_m,
        outlet_bore_m=first.inside_diameter_m,
        suction_bore_m=(route.legs[0] if route.suction_legs else first).inside_diameter_m,
        density_kg_m3=system.water.density_kg_m3,
        phases=phases,
        flow_m3s=flow,
        head_m=running.operating_head_m,
        needed_flow_m3s=base.demand.needed_m3s,
        starts_per_s=_starts_per_s(base),
        watched=tuple(one.code for one in base.sizing.checks if one.state != "hold"),
        loss_share=first.loss_share,
        pit_area_m2=_pit_area_m2(base),
        voltage_v=_voltage_v(base),
        suction_k_s2_m5=(
            system.suction_loss_m(flow) / flow**2 if system.route.suction_legs else None
        ),
        running_level_m=route.start_level_m - route.drawdown_s_m2 * flow,
        deep=base.sizing.place is not None and base.sizing.place.shape == "well",
    )


def _starts_per_s(base: Known) -> float | None:
    """How often it starts at the most, from the check that says so; None where none does."""
    found = next((one for one in base.sizing.checks if one.code == "starts"), None)
    result = None if found is None or found.working is None else found.working.result
    return result.value_si if result is not None and result.dimension == "frequency" else None


def _voltage_v(base: Known) -> float | None:
    """Of the supply; None where a kind does not ask for it."""
    facts = base.sizing.facts
    return facts.optional("voltage") if facts.asks("voltage") else None


def _pit_area_m2(base: Known) -> float | None:
    """Of the pit that the job draws from; None where it is none, or not known."""
    facts = base.sizing.facts
    if not facts.asks("pit_diameter"):
        return None
    try:
        return pit_plan(facts).area_m2
    except SizingError:
        return None


def judged(
    readings: Readings, promise: Promise, curve: PumpCurve, rules: Rules = SHIPPED
) -> HandedOver:
    """Readings against a promise; raises SizingError where they cannot be compared."""
    compared = compare(readings, promise.of(curve))
    return HandedOver(compared, diagnose(compared, rules))
