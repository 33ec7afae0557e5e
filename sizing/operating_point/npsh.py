"""What is left of the air's push at the pump: NPSH available and suction lift."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.water import Water, air_pressure_pa


@dataclass(frozen=True)
class Suction:
    atmospheric_head_m: float
    vapour_head_m: float
    suction_loss_m: float
    npsh_available_m: float
    npsh_margin_m: float | None
    max_suction_lift_m: float | None


def suction(
    *,
    water: Water,
    altitude_m: float,
    level_above_pump_m: float,
    suction_loss_m: float,
    surface_pressure_pa: float = 0.0,
    npsh_required_m: float | None = None,
    wanted_margin_m: float = 0.0,
) -> Suction:
    """NPSH available [m] and how high the pump may stand over the water.

    ``NPSHA = (air + surface pressure - vapour pressure)/(rho g) + level - losses`` as a total head,
    so no velocity head is taken off (HI 9.6.1). The greatest lift is the one at which NPSHA equals
    NPSHR plus the wanted margin with the losses unchanged; negative means that the water must stand
    that far above the pump.

    Parameters
    ----------
    level_above_pump_m : water surface above the pump's reference level; negative is a lift [m].
    suction_loss_m : friction and fittings of the suction pipe at the flow [m].
    npsh_required_m : from the pump's curve [m]; None leaves margin and lift out.

    Raises
    ------
    OutOfRange
        An altitude outside the standard atmosphere's table.
    """
    air_m = water.head_m(air_pressure_pa(altitude_m))
    available = (
        air_m
        + water.head_m(surface_pressure_pa)
        - water.vapour_head_m
        + level_above_pump_m
        - suction_loss_m
    )
    margin = None if npsh_required_m is None else available - npsh_required_m
    lift = None if margin is None else margin - wanted_margin_m - level_above_pump_m
    return Suction(
        atmospheric_head_m=air_m,
        vapour_head_m=water.vapour_head_m,
        suction_loss_m=suction_loss_m,
        npsh_available_m=available,
        npsh_margin_m=margin,
        max_suction_lift_m=lift,
    )
