"""Lines followed and axes found in pictures of our own; what other curves say at a head curve."""

import numpy as np
import pytest

from sizing.pump.digitise import Traced, TraceError
from sizing.pump.follow_line import MOST_POINTS, FollowError, follow, paper, thinned
from sizing.pump.lay_rulers import lay
from sizing.pump.traced_pump import at_flows, powers_w
from tests.charts import ALIKE, CHARTS

BY_NAME = {one.name: one for one in CHARTS}


@pytest.mark.parametrize("chart", [*CHARTS, ALIKE], ids=lambda chart: chart.name)
def test_rulers_lie_on_the_axes_of_every_chart(chart):
    rulers = lay(np.asarray(chart.picture()))
    low, foot = chart.flow[0], chart.head[0]
    assert rulers.found
    assert np.allclose(
        rulers.flow, (chart.page(low, foot), chart.page(chart.flow[1], foot)), atol=3
    )
    assert np.allclose(rulers.head, (chart.page(low, foot), chart.page(low, chart.head[1])), atol=3)


def test_without_lines_the_rulers_lie_inside_the_picture_and_say_so():
    rulers = lay(np.full((300, 400, 3), 255, dtype=np.uint8))
    assert not rulers.found
    for x, y in (*rulers.flow, *rulers.head):
        assert 0 < x < 400
        assert 0 < y < 300


def test_each_of_three_impellers_is_told_from_its_neighbours():
    chart = BY_NAME["three impellers"]
    pixels = np.asarray(chart.picture())
    for which in range(3):
        middle = np.array(follow(pixels, [chart.place(0.99, which), chart.place(0.01, which)]))
        for share in (0.25, 0.5, 0.75):
            x, y = chart.place(share, which)
            assert np.interp(x, middle[:, 0], middle[:, 1]) == pytest.approx(y, abs=2.5)


def test_a_dashed_line_is_one_line():
    chart = BY_NAME["dashed"]
    found = np.array(follow(np.asarray(chart.picture()), [chart.place(0.01), chart.place(0.99)]))
    x, y = chart.place(0.5)
    assert np.interp(x, found[:, 0], found[:, 1]) == pytest.approx(y, abs=2)


def test_points_are_few_and_rise_along_the_flow():
    chart = BY_NAME["plain"]
    found = follow(np.asarray(chart.picture()), [chart.place(0.01), chart.place(0.99)])
    xs = [x for x, _ in found]
    assert 7 <= len(found) <= MOST_POINTS
    assert xs == sorted(xs)
    assert len(set(xs)) == len(xs)


@pytest.mark.parametrize("places", [[], [(200.0, 200.0)], [(300.0, 40.0), (700.0, 40.0)]])
def test_no_line_under_the_clicks_is_told(places):
    with pytest.raises(FollowError):
        follow(np.asarray(BY_NAME["plain"].picture()), places)


def test_shadows_are_paper():
    pixels = np.asarray(BY_NAME["photographed"].picture(), dtype=float)
    bare = paper(pixels)
    assert bare[20, 20].mean() - bare[-20, -20].mean() > 40
    assert np.abs(pixels - bare).mean() < 12


def test_thinning_keeps_to_the_path_whichever_way_it_was_drawn():
    path = [(float(x), 0.002 * x**2) for x in range(300)]
    there, back = thinned(path), thinned(path[::-1])
    assert there == back
    for x, y in there:
        assert y == pytest.approx(0.002 * x**2, abs=0.5)
    assert len(thinned([(0.0, 0.0), (100.0, 5.0), (200.0, 10.0)])) == 3


RISING = Traced(((2.0, 1.0), (6.0, 2.0), (10.0, 4.0)), 0.0)


def test_a_curve_beside_is_read_at_the_heads_flows_and_held_below_its_first():
    assert at_flows(RISING, (0.0, 2.0, 6.0, 10.3), "the NPSH") == pytest.approx((1, 1, 2, 4))
    with pytest.raises(TraceError, match="ends at 10, the head curve at 14"):
        at_flows(RISING, (0.0, 6.0, 14.0), "the NPSH")


def test_power_follows_from_efficiency():
    flows, heads = (0.0, 0.002, 0.004), (20.0, 18.0, 12.0)
    found = powers_w(flows, heads, (0.0, 0.4, 0.5))
    assert found[1] == pytest.approx(998.2 * 9.80665 * 0.002 * 18 / 0.4, rel=2e-3)
    assert found[0] == pytest.approx(found[1] * 20 / 18)
    for wrong in ((0.0, 40.0, 50.0), (0.0, 0.0, 0.5)):
        with pytest.raises(TraceError):
            powers_w(flows, heads, wrong)
    with pytest.raises(TraceError):
        powers_w((0.0,), (20.0,), (0.0,))
