"""Doses by the clock, many pumps on one main, the age of what leaves it: against small steps."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.base.errors import OutOfRange, SizingError
from sizing.over_time.simulation.age import ages_s
from sizing.over_time.simulation.dosing import DosingTank, run_dosing
from sizing.over_time.simulation.dwellings import Pits, run_dwellings

TANK = DosingTank(1.2, 0.15, 0.9, 1.2, 6e-4, 0.2, 3 * 3600.0)
HOURS = (0.1, 0.1, 0.1, 0.1, 0.2, 0.5, 0.9, 1.0, 0.8, 0.6, 0.5, 0.5) * 2


def rows(mean):
    return tuple((hour * 3600.0, share * mean) for hour, share in enumerate(HOURS))


@settings(max_examples=60, deadline=None)
@given(st.floats(0.0, 2e-4), st.floats(0.0, 1.2), st.floats(0.02, 0.6))
def test_doses_keep_the_balance(mean, level, dose_m3):
    tank = DosingTank(1.2, 0.15, 0.9, 1.2, 6e-4, dose_m3, 3 * 3600.0)
    run = run_dosing(tank, rows(mean), end_s=86_400.0, level_m=level)
    stored = (run.levels[-1][1] - level) * tank.area_m2
    assert run.inflow_m3 - run.dosed_m3 - run.overflow_m3 == pytest.approx(stored, abs=1e-9)
    assert all(begin < end for begin, end in run.doses)
    assert run.most_dosed_m3 <= dose_m3 * (1 + 1e-9)


def test_doses_are_those_of_small_steps():
    run = run_dosing(TANK, rows(1.2e-5), end_s=86_400.0, level_m=0.5)
    level, dosed, left, step, doses = 0.5, 0.0, 0.0, 1.0, 0
    inflow = dict(rows(1.2e-5))
    for second in range(86_400):
        if second and second % (3 * 3600) == 0 and left <= 0 and level > TANK.low_m:
            left, doses = TANK.dose_m3, doses + 1
        pumps = TANK.pump_flow_m3s if left > 0 and level > TANK.low_m else 0.0
        left = 0.0 if left > 0 and not pumps else max(left - pumps * step, 0.0)
        level += (inflow[second // 3600 * 3600.0] - pumps) * step / TANK.area_m2
        dosed += pumps * step
    assert len(run.doses) == doses
    assert run.levels[-1][1] == pytest.approx(level, abs=2e-3)
    assert run.dosed_m3 == pytest.approx(dosed, rel=0.01)


def test_high_water_lets_a_dose_go_out_of_turn_and_low_water_forbids_one():
    assert run_dosing(TANK, rows(1e-4), end_s=86_400.0, level_m=0.8).out_of_turn > 0
    dry = run_dosing(TANK, ((0.0, 0.0),), end_s=86_400.0, level_m=0.15)
    assert (dry.doses, dry.skipped) == ([], 7)
    with pytest.raises(SizingError, match="low float"):
        DosingTank(1.0, 0.9, 0.5, 1.2, 6e-4, 0.2, 3600.0)
    with pytest.raises(SizingError, match="a dose takes longer"):
        DosingTank(1.0, 0.1, 0.5, 1.2, 1e-5, 0.2, 3600.0)


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 40), st.floats(1e-6, 2e-5), st.floats(0.0, 20_000.0), st.integers(0, 9))
def test_all_pits_together_keep_their_balance(count, mean, cut_s, seed):
    pits = Pits(count, 0.15, 0.5, tuple(7e-4 / math.sqrt(n) for n in range(1, count + 1)))
    run = run_dwellings(pits, mean, HOURS, cut_s=cut_s, seed=seed)
    assert run.inflow_m3 - run.pumped_m3 == pytest.approx(run.stored_m3, abs=1e-9)
    assert sum(run.seconds_by_number.values()) == pytest.approx(86_400.0)
    assert run.most_at_once <= count
    assert run.running == run_dwellings(pits, mean, HOURS, cut_s=cut_s, seed=seed).running


def test_after_a_cut_more_run_at_once_than_on_a_usual_day():
    pits = Pits(30, 0.15, 5.0, tuple(7e-4 / math.sqrt(n) for n in range(1, 31)))
    usual = run_dwellings(pits, 4e-6, HOURS, seed=1)
    after = run_dwellings(pits, 4e-6, HOURS, cut_s=36_000.0, seed=1)
    assert after.most_at_once > usual.most_at_once
    assert after.running[0][1] == after.most_at_once
    assert after.all_done_s > 0
    assert usual.share_over(0) == pytest.approx(30 * 4e-6 / 7e-4, rel=0.35)  # the mean of chance


def test_a_pit_too_small_for_the_cut_overflows():
    pits = Pits(10, 0.15, 0.1, (7e-4,) * 10)
    assert run_dwellings(pits, 1e-5, HOURS, cut_s=86_400.0, seed=1).overflowing > 0
    with pytest.raises(SizingError, match="every number"):
        Pits(3, 0.1, 0.1, (1e-3,))


def test_what_leaves_a_main_is_as_old_as_the_pumping_says():
    # a cubic metre in the main; half a cubic metre is pumped in the first minute of every hour
    times, pumped = [0.0], [0.0]
    for hour in range(8):
        times += [hour * 3600.0 + 60.0, (hour + 1) * 3600.0]
        pumped += [pumped[-1] + 0.5] * 2
    leaves, ages = ages_s(times, pumped, 1.0)
    assert leaves[-1] == pytest.approx(7 * 3600.0 + 60.0)
    assert ages[-1] == pytest.approx(2 * 3600.0, abs=61.0)  # two pumpings ago
    steady, old = ages_s(np.arange(0.0, 7200.0, 60.0), np.arange(0.0, 7200.0, 60.0) * 1e-3, 1.0)
    assert old == pytest.approx(np.full(len(steady), 1000.0), abs=1.0)
    with pytest.raises(OutOfRange, match="main"):
        ages_s([0.0], [0.0], 0.0)
