import csv
import json
import math
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.__main__ import main
from sizing.base.rules import SHIPPED, Rules, defaults
from sizing.document.job import JobDocument, dump
from sizing.editing.edit_structure import add_leg
from sizing.head_breakdown import round_to_sum
from sizing.kinds import kind
from sizing.pump.catalogue import EMPTY, Catalogue
from sizing.results.report import report
from sizing.results.verdict import verdict
from sizing.size import size
from tests.sizing.conftest import changed

DATA = Path(__file__).parents[2] / "sizing/data"


def test_the_demo_cellar_is_interesting(cellar, catalogue):
    found = size(cellar, catalogue)
    assert (found.missing, found.problems) == ((), ())
    assert found.chosen.fits
    assert len(found.match.near_misses) == 2
    assert found.chosen.operating_point.point.flow_m3s >= found.demand.needed_m3s


def test_the_margin_is_added_once(cellar, catalogue):
    found = size(cellar, catalogue)
    rise = next(method for method in found.demand.methods if method.code == "timed_rise")
    # pi/4 x 1.0^2 m2 x 0.102 m / 68 s, times 1.5
    assert rise.flow_m3s == pytest.approx(0.7853982 * 0.102 / 68, rel=1e-6)
    assert found.demand.needed_m3s == pytest.approx(1.5 * rise.flow_m3s)
    assert found.wanted.flow_m3s == found.demand.needed_m3s


def test_static_head_runs_from_the_water_when_the_pump_stops(cellar, catalogue):
    # the yard's end at 6.9 m is the high point; the pump stops at 0.16 m
    assert size(cellar, catalogue).system.static_head_m == pytest.approx(6.9 - 0.16)


def test_a_blank_sheet_lists_what_it_needs(catalogue):
    found = size(JobDocument(kind="sump", legs=kind("sump").default_legs), catalogue)
    assert {one.path for one in found.missing} == {
        "answers.rise",
        "answers.pit_depth",
        "legs.a.length",
        "legs.a.ends_at",
        "answers.pit_diameter",
    }
    assert verdict(found).state == "open"
    assert "Still needed: " in verdict(found).main.text("metric")


def test_a_leg_just_added_is_left_out_and_said_so(cellar, catalogue):
    before, after = size(cellar, catalogue), size(add_leg(cellar), catalogue)
    assert after.chosen == before.chosen
    assert [one.label for one in after.missing] == ["length of leg 4"]
    assert any("left out" in text.text("metric") for _, text in verdict(after).worries)


def test_a_pipe_too_short_for_its_climb_is_told(cellar, catalogue):
    found = size(changed(cellar, ("legs.b.length", "2 m")), catalogue)
    assert (
        "the yard is too short: 2.00\u00a0m long, and it has to climb 3.70\u00a0m"
        in (found.problems[0])
    )
    assert found.demand is not None


def test_start_below_stop_is_told(cellar, catalogue):
    found = size(changed(cellar, ("answers.start_level", "100 mm")), catalogue)
    assert "start at a higher level" in found.problems[0]


METHODS = [("timed_rise", "largest"), ("drained_area", "drained_area"), ("stated", "stated")]


@pytest.mark.parametrize(("way", "choice"), METHODS)
def test_the_way_that_is_chosen_gives_the_flow(cellar, catalogue, way, choice):
    job = changed(cellar, ("answers.stated_flow", "2 m3/h"), ("answers.flow_from", choice))
    found = size(job, catalogue)
    assert found.demand.inflow_m3s == next(
        one.flow_m3s for one in found.demand.methods if one.code == way
    )


def test_the_sum_of_ways(cellar, catalogue):
    job = changed(cellar, ("answers.rain_area", "40 m2"), ("answers.flow_from", "sum"))
    found = size(job, catalogue)
    assert found.demand.inflow_m3s == pytest.approx(
        sum(method.flow_m3s for method in found.demand.methods if method.flow_m3s)
    )


def test_a_chosen_way_without_its_facts_is_missing(cellar, catalogue):
    found = size(changed(cellar, ("answers.flow_from", "rain")), catalogue)
    assert [one.path for one in found.missing] == ["answers.rain_area"]


def test_a_pump_that_a_person_picks_is_taken_and_judged(cellar, catalogue):
    found = size(changed(cellar, ("pump", "vessmar-tarn-20")), catalogue)
    assert (found.chosen.by_person, found.chosen.fits, found.chosen.operating_point.status) == (
        True,
        False,
        "cannot_lift",
    )
    assert verdict(found).state == "bad"
    assert "cannot lift it" in verdict(found).main.text("metric")
    gone = size(changed(cellar, ("pump", "no-such-pump")), catalogue)
    assert not gone.chosen.by_person
    assert "not in the catalogue any more" in gone.problems[0]


def test_a_picked_pump_beyond_the_listed_ones_still_counts_as_fitting(cellar, catalogue):
    base = next(pump for pump in catalogue.pumps if pump.pump_id == "ondrath-k-11")
    many = Catalogue(
        [replace(base, pump_id=f"twin-{index:03d}", price=100.0 + index) for index in range(80)]
    )
    found = size(changed(cellar, ("pump", "twin-079")), many)
    assert (found.match.fit_count, len(found.match.fits), found.chosen.fits) == (80, 50, True)
    assert verdict(found).state == "watch"  # its power cut


def test_a_flow_of_next_to_nothing_is_told(cellar, catalogue):
    job = changed(
        cellar,
        ("answers.rain_area", "0.5 m2"),
        ("answers.runoff", "0.0001 %"),
        ("answers.rain_rate", "0.04 mm/h"),
        ("answers.flow_from", "rain"),
    )
    found = size(job, catalogue)
    assert found.match is None
    assert "wanted flow" in found.problems[0]


