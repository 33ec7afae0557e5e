import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import SizingError, UnknownName
from sizing.storage.basin import Levels, basin, pipe_volume_m3
from sizing.storage.plan import Plan, plan

PIT = Plan(diameter_m=1.0)
LEVELS = Levels(stop_m=0.2, start_m=0.6, inlet_m=0.8, alarm_m=0.7, overflow_m=1.2)


def worked(**changes):
    usual = {"pump_flow_m3s": 0.002, "inflow_m3s": 0.0008, "allowed_starts_per_h": 12.0}
    return basin(PIT, LEVELS, **(usual | changes))


def test_plans_by_shape():
    assert plan("round", diameter_m=1.0).area_m2 == pytest.approx(math.pi / 4)
    assert plan("rectangular", length_m=0.9, width_m=0.7).area_m2 == pytest.approx(0.63)
    assert plan("rectangular", length_m=0.9, width_m=0.7).narrowest_m == 0.7
    with pytest.raises(UnknownName, match="shape of pit"):
        plan("oval", diameter_m=1.0)


@given(st.floats(1e-4, 1.9e-3))
def test_no_inflow_starts_the_pump_oftener_than_half_its_flow(inflow):
    found = worked(inflow_m3s=inflow)
    assert found.cycles_per_h_at_inflow <= found.worst_cycles_per_h * (1 + 1e-12)
    assert worked(inflow_m3s=0.001).cycles_per_h_at_inflow == pytest.approx(
        found.worst_cycles_per_h
    )


@given(st.floats(1e-4, 1.9e-3))
def test_a_cycle_takes_in_what_it_pumps_out(inflow):
    found = worked(inflow_m3s=inflow)
    assert found.run_time_s * 0.002 == pytest.approx(
        (found.run_time_s + found.rest_time_s) * inflow
    )


def test_a_pump_that_does_not_keep_up_never_stops():
    found = worked(inflow_m3s=0.003)
    assert (
        found.pump_keeps_up,
        found.run_time_s,
        found.rest_time_s,
        found.cycles_per_h_at_inflow,
    ) == (False, None, None, 0.0)
    assert found.time_to_overflow_running_s == pytest.approx(PIT.area_m2 * 0.6 / 0.001)


def test_an_inflow_of_just_the_pump_flow_never_spills():
    assert worked(inflow_m3s=0.002).time_to_overflow_running_s == math.inf


def test_drain_back_makes_more_cycles_and_takes_room():
    plain, back = worked(), worked(drain_line_volume_m3=0.05)
    assert back.cycles_per_h_with_drain_back > plain.cycles_per_h_at_inflow
    assert plain.time_to_overflow_s - back.time_to_overflow_s == pytest.approx(0.05 / 0.0008)


def test_a_line_that_fills_the_whole_storage_starts_the_pump_at_once():
    assert worked(drain_line_volume_m3=1.0).cycles_per_h_with_drain_back == pytest.approx(
        3600 / (worked().storage_m3 / 0.0012)
    )


def test_alternating_pumps_share_the_starts():
    assert worked(pump_count=2, alternating=True).minimum_storage_m3 == pytest.approx(
        worked().minimum_storage_m3 / 2
    )


@pytest.mark.parametrize(
    "changes", [{"inflow_m3s": 0.0}, {"pump_flow_m3s": -1.0}, {"allowed_starts_per_h": 0.0}]
)
def test_flows_that_cannot_be_are_refused(changes):
    with pytest.raises(SizingError, match="must lie between"):
        worked(**changes)


def test_start_must_lie_above_stop():
    with pytest.raises(SizingError, match="start level must lie above"):
        Levels(0.6, 0.6, 0.8, 0.7, 1.2)


def test_water_in_a_pipe():
    assert pipe_volume_m3(100.0, 0.05) == pytest.approx(0.19635, rel=1e-4)
