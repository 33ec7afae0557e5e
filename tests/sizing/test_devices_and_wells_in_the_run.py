"""Devices, drawdown, shared legs and closed loops in the system curve; a bucket as a flow."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base import quantity
from sizing.base.errors import OutOfRange, UnreadableQuantity
from sizing.hydraulics.device import Device
from sizing.operating_point.one import operating_point
from sizing.pump.curve import PumpCurve
from tests.sizing.conftest import leg, system

flows = st.floats(1e-5, 5e-3)
PUMP = PumpCurve((0.0, 0.001, 0.002, 0.003), (30.0, 27.0, 20.0, 9.0))


@given(flows, st.floats(1e-4, 1e-2), st.floats(0.1, 40.0))
def test_a_device_loses_its_rated_head_at_its_rated_flow_and_four_times_at_twice(flow, rated, head):
    device = Device("filter", rated, head)
    assert float(device.loss_m(np.asarray(rated))) == pytest.approx(head)
    assert float(device.loss_m(np.asarray(2 * flow))) == pytest.approx(
        4 * float(device.loss_m(np.asarray(flow)))
    )


@given(flows, st.floats(0.0, 20.0), st.floats(0.0, 5000.0), st.booleans())
def test_the_ledger_adds_up_with_devices_and_drawdown(flow, loss, drawdown, closed):
    one = system(
        leg(),
        leg(length_m=35.0, end_elevation_m=7.0),
        devices=(Device("jets", 1e-3, loss),),
        drawdown_s_m2=drawdown,
        closed_loop=closed,
    )
    ledger = one.ledger(flow)
    assert sum(line.head_m for line in ledger.lines if line.counted) == pytest.approx(
        one.head_at(flow), abs=1e-9
    )


@given(st.lists(flows, min_size=2, max_size=6))
def test_head_never_falls_with_flow_through_a_device_or_a_sinking_well(some):
    one = system(leg(), devices=(Device("filter", 1e-3, 4.0),), drawdown_s_m2=2500.0)
    heads = one.head_m(sorted(some))
    assert (np.diff(heads) >= -1e-12).all()


def test_a_closed_loop_has_no_static_head_and_no_drawdown():
    one = system(
        leg(end_elevation_m=9.0),
        devices=(Device("jets", 1e-3, 5.0),),
        drawdown_s_m2=3000.0,
        closed_loop=True,
    )
    assert one.static_head_m == 0.0
    assert [line.code for line in one.ledger(1e-3).lines] == ["pipe", "fittings", "device"]


def test_a_sinking_well_costs_the_drawdown_at_the_flow():
    high = leg(end_elevation_m=12.0, length_m=60.0)
    dry, wet = system(high), system(high, drawdown_s_m2=2500.0)
    assert wet.head_at(1.2e-3) - dry.head_at(1.2e-3) == pytest.approx(3.0)
    assert operating_point(PUMP, wet).point.flow_m3s < operating_point(PUMP, dry).point.flow_m3s


def test_a_leg_that_others_share_loses_at_the_whole_flow():
    alone, shared = system(leg(k_sum=0.0)), system(leg(k_sum=0.0, flow_share=3.0))
    assert shared.head_at(4e-4) == pytest.approx(alone.head_at(12e-4))
    assert shared.velocities_m_s(4e-4)[0, 0] == pytest.approx(3 * alone.velocities_m_s(4e-4)[0, 0])


def test_a_device_behind_a_summit_costs_the_pump_nothing():
    over = system(
        leg(end_elevation_m=20.0), leg(end_elevation_m=1.0), devices=(Device("filter", 1e-3, 2.0),)
    )
    line = over.ledger(1e-3).lines[-1]
    assert (line.code, line.counted) == ("device", False)


@pytest.mark.parametrize("changes", [(0.0, 1.0), (1e-3, -1.0), (1e-3, float("nan"))])
def test_a_device_that_cannot_be_is_refused(changes):
    with pytest.raises(OutOfRange, match="rated flow"):
        Device("filter", *changes)


BUCKETS = [
    ("10 l in 24 s", 0.010 / 24),
    ("1 gal in 15 s", 231 * 0.0254**3 / 15),
    ("2 imp gal in 1 min 10 s", 2 * 4.54609e-3 / 70),
    (" 5 litres  in 0.5 min ", 0.005 / 30),
    ("1/2 gal in 12 s", 0.5 * 231 * 0.0254**3 / 12),
]


@pytest.mark.parametrize(("text", "flow"), BUCKETS)
@pytest.mark.parametrize("unit", ["m³/h", "gpm", None])
def test_a_bucket_is_read_in_any_unit(text, flow, unit):
    read = quantity.read(text, "flow", unit)
    assert read.si == pytest.approx(flow, rel=1e-9)
    assert read.text == text.strip()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("10 l in 0 s", "more than zero"),
        ("10 l in", "not a unit"),
        ("in 5 s", "no number"),
        ("10 in 5 s", "no unit"),
        ("-2 l in 5 s", "more than zero"),
        ("10 l in 5 m", "unit of length"),
    ],
)
def test_a_bucket_that_makes_no_sense_is_told(text, says):
    with pytest.raises(UnreadableQuantity, match=says):
        quantity.read(text, "flow", "l/s")


def test_inches_are_still_inches_in_a_length():
    assert quantity.read("14 ft 6 in", "length").si == pytest.approx(14.5 * 0.3048)
