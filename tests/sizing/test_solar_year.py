"""A solar well by the hour: its sun against pvlib's and the monthly model, its water in balance."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.base.errors import OutOfRange, SizingError
from sizing.demand.sun import day_profile_w_m2
from sizing.over_time.simulation.solar_year import Panels, flows_m3s, solar_years
from sizing.over_time.simulation.sun_year import HOURS, by_hour_of_year, monthly, sun_year

PLACES = [(46.5, 50.0, 0.48), (10.0, 15.0, 0.6), (-35.0, 35.0, 0.55), (60.0, 60.0, 0.4)]


@pytest.mark.filterwarnings("ignore::DeprecationWarning")
@pytest.mark.parametrize(("latitude", "tilt", "clearness"), PLACES)
def test_the_sun_on_the_slope_is_that_of_pvlib_from_the_same_sun_on_the_flat(
    latitude, tilt, clearness
):
    pandas, pvlib = pytest.importorskip("pandas"), pytest.importorskip("pvlib")
    ours = sun_year(latitude, tilt, (clearness,) * 12)
    times = pandas.date_range("2023-01-01 00:30", periods=HOURS, freq="1h", tz="UTC")
    off = pvlib.solarposition.equation_of_time_spencer71(np.array(times.day_of_year, dtype=float))
    sun = pvlib.solarposition.get_solarposition(
        times - pandas.to_timedelta(off, unit="m"), latitude, 0.0
    )
    sun.index = times
    flat = pandas.Series(ours.flat_w_m2, index=times)
    parts = pvlib.irradiance.erbs(flat, sun["zenith"], times)
    theirs = pvlib.irradiance.get_total_irradiance(
        tilt,
        180 if latitude > 0 else 0,
        sun["apparent_zenith"],
        sun["azimuth"],
        parts["dni"],
        flat,
        parts["dhi"],
        dni_extra=pvlib.irradiance.get_extra_radiation(times),
        model="haydavies",
        albedo=0.2,
    )["poa_global"].fillna(0.0)
    assert ours.slope_w_m2.mean() == pytest.approx(theirs.mean(), rel=0.01)
    by_month = theirs.groupby(times.month).mean().to_numpy()
    assert monthly(ours.slope_w_m2) == pytest.approx(by_month, rel=0.035 if latitude < 55 else 0.1)


@pytest.mark.parametrize(("latitude", "tilt", "clearness"), PLACES[:3])
def test_the_year_keeps_the_clearness_that_was_told(latitude, tilt, clearness):
    year = sun_year(latitude, 0.0, (clearness,) * 12)
    clear = sun_year(latitude, 0.0, (0.8,) * 12)
    assert year.flat_w_m2.sum() / clear.flat_w_m2.sum() == pytest.approx(clearness / 0.8, rel=0.01)
    assert year.slope_w_m2 == pytest.approx(year.flat_w_m2, abs=1e-6)  # no slope, no difference
    assert year is sun_year(latitude, 0.0, (clearness,) * 12)


@pytest.mark.parametrize(("latitude", "tilt", "clearness"), PLACES[:3])
def test_the_monthly_model_lies_under_the_hourly_one_by_what_the_sky_near_the_sun_gives(
    latitude, tilt, clearness
):
    hourly = monthly(sun_year(latitude, tilt, (clearness,) * 12).slope_w_m2)
    mean_day = [
        sum(day_profile_w_m2(latitude, tilt, month, clearness)) / 24 for month in range(1, 13)
    ]
    ratio = np.array(mean_day) / hourly
    assert ratio.max() < 1.02
    assert ratio.min() > 0.9


@settings(max_examples=15, deadline=None)
@given(
    st.floats(0.05, 40.0),
    st.floats(0.0, 3.0),
    st.integers(0, 2**32 - 1),
)
def test_no_water_is_lost_or_made(tank_m3, need_a_day_m3, seed):
    random = np.random.default_rng(seed)
    flow = random.random((3, HOURS)) * 2e-4 * (random.random((3, HOURS)) > 0.6)
    need = np.full(HOURS, need_a_day_m3 / 24)
    year = solar_years(flow, need, tank_m3)
    came = year.pumped_m3.sum(axis=1) + year.short_m3.sum(axis=1)
    gone = need.sum() + year.spilt_m3.sum(axis=1) + year.stored_m3[:, -1] - tank_m3
    assert came == pytest.approx(gone, rel=1e-9, abs=1e-9)
    assert (year.stored_m3 >= 0).all()
    assert (year.stored_m3 <= tank_m3 * (1 + 1e-12)).all()


def test_a_warm_panel_gives_less_and_below_its_start_a_pump_gives_nothing():
    panels = Panels(1000.0, 0.8)
    cold, warm = (
        panels.power_w(np.array([800.0]), np.array([0.0])),
        panels.power_w(np.array([800.0]), np.array([35.0])),
    )
    assert panels.power_w(np.array([800.0]), np.array([20.0])) == pytest.approx([640.0])
    assert cold[0] > 640.0 > warm[0]
    table = [(100.0, 0.0), (300.0, 2e-4), (500.0, 3e-4)]
    flows = flows_m3s(np.array([50.0, 200.0, 400.0, 900.0]), table, 0.5, np.full(4, 2.5e-4))
    assert flows == pytest.approx([0.0, 0.0, 2.5e-4, 2.5e-4])
    with pytest.raises(SizingError, match="gives no power"):
        flows_m3s(np.array([50.0]), [], 0.1, np.full(1, 1.0))


def test_a_tank_of_nothing_and_a_place_beyond_the_circle_are_told():
    with pytest.raises(OutOfRange, match="tank"):
        solar_years(np.zeros(HOURS), np.zeros(HOURS), 0.0)
    with pytest.raises(OutOfRange, match="latitude"):
        sun_year(71.0, 30.0, (0.5,) * 12)
    assert by_hour_of_year(range(12))[-1] == 11
