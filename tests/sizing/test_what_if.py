"""Questions put to a sizing that is done: schools, sizes, the way round, reach, floors."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.analysis import floors, inverse, methods, reach, run_sizes, sizes
from sizing.analysis.changed import NotYet, known
from sizing.base.message import Measure
from sizing.base.water import water
from sizing.editing import intake
from sizing.editing.edit import GoneError, edit
from sizing.hydraulics.force_main import force_main
from sizing.operating_point.npsh import suction
from sizing.operating_point.one import operating_point
from sizing.pump.catalogue import EMPTY
from sizing.size import size
from tests.sizing.conftest import DEMO, changed

JOBS = {
    path.stem[3:]: intake.loads(path.read_bytes())
    for path in sorted((DEMO / "jobs").glob("*.json"))
}
OPEN = [
    "bookbinders-cellar",
    "rowing-club-changing-rooms",
    "hostel-willow-bed",
    "cabins-over-the-ridge",
    "plant-nursery-well",
    "converted-mill",
    "bakery-cistern",
    "hospice-rill",
    "marine-classroom",
    "soup-kitchen-van",
]


def asked(job, catalogue):
    return known(size(job, catalogue))


@pytest.fixture(scope="module")
def base(cellar, catalogue):
    return asked(cellar, catalogue)


def value(answers, code):
    found = next(one for one in answers if one.code == code).value
    return found.value_si if isinstance(found, Measure) else found


# --- schools


def test_the_school_in_force_gives_the_sheets_own_figures(base):
    (ours,) = [one for one in methods.schools(base) if one.in_force]
    assert ours.code == "darcy_weisbach"
    assert ours.head_m == pytest.approx(base.system.head_at(base.demand.needed_m3s))
    assert ours.flow_m3s == pytest.approx(base.sizing.chosen.candidate.flow_m3s)


@pytest.mark.parametrize("name", OPEN)
def test_rougher_walls_never_give_the_pump_more_flow(catalogue, name):
    found = {one.code: one for one in methods.schools(asked(JOBS[name], catalogue))}
    for new, usual, aged in (
        ("darcy_new", "darcy_weisbach", "darcy_aged"),
        ("hazen_new", "hazen_williams", "hazen_aged"),
    ):
        heads = [found[code].head_m for code in (new, usual, aged)]
        assert heads == sorted(heads)
        flows = [found[code].flow_m3s for code in (aged, usual, new) if found[code].flow_m3s]
        assert flows == sorted(flows)


def test_the_quick_rules_are_blind_to_the_flow_and_say_so(base, cellar, catalogue):
    found = {one.code: one for one in methods.schools(base)}
    route = base.system.route
    assert found["pond"].head_m - base.system.static_head_m == pytest.approx(0.1 * route.length_m)
    elbows_90, elbows_45 = 3, 3  # of the cellar's fittings
    assert found["aquarium"].head_m - found["pond"].head_m == pytest.approx(
        0.305 * elbows_90 + 0.152 * elbows_45 - 0.1 * base.system.static_head_m, abs=0.01
    )
    faster = {
        one.code: one
        for one in methods.schools(
            asked(changed(cellar, ("answers.stated_flow", "14 m3/h")), catalogue)
        )
    }
    assert faster["pond"].head_m == pytest.approx(found["pond"].head_m)
    assert any("outside its range" in caution.text("metric") for caution in faster["pond"].cautions)
    assert any("more friction" in caution.text("us") for caution in found["pond"].cautions)


def test_hazen_williams_warns_outside_its_bores_and_temperatures(cellar, catalogue):
    warm = asked(changed(cellar, ("answers.water_temperature", "45 °C")), catalogue)
    said = [
        caution.text("metric")
        for one in methods.schools(warm)
        if one.code == "hazen_williams"
        for caution in one.cautions
    ]
    assert any("bores of 50" in text for text in said)
    assert any("water of 4" in text for text in said)


def test_a_quick_rule_that_sees_too_much_says_that_the_pump_cannot(catalogue):
    found = {
        one.code: one for one in methods.schools(asked(JOBS["cabins-over-the-ridge"], catalogue))
    }
    assert found["pond"].status == "cannot_lift"
    assert found["pond"].flow_m3s is None


# --- sizes


def test_sizes_of_a_leg_grow_slower_and_lose_less(base, catalogue):
    found = sizes.sizes(base, catalogue, "b")
    speeds, heads = (
        [one.velocity_m_s for one in found.options],
        [one.head_m for one in found.options],
    )
    assert speeds == sorted(speeds, reverse=True)
    assert heads == sorted(heads, reverse=True)
    assert [one.now for one in found.options].count(True) == 1
    assert {one.pace for one in found.options} == {"slow", "ideal", "fast"}
    low, high = found.band_m_s
    assert all((one.pace == "ideal") == (low <= one.velocity_m_s <= high) for one in found.options)


def test_taking_a_size_gives_what_its_row_promised(cellar, catalogue, base):
    row = next(
        one for one in sizes.sizes(base, catalogue, "b").options if one.pipe.endswith("63 mm")
    )
    taken = size(changed(cellar, ("legs.b.pipe", row.pipe)), catalogue)
    assert taken.chosen.candidate.pump.name == row.pump_name
    assert taken.match.fit_count == row.fits
    assert taken.system.head_at(base.demand.needed_m3s) == pytest.approx(row.head_m)
    assert taken.chosen.operating_point.point.flow_m3s == pytest.approx(row.flow_m3s)


def test_the_whole_run_widens_up_to_where_it_stops_mattering(base, catalogue, cellar):
    found = run_sizes.run_sizes(base, catalogue)
    steps = [one.steps for one in found]
    assert steps == list(range(steps[0], steps[0] + len(steps)))
    assert 0 in steps
    heads = [one.head_m for one in found]
    assert heads == sorted(heads, reverse=True)
    assert all(one.matters for one in found[:-1] if one.steps > 0)
    assert not found[-1].matters  # the first that spares next to nothing is shown, and said to
    for narrower, wider in itertools.pairwise(found):
        assert wider.spared_m == pytest.approx(narrower.head_m - wider.head_m)
    wider = next(one for one in found if one.steps == 1)
    taken = size(changed(cellar, ("run", wider.text)), catalogue)
    assert taken.system.head_at(base.demand.needed_m3s) == pytest.approx(wider.head_m)
    assert taken.chosen.candidate.pump.name == wider.pump_name


def test_the_suction_goes_along_only_round_a_loop(catalogue):
    for name, along in (("hydrotherapy-tub", True), ("bakery-cistern", False)):
        job = JOBS[name]
        suction = {leg.id for leg in job.legs if leg.side == "suction"}
        option = run_sizes.run_sizes(asked(job, catalogue), catalogue)[-1]
        assert bool(suction & {leg for leg, _ in option.pipes}) == along, name


def test_the_pipes_of_the_run_are_all_taken_or_none(cellar):
    edited = edit(cellar, "run", "b: PE100 SDR11 63 mm; a: nonsense")
    assert edited.problem
    assert edited.job.legs == cellar.legs
    with pytest.raises(GoneError):
        edit(cellar, "run", "zz: PE100 SDR11 63 mm")


def test_sizes_without_a_pump_tell_speeds_but_no_pace(cellar, catalogue):
    high = asked(changed(cellar, ("answers.rise", "160 mm")), EMPTY)
    found = sizes.sizes(high, EMPTY, "b")
    assert {one.flow_m3s for one in found.options} == {None}
    with pytest.raises(NotYet, match="needs a pump"):
        inverse.solve(high)


# --- the other way round: putting the answer in gives the head that was asked for


@pytest.mark.parametrize("name", OPEN)
def test_every_answer_put_in_uses_the_head_up_exactly(catalogue, name):
    base = asked(JOBS[name], catalogue)
    flow, answers = base.demand.needed_m3s, inverse.solve(base)
    there = base.pump.head_at(flow)
    for index, leg in enumerate(base.sizing.legs):
        longest = value(answers, f"longest.{leg.id}")
        if longest is not None and longest < 50_000:
            head = inverse.with_route_leg(
                base.system, index, lambda one, longest=longest: replace(one, length_m=longest)
            ).head_at(flow)
            assert (
                head == pytest.approx(there, rel=1e-6) or head < there
            )  # or other ground governs whatever its length
    last = len(base.sizing.legs) - 1
    highest = value(answers, "highest")
    assert inverse.with_route_leg(
        base.system, last, lambda one: replace(one, end_elevation_m=highest)
    ).head_at(flow) == pytest.approx(there, rel=1e-9)
    lower = replace(base.system.route, start_level_m=value(answers, "level"))
    assert replace(base.system, route=lower).head_at(flow) == pytest.approx(there, rel=1e-9)
    with_pressure = replace(base.system.route, delivery_pressure_pa=value(answers, "pressure"))
    if value(answers, "pressure") > 0:
        assert replace(base.system, route=with_pressure).head_at(flow) == pytest.approx(
            there, rel=1e-6
        )


def test_how_high_the_pump_may_stand_leaves_the_npsh_that_is_wanted(catalogue):
    job = JOBS["bakery-cistern"]
    base = asked(job, catalogue)
    lift, now = (
        getattr(one, name).value_si
        for one in inverse.solve(base)
        if one.code == "lift"
        for name in ("value", "now")
    )
    assert now < lift
    sinks = base.system.route.start_level_m - (lift - now)
    lower = replace(base.system, route=replace(base.system.route, start_level_m=sinks))
    flow, level_m, altitude_m = (
        base.demand.needed_m3s,
        *base.sizing.kind.suction_at(base.sizing.facts),
    )
    found = suction(
        water=lower.water,
        altitude_m=altitude_m,
        level_above_pump_m=sinks - level_m,
        suction_loss_m=lower.suction_loss_m(flow),
        npsh_required_m=base.pump.npsh_required_at(flow),
    )
    by_ratio = (base.rules.low("NPSH-01") - 1.0) * base.pump.npsh_required_at(flow)
    wanted = max(by_ratio, base.rules.value("NPSH-03"))
    assert found.npsh_margin_m == pytest.approx(wanted, rel=2e-3)


def test_no_lift_is_told_of_a_pump_in_the_water_or_of_a_silent_maker(base, catalogue):
    assert "lift" not in {one.code for one in inverse.solve(base)}
    dry = asked(JOBS["bakery-cistern"], catalogue)
    silent = replace(dry, curve=replace(dry.curve, npsh_required_m=None))
    found = next(one for one in inverse.solve(silent) if one.code == "lift")
    assert found.value is None
    assert "ask" in found.note.text("metric")


def test_a_typed_head_takes_the_place_of_the_pumps(base):
    more, less = (value(inverse.solve(base, head_m=head), "highest") for head in (12.0, 9.0))
    assert more - less == pytest.approx(3.0, abs=1e-9)
    with pytest.raises(StopIteration):
        value(
            inverse.solve(base, flow_m3s=1.0), "highest"
        )  # far beyond the pump's curve: only that is told


def test_the_narrowest_pipe_is_the_narrowest_that_lets_the_flow_through(cellar, catalogue, base):
    answers = inverse.solve(base)
    narrowest = value(answers, "narrowest.a")
    fitting = [changed(cellar, ("legs.a.pipe", f"PVC-U PN10 {size_mm} mm")) for size_mm in (40, 50)]
    there = base.pump.head_at(base.demand.needed_m3s)
    heads = [size(job, catalogue).system.head_at(base.demand.needed_m3s) for job in fitting]
    assert (narrowest == "PVC-U PN10 40 mm") == (heads[0] <= there)
    assert heads[1] <= there


def test_nothing_comes_when_the_water_has_sunk_that_far(base):
    stops = value(inverse.solve(base), "stops")
    sunk = replace(base.system, route=replace(base.system.route, start_level_m=stops))
    assert sunk.static_head_m == pytest.approx(base.pump.shut_off_head_m)
    assert (
        operating_point(
            base.pump, replace(sunk, route=replace(sunk.route, start_level_m=stops - 0.01))
        ).point
        is None
    )


def test_a_level_below_the_floor_of_the_pit_is_called_that(base):
    notes = {
        answer.code: answer.note.text("metric")
        for answer in inverse.solve(base)
        if answer.code in ("level", "stops")
    }
    levels = {
        answer.code: answer.value.value_si
        for answer in inverse.solve(base)
        if answer.code in ("level", "stops")
    }
    for code, level in levels.items():
        assert ("below the floor" in notes[code]) == (
            level < 0.0
        )  # the cellar's levels count from the bottom of its pit
    assert levels["stops"] < 0.0


def test_a_closed_loop_has_no_levels_to_solve_for(catalogue):
    codes = {one.code for one in inverse.solve(asked(JOBS["hydrotherapy-tub"], catalogue))}
    assert codes == {"head", "longest.a", "longest.b", "narrowest.a", "narrowest.b"}


# --- reach


@settings(max_examples=100)
@given(st.floats(0.03, 0.2), st.floats(1e-4, 2e-2), st.floats(0, 30), st.floats(10, 80))
def test_the_longest_run_of_a_force_main_uses_up_its_head(bore, flow, lift, available):
    common = {
        "inside_diameter_m": bore,
        "roughness_m": 7e-6,
        "k_sum": 5.0,
        "water": water(12),
        "flow_m3s": flow,
        "daily_volume_m3": 2.0,
        "static_lift_m": lift,
        "available_head_m": available,
        "minimum_velocity_m_s": 0.6,
    }
    found = force_main(length_m=100.0, **common)
    again = force_main(length_m=found.longest_run_m, **common)
    if found.longest_run_m > 0:
        assert again.total_head_m == pytest.approx(available, rel=1e-9)
    assert found.highest_lift_m == pytest.approx(
        available - found.friction_head_m - found.fitting_loss_m
    )


def test_speed_head_and_standing_time_bound_a_main_together(catalogue):
    base = asked(JOBS["cabins-over-the-ridge"], catalogue)
    found = reach.reaches(base)
    assert found.leg_name == "the ridge main"
    fresh = [row.fine_limit_m for row in found.rows]
    assert fresh == sorted(fresh, reverse=True)
    for row in found.rows:
        assert row.scours == (row.velocity_m_s >= found.scour_m_s * (1 - 1e-9))
        assert row.watched_m == (min(row.head_limit_m, row.septic_limit_m) if row.scours else 0.0)
        assert row.feasible_m <= row.watched_m
    picked = ("pump", base.sizing.chosen.candidate.pump.pump_id)
    for row in found.rows:  # what a size promises, the worksheet says when it is taken
        taken = size(
            changed(JOBS["cabins-over-the-ridge"], ("legs.b.pipe", row.pipe), picked), catalogue
        )
        if taken.running is not None:
            there = next(one for one in taken.checks if one.code == "velocity_b")
            assert row.velocity_m_s == pytest.approx(there.working.result.value_si, rel=1e-6)
    now = next(row for row in found.rows if row.now)
    stands_at_limit = changed(
        JOBS["cabins-over-the-ridge"], ("legs.b.length", f"{now.septic_limit_m:.3f} m")
    )
    check = next(one for one in size(stands_at_limit, catalogue).checks if one.code == "standing")
    assert check.working.result.value_si == pytest.approx(found.septic_s, rel=1e-4)


def test_without_the_people_only_speed_and_head_bound_it(catalogue):
    stated = changed(
        JOBS["cabins-over-the-ridge"],
        ("answers.stated_flow", "2.8 m3/h"),
        ("answers.flow_from", "stated"),
        ("answers.people", ""),
    )
    found = reach.reaches(asked(stated, catalogue))
    assert {row.fine_limit_m for row in found.rows} == {None}
    with pytest.raises(NotYet, match="no far end"):
        reach.reaches(asked(JOBS["hydrotherapy-tub"], catalogue))


# --- floors


def test_the_highest_floor_has_least_and_the_lowest_stands_under_most(catalogue):
    base = asked(JOBS["converted-mill"], catalogue)
    found = floors.floors(base)
    peaks, stills = (
        [floor.peak_pa for floor in found.floors],
        [floor.still_pa for floor in found.floors],
    )
    assert peaks == sorted(peaks, reverse=True)
    assert stills == sorted(stills, reverse=True)
    assert found.worst == len(found.floors) - 1
    lowest = next(one for one in base.sizing.checks if one.code == "lowest")
    assert lowest.working.result.value_si == pytest.approx(stills[0])
    assert [floor.too_high for floor in found.floors] == [still > found.most_pa for still in stills]


def test_an_outlet_at_the_end_of_the_run_has_the_pressure_of_the_worst_outlet(catalogue):
    mill = changed(
        JOBS["converted-mill"], ("answers.lowest_outlet", "20.3 m"), ("answers.floors", "1")
    )
    base = asked(mill, catalogue)
    (only,) = floors.floors(base).floors
    worst = next(one for one in base.sizing.checks if one.code == "outlet")
    assert Measure(only.peak_pa, "pressure").text("metric") in worst.message.text("metric")


def test_a_pump_on_the_roof_helps_the_lower_floors(catalogue):
    roof = changed(
        JOBS["converted-mill"],
        ("answers.supply_from", "tank"),
        ("answers.tank_level", "1 m"),
        ("answers.lowest_outlet", "-20 m"),
        ("answers.floors", "6"),
        ("legs.b.ends_at", "-3 m"),
        ("legs.c.ends_at", "-2 m"),
    )
    found = floors.floors(asked(roof, catalogue))
    assert found.floors[0].level_m == -20
    assert found.floors[0].peak_pa > found.floors[-1].peak_pa


def test_a_tank_on_the_roof_gives_by_its_height_alone_and_wants_a_boost_at_the_top(catalogue):
    job = changed(JOBS["converted-mill"], ("answers.roof_tank", "25 m"))
    found = floors.floors(asked(job, catalogue))
    low, top = found.floors[0], found.floors[-1]
    assert top.level_m == 20.3
    assert low.from_roof.still_pa == pytest.approx(9.80665 * 999.5 * (25 - 0.8), rel=1e-3)
    for one in found.floors:
        assert one.from_roof.peak_pa < one.from_roof.still_pa
    short_m = (top.wanted_pa - top.from_roof.peak_pa) / (9.80665 * 999.5)
    assert found.boost_m == pytest.approx(short_m, rel=1e-3)
    assert top.from_roof.too_low
    assert not low.from_roof.too_high
    head_of_main_m = 1.6e5 / (9.80665 * 999.5)
    assert found.lift_m == pytest.approx(25 - head_of_main_m, rel=1e-3)
    high = floors.floors(asked(changed(job, ("answers.roof_tank", "80 m")), catalogue))
    assert high.boost_m == 0.0
    assert high.floors[0].from_roof.too_high


def test_a_drive_keeps_the_lowest_floors_under_what_wants_a_reducing_valve(catalogue):
    whole = floors.floors(asked(JOBS["converted-mill"], catalogue))
    held = floors.floors(
        asked(changed(JOBS["converted-mill"], ("answers.control", "drive")), catalogue)
    )
    assert whole.floors[0].too_high
    assert not held.floors[0].too_high
    assert held.floors[0].peak_pa == whole.floors[0].peak_pa


def test_floors_are_asked_of_buildings_only(base, catalogue):
    with pytest.raises(NotYet, match="only a building"):
        floors.floors(base)
    with pytest.raises(NotYet, match="number of floors"):
        floors.floors(asked(changed(JOBS["converted-mill"], ("answers.floors", "")), catalogue))


def test_nothing_is_asked_before_flow_and_run_are_known(catalogue):
    with pytest.raises(NotYet, match="as soon as"):
        asked(JOBS["chandlers-undercroft"], catalogue)


def test_hazen_williams_in_force_warns_on_the_sheet_where_it_does_not_hold(cellar, catalogue):
    def found(job):
        return next(
            (check for check in size(job, catalogue).checks if check.code == "friction_range"), None
        )

    assert found(cellar) is None
    check = found(
        changed(cellar, ("friction", "hazen_williams"), ("answers.water_temperature", "45 °C"))
    )
    text = check.message.text("us")
    assert "1.969\u00a0in" in text
    assert "86\u00a0°F" in text
    wide = [(f"legs.{leg.id}.pipe", "PVC-U PN10 63 mm") for leg in cellar.legs]
    assert found(changed(cellar, ("friction", "hazen_williams"), *wide)) is None
