"""The slips of the trade: when each is possible, what it changes in a sum, and how it is told.

Adding one is adding one entry to :data:`SLIPS`.
"""

from __future__ import annotations

from dataclasses import replace

from sizing.aftercare.calculation_review.hand_sum import HandSum, Steps
from sizing.aftercare.calculation_review.slip import Slip, each_leg, flow_times
from sizing.base.units import unit
from sizing.base.water import GRAVITY_M_S2
from sizing.pump.curve import REFERENCE_DENSITY_KG_M3

_FT_M = unit("ft", "length").scale
_PSI_PA = unit("psi", "pressure").scale
_US_GPM, _IMPERIAL_GPM = unit("gpm", "flow").scale, unit("imp gpm", "flow").scale
_LITRES_IN_A_GALLON = _US_GPM / unit("l/min", "flow").scale
_MINUTES_AN_HOUR = 60.0
_FEET_OF_A_PSI = _PSI_PA / (_FT_M * REFERENCE_DENSITY_KG_M3 * GRAVITY_M_S2)


def _always(facts: HandSum) -> bool:
    return True


def _needs_flow(facts: HandSum) -> bool:
    return facts.curve is None


def _nominal(steps: Steps) -> Steps:
    return each_leg(steps, lambda leg: replace(leg, inside_diameter_m=leg.nominal_m))


def _no_fittings(steps: Steps) -> Steps:
    return each_leg(steps, lambda leg: replace(leg, fittings_m=0.0))


def _one_way(steps: Steps) -> Steps:
    legs = tuple(leg for leg in steps.facts.legs if leg.role != "return")
    return steps.with_facts(legs=legs)


def _from_pump(steps: Steps) -> Steps:
    facts = steps.facts
    return steps.changed(static_m=facts.discharge_level_m - facts.pump_outlet_level_m)


def _psi_as_ft(steps: Steps) -> Steps:
    return steps.changed(pressure_m=steps.facts.pressure_pa / _PSI_PA * _FT_M)


def _label_flow(steps: Steps) -> Steps:
    return steps.changed(fixed_flow_m3s=steps.facts.open_flow_m3s)


def _wrong_flow(steps: Steps) -> Steps:
    return steps.changed(friction_at_m3s=steps.facts.flow_m3s)


SLIPS = (
    Slip(
        "lpm_in_gpm_formula",
        "litres where gallons belong",
        "litres a minute were put into the horsepower formula that wants US gallons a minute",
        f"divide litres a minute by {_LITRES_IN_A_GALLON:.3f} first",
        lambda facts: facts.flow_unit == "L/min",
        lambda steps: steps.changed(power_factor=_LITRES_IN_A_GALLON),
    ),
    Slip(
        "friction_factor_times_length",
        "friction factor times length",
        "the friction factor was multiplied by the length alone",
        "divide by the bore and multiply by v²/2g too",
        _needs_flow,
        lambda steps: steps.changed(bare_friction=True),
    ),
    Slip(
        "nominal_as_inside",
        "nominal size for the bore",
        "the pipe's nominal size was taken as its inside diameter",
        "take the inside diameter of that pipe and class",
        lambda facts: any(leg.nominal_m != leg.inside_diameter_m for leg in facts.legs),
        _nominal,
    ),
    Slip(
        "fittings_left_out",
        "fittings left out",
        "no fitting or valve was counted",
        "add their equivalent lengths",
        lambda facts: any(leg.fittings_m > 0 for leg in facts.legs),
        _no_fittings,
    ),
    Slip(
        "psi_as_ft",
        "psi taken as feet",
        "the number of psi was added as so many feet",
        f"a psi is {_FEET_OF_A_PSI:.2f} ft of water",
        lambda facts: facts.pressure_unit == "psi" and facts.pressure_pa > 0,
        _psi_as_ft,
    ),
    Slip(
        "gph_as_gpm",
        "gallons an hour taken as gallons a minute",
        "the number of gallons an hour was taken as gallons a minute",
        "divide it by 60",
        lambda facts: facts.curve is None and facts.flow_unit == "gph",
        flow_times(_MINUTES_AN_HOUR),
    ),
    Slip(
        "imperial_as_us_gallons",
        "imperial gallons taken as US gallons",
        "the number of imperial gallons was taken as US gallons",
        f"an imperial gallon is {_IMPERIAL_GPM / _US_GPM:.3g} US gallons",
        lambda facts: facts.curve is None and facts.flow_unit == "imp_gpm",
        flow_times(_US_GPM / _IMPERIAL_GPM),
    ),
    Slip(
        "static_from_pump",
        "lift counted from the pump",
        "the lift was counted from the pump's outlet",
        "count it from the water that it draws from",
        lambda facts: not facts.closed_loop and facts.water_level_m != facts.pump_outlet_level_m,
        _from_pump,
    ),
    Slip(
        "label_flow_as_duty",
        "the flow on the box taken as the duty",
        "the open flow on the label was taken as what runs",
        "it runs where its curve meets the system's",
        lambda facts: facts.curve is not None and facts.open_flow_m3s is not None,
        _label_flow,
    ),
    Slip(
        "shaft_as_input",
        "shaft power given as input",
        "the shaft power was given as what is drawn from the supply",
        "divide by the motor's efficiency",
        _always,
        lambda steps: steps.changed(shaft_is_input=True),
    ),
    Slip(
        "one_way_loop",
        "half a loop",
        "the return pipe was not counted",
        "in a loop the water goes there and back",
        lambda facts: any(leg.role == "return" for leg in facts.legs),
        _one_way,
    ),
    Slip(
        "friction_at_wrong_flow",
        "friction at the flow wanted, not the one that runs",
        "friction was worked out at the wanted flow though the pump runs at another",
        "work it out where the curves meet",
        lambda facts: facts.curve is not None,
        _wrong_flow,
    ),
)
