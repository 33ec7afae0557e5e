"""Wells, their tanks and motors; panels through the year; the cable; the sump in a power cut."""

import math

import pytest

from sizing.base.errors import OutOfRange, SizingError
from sizing.demand.sun import day_profile_w_m2, solar_day, sun_hours_h
from sizing.pump.cable import cable
from sizing.storage.pressure_tank import pressure_tank
from sizing.storage.return_sump import return_sump
from sizing.storage.well import cooling, draw, storage_for_peak

WELL = {
    "tested_yield_m3s": 1e-3,
    "specific_capacity_m2s": 1e-4,
    "static_level_m": 10.0,
    "pump_setting_m": 25.0,
    "minimum_cover_m": 2.0,
}


@pytest.mark.parametrize(
    ("wanted", "setting", "limit"),
    [(5e-4, 25.0, "wanted"), (2e-3, 25.0, "yield"), (2e-3, 15.0, "cover")],
)
def test_a_well_gives_the_least_of_three(wanted, setting, limit):
    found = draw(wanted_flow_m3s=wanted, **(WELL | {"pump_setting_m": setting}))
    assert found.limited_by == limit
    assert found.flow_m3s <= min(wanted, 1e-3)
    assert found.cover_over_pump_m >= 2.0 - 1e-9


def test_a_pump_over_the_water_is_refused():
    with pytest.raises(OutOfRange, match="depth of the pump"):
        draw(wanted_flow_m3s=1e-4, **(WELL | {"pump_setting_m": 11.0}))


def test_the_widest_sleeve_just_cools():
    one = cooling(
        casing_inside_diameter_m=0.2,
        motor_diameter_m=0.095,
        flow_m3s=8e-4,
        required_velocity_ms=0.076,
    )
    again = cooling(
        casing_inside_diameter_m=one.largest_sleeve_inside_diameter_m,
        motor_diameter_m=0.095,
        flow_m3s=8e-4,
        required_velocity_ms=0.076,
    )
    assert not one.cooled
    assert again.velocity_ms == pytest.approx(0.076)


def test_storage_carries_the_peak():
    found = storage_for_peak(peak_flow_m3s=1.5e-3, peak_time_s=1800, refill_flow_m3s=0.5e-3)
    assert (found.volume_m3, found.fill_time_s) == pytest.approx((1.8, 3600))
    assert (
        storage_for_peak(peak_flow_m3s=1e-4, peak_time_s=1800, refill_flow_m3s=0.5e-3).volume_m3
        == 0
    )


def test_a_tank_agrees_with_the_trade_table():
    # rule TNK-ACC-40_60: precharge 38 psi, 40/60 psi: 0.258 of the tank
    psi = 6894.757
    found = pressure_tank(
        tank_volume_m3=0.2,
        precharge_pa=38 * psi,
        cut_in_pa=40 * psi,
        cut_out_pa=60 * psi,
        pump_flow_m3s=5e-4,
        minimum_run_time_s=60,
    )
    assert found.drawdown_fraction == pytest.approx(0.258, abs=0.001)
    with pytest.raises(OutOfRange, match="cut-out"):
        pressure_tank(
            tank_volume_m3=0.2,
            precharge_pa=1e5,
            cut_in_pa=3e5,
            cut_out_pa=2e5,
            pump_flow_m3s=5e-4,
            minimum_run_time_s=60,
        )


def test_the_sun_stands_highest_at_noon_and_longest_in_june():
    june, december = (day_profile_w_m2(46.5, 0.0, month, 0.5) for month in (6, 12))
    assert max(june) == pytest.approx(june[12]) == pytest.approx(june[11])
    assert sum(june) > 3 * sum(december)
    assert june[0] == 0.0


def test_the_flat_gets_its_share_of_the_sun_outside():
    # Duffie and Beckman: extraterrestrial on the flat at 45 N in mid June, 41.5 MJ/m2 a day (within
    # 1 %)
    day_j = sum(day_profile_w_m2(45.0, 0.0, 6, 0.5)) * 3600
    assert day_j == pytest.approx(0.5 * 41.5e6, rel=0.015)


def test_south_of_the_equator_the_year_is_turned_round():
    north, south = day_profile_w_m2(35.0, 30.0, 1, 0.5), day_profile_w_m2(-35.0, 30.0, 7, 0.5)
    assert sun_hours_h(north) == pytest.approx(sun_hours_h(south), rel=0.08)


def test_a_steep_panel_gains_in_winter_and_loses_in_summer():
    flat, steep = (
        {month: sun_hours_h(day_profile_w_m2(46.0, tilt, month, 0.5)) for month in (6, 12)}
        for tilt in (0.0, 60.0)
    )
    assert steep[12] > flat[12]
    assert steep[6] < flat[6]


def test_a_solar_day_needs_its_table():
    with pytest.raises(SizingError, match="needs a table"):
        solar_day(
            [0.0] * 24,
            panel_peak_w=1,
            derating=1,
            maximum_power_w=1,
            start_power_w=0,
            model="flow_table",
            table=[],
        )
    with pytest.raises(SizingError, match="needs the head"):
        solar_day(
            [0.0] * 24,
            panel_peak_w=1,
            derating=1,
            maximum_power_w=1,
            start_power_w=0,
            model="efficiency_table",
            table=[(1, 0.4)],
        )


def test_a_cable_of_two_phases_is_refused():
    with pytest.raises(SizingError, match="one phase or three"):
        cable(phases=2, supply_voltage_v=230, current_a=5, length_m=50, resistance_ohm_per_km=7.4)
    assert cable(
        phases=1, supply_voltage_v=230, current_a=5, length_m=50, resistance_ohm_per_km=8.0
    ).voltage_drop_v == pytest.approx(4.0)


def test_the_highest_safe_level_just_holds():
    rest = {
        "drained": [(1.0, 0.03)],
        "pipes_m3": 0.004,
        "other_volume_m3": 0.0,
        "sump_plan_area_m2": 0.4,
        "sump_rim_level_m": 0.4,
    }
    safe = return_sump(sump_running_level_m=0.2, **rest).highest_safe_running_level_m
    assert math.isclose(
        return_sump(sump_running_level_m=safe, **rest).room_left_m3, 0.0, abs_tol=1e-12
    )
    assert return_sump(sump_running_level_m=safe + 0.001, **rest).overflows
