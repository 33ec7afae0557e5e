"""What every kind of job promises, and what each of the newer ones works out."""

from pathlib import Path

import pytest

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED
from sizing.base.units import SYSTEMS
from sizing.document.answers import Facts, MissingFact
from sizing.document.job import Figure, JobDocument, JobFileError, dump
from sizing.editing import intake
from sizing.editing.edit import edit, remark
from sizing.editing.edit_structure import add_row, remove_row
from sizing.kinds import kind, kinds
from sizing.results.verdict import verdict
from sizing.selection import pump_family
from sizing.size import size
from tests.sizing.conftest import changed

DEMO = Path(__file__).parents[2] / "demo" / "jobs"
JOBS = {path.stem[3:]: intake.loads(path.read_bytes()) for path in sorted(DEMO.glob("*.json"))}
WHOLE = {
    name: job
    for name, job in JOBS.items()
    if name not in ("chandlers-undercroft", "boathouse-crawl-space")
}
HOUR = 3600.0


def check(sizing, code):
    return next(one for one in sizing.checks if one.code == code)


def way(sizing, code):
    return next(one for one in sizing.demand.methods if one.code == code)


def test_the_twelve_kinds_of_the_trade_are_there():
    assert set(kinds()) == {
        "sump",
        "sewage",
        "effluent",
        "pressure_sewer",
        "well",
        "solar_well",
        "booster",
        "transfer",
        "pond",
        "aquarium",
        "spa",
        "demand_delivery",
    }


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_kind_holds_together(code):
    one = kind(code)
    keys = [question.key for question in one.questions]
    assert len(keys) == len(set(keys))
    assert {"water_temperature", "flow_from", "margin"} <= set(keys)
    assert {method.code for method in one.methods} <= {
        choice.code for choice in next(q for q in one.questions if q.key == "flow_from").choices
    }
    assert one.default_legs
    assert len(one.cautions) >= 3
    assert any("override this sizing" in caution for caution in one.cautions)
    for declared in one.lists:
        assert all(
            question.default_by(SHIPPED) is None
            or question.low <= question.default_by(SHIPPED).si(question.dimension)
            for question in declared.columns
        )


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_blank_sheet_says_what_it_still_needs_and_has_no_problem(code, catalogue):
    found = size(JobDocument(kind=code, legs=kind(code).default_legs), catalogue)
    assert found.missing
    assert found.problems == ()
    assert verdict(found).main.text("metric").startswith("Still needed")


@pytest.mark.parametrize("name", sorted(WHOLE))
def test_a_demo_job_is_whole_and_its_pump_is_of_the_family_that_the_chooser_names(name, catalogue):
    found = size(WHOLE[name], catalogue)
    assert found.missing == ()
    assert found.problems == ()
    assert found.chosen is not None
    assert found.chosen.fits
    seen = found.kind.situation(found.facts)
    lift = 0.0 if found.system.route.closed_loop else found.system.governing(0.0)[1]
    advice = pump_family.advise(
        liquid=seen.liquid, place=seen.place, feeds=seen.feeds, solid_m=seen.solid_m, lift_m=lift
    )
    assert found.chosen.candidate.pump.family in {one.family for one in advice if one.fits}
    assert sum(line.head_m for line in found.ledger.lines if line.counted) == pytest.approx(
        found.ledger.total_head_m, abs=1e-9
    )
    for system in SYSTEMS:
        assert all(one.message.text(system) for one in found.checks)


def test_changing_the_system_of_units_changes_no_result(catalogue):
    for job in WHOLE.values():
        found = {size(edit(job, "units", system).job, catalogue).at_flow_m3s for system in SYSTEMS}
        assert len(found) == 1


def test_booster_schools_differ_and_each_says_where_it_errs(catalogue):
    mill = size(JOBS["converted-mill"], catalogue)
    flows = {one.code: one.flow_m3s for one in mill.demand.methods if one.flow_m3s}
    assert {
        "per_head",
        "hunter_tank",
        "hunter_valve",
        "british",
        "en806",
        "din1988",
        "statistical",
        "statistical_idle",
    } <= set(flows)
    assert (
        flows["hunter_valve"]
        > flows["hunter_tank"]
        > flows["din1988"]
        > flows["statistical"]
        >= flows["statistical_idle"]
    )
    assert all(one.caution for one in mill.demand.methods if one.code not in ("stated",))
    assert "stand-in" in way(mill, "en806").caution
    assert mill.demand.reason == "it knows the kind of building"


