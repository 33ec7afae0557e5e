"""The demo jobs run over time: what holds, what is watched, what fails, and how near it is."""

import json
from pathlib import Path

import pytest

from sizing.analysis.changed import known
from sizing.analysis.simulate_candidates import beside
from sizing.base.errors import EditError
from sizing.document.job import Figure, JobFileError
from sizing.editing import intake
from sizing.editing.edit import edit, text_at
from sizing.kinds import kinds
from sizing.kinds.well_questions import daily_volume_m3
from sizing.over_time.scenarios import all_scenarios, kept_checks, scenarios
from sizing.over_time.scenarios.pit_day import level_marks
from sizing.over_time.scenarios.pit_model import flow_at_level, pit_of
from sizing.over_time.simulation.delivery import delivery
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.pump.curve import one_of
from sizing.size import size

DEMO = Path(__file__).parents[2] / "demo"
PUMPS = Catalogue(tuple(row.pump for row in read_csv((DEMO / "pumps.csv").read_text())))
PITS = ("01-bookbinders", "03-boathouse", "04-rowing", "05-hostel", "06-cabins")


def base(name: str, **answers: str):
    (path,) = (DEMO / "jobs").glob(f"{name}*.json")
    job = intake.loads(path.read_bytes())
    for key, text in answers.items():
        job = edit(job, f"answers.{key}", text).job
    return known(size(job, PUMPS))


def ran(name: str, code: str, answers=None, **given: str):
    found = base(name, **(answers or {})).sizing
    figures = {
        question.key: Figure.read(given[question.key], question.dimension, question.metric_unit)
        for question in all_scenarios()[code].asks
        if question.key in given
    }
    scenario = all_scenarios()[code]
    return scenario.run(found.running, scenario.answers(figures))


def codes(name: str) -> list[str]:
    found = base(name).sizing
    return [one.code for one in scenarios(found.kind, found.running)]


@pytest.mark.parametrize("name", PITS)
def test_the_flow_between_stop_and_rim_is_that_of_the_curves(name):
    running = base(name).sizing.running
    pit = pit_of(running)
    ours = delivery([pit.pumps[0]], pit.against)
    for part in range(11):
        level = pit.stop_m + (pit.rim_m - pit.stop_m) * part / 10
        exact = flow_at_level(running, level, pit.stop_m)
        assert ours.flow_m3s(level) == pytest.approx(exact, rel=4e-3)


def together(*edits):
    """The changing rooms with two pumps that run together."""
    job = base("04").sizing.job.model_copy(
        update={"arrangement": "parallel", "running_pumps": 2, "standby": 0, "pump": ""}
    )
    for path, text in edits:
        job = edit(job, path, text).job
    return size(job, PUMPS).running


def test_two_that_run_together_are_two_with_the_second_at_its_own_level():
    both = pit_of(together())
    assert (len(both.pumps), both.alternating) == (2, True)
    assert both.lag_start_m - both.start_m == pytest.approx(0.0, abs=1e-3)
    running = together(("answers.lag_level", "820 mm"))
    pit = pit_of(running)
    assert pit.lag_start_m == pytest.approx(0.82)
    for units in (1, 2):
        ours = delivery(list(pit.pumps[:units]), pit.against)
        curve = one_of(running.curve, "parallel", 2)
        exact = flow_at_level(running, pit.stop_m, pit.stop_m, units, curve)
        assert ours.flow_m3s(pit.stop_m) == pytest.approx(exact, rel=4e-3)
    assert "second starts" in [one.label for one in level_marks(pit)]
    place = kinds()["sewage"].place(running.facts, running.rules)
    lag = [one.elevation_m for one in place.levels if one.code == "lag"]
    assert lag == [pytest.approx(0.82)]
    found = all_scenarios()["ordinary"].run(running, all_scenarios()["ordinary"].answers({}))
    assert found.outcome.state != "fail"
    assert dict(found.sums)["Pump 2 starts"] != "0 times"  # they take turns


