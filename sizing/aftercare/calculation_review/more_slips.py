"""Further slips, each possible where a fact that it hangs on is known, or a wider look is wanted.

They stand beside the twelve of :mod:`sizing.aftercare.calculation_review.slips`. Adding one is
adding one entry.
"""

from __future__ import annotations

from dataclasses import replace

from sizing.aftercare.calculation_review.hand_sum import HandLeg, HandSum, Steps
from sizing.aftercare.calculation_review.slip import Slip, each_leg, flow_times
from sizing.base.units import SECONDS_PER_DAY, unit

_US_GPM, _IMPERIAL_GPM = unit("gpm", "flow").scale, unit("imp gpm", "flow").scale
_PER_LENGTH = 0.10  # a foot of head for ten feet of pipe, as it is said
_SHARE = 0.30  # of the pipe, for its fittings
_PLASTIC_M, _STEEL_M = 1.5e-6, 4.6e-5  # roughness of new pipe
_SMOOTH_M = 2e-5  # what is under it is some plastic's
_OFF_THE_BOX = 0.20  # what is taken off the figure on the box


def _wider(facts: HandSum) -> bool:
    return facts.wider


def _pump_over_water_m(facts: HandSum) -> float:
    return facts.pump_outlet_level_m - facts.water_level_m


def _with_flow(steps: Steps, flow_m3s: float | None) -> Steps:
    assert flow_m3s is not None  # the slip is possible only where it is known
    return steps.with_facts(flow_m3s=flow_m3s)


def _is_other(outside_m: float | None, leg: HandLeg) -> bool:
    """Whether the outside diameter is known, and neither the bore nor the size it is named by."""
    return outside_m is not None and outside_m not in (leg.inside_diameter_m, leg.nominal_m)


def _other_wall_m(leg: HandLeg) -> float:
    return _STEEL_M if leg.roughness_m < _SMOOTH_M else _PLASTIC_M


def _to_the_rim(steps: Steps) -> Steps:
    facts = steps.facts
    assert facts.end_level_m is not None
    return steps.changed(static_m=facts.end_level_m - facts.water_level_m)


def _off_the_box(steps: Steps) -> Steps:
    flow = steps.facts.open_flow_m3s
    assert flow is not None
    return steps.changed(fixed_flow_m3s=flow * (1.0 - _OFF_THE_BOX))


