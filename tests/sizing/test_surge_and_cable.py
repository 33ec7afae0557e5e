"""Surge on the demo lines and the cables of their pumps: hold, watch, fail, and why."""

import math
from dataclasses import replace

import pytest

from sizing.analysis.changed import NotYet, known
from sizing.analysis.electrics import electrics
from sizing.analysis.surge import LAWS, surge_of
from sizing.base.errors import SizingError
from sizing.checks.long_line import modulus_pa
from sizing.editing.edit import edit
from sizing.over_time.simulation.surge import Line
from sizing.size import size
from tests.sizing.test_over_time import PUMPS, base


@pytest.mark.parametrize(
    ("name", "stops_s", "state"),
    [
        ("03", 1.0, "hold"),  # a few metres of pipe
        ("01", 1.0, "watch"),  # sucks at the top of the riser for a moment
        ("08", 1.0, "fail"),  # parts at the top of its riser, if it stopped at once
        ("08", 20.0, "hold"),  # slowing down with the sun
        ("06", 1.0, "fail"),  # the column parts on the ridge
        ("06", 300.0, "watch"),  # with a flywheel: the far side draws at the ridge, and holds
    ],
)
def test_a_pump_that_trips(name, stops_s, state):
    found = surge_of(base(name), closes_s=60.0, stops_s=stops_s)
    assert found.state == state


def test_the_outlet_keeps_its_level_and_the_pump_loses_no_more_than_its_head():
    found = surge_of(base("06"), closes_s=60.0, stops_s=0.0)
    running = base("06").sizing.running
    first, last = found.places[0], found.places[-1]
    # standing still it lets water through, against its own resistance
    assert first.steady_grade_m - first.lowest_grade_m <= running.operating_head_m * 1.15
    assert last.lowest_grade_m == pytest.approx(last.steady_grade_m)
    grades = [one.steady_grade_m for one in found.places]
    assert grades == sorted(grades, reverse=True)


def test_a_valve_that_closes_sooner_than_the_wave_brings_the_whole_rise():
    quick, slow = (surge_of(base("07"), closes_s=t, stops_s=60.0) for t in (0.0, 60.0))
    # all of Joukowsky's rise; the line packs on from that, and the pump runs against the valve
    assert quick.closing_rise_pa > 0.99 * quick.instant_rise_pa
    running = base("07").sizing.running
    lost_m = slow.places[0].steady_grade_m - slow.places[-1].steady_grade_m
    shut_m = running.curve.shut_off_head_m - running.operating_head_m
    shut_pa = running.system.water.pressure_pa(shut_m + lost_m)
    assert slow.closing_rise_pa == pytest.approx(shut_pa, rel=0.1)
    assert quick.critical_time_s == pytest.approx(
        2
        * sum(leg.length_m for leg in base("07").sizing.running.system.route.legs)
        / quick.wave_speed_m_s
    )


def test_a_rating_that_is_passed_names_the_time_that_would_do():
    job = base("06").sizing.job
    for leg in job.legs:
        job = edit(job, f"legs.{leg.id}.rated", "4 bar").job
    found = surge_of(known(size(job, PUMPS)), closes_s=0.0, stops_s=60.0)
    assert found.within_rating is False
    assert found.state == "fail"
    needed = found.closure_needed_s
    for law in LAWS:
        there = surge_of(known(size(job, PUMPS)), closes_s=0.0, stops_s=60.0, law=law)
        at = surge_of(
            known(size(job, PUMPS)), closes_s=there.closure_needed_s, stops_s=60.0, law=law
        )
        assert at.within_rating
    sooner = surge_of(known(size(job, PUMPS)), closes_s=0.8 * needed, stops_s=60.0)
    assert not sooner.within_rating


def test_what_has_no_waves_is_told():
    with pytest.raises(NotYet, match="closed loop"):
        surge_of(base("13"), closes_s=1.0, stops_s=1.0)
    with pytest.raises(NotYet, match="how stiff"):
        surge_of(base("11"), closes_s=1.0, stops_s=1.0)


@pytest.mark.parametrize(
    ("material", "gpa"),
    [("PVC-U", 3.0), ("CPVC", 2.9), ("PE100", 1.1), ("HDPE", 1.1), ("PEX", 0.8), ("PVC DWV", 3.0)],
)
def test_stiffness_by_material(material, gpa):
    assert modulus_pa(material) == pytest.approx(gpa * 1e9)


def test_hoses_have_no_stated_stiffness_and_steel_is_the_fastest():
    assert modulus_pa("flexible PVC hose (spa hose)") is None
    line = Line(998.0, 2.19e9, 0.05, 0.003, modulus_pa("carbon steel"), 0.91, 100.0)
    assert line.wave_speed_m_s > 1200
    assert replace(line, pipe_modulus_pa=modulus_pa("PE100")).wave_speed_m_s < 400


@pytest.mark.parametrize(
    ("name", "length_m", "size_mm2", "does"),
    [("01", 10.0, "1 mm²", True), ("01", 120.0, "1.5 mm²", True), ("07", 4900.0, "", False)],
)
def test_the_thinnest_cable_that_does(name, length_m, size_mm2, does):
    found = electrics(base(name), length_m)
    assert (found.best is not None) is does
    if does:
        assert found.best.conductor.size == size_mm2
        thinner = [
            row
            for row in found.rows
            if row.conductor.resistance_ohm_per_km > (found.best.conductor.resistance_ohm_per_km)
        ]
        assert not any(row.does for row in thinner)


def test_the_longest_cable_keeps_both_limits_exactly():
    row = electrics(base("07"), 50.0).rows[0]
    at = electrics(base("07"), row.longest_m).rows[0]
    assert max(at.running / 0.05, at.starting / 0.15) == pytest.approx(1.0)


def test_softer_starts_draw_less_and_want_a_smaller_generator():
    found = electrics(base("07"), 50.0)
    direct, *softer = found.starts
    assert all(one.current_a < direct.current_a for one in softer)
    assert all(one.generator_va <= direct.generator_va for one in softer)
    running_va = found.volts * found.amps * (math.sqrt(3) if found.phases == 3 else 1)
    assert min(one.generator_va for one in softer) >= running_va
    labels = [one.kind.label for one in found.starts]
    assert ("star, then delta" in labels) is (found.phases == 3)


def test_without_a_current_or_with_a_length_that_no_cable_has_it_says_so():
    with pytest.raises(NotYet, match="gives no current"):
        electrics(base("08"), 30.0)
    with pytest.raises(SizingError, match="5 km"):
        electrics(base("01"), 0.0)
