from pathlib import Path

import pytest

from sizing.base.errors import OutOfRange, UnknownName
from sizing.demand import unit_curve
from sizing.document.job import JobDocument
from sizing.editing import intake
from sizing.kinds import kind
from sizing.size import size
from tests.sizing.conftest import changed

DEMO = Path(__file__).parents[2] / "demo" / "jobs"
GALLON = 231 * 0.0254**3


@pytest.fixture(scope="module")
def club() -> JobDocument:
    return intake.loads((DEMO / "04-rowing-club-changing-rooms.json").read_bytes())


def test_every_curve_agrees_with_its_table_at_its_points_and_rises_between():
    for name, one in unit_curve.curves().items():
        for units, flow in zip(one.units.tolist(), one.flows_m3s.tolist()):
            assert unit_curve.flow_m3s(name, units) == pytest.approx(flow)
        middle = [
            unit_curve.flow_m3s(name, (a + b) / 2)
            for a, b in zip(one.units.tolist(), one.units.tolist()[1:])
        ]
        assert all(
            low <= flow <= high
            for low, flow, high in zip(one.flows_m3s.tolist(), middle, one.flows_m3s.tolist()[1:])
        ), name


def test_curves_say_nothing_beyond_their_table():
    with pytest.raises(OutOfRange, match="sum of units"):
        unit_curve.flow_m3s("hunter_flush_tank", 0.1)
    with pytest.raises(OutOfRange, match="sum of units"):
        unit_curve.flow_m3s("dfu_to_gpm_tank_low", 1e6)
    with pytest.raises(UnknownName, match="did you mean hunter_flush_tank"):
        unit_curve.flow_m3s("hunter_flush_tanks", 10)


def test_two_schools_of_fixture_units_stand_side_by_side(club, catalogue):
    methods = {method.code: method for method in size(club, catalogue).demand.methods}
    # the table, straight between 30 and 40 DFU: 23.3 and 26.3 gpm, 42 and 46 gpm
    assert methods["dfu_tank"].flow_m3s == pytest.approx((23.3 + 0.8 * 3.0) * GALLON / 60, rel=2e-3)
    assert methods["dfu_valve"].flow_m3s == pytest.approx((42 + 0.8 * 4.0) * GALLON / 60, rel=2e-3)
    assert all("ow confidence" in methods[code].caution for code in ("dfu_tank", "dfu_valve"))


def test_people_and_a_peak(club, catalogue):
    methods = {method.code: method for method in size(club, catalogue).demand.methods}
    assert methods["people"].flow_m3s == pytest.approx(60 * 0.040 * 8 / 86400)


def test_the_flow_never_falls_below_what_keeps_solids_moving(club, catalogue):
    found = size(changed(club, ("answers.flow_from", "people")), catalogue)
    # 0.61 m/s in the mean bore of a 75 mm pipe: 75 - 2 x 3.6 mm wall and half its plus tolerance
    assert found.demand.needed_m3s == pytest.approx(0.61 * 3.14159 / 4 * 0.0672**2, rel=2e-3)
    assert found.demand.inflow_m3s < found.demand.needed_m3s
    assert "solids move" in found.demand.working.title


def test_a_margin_is_not_put_on_a_peak_unless_asked_for(club, catalogue):
    plain, more = size(club, catalogue), size(changed(club, ("answers.margin", "1.2")), catalogue)
    assert plain.demand.needed_m3s == plain.demand.inflow_m3s
    assert more.demand.needed_m3s == pytest.approx(1.2 * plain.demand.needed_m3s)


def test_only_pumps_that_pass_solids_are_taken(club, catalogue):
    found = size(club, catalogue)
    assert found.match.fits
    assert {one.pump.family for one in found.match.fits} == {"sewage"}
    assert all(one.pump.solids_m >= 0.05 for one in found.match.fits)
    assert dict(found.match.out)["another family of pump"] > 40


def test_units_beyond_the_table_are_told_and_the_rest_goes_on(club, catalogue):
    found = size(
        changed(club, ("answers.drainage_units", "2"), ("answers.flow_from", "largest")), catalogue
    )
    assert {method.code for method in found.demand.methods if method.flow_m3s} >= {
        "dfu_tank",
        "people",
    }
    beyond = size(
        changed(club, ("answers.drainage_units", "990"), ("answers.flow_from", "dfu_tank")),
        catalogue,
    )
    assert beyond.demand is not None or "units within the table" in beyond.missing[0].label


@pytest.mark.parametrize(
    ("fittings", "state"),
    [("ball check, gate, elbow", "hold"), ("ball check, elbow", "fail"), ("gate, elbow", "fail")],
)
def test_the_riser_needs_both_valves(club, catalogue, fittings, state):
    found = size(changed(club, ("legs.a.fittings", fittings)), catalogue)
    check = next(check for check in found.checks if check.code == "valves")
    assert check.state == state
    assert bool(check.remedy) == (state == "fail")


def test_a_failing_check_of_the_demo_job_says_its_remedy(club, catalogue):
    nobody = changed(club, ("answers.time_to_come", "2 day"))
    failing = [check for check in size(nobody, catalogue).checks if check.state == "fail"]
    assert [check.code for check in failing] == ["over_time_failed", "power_cut"]
    assert "second pump" in failing[-1].remedy


def test_slow_water_is_told(club, catalogue):
    wide = changed(
        club,
        ("legs.b.pipe", "PVC-U PN10 140 mm"),
        ("answers.flow_from", "stated"),
        ("answers.stated_flow", "6 m3/h"),
    )
    found = size(wide, catalogue)
    assert found.demand.needed_m3s > 6 / 3600


def test_a_blank_sewage_sheet_asks_its_own_questions(catalogue):
    blank = JobDocument(kind="sewage", legs=kind("sewage").default_legs)
    missing = {one.path for one in size(blank, catalogue).missing}
    assert "answers.drainage_units" in missing
    assert not {"answers.rise", "answers.soil"} & missing
