"""What runs on after the stop, and what a trip does to a long line: by rule, on all kinds."""

import dataclasses

import numpy as np
import pytest

from sizing.analysis.changed import known
from sizing.analysis.surge import surge_of
from sizing.checks import surge
from sizing.checks.ground import clearing_velocity_m_s, ground_checks
from sizing.checks.long_line import long_line
from sizing.checks.surge import collapse_pa, surge_checks
from sizing.results.verdict import reasons, state_of
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS, check

CABINS, HOSTEL = "cabins-over-the-ridge", "hostel-willow-bed"


def test_a_main_whose_column_parts_is_watched_and_its_point_lies_on_the_ridge(catalogue):
    found = size(JOBS[CABINS], catalogue)
    surge = check(found, "surge")
    assert (surge.state, surge.about, state_of(found)) == ("fail", "site", "watch")
    legs = found.system.route.legs
    along, tops = 0.0, []
    for leg in legs:
        tops += [(along + top.share * leg.length_m, top.elevation_m) for top in leg.tops]
        along += leg.length_m
    ridge = max(tops, key=lambda one: one[1])[0]
    assert surge.message.values["along"].value_si == pytest.approx(ridge, abs=0.1 * along)


def test_sheet_and_dialog_run_the_same_waves(catalogue):
    found = size(JOBS[CABINS], catalogue)
    told = check(found, "surge").message.values
    asked = surge_of(known(found), closes_s=60.0)
    weight = found.system.water.density_kg_m3 * 9.80665
    assert told["fall"].value_si == pytest.approx(asked.trip_fall_pa / weight)
    lowest = min(one.lowest_head_m for one in asked.profile)
    assert told["head"].value_si == pytest.approx(lowest)
    assert asked.parts


def test_a_wave_that_comes_back_over_the_rating_fails(catalogue):
    """Without air at the top the check valve throws the water back at the pump."""
    job = JOBS["plant-nursery-well"]
    plain = check(size(job, catalogue), "surge")
    assert plain.state == "hold"
    weak = changed(job, *((f"legs.{leg.id}.rated", "5 bar") for leg in job.legs))
    running = size(weak, catalogue).running
    found = next(iter(surge_checks(running)))
    assert found.state == "fail"
    assert "bears" in found.message.text("metric")


def test_a_short_line_is_not_looked_at(catalogue):
    found = size(JOBS["bookbinders-cellar"], catalogue)
    assert not [one for one in found.checks if one.code == "surge"]


@pytest.mark.parametrize(
    ("ends_at", "siphons"), [("2.4 m", False), ("0.5 m", False), ("-0.5 m", True)]
)
def test_an_outlet_under_the_water_it_comes_from_siphons_on(catalogue, ends_at, siphons):
    job = JOBS["bakery-cistern"]
    last = job.legs[-1].id
    found = size(changed(job, (f"legs.{last}.ends_at", ends_at)), catalogue)
    codes = [one.code for one in found.checks]
    level = found.system.route.start_level_m if found.system else 0.0
    if found.no_pump_needed is None and found.system is not None:
        assert ("siphon" in codes) is (found.system.route.legs[-1].end_elevation_m < level)


def test_reasons_are_sorted_and_the_first_decides(catalogue):
    for job in JOBS.values():
        sizing = size(job, catalogue)
        if sizing.demand is None or sizing.system is None or sizing.wanted is None:
            continue
        found = reasons(sizing)
        order = [("bad", "ask", "watch").index(one.state) for one in found]
        assert order == sorted(order)
        assert state_of(sizing) == (found[0].state if found else "good")


