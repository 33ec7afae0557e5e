import fluids
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import OutOfRange
from sizing.hydraulics import friction

ROUGH = st.floats(0.0, 0.05)


@given(st.floats(4000, 1e8), ROUGH)
def test_colebrook_is_solved_to_the_last_digits(reynolds, rough):
    # fluids' Clamond method is exact to machine precision
    assert float(friction.colebrook(reynolds, rough)) == pytest.approx(
        fluids.friction_factor(reynolds, rough, Method="Clamond"), rel=1e-12
    )


@given(st.floats(1.0, 2000.0), ROUGH)
def test_laminar_flow_knows_no_roughness(reynolds, rough):
    assert float(friction.darcy_friction_factor(reynolds, rough)) == pytest.approx(
        64 / reynolds, rel=1e-12
    )


@pytest.mark.parametrize("rough", [0.0, 1e-4, 0.02])
def test_head_loss_rises_without_a_jump_through_the_transition(rough):
    reynolds = np.linspace(1500, 5000, 4001)
    loss = friction.darcy_friction_factor(reynolds, rough) * reynolds**2
    steps = np.diff(loss)
    assert np.all(steps > 0)
    assert np.max(np.abs(np.diff(steps))) < 0.05 * np.max(steps)


def test_no_flow_loses_nothing_and_divides_by_nothing():
    assert float(friction.darcy_weisbach_m(0.0, 0.05, 100.0, 1e-5, 1.2e-6)) == pytest.approx(
        0.0, abs=1e-12
    )


def test_arrays_of_legs_and_flows_broadcast():
    found = friction.darcy_weisbach_m(
        np.array([[0.001, 0.002, 0.003]]), np.array([[0.04], [0.05]]), 10.0, 1e-5, 1.2e-6
    )
    assert found.shape == (2, 3)
    assert found[1, 2] == pytest.approx(
        float(friction.darcy_weisbach_m(0.003, 0.05, 10.0, 1e-5, 1.2e-6)), rel=1e-14
    )


def test_hazen_williams_agrees_with_the_customary_form_in_gallons_and_feet():
    # h [ft per 100 ft] = 0.2083 (100/C)^1.852 q^1.852 / d^4.8655, q in gpm, d in inches (handbooks)
    gpm, inch = 231 * 0.0254**3 / 60, 0.0254
    loss = float(friction.hazen_williams_m(40 * gpm, 2.067 * inch, 100.0, 120.0))
    assert loss == pytest.approx(
        0.2083 * (100 / 120) ** 1.852 * 40**1.852 / 2.067**4.8655, rel=1.5e-2
    )  # the forms in print differ by that


@pytest.mark.parametrize("c", [0.0, 19.0, 171.0, float("nan")])
def test_a_coefficient_that_no_pipe_has_is_refused(c):
    with pytest.raises(OutOfRange, match="Hazen-Williams C"):
        friction.hazen_williams_m(0.001, 0.05, 10.0, c)
