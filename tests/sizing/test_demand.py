import pytest

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED
from sizing.base.water import water
from sizing.demand.drained_area import drained_area
from sizing.demand.rational import Surface, rational
from sizing.demand.rise import rise
from sizing.operating_point.npsh import suction
from sizing.pump.power import power
from sizing.storage.plan import Plan


def test_rise_of_a_round_pit():
    # house rule SMP-03: an 18 in basin holds 1.10 US gal per inch of depth; 2 in in a minute
    gallon = 231 * 0.0254**3
    assert rise(Plan(diameter_m=18 * 0.0254), 2 * 0.0254, 60.0).inflow_m3s == pytest.approx(
        2 * 1.10 * gallon / 60, rel=2e-3
    )


def test_rain_by_the_rational_method():
    # house rule SMP-04 in its US form: Q(gpm) = 0.01039 C i(in/h) A(ft2)
    gallon = 231 * 0.0254**3
    found = rational(2 * 0.0254 / 3600, [Surface(0.9, 500 * 0.3048**2)])
    assert found.flow_m3s == pytest.approx(0.01039 * 0.9 * 2 * 500 * gallon / 60, rel=1e-3)


def test_soils_of_the_house_rules():
    assert drained_area(100.0, SHIPPED.value("SMP-01")) == pytest.approx(57e-3 / 60)
    assert drained_area(100.0, SHIPPED.value("SMP-02")) < drained_area(
        100.0, SHIPPED.value("SMP-01")
    )


@pytest.mark.parametrize(
    "call",
    [
        lambda: rise(Plan(diameter_m=1.0), 0.0, 60.0),
        lambda: rise(Plan(diameter_m=1.0), 0.1, 0.0),
        lambda: rational(1e-5, []),
        lambda: rational(1e-5, [Surface(1.2, 10.0)]),
        lambda: rational(-1e-5, [Surface(0.9, 10.0)]),
        lambda: drained_area(-1.0, 1e-6),
        lambda: power(
            flow_m3s=0.001, head_m=10, density_kg_m3=1000, pump_efficiency=0.0, motor_efficiency=0.8
        ),
        lambda: power(
            flow_m3s=0.0, head_m=10, density_kg_m3=1000, pump_efficiency=0.5, motor_efficiency=0.8
        ),
    ],
)
def test_what_cannot_be_is_refused(call):
    with pytest.raises(SizingError):
        call()


def test_power_chain():
    found = power(
        flow_m3s=0.002,
        head_m=20,
        density_kg_m3=1000,
        pump_efficiency=0.5,
        motor_efficiency=0.8,
        running_hours_per_year=100,
    )
    assert found.hydraulic_power_w == pytest.approx(392.266)
    assert found.motor_input_w == pytest.approx(392.266 / 0.4)
    assert found.energy_per_m3_kwh * found.volume_per_year_m3 == pytest.approx(
        found.energy_per_year_kwh
    )


def test_the_greatest_lift_leaves_just_the_wanted_margin():
    usual = {
        "water": water(15.0),
        "altitude_m": 300.0,
        "suction_loss_m": 0.4,
        "npsh_required_m": 2.5,
        "wanted_margin_m": 0.6,
    }
    lift = suction(level_above_pump_m=-2.0, **usual).max_suction_lift_m
    assert suction(level_above_pump_m=-lift, **usual).npsh_margin_m == pytest.approx(0.6)


def test_without_npsh_of_the_maker_no_margin_is_told():
    found = suction(water=water(15.0), altitude_m=0.0, level_above_pump_m=1.0, suction_loss_m=0.2)
    assert (found.npsh_margin_m, found.max_suction_lift_m) == (None, None)
