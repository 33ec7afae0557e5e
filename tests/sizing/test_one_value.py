"""One quantity has one value, wherever it is told: sheet, dialogs, JSON, over time, promise."""

import pytest

from sizing.analysis import basins
from sizing.analysis.changed import known
from sizing.analysis.commissioning import promise_of
from sizing.analysis.electrics import electrics
from sizing.analysis.surge import surge_of
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.pit import starts_at, storage_m3
from sizing.kinds.pit import PitKind, pit_plan
from sizing.over_time.scenarios import all_scenarios, scenarios
from sizing.results.report import report
from sizing.results.specification import specification
from sizing.results.verdict import reasons, state_of, verdict
from sizing.size import size
from tests.sizing.test_kinds import JOBS

WHOLE = sorted(set(JOBS) - {"chandlers-undercroft", "boathouse-crawl-space"})


@pytest.fixture(params=WHOLE)
def whole(request, catalogue):
    return size(JOBS[request.param], catalogue)


def told(sizing, code):
    return next((one for one in sizing.checks if one.code == code), None)


def test_the_verdict(whole):
    word = state_of(whole)
    assert verdict(whole).state == word
    assert report(whole)["verdict"]["state"] == word
    found = reasons(whole)
    assert word == (found[0].state if found else "good")


def test_the_flow_and_head_needed(whole):
    needed = whole.demand.needed_m3s
    assert whole.wanted.flow_m3s == needed
    assert report(whole)["demand"]["needed_m3s"] == needed
    said = verdict(whole).main.values
    assert needed in [getattr(one, "value_si", None) for one in said.values()]
    assert whole.needed_head_m == max(whole.system.head_at(needed), 0.0)
    if not whole.system.route.closed_loop:  # in which nothing is read against a height
        assert promise_of(known(whole)).needed_flow_m3s == needed
    assert dict(specification(whole))["Flow"].value_si == needed


def test_the_flow_that_runs(whole):
    runs = whole.chosen.candidate.flow_m3s
    assert whole.at_flow_m3s == pytest.approx(runs)
    assert whole.running.flow_m3s == pytest.approx(runs)
    assert report(whole)["chosen"]["flow_m3s"] == pytest.approx(runs)


def test_starts_an_hour_in_proof_promise_and_basin_designer(whole):
    check = told(whole, "starts")
    if not isinstance(whole.kind, PitKind) or check is None:
        return
    worst = check.message.values["worst"].value_si
    storage = storage_m3(whole.facts, pit_plan(whole.facts))
    assert starts_at(whole.running, storage, whole.running.flow_m3s) == pytest.approx(worst)
    assert promise_of(known(whole)).starts_per_s == pytest.approx(worst)
    found = basins.basins(known(whole))
    there = found.here_as_it_is.starts_per_pump_per_h(found.borne)
    assert there / SECONDS_PER_HOUR == pytest.approx(worst, rel=1e-6)
    most = check.message.values["most"].value_si
    assert found.borne.allowed_starts_per_h / SECONDS_PER_HOUR == pytest.approx(most)
    assert found.wanted.allowed_starts_per_h <= found.borne.allowed_starts_per_h


def test_the_days_volume_is_what_comes_in_over_a_day(whole):
    volume = whole.demand.daily_volume_m3
    day = all_scenarios()["ordinary"]
    if volume is None or day not in scenarios(whole.kind, whole.running):
        return
    came = dict(day.run(whole.running, day.answers({})).sums)["Came in"].value_si
    assert came == pytest.approx(volume, rel=1e-6)


def test_the_drop_of_the_cable(whole):
    check = told(whole, "cable")
    if check is None:
        return
    values = check.message.values
    found = electrics(known(whole), values["length"].value_si)
    row = next(one for one in found.rows if one.conductor.size == values["size"])
    assert row.running == pytest.approx(values["share"].value_si)


def test_the_surge(whole):
    check = told(whole, "surge")
    if check is None:
        return
    asked = surge_of(known(whole), closes_s=60.0)
    weight = whole.system.water.density_kg_m3 * 9.80665
    assert check.message.values["fall"].value_si == pytest.approx(asked.trip_fall_pa / weight)
    assert check.state == asked.trip.state
