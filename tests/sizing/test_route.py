import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.base.errors import OutOfRange, SizingError
from sizing.hydraulics.system_curve import Leg, Route
from tests.sizing.conftest import leg, system

LEGS = st.lists(
    st.builds(
        Leg,
        inside_diameter_m=st.floats(0.01, 0.3),
        length_m=st.floats(0.0, 500.0),
        roughness_m=st.floats(0.0, 2e-3),
        k_sum=st.floats(0.0, 50.0),
        end_elevation_m=st.floats(-30, 60),
        flow_share=st.floats(0.05, 1.0),
        equivalent_length_m=st.floats(0.0, 20.0),
    ),
    min_size=1,
    max_size=6,
)
ROUTES = st.builds(
    lambda legs, **more: system(*legs, **more),
    LEGS,
    start_level_m=st.floats(-20, 20),
    supply_pressure_pa=st.floats(0, 3e5),
    delivery_pressure_pa=st.floats(0, 5e5),
    can_siphon=st.booleans(),
    closed_loop=st.booleans(),
)


@given(ROUTES, st.floats(0.0, 0.02))
def test_the_ledger_adds_up_to_the_head(route, flow):
    ledger = route.ledger(flow)
    counted = sum(line.head_m for line in ledger.lines if line.counted)
    assert ledger.total_head_m == counted
    assert counted == pytest.approx(route.head_at(flow), rel=1e-9, abs=1e-9)


@settings(max_examples=50)
@given(ROUTES)
def test_head_never_falls_with_flow(route):
    heads = route.head_m(np.linspace(0.0, 0.02, 300))
    assert np.all(np.diff(heads) >= -1e-9)


@given(st.floats(0.0, 0.01), st.floats(0.05, 0.95))
def test_splitting_a_leg_in_two_changes_nothing(flow, share):
    whole = system(leg(length_m=40.0, end_elevation_m=6.0))
    halves = system(
        leg(length_m=40.0 * share, k_sum=0.0, end_elevation_m=6.0 * share),
        leg(length_m=40.0 * (1 - share), end_elevation_m=6.0),
    )
    assert halves.head_at(flow) == pytest.approx(whole.head_at(flow), rel=1e-12)


def test_the_high_point_governs_until_friction_beyond_it_takes_over():
    ridge = system(leg(length_m=30, end_elevation_m=9.0), leg(length_m=200, end_elevation_m=6.0))
    assert ridge.static_head_m == 9.0
    assert ridge.governing(0.0)[0] == 0
    assert ridge.governing(0.004)[0] == 1
    idle = [line for line in ridge.ledger(0.0005).lines if not line.counted]
    assert {line.leg for line in idle} == {1}


def test_a_pipe_that_may_siphon_asks_only_for_its_end():
    ridge = system(leg(end_elevation_m=9.0), leg(end_elevation_m=6.0), can_siphon=True)
    assert ridge.static_head_m == 6.0


def test_a_closed_loop_has_no_static_head_and_lists_both_ways():
    loop = system(
        leg(end_elevation_m=3.0),
        leg(end_elevation_m=0.0),
        closed_loop=True,
        delivery_pressure_pa=2e5,
    )
    assert loop.static_head_m == 0.0
    assert {line.code for line in loop.ledger(0.002).lines} == {"pipe", "fittings"}


def test_pressures_stand_in_the_ledger_as_heads():
    lines = {
        line.code: line.head_m
        for line in system(leg(), supply_pressure_pa=1e5, delivery_pressure_pa=2e5)
        .ledger(0.0)
        .lines
    }
    # 1 bar of water at 12 degC: 1e5 / (999.50 x 9.80665)
    assert lines["supply_pressure"] == pytest.approx(-10.202, abs=1e-3)
    assert lines["delivery_pressure"] == pytest.approx(20.404, abs=1e-3)


def test_equivalent_length_adds_to_the_fittings_not_to_the_pipe():
    plain, longer = system(leg(k_sum=0.0)), system(leg(k_sum=0.0, equivalent_length_m=10.0))
    pipe, fittings = longer.losses_m(0.002)
    assert pipe[0, 0] == pytest.approx(plain.losses_m(0.002)[0][0, 0], rel=1e-12)
    assert fittings[0, 0] == pytest.approx(pipe[0, 0] / 2, rel=1e-12)


@pytest.mark.parametrize(
    "changes",
    [
        {"inside_diameter_m": 0.0},
        {"length_m": -1.0},
        {"k_sum": float("nan")},
        {"roughness_m": 0.02},
        {"flow_share": -0.2},
    ],
)
def test_a_leg_that_cannot_be_is_refused(changes):
    with pytest.raises(OutOfRange, match="must lie between"):
        leg(**changes)


def test_a_route_needs_a_leg():
    with pytest.raises(SizingError, match="at least one leg"):
        Route((), 0.0)
