"""Logs read as they come, and inflow, pump and K found back from levels with noise."""

import math

import numpy as np
import pytest

from sizing.base.errors import SizingError
from sizing.over_time.simulation import measured
from sizing.over_time.simulation.measured import Fitted, read_log

AREA = 0.8


def pit_log(inflow=5e-4, pump=2e-3, noise=0.0, seed=1, cycles=6, drops=0.0):
    """A pit between 0.2 m and 0.6 m, a reading every 5 s."""
    random = np.random.default_rng(seed)
    level, falls, rows = 0.2, False, ["time [s],level [cm]"]
    for step in range(2000):
        level += (inflow - (pump if falls else 0.0)) * 5.0 / AREA
        falls = level >= 0.6 or (falls and level > 0.2)
        seen = level + random.normal(0.0, noise)
        rows.append(f"{step * 5},{'' if random.random() < drops else f'{100 * seen:.3f}'}")
    return read_log("\n".join(rows))


@pytest.mark.parametrize(
    ("head", "cell", "si"),
    [
        ("level [cm]", "42.5", 0.425),
        ("Depth (mm)", "425", 0.425),
        ("stage", "0.425", 0.425),
        ("level [ft]", "1.5", 0.4572),
    ],
)
def test_a_heading_names_quantity_and_unit(head, cell, si):
    log = read_log(f"t,{head}\n0,{cell}\n10,{cell}\n20,{cell}")
    assert log.values["level"][0] == pytest.approx(si)
    assert log.lasts_s == 20.0


def test_dates_semicolons_decimal_commas_and_drop_outs():
    log = read_log(
        "Date;Level [m];Flow [l/s]\n2026-11-26T23:00:00;0,50;1,5\n"
        "2026-11-26T23:00:30;;1,4\n2026-11-26 23:01:00;0,52;oops"
    )
    assert log.starts_h == 23.0
    assert log.times_s.tolist() == [0.0, 30.0, 60.0]
    assert math.isnan(log.values["level"][1])
    assert log.values["flow"][0] == pytest.approx(1.5e-3)
    assert math.isnan(log.values["flow"][2])


@pytest.mark.parametrize(("noise", "drops", "within"), [(0.0, 0.0, 0.02), (0.001, 0.05, 0.03)])
def test_inflow_and_pump_are_found_back(noise, drops, within):
    log = pit_log(noise=noise, drops=drops)
    inflow = measured.inflow(log, AREA)
    assert inflow.value == pytest.approx(5e-4, rel=within)
    assert abs(inflow.value - 5e-4) < 6 * inflow.error + within * 5e-4
    assert measured.pumped(log, AREA, inflow.value).value == pytest.approx(2e-3, rel=within)


def test_more_noise_makes_it_less_sure():
    calm, rough = (measured.inflow(pit_log(noise=noise), AREA) for noise in (2e-4, 2e-3))
    assert calm.error < rough.error


def test_at_night_counts_only_the_night():
    rows = ["time,level [m]"]
    level = 0.2
    for hour in range(24):
        for minute in range(0, 60, 10):
            level += (1e-4 if hour < 5 else 3e-4) * 600 / AREA
            level = 0.2 if level > 0.9 else level
            rows.append(f"2026-11-26T{hour:02}:{minute:02}:00,{level:.4f}")
    log = read_log("\n".join(rows))
    assert measured.inflow(log, AREA, at_night=True).value == pytest.approx(1e-4, rel=0.25)
    assert measured.inflow(log, AREA).value > 1.5e-4
    plain = read_log("seconds,level\n0,0.1\n600,0.2\n1200,0.3\n1800,0.4")
    assert measured.inflow(plain, AREA, at_night=True) is None  # nobody knows when it was
    assert measured.inflow(plain, AREA).value == pytest.approx(AREA * 0.1 / 600)


def test_k_follows_from_flow_and_curve_with_its_error():
    k = measured.run_k(Fitted(2e-3, 2e-5, 5), 8.0, 5.0, -500.0)
    assert k.value == pytest.approx(3.0 / 4e-6)
    moved = (8.0 - 500.0 * 2e-5 - 5.0) / (2.02e-3) ** 2
    assert k.error == pytest.approx(abs(moved - k.value), rel=0.03)


def test_a_log_without_levels_or_with_too_few_is_told():
    with pytest.raises(SizingError, match="has no level"):
        measured.stretches(read_log("time,flow\n0,1\n1,2\n2,3"))
    with pytest.raises(SizingError, match="too few"):
        measured.stretches(read_log("time,level\n0,1\n1,\n2,x"))
    with pytest.raises(SizingError, match="thin it"):
        read_log("time,level\n" + "\n".join(f"{n},1" for n in range(200_001)))
