"""Readings over the years: the ellipse of error, wear, what to read next, the run as built."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from sizing.aftercare.commissioning.error_ellipse import ellipse
from sizing.aftercare.commissioning.grades import GRADES, band, grade
from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.promise import promise_of as read_back
from sizing.aftercare.commissioning.readings import Reading, compare
from sizing.aftercare.commissioning.surer import as_built_share, next_reading
from sizing.aftercare.commissioning.trend import Wear, allowed_wear, trend, wear_of
from sizing.aftercare.commissioning.typed_readings import gather, readings_of
from sizing.analysis.changed import known
from sizing.analysis.commissioning import promise_of
from sizing.base.errors import SizingError, UnknownName
from sizing.editing.edit import edit
from sizing.size import size
from tests.sizing.test_commissioning import CURVE, PROMISED, head, readings
from tests.sizing.test_over_time import base

PROMISE = Promise(
    static_m=4.0,
    k_s2_m5=6e5,
    start_level_m=-1.0,
    outlet_bore_m=0.05,
    suction_bore_m=0.05,
    density_kg_m3=998.2,
    phases=1,
    flow_m3s=2.78e-3,
    head_m=8.7,
    needed_flow_m3s=2.4e-3,
    starts_per_s=0.002,
    watched=("velocity",),
)


def test_a_promise_is_read_back_as_it_was_and_nothing_else_is():
    assert read_back(PROMISE.record()) == PROMISE
    with pytest.raises(SizingError, match="no record"):
        read_back({"format": "kyrtos-job/1"})


def test_a_job_promises_what_its_sheet_says():
    found = promise_of(base("01"))
    running = base("01").sizing.running
    assert found.flow_m3s == running.flow_m3s
    assert found.static_m + found.k_s2_m5 * found.flow_m3s**2 == pytest.approx(found.head_m)
    assert 1 < found.starts_per_s * 3600 < 15


def test_the_ellipse_holds_what_chance_gives_and_leans():
    """86 % of 4,000 draws of the readings lie within two sigmas (1 - exp(-2))."""
    one = readings()
    edge = np.array(ellipse(one))
    middle = np.array([one.flow_m3s, one.head_m])
    dice = np.random.default_rng(3)
    draws = []
    for _ in range(4000):
        flow = dice.normal(one.flow_m3s, one.meter_m3s.sigma)
        gauge = dice.normal(one.outlet.pressure_pa.value, one.outlet.pressure_pa.sigma)
        level = dice.normal(one.water_level_m.value, one.water_level_m.sigma)
        other = replace(
            one,
            meter_m3s=Reading(flow),
            outlet=replace(one.outlet, pressure_pa=Reading(gauge)),
            water_level_m=Reading(level),
        )
        draws.append((other.flow_m3s, other.head_m))
    off = np.array(draws) - middle
    whole = np.linalg.inv(np.cov(off.T))
    inside = np.einsum("ij,jk,ik->i", off, whole, off) <= 4.0
    assert inside.mean() == pytest.approx(1 - math.exp(-2), abs=0.02)
    reach = np.einsum("ij,jk,ik->i", edge - middle, whole, edge - middle)
    assert reach == pytest.approx(np.full(len(edge), 4.0), rel=0.15)


@pytest.mark.parametrize(
    ("rate", "gauge_pa", "sure"), [(0.03, 800.0, True), (0.002, 4000.0, False)]
)
def test_wear_is_found_at_its_rate_or_called_unsure(rate, gauge_pa, sure):
    points = []
    for years in (0.0, 1.0, 2.0, 3.0, 4.0):
        worn = readings(2.4e-3, head(2.4e-3, 1 - rate * years))
        worn = replace(
            worn,
            outlet=replace(
                worn.outlet, pressure_pa=Reading(worn.outlet.pressure_pa.value, gauge_pa)
            ),
        )
        points.append(wear_of(compare(worn, PROMISED), years))
    found = trend(points, allowed_wear(PROMISE, CURVE))
    assert found.rate_per_year == pytest.approx(rate, rel=1e-6)
    assert found.is_sure is sure
    assert (found.misses_in_years is not None) is sure


def test_when_it_misses_its_duty_is_where_the_lowered_curve_meets_the_need():
    allowed = allowed_wear(PROMISE, CURVE)
    needed = 4.0 + 6e5 * 2.4e-3**2
    assert (1 - allowed) * float(CURVE.head_m(2.4e-3)) == pytest.approx(needed)
    points = [Wear(at, 0.02 * at, 0.004) for at in (0.0, 1.0, 2.0, 3.0)]
    found = trend(points, allowed)
    assert found.now == pytest.approx(0.06)
    assert found.misses_in_years == pytest.approx(allowed / 0.02 - 3.0)
    assert 0.1 < found.misses_sigma < 2.0
    late = trend([Wear(one.years + 20, one.share + 0.4, one.sigma) for one in points], allowed)
    assert late.misses_in_years == 0.0


def test_a_duty_that_was_never_made_leaves_no_figure():
    assert allowed_wear(replace(PROMISE, needed_flow_m3s=3.9e-3), CURVE) is None
    assert allowed_wear(replace(PROMISE, needed_flow_m3s=9e-3), CURVE) is None


@pytest.mark.parametrize(
    ("points", "says"),
    [
        ([Wear(0, 0, 0.01), Wear(1, 0.1, 0.01)], "needs 3"),
        ([Wear(1, 0, 0.01)] * 3, "different days"),
    ],
)
def test_too_little_for_a_trend_is_told(points, says):
    with pytest.raises(SizingError, match=says):
        trend(points, 0.2)


@pytest.mark.parametrize(
    ("change", "part"),
    [
        ({"meter_m3s": Reading(2.78e-3, 4e-4)}, "flow"),
        ({"water_level_m": Reading(-1.0, 1.5)}, "water"),
        ({"current_a": Reading(3.0, 0.6)}, "electric"),
        (
            {
                "current_a": Reading(3.0, 0.001),
                "meter_m3s": Reading(2.78e-3, 1e-6),
                "power_factor": Reading(0.9, 0.001),
                "outlet": replace(readings().outlet, pressure_pa=Reading(7.8e4, 100.0)),
            },
            None,
        ),
    ],
)
def test_what_is_least_sure_is_to_be_read_again(change, part):
    one = replace(readings(), **change)
    assert next_reading(compare(one, PROMISED)) == part


def test_the_run_as_built_is_k_over_k():
    share = as_built_share(7.2e5, 3e4, PROMISE)
    assert (share.value, share.sigma) == pytest.approx((1.2, 0.05))
    again = as_built_share(6e5, 3e4, replace(PROMISE, loss_share=1.2))
    assert again.value == pytest.approx(1.2)  # as promised, and that was as built already
    for k, promise, says in (
        (-1.0, PROMISE, "less head"),
        (1.0, replace(PROMISE, k_s2_m5=0.0), "without losses"),
    ):
        with pytest.raises(SizingError, match=says):
            as_built_share(k, 1.0, promise)


def test_losses_as_built_move_the_run_and_nothing_else(cellar, catalogue):
    cellar = edit(cellar, "pump", size(cellar, catalogue).chosen.candidate.pump.pump_id).job
    plain = size(cellar, catalogue)
    built = edit(cellar, "as_built", "150 % ± 10 %").job
    found = size(built, catalogue)
    flow = plain.demand.needed_m3s
    before, after = plain.system, found.system
    assert after.head_at(0.0) == before.head_at(0.0)
    assert np.array(after.losses_m(flow)) == pytest.approx(1.5 * np.array(before.losses_m(flow)))
    assert found.running.flow_m3s < plain.running.flow_m3s
    assert promise_of(known(found)).loss_share == 1.5
    lines = found.head_breakdown.lines
    assert any(("times, as built" in dict(line.working.inputs)) for line in lines if line.working)
    assert known(found).sizing.job.as_built.provenance == "measured"
    assert edit(built, "as_built", "").job.as_built is None


@pytest.mark.parametrize("text", ["900 %", "5 %", "much", "-50 %"])
def test_losses_that_no_run_has_are_told(cellar, text):
    assert edit(cellar, "as_built", text).problem


def test_a_grade_is_a_band_round_the_curve():
    low_q, low_h, high_q, high_h = band(CURVE, GRADES["2B"])
    assert (high_q[-1] / low_q[-1], low_h[0] / high_h[0]) == pytest.approx(
        (1.08 / 0.92, 0.95 / 1.05)
    )
    with pytest.raises(UnknownName):
        grade("9Z")


TYPED = {"outlet": "0.8 bar", "volts": "230 V", "amps": "3 A"}
PIT = replace(PROMISE, pit_area_m2=0.5)


@pytest.mark.parametrize(
    ("given", "flow", "enough"),
    [
        ({"flow": "10 m3/h"}, 10 / 3600, True),
        ({"fall": "30 cm in 100 s"}, 0.5 * 0.003, True),
        ({"fall": "30 cm in 100 s", "rise": "5 cm in 50 s"}, 0.5 * 0.004, True),
        ({"rise": "5 cm in 50 s"}, None, False),
        ({}, None, False),
    ],
)
def test_the_flow_by_a_bucket_or_by_the_pit(given, flow, enough):
    read = gather(TYPED | given, "metric")
    assert not read.problems
    assert read.enough is enough
    if enough:
        assert readings_of(read, PIT, unsteady=False).flow_m3s == pytest.approx(flow)


def test_without_a_pits_area_its_level_says_nothing():
    read = gather(TYPED | {"fall": "30 cm in 100 s"}, "metric")
    with pytest.raises(SizingError, match="plan area"):
        readings_of(read, PROMISE, unsteady=False)


@pytest.mark.parametrize("phases", [1, 3])
def test_a_power_meter_stands_for_volts_and_amps(phases):
    read = gather({"flow": "10 m3/h", "outlet": "0.8 bar", "watts": "640 W ± 4 %"}, "metric")
    found = readings_of(read, replace(PROMISE, phases=phases), unsteady=False)
    assert found.input_w == pytest.approx(640.0)
    assert found.sigma(lambda one: one.input_w) == pytest.approx(0.02 * 640.0)


def test_warm_water_is_lighter():
    texts = TYPED | {"flow": "10 m3/h", "temperature": "60 °C"}
    found = readings_of(gather(texts, "metric"), PROMISE, unsteady=False)
    assert found.density_kg_m3 == pytest.approx(983.2, abs=0.5)  # IAPWS-95 at 60 °C


@pytest.mark.parametrize(
    "text", ["fast", "30 cm", "30 cm in", "30 cm in 0 s", "-3 cm in 9 s", "9 m in 1 s", "3 in 4 kg"]
)
def test_a_pace_that_cannot_be_is_told(text):
    assert "fall" in gather(TYPED | {"fall": text}, "metric").problems


@pytest.mark.parametrize("text", ["12 in in 100 s", "12 in 100 s", "1 ft in 100 s"])
def test_inches_in_seconds_are_read_as_they_are_said(text):
    read = gather(TYPED | {"fall": text}, "us")
    assert read.read["fall"].value == pytest.approx(0.3048 / 100)
