"""Water hammer by characteristics: Joukowsky, exact solutions, and a code of the tests' own."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from sizing.base.errors import SizingError
from sizing.over_time.simulation.transient import Leg, Runs, Trips, Valve, Vessel, reaches, run_line
from sizing.pump.inertia import halves_its_speed_s

G = 9.80665


def leg(length_m=500.0, bore_m=0.1, speed_m_s=1000.0, friction=0.0, up_m=0.0, down_m=0.0):
    return Leg(length_m, bore_m, speed_m_s, friction, ((0.0, up_m), (1.0, down_m)))


def closed(legs, closes_s, *, flow=0.008, level=60.0, beyond=20.0, duration_s=6.0, **more):
    return run_line(
        legs,
        flow_m3s=flow,
        begins=Runs(level),
        beyond_m=beyond,
        duration_s=duration_s,
        vapour_m=-1e9,
        valve=Valve(closes_s, more.pop("rows", ())),
        start_m=level,
        **more,
    )


@given(st.floats(50.0, 3000.0), st.floats(0.02, 0.4), st.floats(200.0, 1400.0))
def test_what_closes_at_once_rises_by_joukowsky(length_m, bore_m, speed_m_s):
    line = leg(length_m, bore_m, speed_m_s)
    flow = 0.5 * line.area_m2
    duration = 5 * length_m / speed_m_s
    found = closed([line], 0.0, flow=flow, duration_s=duration)
    rise = speed_m_s * 0.5 / G
    assert found.highest_m[-1] - 60.0 == pytest.approx(rise, rel=1e-9)
    assert 60.0 - found.lowest_m[-1] == pytest.approx(rise, rel=1e-9)
    assert found.highest_m[0] == pytest.approx(60.0)  # the level holds


def test_the_first_rise_of_an_even_closure_is_allievis():
    """Within the first period, without friction: q = tau sqrt(h), h = 1 + 2 rho (1 - q)."""
    line = leg()
    speed = 0.008 / line.area_m2
    drop, t = 40.0, 0.6  # of the period of 1 s
    found = closed([line], 2.0, duration_s=t, least_reaches=200)
    rho = line.wave_speed_m_s * speed / (2 * G * drop)
    tau = 1.0 - t / 2.0
    # h over the drop: sqrt(h) from rho tau: h - 1 = 2 rho (1 - tau sqrt h)
    root = -rho * tau + math.sqrt((rho * tau) ** 2 + 1 + 2 * rho)
    assert found.highest_m[-1] - 60.0 == pytest.approx(drop * (root**2 - 1), rel=5e-3)


def test_a_steady_line_stays_as_it_is():
    legs = [leg(friction=0.02), leg(200.0, 0.08, 1100.0, 0.025)]
    found = run_line(
        legs,
        flow_m3s=0.008,
        begins=Runs(50.0 + sum(one.loss_m(0.008) for one in legs)),
        beyond_m=50.0,
        duration_s=10.0,
        vapour_m=-1e9,
    )
    assert np.ptp(found.highest_m - found.lowest_m) < 1e-6
    assert found.highest_m == pytest.approx(found.steady_m, abs=1e-6)


def by_hand(line, n, closes_s, flow0, level, beyond, duration_s):
    """A valve that closes evenly behind one pipe: written anew, in plain loops."""
    dx, dt = line.length_m / n, line.length_m / n / line.wave_speed_m_s
    b = line.wave_speed_m_s / (G * line.area_m2)
    r = line.friction_factor * dx / (2 * G * line.inside_diameter_m * line.area_m2**2)
    h = [level - i * line.loss_m(flow0) / n for i in range(n + 1)]
    q, drop = [flow0] * (n + 1), h[-1] - beyond
    top, bottom = h[-1], h[-1]
    for k in range(1, math.ceil(duration_s / dt - 1e-9) + 1):
        p = [h[i] + b * q[i] - r * q[i] * abs(q[i]) for i in range(n + 1)]
        m = [h[i] - b * q[i] + r * q[i] * abs(q[i]) for i in range(n + 1)]
        new_h, new_q = [0.0] * (n + 1), [0.0] * (n + 1)
        for i in range(1, n):
            new_h[i] = (p[i - 1] + m[i + 1]) / 2
            new_q[i] = (p[i - 1] - new_h[i]) / b
        new_h[0], new_q[0] = level, (level - m[1]) / b
        c = (flow0 * max(1 - k * dt / closes_s, 0.0)) ** 2 / drop
        y = p[n - 1] - beyond
        new_q[n] = math.copysign((-c * b + math.sqrt((c * b) ** 2 + 4 * c * abs(y))) / 2, y)
        new_h[n] = p[n - 1] - b * new_q[n]
        h, q = new_h, new_q
        top, bottom = max(top, h[-1]), min(bottom, h[-1])
    return top, bottom


@pytest.mark.parametrize(("friction", "closes_s"), [(0.0, 0.4), (0.02, 2.5), (0.03, 7.0)])
def test_another_code_of_ten_lines_agrees(friction, closes_s):
    line = leg(friction=friction)
    start = 60.0 + line.loss_m(0.008)
    found = closed([line], closes_s, level=start, least_reaches=80, duration_s=8.0)
    top, bottom = by_hand(line, 80, closes_s, 0.008, start, 20.0, 8.0)
    assert (found.highest_m[-1], found.lowest_m[-1]) == pytest.approx((top, bottom), rel=1e-9)


def test_a_finer_grid_changes_little_and_a_slower_valve_gives_less():
    legs = [leg(300.0, 0.1, 1050.0, 0.02), leg(170.0, 0.08, 1180.0, 0.022)]
    start = 60.0 + sum(one.loss_m(0.006) for one in legs)
    rises = [
        float(closed(legs, t, flow=0.006, level=start, **grid).highest_m.max())
        for t, grid in (
            (2.0, {}),
            (2.0, {"least_reaches": 300, "most_off": 0.001, "halved": True}),
            (4.0, {}),
            (8.0, {}),
        )
    ]
    assert rises[0] == pytest.approx(rises[1], rel=0.02)
    assert rises[1] > rises[2] > rises[3]


def test_a_stopped_pump_lets_water_through_and_a_prescribed_flow_does_not():
    line = leg(400.0, 0.1, 400.0, 0.02, up_m=0.0, down_m=15.0)
    flow, head = 0.006, 15.0 + line.loss_m(0.006)
    asked = {"flow_m3s": flow, "beyond_m": 15.0, "duration_s": 8.0, "vapour_m": -10.1}
    curve = Runs(0.0, 1.3 * head, 0.3 * head / flow**2, checked=True, runs_down_s=0.5)
    drawn = run_line([line], begins=curve, **asked)
    forced = run_line([line], begins=Trips(((0.0, 1.0), (0.5, 0.0))), **asked)
    assert drawn.lowest_m[0] > -2.0  # little under the level that it draws from
    assert forced.lowest_m[0] < drawn.lowest_m[0] - 5.0


def test_where_the_column_parts_is_told():
    legs = [leg(300.0, 0.1, 400.0, 0.02, 0.0, 20.0), leg(200.0, 0.1, 400.0, 0.02, 20.0, 16.0)]
    found = run_line(
        legs,
        flow_m3s=0.006,
        begins=Trips(),
        beyond_m=16.0,
        duration_s=6.0,
        vapour_m=-10.1,
    )
    time, place = found.separates
    assert 0 < time < 3.0
    assert 0 <= place <= 500.0


def test_what_cannot_be_run_is_told():
    with pytest.raises(SizingError, match="too short beside"):
        reaches([leg(10000.0), leg(0.01)], 40, 0.001)
    with pytest.raises(SizingError, match="must take some head"):
        closed([leg()], 1.0, beyond=60.0)


def tripped(legs, *, inertia_s=0.01, flow=0.004, beyond=20.0, duration_s=40.0, **more):
    """A pump over a level at 0 that trips; its curve goes through the steady point."""
    head = beyond + sum(one.loss_m(flow) for one in legs)
    pump = Runs(0.0, 1.4 * head, 0.4 * head / flow**2, checked=True, inertia_s=inertia_s)
    return run_line(
        legs,
        flow_m3s=flow,
        begins=pump,
        beyond_m=beyond,
        duration_s=duration_s,
        vapour_m=-1e9,
        **more,
    )


@pytest.mark.parametrize("air_m3", [0.05, 0.2, 1.0])
def test_a_vessel_swings_as_a_rigid_column_against_its_air(air_m3):
    """Without friction the water's motion goes into the work of the air: (p V^n = const)."""
    line, flow, beyond, air_m = leg(), 0.004, 20.0, 10.3
    found = tripped([line], flow=flow, vessel=Vessel(air_m3, air_m), least_reaches=60)
    held = beyond + air_m

    def left(volume):
        done = held * air_m3 / 0.2 * (1 - (air_m3 / volume) ** 0.2)
        moving = line.length_m * flow**2 / (2 * G * line.area_m2)
        return held * (volume - air_m3) - done - moving

    most = brentq(left, air_m3 * 1.0001, 100 * air_m3)
    assert found.most_air_m3 == pytest.approx(most, rel=0.02)
    assert found.lowest_m[0] == pytest.approx(held * (air_m3 / most) ** 1.2 - air_m, abs=0.3)


