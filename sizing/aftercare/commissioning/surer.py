"""Which reading to take again, and what a measured K says of the run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.readings import Compared, Reading, Readings
from sizing.base.errors import SizingError

_WORTH = 0.3  # of the doubt: a part smaller than that is not worth reading again
_SURE_ENOUGH = 0.01  # one sigma as a share of the figure


def next_reading(found: Compared) -> str | None:
    """The part of the readings that the largest doubt comes from, as a share of its figure.

    ``flow``, ``outlet``, ``inlet``, ``water`` or ``electric``; None where all is sure, or where no
    part stands out.
    """
    readings, promised = found.readings, found.promised
    figures: tuple[tuple[Callable[[Readings], float], float], ...] = (
        (lambda one: one.head_m, found.curve_head_m),
        (
            lambda one: one.head_m - one.static_m - promised.k_s2_m5 * one.flow_m3s**2,
            found.system_head_m,
        ),
        (lambda one: one.input_w, found.curve_input_w),
    )
    doubts = [(readings.sigma(figure) / abs(of), figure) for figure, of in figures if of]
    worst, figure = max(doubts, key=lambda row: row[0])
    if worst < _SURE_ENOUGH:
        return None
    whole = readings.covariance(figure, figure)
    shares = {
        name: (whole - without.covariance(figure, figure)) / whole
        for name, without in _without_each(readings).items()
    }
    best = max(shares, key=lambda name: shares[name])
    return best if shares[best] >= _WORTH else None


def _sure(one: Reading) -> Reading:
    return Reading(one.value, 0.0)


def _without_each(readings: Readings) -> dict[str, Readings]:
    """The readings with one part of them without any doubt."""
    outlet = replace(readings.outlet, pressure_pa=_sure(readings.outlet.pressure_pa))
    found = {
        "outlet": replace(readings, outlet=outlet),
        "water": replace(readings, water_level_m=_sure(readings.water_level_m)),
        "electric": replace(
            readings,
            voltage_v=_sure(readings.voltage_v),
            current_a=_sure(readings.current_a),
            power_factor=_sure(readings.power_factor),
        ),
    }
    if readings.meter_m3s is not None:
        found["flow"] = replace(readings, meter_m3s=_sure(readings.meter_m3s))
    elif readings.time_s is not None and readings.volume_m3 is not None:
        found["flow"] = replace(
            readings, time_s=_sure(readings.time_s), volume_m3=_sure(readings.volume_m3)
        )
    if readings.inlet is not None:
        inlet = replace(readings.inlet, pressure_pa=_sure(readings.inlet.pressure_pa))
        found["inlet"] = replace(readings, inlet=inlet)
    return found


def as_built_share(k_s2_m5: float, k_sigma: float, promise: Promise) -> Reading:
    """The losses of a run as measured over those reckoned from its pipes, with one sigma.

    What was in the promise as built already counts once.

    Raises
    ------
    SizingError
        The run was promised without losses, or less than none were measured.
    """
    if promise.k_s2_m5 <= 0:
        raise SizingError("the run was reckoned without losses: there is nothing to compare")
    if k_s2_m5 <= 0:
        raise SizingError("less head than the height was measured: read again first")
    share = promise.loss_share / promise.k_s2_m5
    return Reading(k_s2_m5 * share, k_sigma * share)