def test_good_means_no_watched_must_no_failed_should_and_a_sure_duty(catalogue):
    """Every good one judged again by conditions written here, not by the verdict's own list."""
    for job in JOBS.values():
        sizing = size(job, catalogue)
        if state_of(sizing) != "good" or sizing.no_pump_needed is not None:
            continue
        for one in sizing.checks:
            assert one.weight == "note" or one.state != "fail", one.code
            assert one.weight != "must" or one.state == "hold", one.code
            assert not one.asks
        assert sizing.chosen.fits
        chance = sizing.chosen.candidate.chance
        assert chance is None or chance >= sizing.rules.value("CHO-16")
        assert not sizing.decisive
        assert not sizing.missing


def test_a_note_never_decides(catalogue):
    job = JOBS["plant-nursery-well"]
    sizing = size(job, catalogue)
    assert state_of(sizing) == "good"
    noted = tuple(
        dataclasses.replace(one, state="fail", weight="note") if one.code == "velocity_a" else one
        for one in sizing.checks
    )
    assert state_of(dataclasses.replace(sizing, checks=noted)) == "good"


@pytest.mark.parametrize(
    ("modulus", "outside_m", "wall_m", "bears_bar"),
    [
        (1.1e9, 0.063, 0.0058, 27.3),  # PE100 SDR 11: 2 E / 0.84 x (5.8 / 57.2)^3
        (3.0e9, 0.050, 0.0024, 9.16),
        (1.1e9, 0.200, 0.0049, 0.414),  # a thin drain: less than the air's 1 bar
    ],
)
def test_the_vacuum_that_presses_a_pipe_flat(modulus, outside_m, wall_m, bears_bar):
    assert collapse_pa(modulus, outside_m, wall_m) / 1e5 == pytest.approx(bears_bar, rel=5e-3)


@pytest.mark.parametrize("weaker", [1.0, 100.0])
def test_a_pipe_that_the_vacuum_presses_flat_is_told(catalogue, monkeypatch, weaker):
    bears = surge.collapse_pa
    monkeypatch.setattr(surge, "collapse_pa", lambda *pipe: bears(*pipe) / weaker)
    found = check(size(JOBS["cabins-over-the-ridge"], catalogue), "surge")
    said = found.message.text("metric")
    assert ("presses the pipe flat" in said) == (weaker > 1.0)
    assert ("times that vacuum" in said) == (weaker == 1.0)


@pytest.mark.parametrize(("times", "state"), [(3.0, "hold"), (1.5, "watch"), (0.8, "fail")])
def test_how_much_vacuum_a_pipe_should_bear(catalogue, monkeypatch, times, state):
    monkeypatch.setattr(surge, "least_against_vacuum", lambda *line: times)
    flat_ground = changed(
        JOBS["cabins-over-the-ridge"], ("legs.b.ends_at", "1 m"), ("legs.l1.ends_at", "30 m")
    )
    found = check(size(flat_ground, catalogue), "surge")
    assert found.state == state


def test_air_valves_and_a_vessel_stated_are_worked_out_with_the_line(catalogue):
    """What the remedy says is tried: less is taken away, and the verdict follows."""
    job = JOBS[CABINS]
    valves, vessel = ("answers.air_valves", "summits"), ("answers.vessel_air", "50 l")
    found = [size(changed(job, *edits), catalogue) for edits in ((), (vessel,), (valves, vessel))]
    told = [check(one, "surge") for one in found]
    assert [one.state for one in told] == ["fail", "watch", "hold"]
    assert [state_of(one) for one in found] == ["watch", "good", "good"]
    least = [one.message.values["head"].value_si for one in told]
    assert least == sorted(least)
    assert "must hold more than that" in told[1].message.text("metric")
    assert "Air valves at its high points" in told[2].message.text("metric")


def test_a_line_so_near_to_vapour_counts_as_parted(catalogue):
    found = size(changed(JOBS[CABINS], ("answers.air_valves", "summits")), catalogue)
    told = check(found, "surge")
    assert told.state == "fail"
    assert "so near to vapour" in told.message.text("metric")
    asked = surge_of(known(found), closes_s=60.0)
    assert (asked.parts, asked.state) == (True, "fail")  # the dialog says the same


