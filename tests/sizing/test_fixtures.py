"""Schools of simultaneous demand on one schedule of fixtures."""

from collections import Counter

import pytest

from sizing.base.errors import OutOfRange, SizingError, UnknownName
from sizing.demand import fixtures, unit_curve
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS

FLAT = Counter(basin=2, shower=1, wc=1, kitchen=1, washer=1)


def test_every_fixture_finds_its_row_in_every_school_that_names_one():
    for code, one in fixtures.fixtures().items():
        for school, row in one.rows.items():
            if row:
                assert fixtures.figure(school, code) > 0, (code, school)


def test_units_of_a_flat_add_up_by_hand():
    # US table E103.3(2), totals: 2 x 0.7 + 1.4 + 2.2 + 1.4 + 1.4
    assert fixtures.sum_of("wsfu_ipc", FLAT) == pytest.approx(7.8)
    # British: 2 x 1.5 + 3 + 2 + 3 + 3; EN 806-3: 2 x 1 + 2 + 1 + 2 + 2
    assert fixtures.sum_of("lu_british", FLAT) == pytest.approx(14.0)
    assert fixtures.sum_of("lu_en806", FLAT) == pytest.approx(9.0)


def test_german_formula_by_hand():
    # V_R: 2 x 0.07 + 0.15 + 0.13 + 0.07 + 0.15 = 0.64 l/s; 1.48 x 0.64^0.19 - 0.94 = 0.4197 l/s
    assert fixtures.din_1988_300("residential building", FLAT) == pytest.approx(0.4197e-3, rel=1e-3)


def test_german_formula_never_asks_more_than_all_at_once_nor_less_than_one():
    assert fixtures.din_1988_300("residential building", Counter(shower=2)) <= 0.30e-3 + 1e-12
    assert fixtures.din_1988_300("residential building", Counter(wc_valve=1)) == pytest.approx(
        1.0e-3
    )


@pytest.mark.parametrize("counts", [Counter(basin=1), Counter(wc_valve=600)])
def test_german_formula_says_nothing_outside_its_range(counts):
    with pytest.raises(OutOfRange, match="sum of calculation flows"):
        fixtures.din_1988_300("hotel", counts)


def test_more_fixtures_never_ask_for_less():
    for count in (1, 5, 20, 80):
        few, many = (
            Counter({code: n * count for code, n in FLAT.items()}),
            Counter({code: n * count * 2 for code, n in FLAT.items()}),
        )
        assert fixtures.by_curve("wsfu_ipc", "hunter_flush_tank", few) <= fixtures.by_curve(
            "wsfu_ipc", "hunter_flush_tank", many
        )
        assert (
            fixtures.by_probability(few, zero_truncated=True).demand_flow_m3s
            <= fixtures.by_probability(many, zero_truncated=True).demand_flow_m3s
        )


def test_leaving_idle_time_out_never_lowers_the_peak():
    idle = fixtures.by_probability(FLAT, zero_truncated=False).demand_flow_m3s
    assert fixtures.by_probability(FLAT, zero_truncated=True).demand_flow_m3s >= idle


def test_a_school_without_the_fixture_says_so():
    with pytest.raises(SizingError, match="no figure for a rain head"):
        fixtures.sum_of("wsfu_ipc", Counter(rain_shower=2))
    with pytest.raises(SizingError, match="nobody gives the chance"):
        fixtures.by_probability(Counter(hose=1), zero_truncated=True)
    with pytest.raises(UnknownName, match="did you mean shower"):
        fixtures.fixture("showr")
    with pytest.raises(UnknownName, match="kind of building"):
        fixtures.din_1988_300("castle", FLAT)


def test_a_low_confidence_curve_is_marked_so():
    assert unit_curve.curve("en806_approx").confidence == "low"
    assert unit_curve.curve("hunter_flush_tank").confidence == "high"


BATHS = {"shower": 24, "basin": 24, "wc": 24}


@pytest.mark.parametrize(
    ("rooms", "counted"),
    [
        ([BATHS], {"shower": 24, "wc": 24}),  # the two largest of three
        ([{"shower": 24, "basin": 24}], {"shower": 24, "basin": 24}),  # two are no usage unit
        ([{"basin": 48, "wc": 24}], {"wc": 24, "basin": 24}),
        ([BATHS, {"kitchen": 3}], {"shower": 24, "wc": 24, "kitchen": 3}),
        ([{"shower": 0, "basin": 0}], {}),
    ],
)
def test_a_usage_unit_counts_with_its_two_largest_draw_offs(rooms, counted):
    assert fixtures.in_use_units(rooms) == counted


def test_rooms_named_in_the_schedule_lower_only_the_german_school(catalogue):
    job = JOBS["converted-mill"]
    named = job
    for row in range(1, 4):
        named = changed(named, (f"lists.fixtures.r{row}.room", "bath"))
    before, after = (
        {one.code: one.flow_m3s for one in size(each, catalogue).demand.methods}
        for each in (job, named)
    )
    assert {code for code, flow in after.items() if flow != before[code]} == {"din1988"}
    assert after["din1988"] < before["din1988"]


def test_what_is_drawn_all_the_time_is_added_to_every_school(catalogue):
    job = JOBS["converted-mill"]
    more = changed(job, ("answers.continuous_flow", "360 l/h"))
    before, after = (
        {one.code: one.flow_m3s for one in size(each, catalogue).demand.methods}
        for each in (job, more)
    )
    for code in ("hunter_tank", "british", "din1988", "statistical"):
        assert after[code] - before[code] == pytest.approx(1e-4)
    assert after["per_head"] == before["per_head"]


def test_a_bath_and_a_cistern_run_with_the_flow_that_their_chance_was_found_with():
    one_bath = fixtures.by_probability({"bath": 1}, zero_truncated=True)
    assert one_bath.demand_flow_m3s == pytest.approx(0.347e-3)
    one_wc = fixtures.by_probability({"wc": 1}, zero_truncated=True)
    assert one_wc.demand_flow_m3s == pytest.approx(0.189e-3)
    rain_head = fixtures.by_probability({"rain_shower": 1}, zero_truncated=True)
    assert rain_head.demand_flow_m3s == pytest.approx(0.3e-3)
