"""What to ask makers for: the duty in SI, its powers, and what goes with it."""

import pytest

from sizing.base.message import Measure
from sizing.results.specification import in_words, specification
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS


def rows_of(job, catalogue):
    return dict(specification(size(job, catalogue)))


def test_the_powers_are_those_of_the_duty(catalogue):
    sizing = size(JOBS["bookbinders-cellar"], catalogue)
    rows = dict(specification(sizing))
    flow, head = rows["Flow"].value_si, rows["Head at that flow"].value_si
    assert flow == sizing.demand.needed_m3s
    assert head == pytest.approx(sizing.needed_head_m)
    water = rows["Power in the water"].value_si
    assert water == pytest.approx(sizing.system.water.density_kg_m3 * 9.80665 * flow * head)
    shaft = next(value for label, value in rows.items() if label.startswith("Power at the shaft"))
    assert shaft.value_si == pytest.approx(2 * water)
    assert rows["Next motor size"].value_si >= shaft.value_si
    assert rows["Head at no flow, at least"].value_si > sizing.system.static_head_m


def test_a_dry_pump_says_what_npsh_it_may_require(catalogue):
    rows = rows_of(JOBS["bakery-cistern"], catalogue)
    assert 0 < rows["NPSH it may require, at most"].value_si < 10.3
    assert "NPSH it may require, at most" not in rows_of(JOBS["bookbinders-cellar"], catalogue)


@pytest.mark.parametrize("name", sorted(JOBS))
def test_every_job_whose_duty_is_known_says_it_in_its_units(name, catalogue):
    sizing = size(JOBS[name], catalogue)
    known = sizing.demand is not None and sizing.system is not None and bool(sizing.needed_head_m)
    words = in_words(sizing)
    assert bool(words) is known
    assert all(label and text for label, text in words)
    assert all(not isinstance(value, Measure) for _, value in words)


def test_a_need_over_every_motor_is_told_in_words(catalogue):
    stated = (("answers.flow_from", "stated"), ("answers.stated_flow", "19 l/s"))
    rows = rows_of(changed(JOBS["bookbinders-cellar"], *stated), catalogue)
    assert rows["Next motor size"] == "over 75 kW: a maker's own"
