"""Every slip is made and found again, alone and in pairs; right sums are called right."""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest

from sizing.aftercare.calculation_review.explain import explain, parts_that_would, possible, slipped
from sizing.aftercare.calculation_review.hand_sum import QUANTITIES, HandLeg, HandSum, right
from sizing.aftercare.calculation_review.more_slips import MORE_SLIPS
from sizing.aftercare.calculation_review.slips import SLIPS
from sizing.base.errors import SizingError
from sizing.base.water import water
from sizing.pump.curve import PumpCurve
from tests.thin import some

_GPM = 3.785411784e-3 / 60
CURVE = PumpCurve((0.0, 5e-4, 1e-3, 1.5e-3, 1.8e-3), (14.0, 13.4, 11.6, 8.6, 6.3))


def legs(*roles):
    return tuple(
        HandLeg(role, 40.0 + 9 * at, 14.0, 0.032, 0.0272, 1.5e-6) for at, role in enumerate(roles)
    )


def one_sum(**changes):
    facts = {
        "flow_m3s": 19 * _GPM,
        "flow_unit": "gpm",
        "water": water(13.0),
        "water_level_m": -1.6,
        "pump_outlet_level_m": 0.8,
        "discharge_level_m": 9.0,
        "pressure_pa": 150_000.0,
        "pressure_unit": "psi",
        "closed_loop": False,
        "legs": legs("run"),
        "pump_efficiency": 0.47,
        "motor_efficiency": 0.7,
    }
    return HandSum(**facts | changes)


JOBS = {
    "lpm": one_sum(flow_unit="L/min", pressure_unit="kPa"),
    "gpm": one_sum(),
    "gph": one_sum(flow_m3s=400 / 60 * _GPM, flow_unit="gph", pressure_pa=0.0),
    "imperial": one_sum(flow_unit="imp_gpm", pressure_unit="kPa"),
    "loop": one_sum(closed_loop=True, legs=legs("supply", "return"), pressure_pa=40_000.0),
    "pump": one_sum(
        flow_m3s=7e-4,
        flow_unit="L/min",
        pressure_pa=0.0,
        pressure_unit="kPa",
        discharge_level_m=3.0,
        curve=CURVE,
        open_flow_m3s=1.8e-3,
    ),
    # with facts besides, or a wider look: the further slips
    "wider": one_sum(wider=True, margin=1.2, fixture_units=60.0, daily_m3=3.0),
    "quick": one_sum(
        wider=True,
        quick_loss_m=3.1,
        legs=(HandLeg("run", 40.0, 24.0, 0.032, 0.0272, 1.5e-6, outside_m=0.0335),),
    ),
    "over the top": one_sum(wider=True, end_level_m=4.0, flow_unit="imp_gpm"),
    "abreast": one_sum(
        legs=(*legs("run"), HandLeg("run", 60.0, 9.0, 0.02, 0.0176, 1.5e-6, abreast=2))
    ),
    "wider pump": one_sum(
        flow_m3s=7e-4,
        pressure_pa=0.0,
        pressure_unit="kPa",
        discharge_level_m=3.0,
        curve=CURVE,
        open_flow_m3s=1.8e-3,
        wider=True,
    ),
}
SUCTION = one_sum(
    air_pa=101_325.0,
    legs=(HandLeg("suction", 6.0, 2.0, 0.04, 0.036, 1.5e-6), *legs("run")),
)


def rounded(value, error=0.0):
    """To three digits, four after a leading one, with some error of arithmetic."""
    value *= 1 + error
    digits = 4 if f"{value:e}"[0] == "1" else 3
    return float(f"{value:.{digits - 1}e}")


def sets_near(steps, quantity, value, most):
    """Every set of slips that comes within 2.5 % of a figure."""
    found = []
    for count in range(1, most + 1):
        for slips in combinations(possible(steps.facts), count):
            figures = slipped(steps, slips)
            if figures and abs(figures.of(quantity) / value - 1) <= 0.025:
                found.append(slips)
    return found


def test_every_slip_of_the_table_is_possible_in_one_of_these_jobs():
    jobs = (*JOBS.values(), SUCTION)
    able = {slip.code for facts in jobs for slip in possible(facts)}
    assert able == {slip.code for slip in (*SLIPS, *MORE_SLIPS)}


@pytest.mark.parametrize("count", [1, 2])
@pytest.mark.parametrize("name", JOBS)
def test_each_slip_alone_and_in_pairs_is_found_among_rounded_figures(name, count):
    facts = JOBS[name]
    steps, told = right(facts), 0
    done = steps.figures()
    for slips in some(list(combinations(possible(facts), count)), 20, name):
        figures = slipped(steps, slips)
        if figures is None:
            continue
        for quantity in QUANTITIES:
            figure = figures.of(quantity)
            if abs(figure / done.of(quantity) - 1) <= 0.05:
                continue  # too near the right one to be told from it
            for error in some((-0.005, 0.0, 0.005), 1, name):
                value = rounded(figure, error)
                found = explain(facts, quantity, value)
                assert not found.is_right
                assert 0 < len(found.slips) <= count
                near = sets_near(steps, quantity, value, count)
                if len(near) == 1:
                    assert found.slips == near[0] == slips
                    told += 1
    assert told > 0 or (name, count) == ("quick", 2)  # there always two others come near


def made(facts, quantity, *codes):
    """What a sum comes to with the slips of these codes."""
    return slipped(right(facts), tuple(slip_of(code) for code in codes)).of(quantity)