def test_thirstier_showers_take_flow_and_leave_less_pressure(catalogue):
    found = check(size(JOBS["converted-mill"], catalogue), "upgrade").message.values
    assert found["needed"].value_si > found["before"].value_si
    assert found["p_after"].value_si < found["p_before"].value_si
    assert "upgrade" not in {
        one.code
        for one in size(
            changed(JOBS["converted-mill"], ("answers.upgrade", "none")), catalogue
        ).checks
    }


def test_a_school_that_knows_no_rain_head_says_so(catalogue):
    job = changed(JOBS["converted-mill"], ("lists.fixtures.r1.fixture", "rain_shower"))
    found = way(size(job, catalogue), "hunter_tank")
    assert found.flow_m3s is None
    assert "no figure for a rain head" in found.problem


def test_a_well_is_never_pumped_over_its_yield(catalogue):
    poor = changed(
        JOBS["plant-nursery-well"],
        ("answers.tested_yield", "1.2 m3/h"),
        ("answers.test_drawdown", "9.5 m"),
        ("answers.outlets", "30"),
        ("answers.flow_from", "outlets"),
    )
    found = size(poor, catalogue)
    assert found.demand.needed_m3s == pytest.approx(1.2 / HOUR)
    assert "gives no more" in found.demand.reason
    # 30 outlets of 0.0631 l/s less 1.2 m3/h, for half an hour
    storage = found.chosen and check(found, "storage").message.values["volume"].value_si
    assert storage == pytest.approx((30 * 0.0631e-3 - 1.2 / HOUR) * 1800, rel=1e-3)


def test_a_well_sinks_with_the_flow(catalogue):
    found = size(JOBS["plant-nursery-well"], catalogue)
    sinks = next(line.head_m for line in found.ledger.lines if line.code == "drawdown")
    assert sinks == pytest.approx(9.5 * found.at_flow_m3s / (4.1 / HOUR))


def test_animals_drink_by_their_kind(catalogue):
    job = changed(
        JOBS["plant-nursery-well"],
        ("lists.stock.r1.animal", "horse"),
        ("lists.stock.r1.count", "6"),
        ("answers.flow_from", "day"),
    )
    # 4 people of 125 l, 1.8 m3 of garden, 6 horses of 45.4 l (rule WEL-A-horse), drawn in 2 h
    assert size(job, catalogue).demand.inflow_m3s == pytest.approx(
        (0.5 + 1.8 + 6 * 0.0454) / 7200, rel=1e-3
    )


def test_more_sun_needs_less_flow_and_the_hardest_month_governs(catalogue):
    base = size(JOBS["observatory-solar-well"], catalogue)
    dark = size(
        changed(JOBS["observatory-solar-well"], ("lists.months.m10.sun", "0.8 h")), catalogue
    )
    assert way(dark, "months").flow_m3s == pytest.approx(1.6 / (0.8 * HOUR))
    assert "October" in [value for _, value in way(dark, "months").working.inputs]
    assert way(base, "months").flow_m3s < way(dark, "months").flow_m3s
    # twelve months, each with what it gives and what it needs
    assert len(check(base, "months").message.values) == 24


def test_a_weir_by_its_sheet_and_by_its_equation_agree(catalogue):
    rill = size(JOBS["hospice-rill"], catalogue)
    thick = dict(way(rill, "sheet").working.inputs)["so thick over the crest"].value_si
    again = size(
        changed(JOBS["hospice-rill"], ("answers.weir_head", f"{thick * 1000:.6f} mm")), catalogue
    )
    assert way(again, "head").flow_m3s == pytest.approx(way(rill, "sheet").flow_m3s, rel=1e-5)
    assert way(rill, "sheet").flow_m3s == pytest.approx(
        0.42 * 124e-3 / 60, rel=2e-3
    )  # rule PND-03: 124 l/min for each metre


def test_heights_from_the_pump_or_from_the_surface_are_the_same_job(catalogue):
    rill = JOBS["hospice-rill"]
    surface = changed(rill, ("answers.measured_from", "surface"), ("legs.a.ends_at", "1.30 m"))
    assert size(surface, catalogue).system.static_head_m == pytest.approx(
        size(rill, catalogue).system.static_head_m
    )


def test_spa_jets_are_split_over_the_pumps_and_height_counts_nothing(catalogue):
    tub = size(JOBS["hydrotherapy-tub"], catalogue)
    total = (14 * 42 + 8 * 26) / 60000
    assert way(tub, "jets").flow_m3s == pytest.approx(total)
    assert tub.demand.needed_m3s == pytest.approx(total / 2)
    assert tub.system.static_head_m == 0.0
    assert {line.code for line in tub.ledger.lines} == {"pipe", "fittings", "device"}
    assert (
        check(
            size(changed(JOBS["hydrotherapy-tub"], ("answers.suction_outlets", "1")), catalogue),
            "outlets",
        ).state
        == "fail"
    )


