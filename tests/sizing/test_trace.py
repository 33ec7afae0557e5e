"""Curves read off pictures: straight, tilted, logarithmic, with the slips of a hand."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.pump.digitise import Axes, Axis, TraceError, trace


def chart(angle=0.0, scale=1.0, log=False, shear=0.0):
    """A chart of our own, and where its values lie on the page."""
    cos, sin = math.cos(angle), math.sin(angle)

    def page(x, y):
        along_x = math.log(x / 1.0) / math.log(100.0) if log else x / 10.0
        u, v = 60 + 500 * along_x, 420 - 380 * y / 20.0
        u += shear * (420 - v)
        return scale * (u * cos - v * sin), scale * (u * sin + v * cos)

    low, high = (1.0, 100.0) if log else (0.0, 10.0)
    axes = Axes(
        Axis(page(low, 0), page(high, 0), low, high, log),
        Axis(page(low, 0), page(low, 20), 0.0, 20.0),
    )
    return page, axes


@given(
    st.floats(-0.6, 0.6),
    st.floats(0.3, 4),
    st.booleans(),
    st.floats(-0.2, 0.2),
    st.floats(0.02, 0.98),
    st.floats(0, 20),
)
def test_every_value_is_read_where_it_was_drawn_and_drawn_where_it_was_read(
    angle, scale, log, shear, share, y
):
    page, axes = chart(angle, scale, log, shear)
    x = 100.0**share if log else 10.0 * share
    assert axes.read(page(x, y)) == pytest.approx((x, y), rel=1e-6, abs=1e-6)
    assert axes.pixel(x, y) == pytest.approx(page(x, y), rel=1e-6, abs=1e-6)


def test_marks_away_from_the_corner_serve_as_well():
    page, _ = chart(0.05)
    axes = Axes(Axis(page(2, 0), page(9, 0), 2, 9), Axis(page(0, 5), page(0, 15), 5, 15))
    assert axes.read(page(4.0, 12.0)) == pytest.approx((4.0, 12.0))


def true_head(flow):
    return 18.0 - 0.13 * flow**2


def test_a_clicked_curve_is_within_a_hundredth_of_the_true_one():
    page, axes = chart(0.04)
    rng = np.random.default_rng(2)
    clicked = [
        tuple(np.array(page(q, true_head(q))) + rng.uniform(-0.6, 0.6, 2))
        for q in np.linspace(0, 10, 11)
    ]
    found = trace(axes, clicked)
    for flow, head in found.through():
        assert head == pytest.approx(true_head(flow), abs=0.01 * 18)
    assert found.worst_off < 0.01


def test_a_slip_of_the_hand_stands_out():
    page, axes = chart()
    clicked = [page(q, true_head(q)) for q in np.linspace(0, 10, 9)]
    clicked[4] = (clicked[4][0], clicked[4][1] - 40)
    assert trace(axes, clicked).worst_off > 0.08


def test_points_clicked_in_any_order_give_the_same_curve():
    page, axes = chart()
    clicked = [page(q, true_head(q)) for q in (5, 0, 9, 2, 7)]
    assert trace(axes, clicked) == trace(axes, sorted(clicked))


@pytest.mark.parametrize(
    ("make", "told"),
    [
        (lambda: Axis((0, 0), (1, 1), 0, 10), "almost on each other"),
        (lambda: Axis((0, 0), (100, 0), 5, 5), "same value"),
        (lambda: Axis((0, 0), (100, 0), 0, 10, True), "no zero"),
        (
            lambda: Axes(Axis((0, 0), (100, 0), 0, 10), Axis((0, 50), (100, 50), 0, 10)).read(
                (5, 5)
            ),
            "run the same way",
        ),
        (lambda: trace(chart()[1], [(1, 1)] * 3), "needs 4"),
        (
            lambda: trace(chart()[1], [(60, 400), (60, 300), (90, 200), (120, 100)]),
            "one over the other",
        ),
    ],
)
def test_marks_that_give_nothing_are_told(make, told):
    with pytest.raises(TraceError, match=told):
        make()