def test_one_that_stands_by_helps_from_its_own_level_where_that_is_told():
    job = base("04").sizing.job.model_copy(update={"arrangement": "single", "standby": 1})
    told = edit(job, "answers.lag_level", "820 mm").job
    assert pit_of(size(told, PUMPS).running).lag_start_m == pytest.approx(0.82)
    plain = size(edit(job, "answers.lag_level", "").job, PUMPS).running
    assert pit_of(plain).lag_start_m == pytest.approx(plain.facts.si("alarm_level"))


@pytest.mark.parametrize("name", PITS)
def test_every_day_keeps_its_balance(name):
    for code in codes(name):
        found = ran(name, code)
        if "Ran back at the stops" not in dict(found.sums):
            continue  # no day of the pit
        sums = {label: getattr(value, "value_si", 0.0) for label, value in found.sums}
        gained = sums["Came in"] + sums["Ran back at the stops"]
        gone = sums["Pumped"] + sums["Went over the rim"]
        area = pit_of(base(name).sizing.running).area
        stored = area.volume_m3(found.line.points[-1][1]) - area.volume_m3(found.line.points[0][1])
        assert abs(gained - gone - stored) < 1e-8 * max(1.0, gained)
        assert found.line.points[-1][0] == pytest.approx(86_400.0)


@pytest.mark.parametrize(
    ("name", "code", "given", "state", "weight"),
    [
        ("01", "wettest", {}, "hold", "should"),
        ("01", "wettest", {"times": "4"}, "fail", "should"),  # more than was told is a thought
        ("01", "out", {}, "fail", "should"),
        ("01", "out", {"out": "5 min"}, "watch", "should"),
        ("01", "failed", {}, "fail", "should"),
        ("03", "wettest", {}, "watch", "should"),  # 13 starts, 10 are usual
        ("04", "wet_night", {}, "hold", "should"),  # of its busiest hour, not of a moment's peak
        ("04", "wet_night", {"peak": "1"}, "hold", "should"),
        ("04", "wet_night", {"peak": "20", "times": "4", "lasts": "3 h"}, "fail", "should"),
        ("04", "ordinary", {}, "hold", "should"),
        ("05", "out", {}, "hold", "should"),  # a large tank lasts four hours
        ("06", "out", {}, "watch", "should"),
    ],
)
def test_what_becomes_of_a_day(name, code, given, state, weight):
    found = ran(name, code, **given).outcome
    assert (found.state, found.weight) == (state, weight)


def test_levels_too_close_start_it_too_often_and_that_must_not_be():
    found = ran("01", "wettest", {"start_level": "180 mm"})
    assert (found.outcome.state, found.outcome.weight, found.outcome.about) == (
        "fail",
        "must",
        "site",
    )
    assert found.over_at_s is None


def test_ground_water_has_no_hours_of_people():
    assert "ordinary" not in codes("01")
    assert codes("04")[0] == "ordinary"


def kept(name: str, **texts: str):
    job = base(name).sizing.job
    for code, text in texts.items():
        job = edit(job, f"scenarios.{code}", text).job
    return job


def test_what_stands_on_the_job_is_run_at_every_edit_and_judged_among_the_checks():
    job = kept("01", out="out=2 h; times=1", wet_night="on")
    found = [one for one in size(job, PUMPS).checks if one.code.startswith("over_time_")]
    assert [one.code for one in found] == ["over_time_wet_night", "over_time_out"]
    assert [one.state for one in found] == ["hold", "fail"]
    assert text_at(job, "scenarios.out") == "out=2 h; times=1 ×"
    again = edit(job, "scenarios.out", "off").job
    assert list(again.scenarios) == ["wet_night"]
    assert text_at(again, "scenarios.out") == "off"


def test_a_scenario_that_no_job_has_or_a_figure_that_cannot_be_is_told():
    job = base("01").sizing.job
    with pytest.raises(EditError, match="no job is run through"):
        edit(job, "scenarios.flood_of_ages", "on")
    wrong = edit(job, "scenarios.out", "out=99 h")
    assert "must lie between" in wrong.problem
    assert "out" not in wrong.job.scenarios


