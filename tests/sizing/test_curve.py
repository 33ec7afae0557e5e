import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from sizing.base.errors import OutOfRange, SizingError
from sizing.pump import curve_table
from sizing.pump.curve import CurveError, PumpCurve, arranged, at_speed


@st.composite
def curves(draw):
    count = draw(st.integers(2, 12))
    steps = draw(st.lists(st.floats(1e-4, 2e-3), min_size=count, max_size=count))
    heads = draw(st.lists(st.floats(0.1, 60), min_size=count, max_size=count))
    return PumpCurve(tuple(np.cumsum(steps) - steps[0]), tuple(heads))


@given(curves())
def test_slopes_are_those_of_scipy(curve):
    neighbour = PumpCurve((0.0, 1.0), (5.0, 1.0))
    table = curve_table.curve_table([neighbour, curve, neighbour])
    wanted = PchipInterpolator(curve.flows_m3s, curve.heads_m).derivative()(curve.flows_m3s)
    assert table.slopes[2:-2] == pytest.approx(wanted, rel=1e-9, abs=1e-7)
    assert list(table.slopes[[0, 1, -2, -1]]) == [-4.0] * 4  # a neighbour's points are its own
    assert list(table.droops) == [False, bool(np.any(np.diff(curve.heads_m) > 0)), False]


@given(curves(), st.floats(0, 1))
def test_a_curve_never_swings_beyond_its_points(curve, share):
    flow = curve.flows_m3s[0] + share * (curve.last_flow_m3s - curve.flows_m3s[0])
    at = min(
        int(np.searchsorted(curve.flows_m3s, flow, side="right")) - 1, len(curve.flows_m3s) - 2
    )
    pair = curve.heads_m[at : at + 2]
    assert min(pair) - 1e-9 <= curve.head_at(flow) <= max(pair) + 1e-9


@given(curves(), st.integers(0, 20))
def test_the_table_reads_what_the_curve_says(curve, step):
    flow = curve.flows_m3s[0] + step / 20 * (curve.last_flow_m3s - curve.flows_m3s[0])
    table = curve_table.curve_table([curve, PumpCurve((0.0, 1.0), (5.0, 1.0))])
    read = curve_table.read_at(
        table, table.heads_m, np.array([min(flow, curve.last_flow_m3s), 0.5]), table.slopes
    )
    assert read == pytest.approx([curve.head_at(min(flow, curve.last_flow_m3s)), 3.0], rel=1e-9)
    assert curve_table.read_at(table, table.heads_m, np.array([flow, 0.5])) == pytest.approx(
        read, rel=1e-9
    )  # slopes worked out for the piece alone


def test_nothing_is_said_beyond_the_points(curve):
    assert not curve.covers(0.0031)
    assert np.isnan(curve.head_m(0.0031))
    assert curve.power_at(0.0031) is None
    with pytest.raises(OutOfRange, match="flow is"):
        curve.head_at(0.0031)


def test_affinity_laws(curve):
    slow = at_speed(curve, 0.8)
    assert slow.head_at(0.0012) == pytest.approx(0.64 * curve.head_at(0.0015))
    assert slow.power_at(0.0012) == pytest.approx(0.512 * curve.power_at(0.0015))


@pytest.mark.parametrize(
    ("arrangement", "flow", "head"), [("single", 1, 1), ("parallel", 3, 1), ("series", 1, 3)]
)
def test_arrangements(curve, arrangement, flow, head):
    group = arranged(curve, arrangement, 3)
    assert group.head_at(0.001 * flow) == pytest.approx(head * curve.head_at(0.001))


def test_efficiency_is_water_power_over_input(curve):
    # 998.2 x 9.80665 x 0.0018 x 8.8 / 275 W
    assert curve.efficiency_at(0.0018) == pytest.approx(0.5638, abs=1e-4)
    assert 0.0017 < curve.best_flow_m3s < 0.0022


@pytest.mark.parametrize(
    ("flows", "heads", "says"),
    [
        ((0.0,), (5.0,), "at least 2 points"),
        ((0.0, 1.0), (5.0, 4.0, 3.0), "2 flows and 3 values of heads"),
        ((0.0, 0.0), (5.0, 4.0), "must rise"),
        ((0.0, 1.0), (5.0, -1.0), "negative"),
        ((0.0, float("nan")), (5.0, 4.0), "no number"),
    ],
)
def test_points_that_make_no_curve_are_refused(flows, heads, says):
    with pytest.raises(CurveError, match=says):
        PumpCurve(flows, heads)


@pytest.mark.parametrize(
    "call",
    [
        lambda c: at_speed(c, 0.0),
        lambda c: arranged(c, "ring", 2),
        lambda c: arranged(c, "parallel", 0),
    ],
)
def test_speeds_and_groups_that_cannot_be_are_refused(curve, call):
    with pytest.raises(SizingError):
        call(curve)


def test_an_empty_table_has_no_rows():
    assert len(curve_table.curve_table([])) == 0
