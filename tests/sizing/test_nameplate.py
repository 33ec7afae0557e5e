"""A plate read: power, load, rating, frame; and how long models lived."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import SizingError
from sizing.pump.nameplate import Life, Plate, frame, ranked

RATINGS = [0.33, 0.5, 0.75, 1.0, 1.5, 2.0]


def plate(**more) -> Plate:
    plain = {
        "phases": 1,
        "voltage_v": 230.0,
        "current_a": 5.2,
        "power_factor": 0.9,
        "motor_efficiency": 0.7,
        "service_factor": 1.15,
        "label_power_hp": 1.0,
    }
    return Plate(**plain | more)


@pytest.mark.parametrize(
    ("amps", "nearest", "carries", "within"),
    [
        (5.2, 1.0, 1.0, True),  # 1.01 hp: a true one
        (3.0, 0.5, 0.75, True),  # 0.58 hp on a label of 1 hp: not a true 1 hp
        (6.5, 1.5, 1.5, False),  # 1.26 hp: over its service factor
        (20.0, 2.0, None, False),
    ],
)
def test_what_amps_and_volts_say_of_a_label(amps, nearest, carries, within):
    one = plate(current_a=amps)
    assert one.nearest_rating_hp(RATINGS) == nearest
    assert one.rating_that_carries_hp(RATINGS) == carries
    assert one.within_service_factor is within


@given(st.floats(0.1, 40.0))
def test_three_phases_carry_root_three_of_one(amps):
    single, three = plate(current_a=amps), plate(current_a=amps, phases=3)
    assert three.input_power_w == pytest.approx(single.input_power_w * 3**0.5)
    assert single.shaft_power_w <= single.input_power_w


@pytest.mark.parametrize(
    ("spacing", "says"),
    [(0.09, "small"), (0.12, "large"), (0.1016, "unclear"), (0.1012, "unclear"), (0.101, "small")],
)
def test_the_frame_by_its_bolts(spacing, says):
    assert frame(spacing, 0.1016) == says


def test_models_by_what_a_year_of_them_costs():
    often = Life("A", 300.0, 500.0, 400.0, (2.0, 3.0, 1.0), 3)
    seldom = Life("B", 500.0, 500.0, 400.0, (9.0, 7.0), 1)
    never = Life("C", 900.0, 500.0, 400.0, (4.0,), 0)
    assert ranked([often, never, seldom], 0.3) == (["B", "A"], ["C"])
    assert often.mean_life_years == 2.0
    assert seldom.cost_per_year(0.3) == pytest.approx(500 / 16 + 60)
    assert never.cost_per_year(0.3) is None


@pytest.mark.parametrize(
    "more", [{"phases": 2}, {"power_factor": 1.2}, {"motor_efficiency": 2.0}, {"label_power_hp": 0}]
)
def test_a_plate_that_cannot_be_is_told(more):
    with pytest.raises(SizingError):
        plate(**more)
