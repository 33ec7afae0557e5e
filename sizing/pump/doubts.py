"""What speaks against a curve as it was typed: most often a wrong unit."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.units import SECONDS_PER_HOUR
from sizing.base.water import GRAVITY_M_S2
from sizing.pump.catalogue import Pump
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3, PumpCurve

# Wire to water, of anything from an aquarium pump to a large set.
_LEAST_EFFICIENCY, _MOST_EFFICIENCY = 0.02, 0.85
_HIGHEST_HEAD_M, _MOST_FLOW_M3S = 600.0, 0.5


def _water_powers_w(curve: PumpCurve) -> list[float]:
    return [
        REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2 * flow * head
        for flow, head in zip(curve.flows_m3s, curve.heads_m, strict=True)
    ]


def check_power(curve: PumpCurve) -> None:
    """Raise :class:`SizingError` where the water takes up more than the motor takes in."""
    for water_power, power in zip(_water_powers_w(curve), curve.powers_w or (), strict=False):
        if water_power > power:
            raise SizingError(
                f"at one point the water takes up {water_power:.0f} W and the motor takes in only"
                f" {power:.0f} W: wrong unit?"
            )


def doubts_of_curve(curve: PumpCurve) -> Iterator[str]:
    """What a curve has that curves of pumps seldom have."""
    if curve.flows_m3s[0] > 0:
        yield "the curve does not begin at no flow, so its shut-off head is not known"
    if any(
        later > earlier for earlier, later in zip(curve.heads_m, curve.heads_m[1:], strict=False)
    ):
        yield "the head rises somewhere along the curve"
    best = max(
        (
            water_power / power
            for water_power, power in zip(
                _water_powers_w(curve), curve.powers_w or (), strict=False
            )
            if power
        ),
        default=0.0,
    )
    if curve.powers_w and not _LEAST_EFFICIENCY <= best <= _MOST_EFFICIENCY:
        yield f"at best {best:.0%} of the power it takes in reaches the water: wrong unit?"
    if max(curve.heads_m) > _HIGHEST_HEAD_M or curve.last_flow_m3s > _MOST_FLOW_M3S:
        yield (
            f"up to {max(curve.heads_m):.0f} m or"
            f" {curve.last_flow_m3s * SECONDS_PER_HOUR:.0f} m³/h is far from what is"
            " sold here: wrong unit?"
        )


def doubts_of_motor(pump: Pump) -> Iterator[str]:
    """A curve in the wrong unit shows in the water's power beside that of the motor."""
    most = max(_water_powers_w(pump.curve))
    if pump.motor_power_w and most > pump.motor_power_w:
        yield (
            f"the water takes up {most:.0f} W and the motor is rated at {pump.motor_power_w:.0f} W:"
            " wrong unit?"
        )
    elif pump.motor_power_w and most < _LEAST_EFFICIENCY * pump.motor_power_w:
        yield (
            f"of a motor of {pump.motor_power_w:.0f} W only {most:.2g} W reach the water: wrong"
            " unit?"
        )