def test_one_that_does_not_suit_the_job_is_left_alone():
    well = kept("07", wet_night="on")
    assert not [one for one in size(well, PUMPS).checks if one.code == "over_time_wet_night"]


def test_what_cannot_be_run_says_why():
    found = base("01", alarm_level="2 m").sizing
    job = edit(found.job, "scenarios.wettest", "on").job
    checks = kept_checks(found.kind, size(job, PUMPS).running)
    assert all(one.message.template for one in checks)


@pytest.mark.parametrize(
    ("scenarios", "says"),
    [
        ({"flood": {}}, "no job is run through"),
        ({"out": {"hours": {"value": 2, "unit": "h"}}}, "no question of this kind"),
        ({"out": {"out": {"value": 99, "unit": "h"}}}, "must lie between"),
        ({"out": {"out": {"value": 2, "unit": "m"}}}, "unit"),
    ],
)
def test_a_job_file_whose_runs_cannot_be_is_refused(scenarios, says):
    (path,) = (DEMO / "jobs").glob("01*.json")
    content = json.loads(path.read_text()) | {"scenarios": scenarios}
    with pytest.raises(JobFileError, match=says):
        intake.loads(json.dumps(content))


@pytest.mark.parametrize(
    ("name", "code", "answers", "given", "state", "says"),
    [
        ("07", "taps", {"tank_volume": "600 l"}, {}, "hold", "It holds"),
        ("07", "taps", {}, {}, "watch", "shorter than the 2"),
        ("07", "taps", {"tank_volume": "60 l"}, {}, "fail", "shorter than the 2"),
        ("07", "steady", {"tank_volume": "600 l"}, {}, "hold", "It holds"),
        ("07", "steady", {"tank_volume": "40 l"}, {}, "fail", "hunts"),
        ("07", "steady", {}, {"draw": "3.5 m3/h"}, "watch", "never stops"),
        ("07", "steady", {}, {"draw": "20 m3/h"}, "fail", "more than the pump gives"),
        ("07", "steady", {}, {"draw": "0.001 l/min"}, "hold", "the pump never starts"),
        ("14", "taps", {}, {}, "hold", "It holds"),
        ("14", "taps", {"day_volume": "300 l"}, {}, "watch", "are drawn by"),
        ("07", "tank_alone", {}, {"clock": "6 h"}, "watch", "it lasts"),
        ("07", "tank_alone", {"tank_volume": "9000 l"}, {"clock": "21 h"}, "hold", "it lasts"),
        ("14", "steady", {"accumulator": "0.3 l"}, {}, "fail", "hunts"),
    ],
)
def test_a_tank_with_its_switch(name, code, answers, given, state, says):
    found = ran(name, code, answers, **given).outcome
    assert says in found.message.text("metric")
    assert found.state == state


def test_a_day_of_taps_is_the_same_again_and_draws_what_a_day_takes():
    first, second = ran("07", "taps"), ran("07", "taps")
    assert first == second
    drawn = dict(first.sums)["Drawn"].value_si
    facts = base("07").sizing
    wanted = daily_volume_m3(facts.facts, facts.rules)
    assert drawn == pytest.approx(wanted, rel=0.15)  # taps at random


def test_a_pump_that_never_reaches_the_cut_out_is_told_so():
    first = base("14").sizing
    job = edit(first.job, "pump", first.running.pump.pump.pump_id).job
    found = size(edit(job, "answers.switch_off", "3.3 bar").job, PUMPS)
    told = all_scenarios()["taps"].run(found.running, all_scenarios()["taps"].answers({})).outcome
    assert (told.state, told.about) == ("fail", "pump")
    assert "never reaches" in told.message.text("metric")


def test_without_a_tank_nothing_is_run():
    assert "taps" not in codes("09")  # no vessel is told yet
    assert "taps" not in codes("01")


