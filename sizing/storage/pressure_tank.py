"""A pressure tank with an air cushion between the switch's two pressures.

What it holds, how often the pump starts.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.errors import check_range
from sizing.base.units import SECONDS_PER_HOUR
from sizing.base.water import STANDARD_AIR_PA


@dataclass(frozen=True)
class PressureTank:
    drawdown_fraction: float
    drawdown_m3: float
    run_time_no_draw_s: float
    tank_volume_needed_m3: float
    cycles_per_h_at_draw: float
    worst_cycles_per_h: float
    precharge_above_cut_in: bool


def pressure_tank(
    *,
    tank_volume_m3: float,
    precharge_pa: float,
    cut_in_pa: float,
    cut_out_pa: float,
    pump_flow_m3s: float,
    minimum_run_time_s: float,
    draw_flow_m3s: float = 0.0,
    atmosphere_pa: float = STANDARD_AIR_PA,
) -> PressureTank:
    """A tank on a pump of constant flow.

    Pressures are gauge, the air keeps its temperature (Boyle).

    Drawdown / volume = min(1, p0 / p1) - p0 / p2 in absolute pressures: precharge 0, cut-in 1,
    cut-out 2.

    Raises
    ------
    OutOfRange
        Pressures that do not rise, or a precharge at or over the cut-out.
    """
    check_range("cut-out pressure", cut_out_pa, cut_in_pa * (1 + 1e-9), 1e8, "Pa")
    check_range("precharge", precharge_pa, 0.0, cut_out_pa * (1 - 1e-9), "Pa")
    check_range("pump flow", pump_flow_m3s, 1e-12, 10.0, "m³/s")
    check_range("tank volume", tank_volume_m3, 1e-9, 1e4, "m³")
    precharge, cut_in, cut_out = (
        pressure + atmosphere_pa for pressure in (precharge_pa, cut_in_pa, cut_out_pa)
    )
    fraction = min(1.0, precharge / cut_in) - precharge / cut_out
    drawdown = fraction * tank_volume_m3
    idle = draw_flow_m3s <= 0 or draw_flow_m3s >= pump_flow_m3s
    cycle_s = 0.0 if idle else drawdown / (pump_flow_m3s - draw_flow_m3s) + drawdown / draw_flow_m3s
    return PressureTank(
        drawdown_fraction=fraction,
        drawdown_m3=drawdown,
        run_time_no_draw_s=drawdown / pump_flow_m3s,
        tank_volume_needed_m3=pump_flow_m3s * minimum_run_time_s / fraction,
        cycles_per_h_at_draw=0.0 if idle else SECONDS_PER_HOUR / cycle_s,
        worst_cycles_per_h=SECONDS_PER_HOUR * pump_flow_m3s / (4 * drawdown),
        precharge_above_cut_in=precharge_pa > cut_in_pa,
    )
