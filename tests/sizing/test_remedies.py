"""What would help where no pump fits: singly or two together, tried in full, the best first."""

from dataclasses import replace

import pytest

from sizing.analysis.remedies import remedies
from sizing.analysis.remedy_changes import changes
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import PumpCurve
from sizing.results.verdict import best_of, state_of, verdict
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS

CELLAR, CLUB = "bookbinders-cellar", "rowing-club-changing-rooms"
STRONGER = (("answers.rise", "172 mm"), ("answers.margin", "1.6"))
WHERE = [  # job, edits, one maker's pumps ('' for all), the keys of what is told
    (CELLAR, (("answers.voltage", "120 V"),), "Ondrath", ["supply-230-1"]),
    (CELLAR, (("answers.start_level", "188 mm"),), "Ondrath", ["start-200", "pit-1.25"]),
    (CELLAR, (("answers.stop_level", "50 mm"),), "Ondrath", ["stop-130"]),
    (CELLAR, STRONGER, "Ondrath", ["wider-all", "parallel"]),
    (
        CELLAR,
        (*STRONGER, ("answers.start_level", "188 mm")),
        "Ondrath",
        ["start-700+wider-all", "start-700+parallel"],
    ),
    (CLUB, (("legs.b.pipe", "PVC-U PN10 160 mm"),), "", ["narrower-all", "parallel"]),
    (
        "observatory-solar-well",
        (("answers.panels", "1"), ("answers.daily_need", "9 m3")),
        "",
        ["panels-3"],
    ),
    (
        "converted-mill",
        (("answers.stated_flow", "20 m3/h"), ("answers.flow_from", "stated")),
        "",
        ["parallel"],
    ),
]


def where(catalogue, name, edits, maker):
    shop = Catalogue([one for one in catalogue.pumps if one.maker == maker]) if maker else catalogue
    return size(changed(JOBS[name], *edits), shop), shop


@pytest.mark.parametrize(("name", "edits", "maker", "keys"), WHERE)
def test_what_is_told_was_tried_and_is_what_it_says(catalogue, name, edits, maker, keys):
    found, shop = where(catalogue, name, edits, maker)
    assert found.match.fits == ()
    told = remedies(found, shop)
    assert [one.key for one in told] == keys
    for one in told:
        then = size(one.job, shop)
        assert then.recommended is not None
        assert state_of(then) == one.state
        assert one.said.text("metric").endswith(f"then {one.state}")
    headline = verdict(found, best_of(told)).main.text("metric")
    assert f"What would help: {told[0].what.text('metric')}." in headline


def test_the_start_level_told_is_the_least_that_does(catalogue):
    found, shop = where(catalogue, CELLAR, (("answers.start_level", "188 mm"),), "Ondrath")
    lower = changed(found.job, ("answers.start_level", "190 mm"))
    assert not size(lower, shop).match.fits
    assert "start at 200" in remedies(found, shop)[0].what.text("metric")


def test_a_valve_half_shut_holds_a_pump_on_its_curve(catalogue):
    """The only pump there is lifts far more than the run asks, and would run off its end."""
    plain = size(JOBS["bakery-cistern"], catalogue)
    needed = plain.demand.needed_m3s
    flows = tuple(needed * share for share in (0.0, 0.4, 0.8, 1.2))
    strong = PumpCurve(flows, (30.0, 29.0, 26.0, 21.0), None, (1.0, 1.1, 1.3, 1.6))
    one = plain.chosen.candidate.pump
    shop = Catalogue([replace(one, curve=strong, motor_power_w=None)])
    found = size(JOBS["bakery-cistern"], shop)
    told = {one.key: one for one in remedies(found, shop)}
    then = size(told["throttle"].job, shop)
    assert then.at_flow_m3s == pytest.approx(1.05 * needed, rel=0.01)


def test_solids_are_never_throttled(catalogue):
    found, shop = where(catalogue, CLUB, (("legs.b.pipe", "PVC-U PN10 160 mm"),), "")
    assert "throttle" not in [one.key for one in changes(found, shop)]


def test_a_sizing_that_fits_needs_no_cure(catalogue):
    assert remedies(size(JOBS[CELLAR], catalogue), catalogue) == ()


def test_a_wider_pit_lets_no_more_water_in(catalogue):
    """The timed rise is measured in the pit there was: the remedy keeps its area."""
    edits = (("answers.start_level", "180 mm"), ("answers.inlet_level", "260 mm"))
    found, shop = where(catalogue, CELLAR, edits, "Ondrath")
    wider = [one for one in changes(found, shop) if one.key.startswith("pit-")]
    assert wider
    for one in wider:
        then = size(one.apply(found.job), shop)
        assert then.demand.inflow_m3s == pytest.approx(found.demand.inflow_m3s, rel=1e-3)
