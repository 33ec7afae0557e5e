import itertools
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.base.errors import SizingError
from sizing.demand.openings import Orifice, jets, orifices_m3s, weir
from sizing.demand.statistical import Group, statistical
from sizing.demand.volume import fill_m3s, per_head_by_factor, per_head_by_hours, turnover_m3s

GROUPS = st.lists(
    st.builds(
        Group,
        count=st.integers(1, 4),
        probability=st.floats(0.01, 0.6),
        flow_m3s=st.sampled_from([7e-5, 1e-4, 1.5e-4, 2e-4]),
    ),
    min_size=1,
    max_size=3,
)


def brute_force(groups, percentile):
    """Every fixture on or off, one by one: 2^n states."""
    fixtures = [group for group in groups for _ in range(group.count)]
    chance: dict[int, float] = {}
    for states in itertools.product([0, 1], repeat=len(fixtures)):
        flow = sum(round(on * one.flow_m3s * 1e9) for on, one in zip(states, fixtures))
        chance[flow] = chance.get(flow, 0.0) + math.prod(
            one.probability if on else 1 - one.probability for on, one in zip(states, fixtures)
        )
    total = 0.0
    for flow in sorted(chance):
        total += chance[flow]
        if total >= percentile - 1e-12:
            return flow / 1e9, total
    raise AssertionError("probabilities add up to one")


@settings(max_examples=60)
@given(GROUPS, st.sampled_from([0.9, 0.95, 0.99]))
def test_the_convolution_is_exact(groups, percentile):
    flow, cumulative = brute_force(groups, percentile)
    found = statistical(groups, percentile=percentile)
    assert found.demand_flow_m3s == pytest.approx(flow, abs=1e-12)
    assert found.cumulative_at_demand_flow == pytest.approx(cumulative, abs=1e-9)


def test_more_fixtures_never_ask_for_less():
    flows = [statistical([Group(count, 0.03, 2e-4)]).demand_flow_m3s for count in range(1, 200, 7)]
    assert flows == sorted(flows)


def test_given_that_one_runs_the_demand_is_never_less():
    few = [Group(3, 0.02, 1e-4), Group(2, 0.04, 1.4e-4)]
    assert (
        statistical(few, zero_truncated=True).demand_flow_m3s
        >= statistical(few).demand_flow_m3s
        > 0
    )


def test_a_large_building_is_done_at_once_and_stays_near_its_normal_approximation():
    groups = [Group(300, 0.02, 1.5e-4), Group(400, 0.03, 1e-4), Group(250, 0.01, 2e-4)]
    mean = sum(one.count * one.probability * one.flow_m3s for one in groups)
    spread = math.sqrt(
        sum(one.count * one.probability * (1 - one.probability) * one.flow_m3s**2 for one in groups)
    )
    assert statistical(groups).demand_flow_m3s == pytest.approx(mean + 2.326 * spread, rel=0.03)


@given(st.floats(0.1, 5.0), st.floats(0.001, 0.3))
def test_a_weir_goes_there_and_back(width, head):
    there = weir(width, 1.84, head_m=head)
    assert weir(width, 1.84, flow_m3s=there.flow_m3s).head_m == pytest.approx(head)
    assert weir(width, 1.84, flow_per_width_m2s=there.flow_per_width_m2s).flow_m3s == pytest.approx(
        there.flow_m3s
    )


def test_the_trades_sheets_of_water():
    # house rules PND-03 and PND-04: 50 and 100 gph per inch of width stand 0.43 and 0.68 in over
    # the crest
    gallon, inch = 231 * 0.0254**3, 0.0254
    for gph, height in ((50, 0.43), (100, 0.68), (150, 0.89), (200, 1.07)):
        assert weir(
            1.0, 1.84, flow_per_width_m2s=gph * gallon / 3600 / inch
        ).head_m == pytest.approx(height * inch, rel=0.02)


def test_an_orifice_by_the_trades_formula():
    # house rule EFF-01: Q = 11.79 d2 sqrt(h), gpm, in, ft
    gpm = 231 * 0.0254**3 / 60
    assert orifices_m3s([Orifice(20, 0.25 * 0.0254, 2.5 * 0.3048)]) == pytest.approx(
        20 * 11.79 * 0.25**2 * math.sqrt(2.5) * gpm, rel=2e-3
    )


def test_volumes_over_time():
    assert fill_m3s(0.9, 600.0, 1e-4) == pytest.approx(0.0016)
    assert turnover_m3s(0.4, 6) == pytest.approx(0.4 * 6 / 3600)
    assert jets([(8, 8e-4), (4, 1.2e-3)], 2).flow_per_pump_m3s == pytest.approx(0.0056)


def test_the_schools_of_a_peak_per_head_agree_on_the_day():
    factor, hours = per_head_by_factor(40, 0.15, 3.0), per_head_by_hours(40, 0.15, 8.0, 1.0)
    assert factor.daily_volume_m3 == hours.daily_volume_m3 == pytest.approx(6.0)
    assert factor.peak_flow_m3s == pytest.approx(hours.peak_flow_m3s)


@pytest.mark.parametrize(
    "call",
    [
        lambda: statistical([]),
        lambda: statistical([Group(1, 1.5, 1e-4)]),
        lambda: statistical([Group(1, 0.1, -1e-4)]),
        lambda: statistical([Group(6000, 0.1, 1e-4)]),
        lambda: statistical([Group(2, 0.0, 1e-4)], zero_truncated=True),
        lambda: weir(1.0, 1.84),
        lambda: weir(1.0, 1.84, head_m=0.1, flow_m3s=0.1),
        lambda: weir(1.0, 1.84, flow_m3s=-0.1),
        lambda: orifices_m3s([Orifice(1, 0.01, -1.0)]),
        lambda: jets([(1, 0.001)], 0),
        lambda: fill_m3s(1.0, 0.0),
        lambda: turnover_m3s(-1.0, 1.0),
        lambda: per_head_by_factor(10, 0.1, 0.5),
        lambda: per_head_by_hours(10, 0.1, 30.0, 0.5),
    ],
)
def test_what_cannot_be_is_refused(call):
    with pytest.raises(SizingError):
        call()