MORE_SLIPS = (
    Slip(
        "margin_on_margin",
        "margin on margin",
        "a margin was put on a flow that has one already",
        "a margin stands once, in sight",
        lambda facts: facts.curve is None and facts.margin > 1.0,
        lambda steps: steps.with_facts(flow_m3s=steps.facts.flow_m3s * steps.facts.margin),
    ),
    Slip(
        "us_as_imperial_gallons",
        "US gallons taken as imperial gallons",
        "the number of US gallons was taken as imperial gallons",
        f"a US gallon is {_US_GPM / _IMPERIAL_GPM:.3g} imperial gallons",
        lambda facts: facts.wider and facts.curve is None and facts.flow_unit == "gpm",
        flow_times(_IMPERIAL_GPM / _US_GPM),
    ),
    Slip(
        "imperial_formula_with_us_gallons",
        "the horsepower formula for imperial gallons",
        "the formula for imperial gallons was given US gallons",
        f"its divisor is {_IMPERIAL_GPM / _US_GPM:.3g} times too small for US gallons",
        lambda facts: facts.wider and facts.flow_unit == "gpm",
        lambda steps: steps.changed(power_factor=_IMPERIAL_GPM / _US_GPM),
    ),
    Slip(
        "npsh_by_gauge",
        "gauge pressure for absolute",
        "the air over the water was left out of the NPSH",
        "the air pushes too: add its pressure as a height of water",
        lambda facts: facts.air_pa is not None,
        lambda steps: steps.changed(air_left_out=True),
    ),
    Slip(
        "suction_lift_twice",
        "suction lift counted twice",
        "the suction lift was added to a height that was counted from the water already",
        "from the water to the outlet it is in there",
        lambda facts: facts.wider and not facts.closed_loop and _pump_over_water_m(facts) > 0,
        lambda steps: steps.changed(static_m=steps.static_m + _pump_over_water_m(steps.facts)),
    ),
    Slip(
        "parallel_heads_added",
        "heads of pipes side by side added",
        "the losses of pipes that lie side by side were added",
        "they share the flow and lose the same head once",
        lambda facts: any(leg.abreast > 1 for leg in facts.legs),
        lambda steps: steps.changed(pipes_added=True),
    ),
    Slip(
        "velocity_head_as_loss",
        "velocity head counted as a loss",
        "a velocity head was added at the outlet",
        "it is in the exit's K already, or is not asked for",
        _wider,
        lambda steps: steps.changed(exit_loss=True),
    ),
    Slip(
        "fixture_units_as_gpm",
        "fixture units read as gallons a minute",
        "the number of fixture units was taken as gallons a minute",
        "read the flow off the demand curve",
        lambda facts: facts.curve is None and facts.fixture_units is not None,
        lambda steps: _with_flow(steps, (steps.facts.fixture_units or 0.0) * _US_GPM),
    ),
    Slip(
        "daily_as_peak",
        "a day's water spread over the day taken as the peak",
        "the day's water over twenty-four hours was taken as what flows at the peak",
        "people draw most of it within few hours: take the peak",
        lambda facts: facts.curve is None and facts.daily_m3 is not None,
        lambda steps: _with_flow(steps, (steps.facts.daily_m3 or 0.0) / SECONDS_PER_DAY),
    ),
    Slip(
        "quick_rule_out_of_range",
        "friction by a tenth of the pipe",
        "friction was taken as a tenth of the pipe's length",
        "that holds at one speed only: work it out at this flow and bore",
        _wider,
        lambda steps: steps.changed(share_of_length=_PER_LENGTH),
    ),
    Slip(
        "quick_rules_of_elbows",
        "quick rules for elbows and run",
        "friction was taken by the quick rules: so much an elbow, so much of the level run",
        "they know neither flow nor bore: work it out at this flow and bore",
        lambda facts: facts.quick_loss_m is not None,
        lambda steps: steps.changed(friction_by_rule_m=steps.facts.quick_loss_m),
    ),
    Slip(
        "outside_as_inside",
        "outside diameter for the bore",
        "the pipe's outside diameter was taken as its inside diameter",
        "take off the wall twice",
        lambda facts: any(_is_other(leg.outside_m, leg) for leg in facts.legs),
        lambda steps: each_leg(
            steps,
            lambda leg: replace(leg, inside_diameter_m=leg.outside_m or leg.inside_diameter_m),
        ),
    ),
    Slip(
        "fittings_as_a_share",
        "fittings as 30 % of the pipe",
        "fittings were counted as 30 % of the pipe's length",
        "count them: in a short run they are more, in a long one less",
        lambda facts: facts.wider and any(leg.fittings_m > 0 for leg in facts.legs),
        lambda steps: each_leg(steps, lambda leg: replace(leg, fittings_m=_SHARE * leg.length_m)),
    ),
    Slip(
        "other_pipe_material",
        "another pipe's roughness",
        "plastic was reckoned as steel, or steel as plastic",
        "take the roughness of the pipe that is laid",
        _wider,
        lambda steps: each_leg(steps, lambda leg: replace(leg, roughness_m=_other_wall_m(leg))),
    ),
    Slip(
        "box_figure_less_a_fifth",
        "the figure on the box, less a fifth",
        "the open flow on the label less a fifth was taken as what runs",
        "it runs where its curve meets the system's",
        lambda facts: facts.wider and facts.curve is not None and facts.open_flow_m3s is not None,
        _off_the_box,
    ),
    Slip(
        "static_to_the_rim",
        "lift to the outlet, not over the top",
        "the lift was taken to where the pipe ends, though it goes over a higher point",
        "the water has to be pushed over the top first",
        lambda facts: (
            facts.end_level_m is not None
            and facts.end_level_m < facts.discharge_level_m
            and not facts.closed_loop
        ),
        _to_the_rim,
    ),
    Slip(
        "water_power_as_motor",
        "the water's power for the motor",
        "the power of the water was taken for what the shaft needs",
        "divide by the pump's efficiency",
        _wider,
        lambda steps: steps.changed(water_is_shaft=True),
    ),
)
