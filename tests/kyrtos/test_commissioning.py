"""Readings at the demo cellar's pump, typed on the phone beside it."""

import math

import pytest

from tests.kyrtos.reading import text_of
from tests.sizing.test_over_time import base

RUNNING = base("01").sizing.running


def asked(client, job, **given):
    return client.get(f"/jobs/{job.pk}/dialogs/commissioning/", given)


def read_of(flow_m3s, head_m, power_w):
    """What would be typed of a pump that gives a flow and a head and draws a power."""
    route = RUNNING.system.route
    first = route.legs[route.suction_legs]
    speed = 4 * flow_m3s / (math.pi * first.inside_diameter_m**2)
    kpa = RUNNING.system.water.pressure_pa(head_m - speed**2 / (2 * 9.80665)) / 1e3
    return {
        "flow": f"20 l in {0.02 / flow_m3s:.2f} s ± 1 %",
        "outlet": f"{kpa:.1f} kPa ± 0.5 kPa",
        "volts": "230 V",
        "amps": f"{power_w / (230 * 0.86):.3f} A ± 1 %",
        "factor": "0.86",
    }


def as_it_should(share_of_flow=1.0, share_of_head=1.0):
    flow = RUNNING.flow_m3s * share_of_flow
    return read_of(
        flow,
        float(RUNNING.curve.head_m(flow)) * share_of_head,
        float(RUNNING.curve.powers_at([flow])[0]),
    )


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (as_it_should(), "As predicted"),
        (as_it_should(0.7), "More friction than promised"),  # a valve left part closed
        (as_it_should(0.8, 0.75), "Worn, or water runs round inside"),
        (as_it_should(0.8, 0.75) | {"unsteady": "1"}, "Air or vapour"),
        (as_it_should() | {"factor": "1.2"}, "A reading is doubtful"),
    ],
)
def test_what_the_readings_mean(estimator, job, given, says):
    shown = text_of(asked(estimator, job, **given))
    assert says in shown
    assert "Look first at" in shown


@pytest.mark.parametrize("field", ["flow", "outlet", "bore", "level", "volts", "amps", "factor"])
@pytest.mark.parametrize("text", ["much", "0 °C", "1e400", "1e30", "9 ± 1e9"])
def test_what_is_typed_wrong_is_told_beside_its_field_and_nothing_is_lost(
    estimator, job, field, text
):
    given = as_it_should() | {field: text}
    page = asked(estimator, job, **given).text
    assert page.count('aria-invalid="true"') == 1
    for one in given.values():
        assert one.replace("±", "±") in page


def test_with_too_little_it_asks_and_offers_what_is_known(estimator, job):
    shown = text_of(asked(estimator, job, flow="10 l in 5 s"))
    assert "are enough" in shown
    assert "Look first at" not in shown


def test_where_there_is_no_power_or_a_loop_it_is_not_offered(estimator, shop):
    tub = shop.jobs.filter(kind="spa").first()
    assert 'data-dialog="commissioning"' not in estimator.get(f"/jobs/{tub.pk}/").text
    assert "closed loop" in text_of(asked(estimator, tub))