def test_jets_get_the_wanted_pressure_at_the_wanted_flow(catalogue):
    tub = size(JOBS["hydrotherapy-tub"], catalogue)
    pressure = check(tub, "jets").message.values["pressure"].value_si
    assert pressure == pytest.approx(
        0.75e5 * (tub.at_flow_m3s / tub.demand.needed_m3s) ** 2, rel=1e-6
    )


def test_an_aquarium_adds_its_take_offs(catalogue):
    tank = size(JOBS["marine-classroom"], catalogue)
    assert way(tank, "plumbed").flow_m3s == pytest.approx(0.620 * 3 / HOUR + 0.006 / 60)
    assert way(tank, "box").flow_m3s == pytest.approx(0.620 * 8 / HOUR * 0.5 + 0.006 / 60)
    flooded = size(changed(JOBS["marine-classroom"], ("answers.sump_level", "360 mm")), catalogue)
    assert check(flooded, "power_cut").state == "fail"


def test_take_offs_neither_turn_the_tank_over_nor_run_through_the_return_pipe(catalogue):
    tank = size(JOBS["marine-classroom"], catalogue)
    (pipe,), more = tank.system.route.legs, 0.006 / 60
    display = 1 - more / tank.demand.needed_m3s
    assert pipe.flow_share == pytest.approx(display)
    turns = check(tank, "turnover").message.values["turns"].value_si
    assert turns == pytest.approx(tank.at_flow_m3s * display / 0.620)
    up_there = changed(JOBS["marine-classroom"], ("answers.take_offs_leave", "display"))
    assert size(up_there, catalogue).system.route.legs[0].flow_share == 1
    greedy = changed(JOBS["marine-classroom"], ("lists.take_offs.r1.flow", "5 m3/h"))
    stated = changed(greedy, ("answers.stated_flow", "2 m3/h"), ("answers.flow_from", "stated"))
    assert "take-offs want more" in str(size(stated, catalogue).problems[0])


def test_a_fountain_asks_how_high_its_jets_rise(catalogue):
    """Its flow alone finds a pump too weak for its nozzles."""
    rill = changed(JOBS["hospice-rill"], ("answers.place", "fountain"))
    asked = size(rill, catalogue)
    assert [one.path for one in asked.missing] == ["answers.jet_height"]
    told = size(changed(rill, ("answers.jet_height", "1 m")), catalogue)
    assert not told.missing
    assert told.needed_head_m > size(JOBS["hospice-rill"], catalogue).needed_head_m + 1
    beside = changed(
        JOBS["hospice-rill"], ("lists.jets.r1.count", "3"), ("lists.jets.r1.flow", "5 l/min")
    )
    assert [one.path for one in size(beside, catalogue).missing] == ["answers.jet_height"]


def test_a_timed_bucket_is_a_flow(catalogue):
    van = size(JOBS["soup-kitchen-van"], catalogue)
    assert way(van, "taps").flow_m3s == pytest.approx(2 * 0.005 / 75 + 0.004 / 60)
    hunting = size(changed(JOBS["soup-kitchen-van"], ("answers.accumulator", "")), catalogue)
    assert check(hunting, "cycling").state == "fail"  # none is not better than a small one


def test_a_fill_with_draw_off(catalogue):
    bakery = size(changed(JOBS["bakery-cistern"], ("answers.draw_off", "5 l in 30 s")), catalogue)
    assert bakery.demand.needed_m3s == pytest.approx(2.2 / 2100 + 0.005 / 30)
    high = size(
        changed(
            JOBS["bakery-cistern"],
            ("answers.altitude", "4000 m"),
            ("answers.source_level", "-6 m"),
            ("legs.a.length", "9 m"),
        ),
        catalogue,
    )
    assert check(high, "suction").state == "fail" if high.checks else True


def test_pumps_of_many_dwellings_share_the_main(catalogue):
    cabins = JOBS["cabins-over-the-ridge"]
    alone, shared = (
        size(cabins, catalogue),
        size(
            changed(cabins, ("answers.arrangement", "own"), ("answers.flow_from", "chance")),
            catalogue,
        ),
    )
    shares = [leg.flow_share for leg in shared.system.route.legs]
    assert shares[0] == 1.0
    assert shares[1] == shares[2] >= 2.0
    assert shared.demand.needed_m3s * shares[1] == pytest.approx(
        way(shared, "chance").flow_m3s, rel=0.5
    )
    assert check(alone, "standing").state == "watch"
    clean = [(f"legs.{leg.id}.wall", "new and clean") for leg in cabins.legs]
    ridge = size(changed(cabins, *clean), catalogue)  # in sewage's wall its end governs
    assert check(ridge, "summit").state == "watch"


