"""Somebody else's figure for a job, looked at again in words."""

import pytest

from sizing.aftercare.calculation_review.explain import slipped
from sizing.aftercare.calculation_review.hand_sum import right
from sizing.aftercare.calculation_review.slips import SLIPS
from sizing.analysis.calculation_review import facts_of
from tests.kyrtos.reading import text_of
from tests.sizing.test_over_time import base


def asked(client, job, **given):
    return text_of(client.get(f"/jobs/{job.pk}/dialogs/calculation_review/", given))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "the common slips of the trade are tried"),
        ({"figure": "8.2 m"}, "Right: 8.20 m"),
        ({"figure": "800 m"}, "None of the usual slips"),
        ({"figure": "many"}, "aria-invalid"),
        ({"figure": "3 bar m"}, "aria-invalid"),
        ({"figure": "-2 m"}, "above nothing"),
        ({"figure": "8.2 m", "quantity": "taste"}, "Right"),
    ],
)
def test_what_is_typed_and_what_is_said(estimator, job, given, says):
    shown = asked(estimator, job, **given)
    assert says in shown
    if "figure" in given:
        assert given["figure"] in shown


def test_a_slip_in_a_hand_sum_is_named_with_both_sums_beside_each_other(estimator, job):
    facts = facts_of(base("01"), "L/min", of_a_pump=False)
    (litres,) = (one for one in SLIPS if one.code == "lpm_in_gpm_formula")
    watts = slipped(right(facts), (litres,)).shaft_power
    shown = asked(
        estimator, job, figure=f"{watts:.0f} W", quantity="shaft_power", flow_unit="L/min"
    )
    assert "litres where gallons belong" in shown
    assert "divide litres a minute by 3.785 first" in shown
    assert "▲" in shown
    assert "3.8 times" in shown


def test_the_facts_are_the_jobs_own_head():
    for name in ("01", "06", "07", "13"):
        found = base(name)
        head = right(facts_of(found, "m³/h", of_a_pump=False)).figures().head
        assert head == pytest.approx(found.sizing.needed_head_m, rel=1e-6)