@pytest.mark.parametrize(
    ("rated", "closes", "state"),
    [("16 bar", "1 s", "hold"), ("6 bar", "30 s", "fail"), ("9.9 bar", "1 s", "fail")],
)
def test_a_quick_valve_at_the_end_against_the_rating(catalogue, rated, closes, state):
    job = JOBS["plant-nursery-well"]
    edits = [(f"legs.{leg.id}.rated", rated) for leg in job.legs]
    found = size(changed(job, *edits, ("answers.valve_closes", closes)), catalogue)
    told = next(one for one in surge_checks(found.running) if one.code == "surge_valve")
    assert told.state == state
    asked = surge_of(known(found), closes_s=told.message.values["closes"].value_si)
    harmed = asked.within_rating is False or asked.valve_parts  # the dialog says the same
    assert harmed is (state == "fail")
    if rated == "9.9 bar":  # a slower one does, and the sheet says how slow
        needed = told.message.values["needed"].value_si
        assert 1.0 < needed < 120.0
        slower = changed(job, *edits, ("answers.valve_closes", f"{needed + 1:.0f} s"))
        told = next(
            one
            for one in surge_checks(size(slower, catalogue).running)
            if one.code == "surge_valve"
        )
        assert told.state == "hold"


@pytest.mark.parametrize(
    ("drop_m", "speed", "valves", "state"),
    [
        (0.0, 0.1, "none", "hold"),
        (8.0, 9.0, "none", "watch"),
        (8.0, 0.1, "none", "fail"),
        (8.0, 0.1, "summits", "hold"),
    ],
)
def test_air_at_a_high_point(catalogue, monkeypatch, drop_m, speed, valves, state):
    """It stays where the water is too slow to carry it on, and no valve lets it out."""
    job = changed(JOBS[CABINS], ("answers.air_valves", valves))
    running = size(job, catalogue).running
    route = running.system.route
    ground = next(leg for leg in route.legs if leg.tops)
    monkeypatch.setattr(
        type(running.system), "velocities_m_s", lambda *_: np.full((len(route.legs), 1), speed)
    )
    if not drop_m:
        flat = dataclasses.replace(ground, tops=ground.tops[:1])
        legs = tuple(flat if leg is ground else leg for leg in route.legs)
        system = dataclasses.replace(running.system, route=dataclasses.replace(route, legs=legs))
        running = dataclasses.replace(running, system=system)
    found = list(ground_checks(running))
    assert [one.state for one in found] == [state]


def test_the_velocity_that_carries_air_down_a_pipe():
    """1.1 sqrt(g D) (0.56 sqrt(S) + 0.61): 150 mm falling one in four."""
    assert clearing_velocity_m_s(0.15, 0.25) == pytest.approx(1.187, rel=1e-3)


def test_a_line_parted_at_its_high_points_is_the_same_line(catalogue):
    plain, valved = (
        long_line(size(changed(JOBS[CABINS], ("answers.air_valves", one)), catalogue).running)
        for one in ("none", "summits")
    )
    assert valved.length_m == pytest.approx(plain.length_m)
    assert valved.travel_s == pytest.approx(plain.travel_s)
    losses = [sum(leg.loss_m(plain.flow_m3s) for leg in one.legs) for one in (plain, valved)]
    assert losses[1] == pytest.approx(losses[0])
    assert len(valved.legs) > len(plain.legs)
    assert (plain.air_valves, len(valved.air_valves)) == ((), 2)
    for before, after in zip(valved.legs, valved.legs[1:], strict=False):
        assert before.ground[-1][1] == pytest.approx(after.ground[0][1])
    for number in valved.air_valves:  # each at a top: the pipe rises to it and falls behind it
        before, after = valved.legs[number], valved.legs[number + 1]
        assert before.ground[-2][1] < before.ground[-1][1] > after.ground[1][1]