def test_a_list_is_edited_row_by_row():
    job = JobDocument(kind="spa")
    grown = add_row(job, "jets")
    assert [row.id for row in grown.lists["jets"]] == ["r1", "r2"]
    made = edit(grown, "lists.jets.r2.flow", "ten buckets")
    assert "is not a unit" in made.problem or "no number" in made.problem
    assert made.job.pending == {"lists.jets.r2.flow": "ten buckets"}
    assert remove_row(made.job, "jets", "r2").pending == {}
    with pytest.raises(SizingError, match="given"):
        remove_row(JobDocument(kind="solar_well"), "months", "m1")
    with pytest.raises(SizingError, match="takes no more"):
        add_row(JobDocument(kind="solar_well"), "months")


def test_a_file_with_a_list_that_makes_no_sense_is_refused():
    import json

    for lists, says in (
        (
            {"jets": [{"id": "r1", "cells": {"count": "many"}}]},
            "lists.jets: r1.count: a figure is wanted",
        ),
        ({"taps": []}, "no list of this kind is called 'taps'"),
        ({"jets": [{"id": "r1"}, {"id": "r1"}]}, "two rows of the same id"),
    ):
        with pytest.raises(JobFileError, match=says):
            intake.loads(json.dumps(dump(JobDocument(kind="spa")) | {"lists": lists}))


def test_a_row_names_itself_in_what_is_missing():
    facts = Facts(
        changed(JobDocument(kind="pond"), ("lists.jets.r1.count", "3")),
        kind("pond").questions,
        kind("pond").lists,
    )
    with pytest.raises(MissingFact, match="Each takes in row 1 of jets is still needed"):
        facts.rows("jets")[0].si("flow")


def test_a_run_needs_a_leg_behind_the_pump(catalogue):
    bakery = changed(
        JobDocument(kind="transfer", legs=kind("transfer").default_legs),
        ("answers.source_level", "1 m"),
        ("legs.a.length", "2 m"),
        ("legs.a.ends_at", "0 m"),
    )
    assert "legs.b.length" in {one.path for one in size(bakery, catalogue).missing}
    all_before = changed(JOBS["bakery-cistern"], ("legs.b.side", "suction"))
    assert "no leg lies behind the pump" in size(all_before, catalogue).problems[0]
    swapped = changed(
        JOBS["bakery-cistern"], ("legs.a.side", "delivery"), ("legs.b.side", "suction")
    )
    assert "suction legs come first" in size(swapped, catalogue).problems[0]


# The fewest answers with which somebody new reaches a design flow on a blank sheet [m3/s], each
# reckoned by hand.
FIRST_FLOWS = {
    "sump": ((("answers.stated_flow", "10 l in 20 s"),), 0.5e-3 * 1.5),
    "sewage": ((("answers.people", "50"),), 50 * 0.120 / 86400 * 6),
    "effluent": (
        (
            ("answers.orifices", "40"),
            ("answers.orifice_diameter", "3 mm"),
            ("answers.daily_volume", "1 m3"),
        ),
        40 * 0.6 * 7.0686e-6 * (2 * 9.80665 * 0.76) ** 0.5,
    ),
    "pressure_sewer": ((("answers.dwellings", "30"),), 30 * 0.0315e-3 + 1.262e-3),
    "well": (
        (
            ("answers.outlets", "10"),
            ("answers.tested_yield", "5 m3/h"),
            ("answers.test_drawdown", "4 m"),
            ("answers.static_level", "12 m"),
            ("answers.pump_setting", "40 m"),
        ),
        10 * 0.0631e-3,
    ),
    "solar_well": (
        (
            ("answers.daily_need", "3 m3"),
            ("answers.latitude", "40 deg"),
            *((f"lists.months.m{month}.sun", "4 h") for month in range(1, 13)),
        ),
        3 / (4 * HOUR),
    ),
    "booster": (
        (("lists.fixtures.r1.count", "1"), ("lists.fixtures.r1.fixture", "shower")),
        0.15e-3,
    ),
    "transfer": ((("answers.volume", "1.8 m3"), ("answers.fill_time", "30 min")), 1e-3),
    "pond": ((("answers.weir_width", "1 m"),), 248e-3 / 60),
    "aquarium": ((("answers.tank_volume", "400 l"),), 0.4 * 3 / HOUR),
    "spa": ((("lists.jets.r1.count", "12"),), 12 * 0.883e-3),
    "demand_delivery": (
        (("lists.taps.r1.count", "2"), ("lists.taps.r1.flow", "5 l/min")),
        2 * 5e-3 / 60 * 1.1,
    ),
}


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_few_answers_reach_a_design_flow(code, catalogue):
    answers, flow = FIRST_FLOWS[code]
    blank = JobDocument(kind=code, legs=())
    found = size(changed(blank, *answers), catalogue)
    assert found.demand is not None, [one.label for one in found.missing]
    assert found.demand.needed_m3s == pytest.approx(flow, rel=2e-3)


