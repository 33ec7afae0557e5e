"""What must hold of every route, whatever its legs, devices, branches and high ground."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.base.errors import SizingError
from sizing.base.water import water
from sizing.hydraulics.device import Device
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve, Top

flows = st.floats(0, 0.02)


@st.composite
def devices(draw):
    count = draw(st.integers(1, 4))
    at = sorted(
        draw(
            st.lists(
                st.floats(1e-4, 0.01),
                min_size=count,
                max_size=count,
                unique_by=lambda q: round(q, 5),
            )
        )
    )
    loss = sorted(draw(st.lists(st.floats(0, 8), min_size=count, max_size=count)))
    return Device.of_curve("filter", tuple(zip(at, loss, strict=True)))


@st.composite
def legs(draw):
    shares = sorted(draw(st.lists(st.floats(0.01, 0.99), max_size=5, unique=True)))
    return Leg(
        inside_diameter_m=draw(st.floats(0.012, 0.2)),
        length_m=draw(st.floats(0, 400)),
        roughness_m=draw(st.sampled_from((0.0, 7e-6, 3e-4))),
        k_sum=draw(st.floats(0, 30)),
        k1_sum=draw(st.floats(0, 2000)),
        end_elevation_m=draw(st.floats(-20, 60)),
        flow_share=draw(st.floats(0, 1.5)),
        equivalent_length_m=draw(st.floats(0, 20)),
        parallel=draw(st.integers(1, 4)),
        devices=tuple(draw(st.lists(devices(), max_size=2))),
        tops=tuple(Top(share, draw(st.floats(-20, 80))) for share in shares),
    )


@st.composite
def systems(draw):
    chain = tuple(draw(st.lists(legs(), min_size=1, max_size=5)))
    route = Route(
        chain,
        draw(st.floats(-30, 5)),
        draw(st.floats(0, 3e5)),
        draw(st.floats(0, 5e5)),
        draw(st.booleans()),
        draw(st.booleans()),
        draw(st.integers(0, len(chain) - 1)),
        draw(st.sampled_from(("darcy_weisbach", "hazen_williams"))),
        devices=tuple(draw(st.lists(devices(), max_size=1))),
        drawdown_s_m2=draw(st.floats(0, 5000)),
    )
    return SystemCurve(route, water(draw(st.floats(1, 80))))


@settings(max_examples=200)
@given(systems(), flows)
def test_the_lines_of_the_ledger_add_up_to_the_head(system, flow):
    ledger = system.ledger(flow)
    assert math.fsum(line.head_m for line in ledger.lines if line.counted) == pytest.approx(
        ledger.total_head_m, abs=1e-9, rel=1e-9
    )
    assert ledger.total_head_m == pytest.approx(system.head_at(flow), abs=1e-9, rel=1e-9)


@settings(max_examples=200)
@given(systems())
def test_head_never_falls_as_the_flow_grows(system):
    heads = system.head_m(np.linspace(0.0, 0.02, 60))
    assert np.all(np.diff(heads) >= -1e-9 * np.maximum(np.abs(heads[1:]), 1))


@settings(max_examples=150)
@given(systems(), st.floats(0.05, 0.95), st.data())
def test_splitting_a_leg_in_two_changes_nothing(system, part, data):
    at = data.draw(st.integers(0, len(system.route.legs) - 1))
    whole = system.route.legs[at]
    if whole.equivalent_length_m or at < system.route.suction_legs:
        return
    before = system.route.legs[at - 1].end_elevation_m if at else -1000.0
    first = replace(
        whole,
        length_m=whole.length_m * part,
        end_elevation_m=min(before, whole.end_elevation_m, -1000.0),
        tops=tuple(
            Top(top.share / part, top.elevation_m) for top in whole.tops if top.share <= part
        ),
    )
    second = replace(
        whole,
        length_m=whole.length_m * (1 - part),
        k_sum=0.0,
        k1_sum=0.0,
        devices=(),
        tops=tuple(
            Top((top.share - part) / (1 - part), top.elevation_m)
            for top in whole.tops
            if top.share > part
        ),
    )
    split = SystemCurve(
        replace(
            system.route,
            legs=(*system.route.legs[:at], first, second, *system.route.legs[at + 1 :]),
        ),
        system.water,
    )
    probe = np.array([0.0, 1e-4, 2e-3, 0.015])
    assert split.head_m(probe) == pytest.approx(system.head_m(probe), rel=1e-9, abs=1e-9)


@settings(max_examples=60)
@given(legs(), st.integers(2, 5), flows)
def test_pipes_abreast_are_as_one_pipe_with_its_share_of_the_flow(leg, count, flow):
    alone, together = (
        replace(leg, parallel=1, flow_share=leg.flow_share / count),
        replace(leg, parallel=count),
    )
    heads = [SystemCurve(Route((one,), 0.0), water(12)).head_at(flow) for one in (alone, together)]
    assert heads[0] == pytest.approx(heads[1], rel=1e-12)
    assert together.volume_m3 == pytest.approx(count * alone.volume_m3)


def test_high_ground_within_a_leg_governs_while_it_asks_for_more_than_the_end():
    leg = Leg(0.05, 1000.0, 7e-6, 0.0, 3.0, tops=(Top(0.25, 12.0), Top(0.5, 9.0), Top(0.6, 2.0)))
    system = SystemCurve(Route((leg,), 0.0), water(12))
    assert system.static_head_m == 12.0
    assert system.governing(0.0).share == 0.25
    assert system.governing(0.004).share == 1.0  # friction on to the end asks for more by then
    friction = float(system.losses_m(0.0005)[0][0, 0])
    assert system.head_at(0.0005) == pytest.approx(12.0 + friction / 4)
    ledger = system.ledger(0.0005)
    assert [line.counted for line in ledger.lines if line.code == "pipe"] == [True, False]
    assert (ledger.governing_leg, ledger.governing_share) == (0, 0.25)


def test_a_pipe_that_siphons_forgets_its_high_ground():
    leg = Leg(0.05, 100.0, 7e-6, 0.0, 3.0, tops=(Top(0.5, 12.0),))
    assert SystemCurve(Route((leg,), 0.0, can_siphon=True), water(12)).static_head_m == 3.0


def test_a_device_curve_passes_through_its_points_and_goes_on_by_the_square():
    meter = Device.of_curve("meter", ((0.001, 1.0), (0.002, 3.0)))
    assert meter.loss_m(np.array([0.0, 0.001, 0.002, 0.004])) == pytest.approx(
        [0.0, 1.0, 3.0, 12.0]
    )
    assert float(
        Device.of_curve("filter", ((0.001, 2.0),)).loss_m(np.asarray(0.0005))
    ) == pytest.approx(0.5)


def test_a_device_whose_loss_falls_is_refused():
    with pytest.raises(SizingError, match="never fall"):
        Device.of_curve("valve", ((0.001, 4.0), (0.002, 3.0)))
