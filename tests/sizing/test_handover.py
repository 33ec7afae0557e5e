"""Readings at a pump: uncertainty by hand and by chance, and each line of the diagnosis."""

import math
from dataclasses import replace

import numpy as np
import pytest

from sizing.base.errors import SizingError
from sizing.handover.diagnosis import TABLE, diagnose
from sizing.handover.readings import Gauge, Promised, Reading, Readings, compare
from sizing.pump.curve import PumpCurve

G, RHO = 9.80665, 998.2
FLOWS = (0.0, 1e-3, 2e-3, 3e-3, 4e-3)
CURVE = PumpCurve(FLOWS, (12.0, 11.5, 10.2, 8.2, 5.4), (400.0, 480.0, 560.0, 640.0, 730.0))
PROMISED = Promised(CURVE, 4.0, 6e5, 0.6, 0.015, 0.03)


def readings(flow=None, head=None, power=None, *, phases=1, unsteady=False, static=4.0, factor=0.9):
    """What would be read of a pump that gives a flow and a head and draws a power."""
    flow = 2.78e-3 if flow is None else flow
    head = float(CURVE.head_m(flow)) if head is None else head
    power = float(CURVE.powers_at([flow])[0]) if power is None else power
    bore, level = 0.05, -1.0
    speed = 4 * flow / (math.pi * bore**2)
    pressure = RHO * G * (head + level - 0.5 - speed**2 / (2 * G))
    ways = math.sqrt(3.0) if phases == 3 else 1.0
    return Readings(
        density_kg_m3=RHO,
        volume_m3=None,
        time_s=None,
        meter_m3s=Reading(flow, 0.01 * flow),
        outlet=Gauge(Reading(pressure, 1000.0), 0.5, bore),
        inlet=None,
        water_level_m=Reading(level, 0.01),
        discharge_level_m=level + static,
        phases=phases,
        voltage_v=Reading(230.0, 1.0),
        current_a=Reading(power / (ways * 230.0 * factor), 0.02),
        power_factor=Reading(factor, 0.01),
        unsteady=unsteady,
    )


def head(flow, share):
    return float(CURVE.head_m(flow)) * share


@pytest.mark.parametrize(
    ("read", "code"),
    [
        (readings(), "as_predicted"),
        (readings(2e-3, head(2e-3, 0.97)), "more_friction"),
        (readings(power=float(CURVE.powers_at([2.78e-3])[0]) * 1.02), "as_predicted"),
        (readings(3.6e-3), "less_friction_or_leak"),
        (readings(2e-3, head(2e-3, 0.8)), "pump_worn_or_recirculating"),
        (readings(2e-3, head(2e-3, 0.8), unsteady=True), "air_or_vapour"),
        (readings(1.5e-3, head(1.5e-3, 0.5), phases=3), "reversed_rotation"),
        (readings(1.5e-3, head(1.5e-3, 0.5), phases=1), "pump_worn_or_recirculating"),
        (readings(power=760.0), "rubbing_or_jammed"),
        (readings(power=480.0), "reading_doubtful"),
        (readings(head=head(2.78e-3, 1.15)), "reading_doubtful"),
        (readings(head=3.0), "reading_doubtful"),  # less than the height
        (readings(head=-1.0), "reading_doubtful"),
        (readings(factor=1.05), "reading_doubtful"),
        (readings(head=40.0, power=300.0), "reading_doubtful"),  # more water power than drawn
    ],
)
def test_each_line_of_the_table(read, code):
    assert diagnose(compare(read, PROMISED)).code == code


def test_one_other_speed_explains_head_and_power_together():
    ratio, flow = 0.86, 2.2e-3
    read = readings(
        flow,
        ratio**2 * float(CURVE.head_m(flow / ratio)),
        ratio**3 * float(CURVE.powers_at([flow / ratio])[0]),
    )
    found = compare(read, PROMISED)
    assert found.speed_ratio == pytest.approx(ratio, rel=1e-6)
    assert abs(found.speed_power_percent) < 1e-6
    assert diagnose(found).code == "wrong_speed_or_frequency"


def test_every_code_of_the_table_is_reached():
    assert {one.code for one in TABLE} == {
        "reading_doubtful",
        "air_or_vapour",
        "wrong_speed_or_frequency",
        "reversed_rotation",
        "rubbing_or_jammed",
        "pump_worn_or_recirculating",
        "more_friction",
        "less_friction_or_leak",
        "as_predicted",
    }


def test_no_verdict_inside_the_error_of_measurement():
    sure = readings(2e-3, head(2e-3, 0.8))
    unsure = replace(
        sure, outlet=replace(sure.outlet, pressure_pa=Reading(sure.outlet.pressure_pa.value, 2e4))
    )
    assert diagnose(compare(sure, PROMISED)).code == "pump_worn_or_recirculating"
    assert diagnose(compare(unsure, PROMISED)).code == "as_predicted"


def test_uncertainty_is_that_of_chance():
    read = readings()
    random = np.random.default_rng(5)
    drawn = []
    for _ in range(4000):
        drawn.append(
            replace(
                read,
                meter_m3s=Reading(random.normal(2.78e-3, 0.01 * 2.78e-3)),
                outlet=replace(
                    read.outlet,
                    pressure_pa=Reading(random.normal(read.outlet.pressure_pa.value, 1000.0)),
                ),
                water_level_m=Reading(random.normal(-1.0, 0.01)),
            )
        )
    for figure in (lambda one: one.head_m, lambda one: one.hydraulic_w, lambda one: one.k_s2_m5):
        spread = float(np.std([figure(one) for one in drawn]))
        assert read.sigma(figure) == pytest.approx(spread, rel=0.06)


def test_a_bucket_and_both_gauges():
    read = replace(
        readings(),
        meter_m3s=None,
        volume_m3=Reading(0.02, 2e-4),
        time_s=Reading(8.0, 0.16),
        inlet=Gauge(Reading(-5000.0, 500.0), 0.2, 0.05),
    )
    assert read.flow_m3s == pytest.approx(2.5e-3)
    assert read.sigma(lambda one: one.flow_m3s) == pytest.approx(2.5e-3 * math.hypot(0.01, 0.02))
    same_bore = (read.outlet.pressure_pa.value + 5000.0) / (RHO * G) + 0.3
    assert read.head_m == pytest.approx(same_bore)  # the velocity heads cancel out


def test_what_cannot_be_compared_is_told():
    with pytest.raises(SizingError, match="no power"):
        Promised(PumpCurve(FLOWS, CURVE.heads_m), 4.0, 6e5, 0.6, 0.0, 0.0)
    with pytest.raises(SizingError, match="does not meet"):
        compare(readings(), replace(PROMISED, static_m=50.0))
    with pytest.raises(SizingError, match="bucket"):
        replace(readings(), meter_m3s=None)
    with pytest.raises(SizingError, match="one phase or three"):
        replace(readings(), phases=2)
