"""Readings at a pump: uncertainty by hand and by chance, and each line of the diagnosis."""

import math
from dataclasses import replace

import numpy as np
import pytest

from sizing.aftercare.commissioning.diagnosis import TABLE, diagnose
from sizing.aftercare.commissioning.promise import promise_of as kept
from sizing.aftercare.commissioning.readings import Gauge, Promised, Reading, Readings, compare
from sizing.analysis.changed import known
from sizing.analysis.commissioning import promise_of
from sizing.base.errors import SizingError
from sizing.base.rules import Override, Rules
from sizing.pump.curve import PumpCurve
from sizing.size import size
from tests.sizing.test_kinds import JOBS

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


# What is known beside, so that more can be told.
KNOWN = replace(PROMISED, voltage_v=230.0, water_level_m=-1.0, suction_k_s2_m5=5e4, deep=True)


def at(volts, read):
    """The same readings with so many volts at the motor."""
    return replace(read, motor_v=Reading(volts, 1.0))


def drawn(read, loss_m):
    """The same readings with a gauge before the pump, so much lost before it."""
    speed = 4 * read.flow_m3s / (math.pi * 0.05**2)
    before = read.water_level_m.value - loss_m
    inlet = RHO * G * (before - 0.5 - speed**2 / (2 * G))
    outlet = read.outlet.pressure_pa.value - RHO * G * loss_m
    return replace(
        read,
        inlet=Gauge(Reading(inlet, 500.0), 0.5, 0.05),
        outlet=replace(read.outlet, pressure_pa=Reading(outlet, 1000.0)),
    )


def leaking(flow, arrives, power=1.0):
    """A pump that gives a flow of which so much arrives where it is read."""
    return readings(
        flow * arrives, head(flow, 1.0), power * float(CURVE.powers_at([flow])[0]), static=4.0
    )


def lower(by):
    """The water stands lower than promised, all else as promised."""
    read = readings(static=4.0 + by)
    level = Reading(read.water_level_m.value - by, 0.01)
    flow = 2.78e-3
    k = (float(CURVE.head_m(flow)) - 4.0 - by) / flow**2
    return replace(read, water_level_m=level, discharge_level_m=3.0), k


@pytest.mark.parametrize(
    ("read", "code"),
    [
        (at(208.0, readings()), "as_predicted"),  # 9.6 % under
        (at(204.0, readings()), "low_voltage"),  # 11.3 % under
        (at(204.0, readings(2e-3, head(2e-3, 0.98))), "low_voltage_and_friction"),
        (at(228.0, readings(2e-3, head(2e-3, 0.98))), "more_friction"),
        (drawn(readings(2e-3), 0.2), "more_friction"),
        (drawn(readings(2e-3), 3.6), "suction_blocked"),
        (drawn(readings(2e-3), 1.4), "more_friction"),  # less than half of what is more
        (leaking(3.6e-3, 0.75), "leak_on_the_way"),
        (leaking(3.6e-3, 0.75, 1.055), "leak_on_the_way"),
        (leaking(3.6e-3, 0.75, 1.075), "rubbing_or_jammed"),
    ],
)
def test_each_line_that_needs_to_know_more(read, code):
    assert diagnose(compare(read, KNOWN)).code == code
    assert diagnose(compare(read, PROMISED)).code not in (
        "low_voltage",
        "low_voltage_and_friction",
        "suction_blocked",
        "leak_on_the_way",
        "water_lower",
    )


def test_a_well_is_promised_at_the_level_to_which_it_is_drawn_down(catalogue):
    base = known(size(JOBS["plant-nursery-well"], catalogue))
    promise = promise_of(base)
    drawdown_m = promise.flow_m3s * 9.5 / (4.1 / 3600)  # as the test drew it down
    assert promise.start_level_m - promise.running_level_m == pytest.approx(drawdown_m)
    assert promise.deep
    pit = promise_of(known(size(JOBS["bookbinders-cellar"], catalogue)))
    assert pit.running_level_m == pit.start_level_m
    old = {k: v for k, v in promise.record().items() if k != "running_level_m"}
    assert kept(old).running_level_m is None  # of an old one nothing is told of the level


@pytest.mark.parametrize(("by", "code"), [(0.19, "as_predicted"), (0.21, "water_lower")])
def test_water_that_stands_lower_is_told(by, code):
    read, k = lower(by)
    assert diagnose(compare(read, replace(KNOWN, k_s2_m5=k))).code == code


@pytest.mark.parametrize(
    ("rule", "read", "under", "over"),
    [
        ("HND-01", lambda share: readings(2e-3, head(2e-3, 1 - share)), 0.049, 0.051),
        ("HND-02", lambda share: readings(2e-3, head(2e-3, 1 - share), phases=3), 0.295, 0.305),
        ("HND-03", lambda share: readings(power=622.4 * (1 + share)), 0.097, 0.103),
        ("HND-04", lambda share: readings(power=622.4 * (1 - share)), 0.147, 0.153),
    ],
)
def test_each_threshold_is_its_rule(rule, read, under, over):
    def code(share, rules):
        surer = replace(PROMISED, head_share=0.001, power_share=0.001)
        return diagnose(compare(read(share), surer), rules).code

    shipped = Rules({})
    assert code(under, shipped) != code(over, shipped)
    usual = shipped.value(rule)
    stricter = Rules({rule: Override(usual_si=usual / 3)})
    laxer = Rules({rule: Override(usual_si=usual * 3)})
    assert code(under, stricter) == code(over, shipped)
    assert code(over, laxer) == code(under, shipped)


@pytest.mark.parametrize(
    ("ratio", "power", "code"),
    [
        (0.962, 1.0, "wrong_speed_or_frequency"),
        (0.962, 1.058, "wrong_speed_or_frequency"),
        (0.962, 1.068, "pump_worn_or_recirculating"),
        (0.975, 1.0, "pump_worn_or_recirculating"),
    ],
)
def test_how_near_one_other_speed_has_to_be(ratio, power, code):
    flow = 2.2e-3
    read = readings(
        flow,
        ratio**2 * float(CURVE.head_m(flow / ratio)),
        power * ratio**3 * float(CURVE.powers_at([flow / ratio])[0]),
    )
    found = compare(read, replace(PROMISED, head_share=0.002, power_share=0.002))
    assert diagnose(found).code == code
    wider = Rules({"HND-05": Override(usual_si=0.1)})
    assert diagnose(found, wider).code != "wrong_speed_or_frequency"


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
        "low_voltage",
        "low_voltage_and_friction",
        "suction_blocked",
        "leak_on_the_way",
        "water_lower",
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
