import math
from pathlib import Path

import pytest

from sizing.base.errors import OutOfRange
from sizing.demand.openings import rated_outlet_m3s
from sizing.document.job import JobDocument
from sizing.editing import intake
from sizing.kinds import kind
from sizing.size import size
from tests.sizing.conftest import changed

DEMO = Path(__file__).parents[2] / "demo" / "jobs"


@pytest.fixture(scope="module")
def hostel() -> JobDocument:
    return intake.loads((DEMO / "05-hostel-willow-bed.json").read_bytes())


def check(job, catalogue, code):
    return next(one for one in size(job, catalogue).checks if one.code == code)


def test_the_outlets_take_what_their_head_gives_them(hostel, catalogue):
    found = size(hostel, catalogue)
    # 62 x 0.6 x pi/4 x (2.4 mm)^2 x sqrt(2 g 2.0 m)
    assert found.demand.needed_m3s == pytest.approx(
        62 * 0.6 * math.pi / 4 * 0.0024**2 * math.sqrt(2 * 9.80665 * 2.0)
    )


def test_the_head_at_the_outlets_stands_in_the_head_to_be_overcome(hostel, catalogue):
    # from the water at 0.30 m to the bed at 17.5 m, and 2.0 m over it
    assert size(hostel, catalogue).system.static_head_m == pytest.approx(17.5 - 0.3 + 2.0)
    codes = {line.code: line.head_m for line in size(hostel, catalogue).head_breakdown.lines}
    assert codes["delivery_pressure"] == pytest.approx(2.0)


def test_a_free_outlet_wants_no_head(hostel, catalogue):
    free = changed(hostel, ("answers.distal_head", "0 m"), ("answers.flow_from", "dose"))
    assert size(free, catalogue).system.static_head_m == pytest.approx(17.2)


def test_outlets_without_head_give_no_flow_and_that_is_told(hostel, catalogue):
    found = size(changed(hostel, ("answers.distal_head", "0 m")), catalogue)
    assert found.demand is None
    assert "comes out as zero" in found.problems[0]


def test_a_dose_and_its_time(hostel, catalogue):
    method = next(
        method for method in size(hostel, catalogue).demand.methods if method.code == "dose"
    )
    assert method.flow_m3s == pytest.approx(3.2 / 6 / 540)


def test_what_flows_in_is_the_days_effluent_not_the_dose(hostel, catalogue):
    assert size(hostel, catalogue).demand.inflow_m3s == pytest.approx(3.2 / 86400)


def test_a_multistage_pump_is_taken_only_behind_a_filter(hostel, catalogue):
    assert size(hostel, catalogue).chosen.candidate.pump.family == "multistage_effluent"
    settled = size(changed(hostel, ("answers.liquid", "settled")), catalogue)
    assert (settled.match.fits, settled.recommended) == ((), None)


DOSES = [
    ((), "hold"),
    ((("answers.start_level", "0.48 m"),), "watch"),
    ((("answers.start_level", "0.42 m"),), "fail"),
    ((("legs.a.fittings", "check, ball, elbow"),), "hold"),
]


@pytest.mark.parametrize(("edits", "state"), DOSES)
def test_the_dose_must_do_more_than_fill_the_line(hostel, catalogue, edits, state):
    found = check(changed(hostel, *edits), catalogue, "dose")
    assert found.state == state
    assert bool(found.remedy) == (state != "hold")


def test_a_check_valve_keeps_the_line_full_and_the_dose_whole(hostel, catalogue):
    assert "What runs back" in check(hostel, catalogue, "drain_back").label
    held = changed(hostel, ("legs.a.fittings", "check, ball, elbow"))
    assert check(held, catalogue, "drain_back").label == "Nothing runs back"
    assert check(held, catalogue, "dose").message.values["back"].value_si == 0.0


def test_a_blank_effluent_sheet_asks_its_own_questions(catalogue):
    missing = {
        one.path
        for one in size(
            JobDocument(kind="effluent", legs=kind("effluent").default_legs), catalogue
        ).missing
    }
    assert {"answers.orifices", "legs.a.length"} <= missing


def test_emitters_by_their_rating_give_less_at_less_head(hostel, catalogue):
    rated = changed(
        hostel,
        ("answers.outlet_type", "rated"),
        ("answers.outlet_flow", "8 l/h"),
        ("answers.outlet_head", "10 m"),
        ("answers.distal_head", "2.5 m"),
    )
    network = next(
        method for method in size(rated, catalogue).demand.methods if method.code == "network"
    )
    assert network.flow_m3s == pytest.approx(
        62 * 8e-3 / 3600 / 2
    )  # a quarter of the head, half the flow
    with pytest.raises(OutOfRange, match="rated head"):
        rated_outlet_m3s(1e-5, 0.0, 1.0)