def test_nothing_fits_and_nothing_there(cellar, catalogue):
    steep = size(
        changed(
            cellar,
            ("legs.b.length", "90 m"),
            ("legs.b.ends_at", "60 m"),
            ("legs.l1.length", "80 m"),
        ),
        catalogue,
    )
    assert (steep.chosen.fits, steep.recommended) == (False, None)  # the best try is shown
    assert "No pump of 82 fits" in verdict(steep).main.text("metric")
    assert "import pumps first" in verdict(size(cellar, EMPTY)).main.text("metric")


FAILS = [
    ("starts", ("answers.start_level", "200 mm"), ("fail", "watch")),
    ("alarm", ("answers.alarm_level", "300 mm"), ("fail",)),
    ("inlet", ("answers.inlet_level", "500 mm"), ("fail",)),
    ("power_cut", ("answers.time_to_come", "12 h"), ("fail",)),
    ("drain_back", ("legs.a.fittings", "ball, 3 elbow"), ("watch", "hold")),
    ("velocity_a", ("legs.a.pipe", "PVC-U PN10 32 mm"), ("fail", "watch")),
]


@pytest.mark.parametrize(("code", "change", "states"), FAILS)
def test_each_check_can_fail_and_says_the_remedy(cellar, catalogue, code, change, states):
    good = next(check for check in size(cellar, catalogue).checks if check.code == code)
    bad = next(
        check for check in size(changed(cellar, change), catalogue).checks if check.code == code
    )
    assert bad.state in states
    assert bad.message != good.message
    assert bad.remedy or bad.state == "hold"


def test_a_house_rule_reaches_the_checks(cellar, catalogue):
    strict = size(cellar, catalogue, Rules({"CYC-01": 1 / 3600}))
    assert next(check for check in strict.checks if check.code == "starts").state == "watch"


def test_the_tape_is_the_ledger_in_words_and_adds_up_as_shown(cellar, catalogue):
    tape = size(cellar, catalogue).head_breakdown
    for system in ("metric", "us"):
        shown, total = tape.figures(system)
        assert sum(round(float(text.replace("−", "-")) * 100) for text in shown) == round(
            float(total) * 100
        )
    assert tape.total_head_m == pytest.approx(
        sum(line.head_m for line in tape.lines if line.counted), rel=1e-12
    )
    assert all(line.working.lines("metric") for line in tape.lines)


@given(st.lists(st.floats(-50, 50), min_size=1, max_size=15), st.integers(0, 3))
def test_rounding_keeps_the_sum_and_every_line_within_a_step(values, decimals):
    rounded = round_to_sum(values, decimals)
    assert sum(rounded) == pytest.approx(round(math.fsum(values), decimals), abs=1e-9)
    assert all(abs(a - b) <= 10**-decimals * (1 + 1e-9) for a, b in zip(values, rounded))


def test_fitting_methods_and_friction_methods_differ_a_little(cellar, catalogue):
    heads = [
        size(changed(cellar, change), catalogue).system.head_at(0.0018)
        for change in (
            ("friction", "darcy_weisbach"),
            ("friction", "hazen_williams"),
            ("fitting_method", "equivalent_length"),
        )
    ]
    assert len({round(head, 4) for head in heads}) == 3
    assert max(heads) / min(heads) < 1.1


def test_units_of_display_change_no_number(cellar, catalogue):
    metric, us = size(cellar, catalogue), size(changed(cellar, ("units", "us")), catalogue)
    assert metric.ledger == us.ledger
    assert "gpm" in verdict(us).main.text("us")


def test_the_report_is_plain_json(cellar, catalogue):
    content = json.loads(json.dumps(report(size(cellar, catalogue)), allow_nan=False))
    assert content["chosen"]["flow_m3s"] == content["ledger"]["flow_m3s"]
    assert content["demand"]["needed_m3s"] > 0
    assert len(content["checks"]) > 8


def test_the_command_line_prints_the_same(cellar, catalogue, tmp_path, capsys):
    job, pumps = tmp_path / "job.json", "demo/pumps.csv"
    job.write_text(json.dumps(dump(cellar)))
    assert main([str(job), "--catalogue", pumps]) == 0
    assert json.loads(capsys.readouterr().out) == json.loads(
        json.dumps(report(size(cellar, catalogue)))
    )
    job.write_text(json.dumps(dump(cellar.model_copy(update={"legs": ()}))))
    assert main([str(job), "--catalogue", pumps]) == 2
    assert main([str(tmp_path / "no.json"), "--catalogue", pumps]) == 1
    assert "cannot read the files" in capsys.readouterr().err


def test_a_twin_of_the_catalogue_gives_the_same_choice(cellar, catalogue):
    twin = Catalogue([replace(pump) for pump in catalogue.pumps])
    assert size(cellar, twin).chosen.candidate.pump == size(cellar, catalogue).chosen.candidate.pump


@pytest.mark.parametrize(
    "rule_id",
    [
        "HI-01",
        "SMP-01",
        "SMP-02",
        "SMP-05",
        "CYC-01",
        "CYC-02",
        "VEL-12",
        "BAS-08",
        "BAS-09",
        "CHO-01",
        "CHO-07",
    ],
)
def test_rules_that_are_used_have_low_usual_and_high_in_order(rule_id):
    rule = SHIPPED.rule(rule_id)
    known = [value for value in (rule.low_si, rule.typical_si, rule.high_si) if value is not None]
    assert known == sorted(known)
    assert rule.reason
    assert rule.source


def test_all_rules_load():
    files = [DATA / "rules.csv", DATA / "choice_rules.csv"]
    named = {
        row["rule_id"] for path in files for row in csv.DictReader(path.read_text().splitlines())
    }
    assert len(named) > 230
    assert set(defaults()) == named
