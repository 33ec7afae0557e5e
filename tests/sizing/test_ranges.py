"""What no pipe, no water and no cable has is refused by the functions themselves."""

from functools import partial

import numpy as np
import pytest

from sizing.base.errors import OutOfRange
from sizing.hydraulics import fittings, friction
from sizing.pump.cable import cable, resistance_ohm_per_km

DARCY = partial(
    friction.darcy_weisbach_m,
    flow_m3s=1e-3,
    inside_diameter_m=0.05,
    length_m=30.0,
    roughness_m=1e-5,
    kinematic_viscosity_m2_s=1e-6,
)
HAZEN = partial(
    friction.hazen_williams_m,
    flow_m3s=1e-3,
    inside_diameter_m=0.05,
    length_m=30.0,
    hazen_williams_c=140.0,
)
CABLE = partial(
    cable,
    phases=1,
    supply_voltage_v=230.0,
    current_a=5.0,
    length_m=40.0,
    resistance_ohm_per_km=8.0,
)
WRONG = [
    (DARCY, "length_m", -50.0),
    (DARCY, "length_m", np.array([10.0, -1.0])),
    (DARCY, "length_m", np.nan),
    (DARCY, "inside_diameter_m", 0.0),
    (DARCY, "inside_diameter_m", -0.05),
    (DARCY, "roughness_m", 0.2),  # four times the bore
    (DARCY, "roughness_m", -1e-5),
    (DARCY, "kinematic_viscosity_m2_s", 0.0),
    (HAZEN, "length_m", -50.0),
    (HAZEN, "inside_diameter_m", 0.0),
    (HAZEN, "hazen_williams_c", 5.0),
    (CABLE, "length_m", -40.0),
    (CABLE, "current_a", -5.0),
    (CABLE, "supply_voltage_v", 0.0),
    (CABLE, "resistance_ohm_per_km", -8.0),
    (CABLE, "power_factor", 1.2),
    (partial(resistance_ohm_per_km, resistivity_ohm_m=1.7e-8), "area_mm2", 0.0),
    (partial(resistance_ohm_per_km, area_mm2=1.5), "resistivity_ohm_m", 0.0),
    (fittings.turbulent_factor, "inside_diameter_m", 0.0),
    (partial(fittings.equivalent_length_m, "gate_valve"), "inside_diameter_m", -0.05),
    (partial(friction.darcy_friction_factor, 1e5), "relative_roughness", 4.0),
    (partial(friction.velocity_m_s, 1e-3), "inside_diameter_m", 0.0),
]


@pytest.mark.parametrize(("function", "name", "value"), WRONG)
def test_a_figure_that_cannot_be_is_refused(function, name, value):
    with pytest.raises(OutOfRange):
        function(**{name: value})


@pytest.mark.parametrize("function", [DARCY, HAZEN, CABLE])
def test_what_can_be_is_worked_out(function):
    assert function() is not None
    assert np.all(np.isfinite(DARCY(flow_m3s=np.array([0.0, 1e-3, 5e-3]))))
    assert DARCY(length_m=0.0) == 0.0