def test_more_air_means_a_smaller_wave():
    line = leg(friction=0.02)
    lows = [
        float((found.steady_m - found.lowest_m).max())
        for found in (
            tripped([line]),
            *(tripped([line], vessel=Vessel(air, 10.3)) for air in (0.02, 0.1, 0.5)),
        )
    ]
    assert lows == sorted(lows, reverse=True)


def test_a_heavier_pump_takes_less_away():
    line = leg(friction=0.02)
    falls = [
        float((found.steady_m - found.lowest_m)[0])
        for found in (tripped([line], inertia_s=one, beyond=80.0) for one in (0.01, 0.3, 3.0))
    ]
    assert falls == sorted(falls, reverse=True)
    assert falls[0] == pytest.approx(1000.0 * 0.004 / line.area_m2 / G, rel=0.15)


def test_an_air_valve_holds_the_air_s_pressure_at_its_place():
    over = [leg(300.0, friction=0.02, up_m=0.0, down_m=30.0), leg(300.0, friction=0.02, up_m=30.0)]
    plain = tripped(over, beyond=35.0)
    fitted = tripped(over, beyond=35.0, air_valves=[0])
    top = plain.ends[0]
    assert plain.lowest_over_pipe_m[top] < -5.0
    assert fitted.lowest_over_pipe_m[top] == pytest.approx(0.0, abs=1e-9)
    assert fitted.lowest_over_pipe_m.min() > plain.lowest_over_pipe_m.min()


def test_an_air_valve_where_the_pressure_holds_does_nothing():
    low = [leg(300.0, friction=0.02), leg(300.0, friction=0.02)]
    plain, fitted = (tripped(low, flow=0.0004, beyond=60.0, air_valves=one) for one in ((), (0,)))
    assert plain.lowest_over_pipe_m.min() > 0
    assert np.array_equal(plain.lowest_m, fitted.lowest_m)
    assert np.array_equal(plain.highest_m, fitted.highest_m)


@pytest.mark.parametrize(
    ("power_w", "speed_rpm", "half_s"),
    [
        (1000.0, 2900.0, 0.246),  # 1.78e-3 + 0.88e-3 kg m2 at 303.7 rad/s
        (10_000.0, 2900.0, 0.396),
        (10_000.0, 1450.0, 0.442),
    ],
)
def test_how_fast_a_pump_slows(power_w, speed_rpm, half_s):
    assert halves_its_speed_s(power_w, speed_rpm) == pytest.approx(half_s, rel=0.01)
