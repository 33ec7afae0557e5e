"""Readings at a job's pump against what its sizing predicts.

The promise is the pump's own curve on the job's own run: the static head as sized, K from where it
runs. A curve is taken to be sure of its head to 2.5 % and of its power to 4 % (one sigma; about
ISO 9906 grade 2B at two); no such pump makes more than 75 % of its power into water (assumed).
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.analysis.changed import Known, NotYet
from sizing.checks.base import Running
from sizing.handover.diagnosis import Diagnosis, diagnose
from sizing.handover.readings import Compared, Gauge, Promised, Reading, Readings, compare

HEAD_SHARE, POWER_SHARE, MOST_EFFICIENT = 0.025, 0.04, 0.75


@dataclass(frozen=True)
class HandedOver:
    """The readings against the prediction, and what they mean."""

    compared: Compared
    diagnosis: Diagnosis


@dataclass(frozen=True)
class ReadOff:
    """What was read [SI]; None where it was not."""

    flow_m3s: Reading
    outlet_pa: Reading
    outlet_height_m: float
    outlet_bore_m: float
    inlet_pa: Reading | None
    inlet_height_m: float
    inlet_bore_m: float
    water_level_m: Reading
    volts: Reading
    amps: Reading
    power_factor: Reading
    unsteady: bool


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


def handing_over(base: Known, read: ReadOff) -> HandedOver:
    """What readings at the pump of a job mean; raises like :func:`running_of`, and SizingError."""
    running = running_of(base)
    system = running.system
    static, flow = system.head_at(0.0), running.flow_m3s
    promised = Promised(
        curve=running.curve,
        static_m=static,
        k_s2_m5=max((running.operating_head_m - static) / flow**2, 0.0),
        possible_efficiency=MOST_EFFICIENT,
        head_share=HEAD_SHARE,
        power_share=POWER_SHARE,
    )
    phases = int(running.facts.choice("phases")) if running.facts.asks("phases") else 1
    readings = Readings(
        density_kg_m3=system.water.density_kg_m3,
        volume_m3=None,
        time_s=None,
        meter_m3s=read.flow_m3s,
        outlet=Gauge(read.outlet_pa, read.outlet_height_m, read.outlet_bore_m),
        inlet=(
            None
            if read.inlet_pa is None
            else Gauge(read.inlet_pa, read.inlet_height_m, read.inlet_bore_m)
        ),
        water_level_m=read.water_level_m,
        discharge_level_m=system.route.start_level_m + static,
        phases=phases,
        voltage_v=read.volts,
        current_a=read.amps,
        power_factor=read.power_factor,
        unsteady=read.unsteady,
    )
    compared = compare(readings, promised)
    return HandedOver(compared, diagnose(compared))