@pytest.mark.parametrize("name", sorted(WHOLE))
def test_a_margin_is_added_once(name, catalogue):
    job = WHOLE[name]
    base = size(changed(job, ("answers.margin", "1.0 x")), catalogue).demand
    more = size(changed(job, ("answers.margin", "1.25 x")), catalogue).demand
    assert more.margin == 1.25
    assert (
        base.needed_m3s <= more.needed_m3s <= base.needed_m3s * 1.25 * (1 + 1e-9)
    )  # once, or less where scour or a yield governs


def asked(kind_code, key):
    return next(one for one in kind(kind_code).questions if one.key == key)


@pytest.mark.parametrize(
    ("kind_code", "key", "text", "meant"),
    [
        ("pond", "stated_flow", "1800 gpm", "1800 gph"),
        ("aquarium", "stated_flow", "900 gpm", "900 gph"),
        ("sump", "stated_flow", "60 l/s", "60 l/min"),
        ("sump", "pit_diameter", "450 m", "450 mm"),
        ("sump", "pit_diameter", "24 ft", "24 in"),
        ("demand_delivery", "tap_pressure", "25 bar", "25 psi"),
    ],
)
def test_the_likely_slip_of_the_unit_is_offered(kind_code, key, text, meant):
    question = asked(kind_code, key)
    figure = Figure.read(text, question.dimension, "")
    assert f"did you mean {meant}?" in remark(question, figure, "metric", SHIPPED)


@pytest.mark.parametrize(
    ("kind_code", "key", "text"),
    [
        ("demand_delivery", "tap_pressure", "35 psi"),
        ("demand_delivery", "tap_pressure", "2 bar"),
        ("sump", "pit_diameter", "54 in"),
        ("sump", "pit_diameter", "18 in"),
        ("pond", "stated_flow", "2450 gph"),
        ("well", "stated_flow", "8 gpm"),
    ],
)
def test_a_plain_and_usual_value_is_never_questioned(kind_code, key, text):
    question = asked(kind_code, key)
    figure = Figure.read(text, question.dimension, "")
    assert remark(question, figure, "us", SHIPPED) == ""


def test_nothing_is_offered_that_would_be_unusual_too():
    question = asked("sump", "pit_diameter")
    said = remark(question, Figure.read("9 in", "length", ""), "metric", SHIPPED)
    assert "unusual" in said
    assert "did you mean" not in said


def test_all_that_a_well_needs_is_told_at_once(catalogue):
    found = size(JobDocument(kind="well", legs=kind("well").default_legs), catalogue)
    labels = {one.label for one in found.missing}
    assert {
        "Depth to the standing water",
        "Tested yield",
        "Fall of the level in the test",
        "Depth of the pump",
        "Depth of the well",
    } <= labels
    assert "more (marked ▲)" in verdict(found).main.text("metric")


def test_a_year_without_any_need_breaks_nothing(catalogue):
    none = [(f"lists.months.m{month}.need", "0 l") for month in range(1, 13)]
    found = size(
        changed(
            JOBS["observatory-solar-well"],
            *none,
            ("answers.stated_flow", "0.5 m3/h"),
            ("answers.flow_from", "stated"),
        ),
        catalogue,
    )
    assert found.chosen is not None
    assert "tank_days" not in {one.code for one in found.checks}
    idle = size(changed(JOBS["observatory-solar-well"], *none), catalogue)
    assert any("comes out as zero" in problem for problem in idle.problems)


@pytest.mark.parametrize("latitude", ["66 deg", "-66 deg", "0 deg"])
@pytest.mark.parametrize("tilt", ["0 deg", "90 deg"])
def test_no_place_or_tilt_breaks_the_sun(latitude, tilt, catalogue):
    found = size(
        changed(
            JOBS["observatory-solar-well"], ("answers.latitude", latitude), ("answers.tilt", tilt)
        ),
        catalogue,
    )
    assert found.demand.needed_m3s > 0
