import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from sizing.base.errors import SizingError
from sizing.operating_point.many import STATUSES, operating_points
from sizing.operating_point.one import operating_point, speed_for_flow
from sizing.pump.curve import PumpCurve, at_speed
from sizing.pump.curve_table import curve_table
from tests.sizing.conftest import leg, system


def test_the_point_is_where_the_heads_are_equal(curve):
    route = system(leg(end_elevation_m=5.0))
    point = operating_point(curve, route).point
    wanted = brentq(lambda q: float(curve.head_m(q)) - route.head_at(q), 0.0, 0.003, xtol=1e-15)
    assert point.flow_m3s == pytest.approx(wanted, rel=1e-9)
    assert point.head_m == pytest.approx(curve.head_at(point.flow_m3s), rel=1e-9)


@pytest.mark.parametrize(
    ("lift", "length", "status"),
    [(5.0, 20.0, "operates"), (13.0, 20.0, "cannot_lift"), (0.5, 0.5, "off_end")],
)
def test_cannot_lift_and_off_the_end_are_told_apart(curve, lift, length, status):
    assert (
        operating_point(
            curve, system(leg(end_elevation_m=lift, length_m=length, inside_diameter_m=0.06))
        ).status
        == status
    )


def test_a_drooping_curve_crosses_twice_and_the_second_is_stable():
    droop = PumpCurve((0.0, 0.001, 0.002, 0.003), (8.0, 10.0, 9.0, 5.0))
    found = operating_point(droop, system(leg(end_elevation_m=8.6, length_m=5)))
    assert [crossing.stable for crossing in found.crossings] == [False, True]
    assert found.shutoff_margin_m == pytest.approx(-0.6)
    assert found.point is found.crossings[1]


def test_a_pair_of_crossings_between_two_points_is_not_missed():
    # the curve peaks at a point; the system passes just under the peak, so both crossings lie close
    # to it
    peak = PumpCurve((0.0, 0.001, 0.002), (5.0, 10.0, 5.0))
    route = system(leg(end_elevation_m=9.9, length_m=0.1, k_sum=0.0))
    assert len(operating_point(peak, route).crossings) == 2


def test_speed_for_a_wanted_flow(curve):
    route = system(leg())
    ratio = speed_for_flow(curve, route, 0.0015)
    assert operating_point(at_speed(curve, ratio), route).point.flow_m3s == pytest.approx(
        0.0015, rel=1e-9
    )


def test_no_speed_helps_when_the_curve_ends_too_high():
    short = PumpCurve((0.0, 0.001), (10.0, 9.5))
    assert speed_for_flow(short, system(leg(end_elevation_m=0.0, length_m=1.0)), 0.002) is None


def test_a_wanted_flow_of_nought_is_refused(curve):
    with pytest.raises(SizingError, match="above zero"):
        speed_for_flow(curve, system(leg()), 0.0)


@st.composite
def catalogues(draw):
    pumps = []
    for _ in range(draw(st.integers(1, 8))):
        count = draw(st.integers(2, 9))
        q = np.linspace(0, draw(st.floats(5e-4, 2e-2)), count)
        falls = np.array(
            draw(st.lists(st.floats(-1.5, 6.0), min_size=count - 1, max_size=count - 1))
        )
        heads = draw(st.floats(3, 60)) - np.concatenate([[0], np.cumsum(falls)])
        pumps.append(PumpCurve(tuple(q), tuple(np.maximum(heads, 0.05 * np.arange(count, 0, -1)))))
    return pumps


def test_a_curve_that_comes_back_over_the_system_between_two_points_runs_at_the_last_crossing():
    # Three crossings in one piece that rises: down, up, and down again.
    flows = tuple(np.linspace(0.0, 0.005757253225101141, 6))
    wavy = PumpCurve(flows, (3.0, 3.0, 1.90625, 1.8125, 2.3125, 2.3125))
    route = system(
        leg(length_m=1.0, end_elevation_m=0.96875),
        leg(length_m=1.0, end_elevation_m=0.0, inside_diameter_m=0.057),
    )
    alone = operating_point(wavy, route)
    assert [crossing.stable for crossing in alone.crossings] == [True, False, True]
    swept = operating_points(curve_table([wavy]), route)
    assert swept.flow_m3s[0] == pytest.approx(alone.point.flow_m3s, rel=1e-6)


@settings(max_examples=150)
@given(catalogues(), st.floats(0, 40), st.floats(1, 300), st.floats(-5, 30))
def test_the_sweep_over_a_catalogue_agrees_with_pump_by_pump(pumps, lift, length, ridge):
    route = system(
        leg(length_m=length, end_elevation_m=ridge),
        leg(length_m=length, end_elevation_m=lift, inside_diameter_m=0.057),
    )
    found = operating_points(curve_table(pumps), route)
    for row, pump in enumerate(pumps):
        alone = operating_point(pump, route)
        margins = [abs(alone.shutoff_margin_m), abs(alone.end_margin_m)]
        if min(margins) < 1e-6:
            continue  # touching at an end: either answer is right
        assert STATUSES[found.status[row]] == alone.status
        if alone.point:
            assert found.flow_m3s[row] == pytest.approx(alone.point.flow_m3s, rel=1e-6, abs=1e-12)


def test_a_thousand_realistic_pumps_agree_to_a_millionth(catalogue):
    route = system(leg(end_elevation_m=4.0), leg(end_elevation_m=6.4, length_m=40))
    rng = np.random.default_rng(5)
    scales = rng.uniform(0.4, 2.5, (18, 2))
    curves = [pump.curve.scaled(q, h, 1.0) for pump in catalogue.pumps for q, h in scales]
    found = operating_points(curve_table(curves), route)
    alone = [operating_point(curve, route) for curve in curves[::7]]
    assert [STATUSES[status] for status in found.status[::7]] == [one.status for one in alone]
    for flow, one in zip(found.flow_m3s[::7], alone):
        assert one.point is None or flow == pytest.approx(one.point.flow_m3s, rel=1e-6)