@pytest.mark.parametrize(
    "code", ["quick_rules_of_elbows", "outside_as_inside", "fittings_as_a_share"]
)
def test_the_slips_of_pipe_and_quick_rules_are_told_alone_or_with_their_rivals(code):
    facts = JOBS["quick"]
    value = made(facts, "head", code)
    found = explain(facts, "head", value, 0.003)
    assert found.exactly
    assert code in {one.code for slips in (found.slips, *found.rivals) for one in slips}


def test_what_explains_it_as_well_is_named_and_what_only_comes_near_is_called_that():
    facts = JOBS["quick"]
    one = made(facts, "head", "fittings_left_out")
    friction = one - facts.static_m - right(facts).pressure_m
    facts = replace(facts, quick_loss_m=friction + 0.01 * one)  # the quick rules come near it
    sure = explain(facts, "head", one, 0.003)
    assert (sure.code, sure.exactly) == ("fittings_left_out", True)
    coarse = explain(facts, "head", one, 0.02)
    assert coarse.slips == sure.slips
    assert set(sure.rivals) <= set(coarse.rivals)
    assert [slip.code for slip in coarse.rivals[0]] == ["quick_rules_of_elbows"]
    near = explain(facts, "shaft_power", made(facts, "shaft_power", "psi_as_ft") * 1.012, 0.0001)
    assert not near.exactly or len(near.slips) > 1


def test_two_slips_that_give_it_go_before_one_that_nearly_does():
    facts = JOBS["gpm"]
    for pair in (("nominal_as_inside", "fittings_left_out"), ("psi_as_ft", "static_from_pump")):
        value = made(facts, "head", *pair)
        found = explain(facts, "head", value, 0.003)
        assert found.exactly
        assert found.code == "+".join(sorted(pair)) or len(found.slips) == 1


def test_three_slips_are_tried_for_a_power_alone():
    facts = JOBS["lpm"]
    three = ("lpm_in_gpm_formula", "fittings_left_out", "shaft_as_input")
    value = made(facts, "input_power", *three)
    assert explain(facts, "input_power", value).code == "none"
    found = explain(facts, "input_power", value, 0.003)
    assert set(three) in [{one.code for one in slips} for slips in (found.slips, *found.rivals)]
    heads = ("psi_as_ft", "nominal_as_inside", "fittings_left_out")
    assert len(explain(JOBS["gpm"], "head", made(JOBS["gpm"], "head", *heads), 1e-4).slips) < 3


def test_a_thousand_right_sums_with_honest_rounding_are_called_right():
    random = np.random.default_rng(11)
    for _ in range(1000):
        facts = one_sum(
            flow_m3s=random.uniform(3e-4, 2.5e-3),
            discharge_level_m=random.uniform(2.0, 30.0),
            pressure_pa=random.choice([0.0, 2e5]),
            legs=legs(*["run"] * random.integers(1, 4)),
        )
        done = right(facts).figures()
        quantity = str(random.choice(QUANTITIES))
        value = rounded(done.of(quantity), random.uniform(-0.005, 0.005))
        assert explain(facts, quantity, value).code == "right"


def test_a_figure_that_nothing_explains_says_so():
    found = explain(JOBS["gpm"], "head", 9999.0)
    assert (found.code, found.slips, found.is_right) == ("none", (), False)


def test_pairs_are_named_in_the_order_of_the_alphabet():
    facts = JOBS["gpm"]
    pair = [slip for slip in SLIPS if slip.code in ("psi_as_ft", "shaft_as_input")]
    value = slipped(right(facts), tuple(pair)).input_power
    assert explain(facts, "input_power", rounded(value)).code == "psi_as_ft+shaft_as_input"


def test_a_pump_that_cannot_lift_it_is_told():
    with pytest.raises(SizingError, match="cannot lift"):
        explain(one_sum(curve=CURVE, open_flow_m3s=1.8e-3), "head", 5.0)


def test_the_npsh_by_gauge_pressure_is_found_and_the_right_one_is_right():
    """10.33 m of air less 2.4 m of lift, suction friction and 0.15 m of vapour."""
    done = right(SUCTION).figures()
    assert 7.0 < done.npsh < 7.8
    assert explain(SUCTION, "npsh", rounded(done.npsh)).code == "right"
    wrong = slipped(right(SUCTION), (slip_of("npsh_by_gauge"),)).npsh
    assert wrong < 0
    assert explain(SUCTION, "npsh", rounded(wrong)).code == "npsh_by_gauge"
    with pytest.raises(SizingError, match="not among the facts"):
        right(JOBS["gpm"]).figures().of("npsh")


def slip_of(code):
    return next(slip for slip in (*SLIPS, *MORE_SLIPS) if slip.code == code)


@pytest.mark.parametrize("name", ["lpm", "gpm", "gph", "imperial", "loop", "pump"])
def test_the_twelve_stand_alone_where_nothing_more_is_known(name):
    assert {slip.code for slip in possible(JOBS[name])} <= {slip.code for slip in SLIPS}


def test_where_nothing_explains_it_each_part_says_what_it_would_have_to_be():
    facts, done = JOBS["gpm"], right(JOBS["gpm"]).figures()
    parts = parts_that_would(facts, "head", done.head + 5.0)
    assert [one.theirs - one.right for one in parts] == pytest.approx([5.0] * 3)
    assert parts[0].times == min(one.times for one in parts)
    power = parts_that_would(facts, "shaft_power", 0.6 * done.shaft_power)
    assert {one.label: round(one.times, 3) for one in power} == {
        "head": 0.6,
        "flow": 0.6,
        "pump's efficiency": 1.667,
    }
    less = parts_that_would(facts, "head", done.head - facts.static_m - 1)
    assert "lift" not in [one.label for one in less]  # no lift is under nothing
    assert parts_that_would(facts, "flow", 1.0) == ()