@pytest.mark.parametrize(
    ("code", "answers", "given", "state", "says"),
    [
        ("solar_year", {}, {}, "hold", "It holds all year"),
        ("solar_year", {"tank": "2.4 m3"}, {}, "watch", "goes without"),
        ("solar_year", {"tank": "0.2 m3"}, {}, "fail", "goes without"),
        ("dry_august", {}, {}, "hold", "It holds all year"),
        ("dry_august", {}, {"need": "3", "well": "0.1"}, "fail", "most in August"),
    ],
)
def test_a_year_of_sun(code, answers, given, state, says):
    found = ran("08", code, answers, **given)
    assert says in found.outcome.message.text("metric")
    assert found.outcome.state == state
    assert len(found.table.rows) == 12


def test_more_panels_help_or_are_said_not_to():
    few = ran("08", "solar_year", need="12", panels="1 ×").outcome
    dry = ran("08", "solar_year", need="4", well="0.1", panels="9 ×").outcome
    assert "With 2 panels it is" in few.remedy
    assert "changes nothing" in dry.remedy


@pytest.mark.parametrize(
    ("name", "code", "answers", "given", "state", "says"),
    [
        ("01", "battery", {}, {"pump": "7 m3/h", "out": "2 h"}, "hold", "on the battery"),
        ("01", "battery", {}, {"pump": "7 m3/h", "out": "6 h"}, "fail", "lasts"),
        ("05", "battery", {}, {"battery": "1 Ah", "out": "12 h"}, "watch", "battery is flat"),
        ("12", "runs_back", {}, {}, "hold", "are left"),
        ("12", "runs_back", {}, {"depth": "2"}, "watch", "are left"),
        ("12", "runs_back", {}, {"depth": "4"}, "fail", "go over"),
        ("10", "two_tanks", {}, {}, "hold", "never empty"),
        ("10", "two_tanks", {}, {"draw": "6 m3"}, "fail", "runs dry"),
        ("10", "two_tanks", {}, {"draw": "4.9 m3"}, "watch", "stops the pump"),
        ("05", "timed", {}, {"times": "0.5"}, "hold", "doses in two days"),
        ("05", "timed", {}, {}, "watch", "out of turn"),
        ("05", "timed", {}, {"times": "20"}, "fail", "overflows"),
        ("06", "age", {}, {}, "fail", "septic"),
    ],
)
def test_cuts_tanks_doses_and_mains(name, code, answers, given, state, says):
    found = ran(name, code, answers, **given).outcome
    assert says in found.message.text("metric")
    assert found.state == state


def own_pumps(dwellings: str, **answers: str):
    job = base("06").sizing.job
    for key, text in {"arrangement": "own", "dwellings": dwellings, "people": "90"}.items():
        job = edit(job, f"answers.{key}", text).job
    for key, text in answers.items():
        job = edit(job, f"answers.{key}", text).job
    return size(job, PUMPS)


def test_the_pumps_of_many_dwellings_at_once_and_after_a_cut():
    found = own_pumps("30")
    able = [one.code for one in scenarios(found.kind, found.running)]
    assert {"all_pumps", "after_cut"} <= set(able)
    usual = all_scenarios()["all_pumps"].run(
        found.running, all_scenarios()["all_pumps"].answers({})
    )
    cut = all_scenarios()["after_cut"].run(found.running, all_scenarios()["after_cut"].answers({}))
    most = [int(dict(one.sums)["Most at once"]) for one in (usual, cut)]
    assert most[1] > most[0] >= 1
    assert "When the power is back" in cut.outcome.message.text("metric")
    assert usual == all_scenarios()["all_pumps"].run(
        found.running, all_scenarios()["all_pumps"].answers({})
    )


@pytest.mark.parametrize(
    ("name", "code"), [("01", "wettest"), ("08", "solar_year"), ("07", "taps")]
)
def test_pumps_are_ordered_by_what_happens(name, code):
    found = beside(base(name), all_scenarios()[code], {})
    ranks = [("hold", "watch", "fail").index(row.ran.outcome.state) for row in found]
    assert ranks == sorted(ranks)
    assert len({row.candidate.pump.pump_id for row in found}) == len(found) > 1
    chosen = base(name).sizing.chosen.candidate.pump.pump_id
    (own,) = (row for row in found if row.candidate.pump.pump_id == chosen)
    assert own.ran.outcome == ran(name, code).outcome
