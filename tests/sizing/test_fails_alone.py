"""A part that raises anything at all fails alone: the rest of the sizing stands, and it is told."""

from __future__ import annotations

import ast
import json
import random
from dataclasses import replace
from pathlib import Path

import pytest

import sizing.size as whole
from sizing import find_pumps
from sizing.analysis.remedies import remedies
from sizing.checks.base import MAKERS
from sizing.editing import intake
from sizing.kinds import kinds
from sizing.over_time.scenarios import all_scenarios
from sizing.over_time.scenarios.pit_model import flow_at_level
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_file import read_csv
from sizing.pump.curve import PumpCurve
from sizing.results.report import report
from sizing.results.verdict import verdict
from sizing.size import size
from tests import edges
from tests.thin import some

ROOT = Path(__file__).parents[2]
PUMPS = [row.pump for row in read_csv((ROOT / "demo/pumps.csv").read_text()) if row.pump]
CATALOGUE = Catalogue(PUMPS)
JOBS = [intake.loads(path.read_bytes()) for path in edges.FILES]

WHOLE = [job for job in JOBS if size(job, CATALOGUE).running is not None]


def breaks(*_, **__):
    raise RuntimeError("broken on purpose")


def told(sizing) -> str:
    """All that a person is told of a sizing, as one text; it must be fit for JSON."""
    return json.dumps(report(sizing), allow_nan=False)


@pytest.fixture(scope="module")
def used() -> dict[str, int]:
    """For every function that makes checks: the first demo job that it looks at."""
    found: dict[str, int] = {}
    held = dict(MAKERS)
    for at, job in enumerate(JOBS):
        for name, make in held.items():

            def noted(*args, _name=name, _make=make, _at=at, **named):
                found.setdefault(_name, _at)
                return _make(*args, **named)

            MAKERS[name] = noted
        size(job, CATALOGUE)
    MAKERS.update(held)
    return found


def test_every_function_that_makes_checks_is_guarded():
    """One that forgets ``@alone`` would take all checks of its job with it: add it there."""
    bare = []
    for path in [*(ROOT / "sizing/checks").glob("*.py"), *(ROOT / "sizing/kinds").glob("*.py")]:
        tree = ast.parse(path.read_text())
        functions = {one.name: one for one in tree.body if isinstance(one, ast.FunctionDef)}
        makes = {
            name
            for name, one in functions.items()
            if one.returns
            and ast.unparse(one.returns)
            in ("Check", "Iterator[Check]", "list[Check]", "Sequence[Check]")
        }
        guarded = {name for name in makes if functions[name].decorator_list}
        inside = {
            node.id
            for name in guarded
            for node in ast.walk(functions[name])
            if isinstance(node, ast.Name)
        }
        bare += [f"{path.name}: {name}" for name in makes - guarded - inside]
    assert bare == ["base.py: _not_worked_out"]


@pytest.mark.fails_alone
def test_each_check_fails_alone(used, monkeypatch):
    assert len(used) > 55  # all but what no demo job asks
    for name in some(sorted(used), 25):
        at = used[name]
        before = size(JOBS[at], CATALOGUE)
        with monkeypatch.context() as broken:
            broken.setitem(MAKERS, name, breaks)
            after = size(JOBS[at], CATALOGUE)
        assert len(after.failures) >= 1, name
        assert "broken on purpose" in after.failures[0].trace
        assert after.chosen == before.chosen
        gone = {one.code for one in before.checks} - {one.code for one in after.checks}
        assert len(after.checks) + len(gone) > 1, name
        assert verdict(after).state != "good"
        assert after.failures[0].about in told(after)


_OF_A_SIZING = (
    "find_pumps.match",
    "find_pumps._with_cures",
    "find_pumps._surest_first",
    "_no_pump_needed",
    "_choose",
    "_running",
    "system_of",
    "on_site",
    "head_breakdown",
    "kept_checks",
    "velocities",
    "motor_check",
    "pressure_check",
    "ground_checks",
    "range_check",
)


@pytest.mark.fails_alone
@pytest.mark.parametrize("name", _OF_A_SIZING)
def test_each_part_of_a_sizing_fails_alone(name, monkeypatch):
    room, _, name = name.rpartition(".")
    monkeypatch.setattr(find_pumps if room else whole, name, breaks)
    sizing = size(JOBS[0], CATALOGUE)
    assert sizing.failures, name
    assert sizing.demand is not None
    assert verdict(sizing).state in ("open", "watch", "bad")
    assert "could not be worked out" in " ".join(
        text.text("metric") for _, text in verdict(sizing).worries
    )
    told(sizing)


_OF_A_KIND = ("demand", "ends", "place", "wanted", "limits", "checks", "site_checks", "families")


@pytest.mark.fails_alone
@pytest.mark.parametrize("name", _OF_A_KIND)
def test_each_part_of_a_kind_fails_alone(name, monkeypatch):
    for job in WHOLE[:4]:
        with monkeypatch.context() as broken:
            broken.setattr(type(kinds()[job.kind]), name, breaks)
            sizing = size(job, CATALOGUE)
        assert sizing.failures, (job.kind, name)
        assert verdict(sizing).state != "good"
        told(sizing)


@pytest.mark.fails_alone
def test_a_run_over_time_fails_alone(monkeypatch):
    cellar = JOBS[0]
    (code,) = cellar.scenarios
    broken = replace(all_scenarios()[code], run=breaks)
    monkeypatch.setattr(
        "sizing.over_time.scenarios.all_scenarios", lambda: {**all_scenarios(), code: broken}
    )
    sizing = size(cellar, CATALOGUE)
    (check,) = [one for one in sizing.checks if one.code == f"over_time_{code}"]
    assert "could not be worked out" in check.message.text("metric")
    assert [one.about for one in sizing.failures] == [all_scenarios()[code].label]
    assert sizing.chosen is not None


def test_a_curve_that_begins_beside_no_flow_runs_through_a_wet_night():
    """The pump of a traced curve: first point at 0.1 m³/h, and what it gives left of it unstated.

    It made every later look at its job an error.
    """
    flows = tuple(one / 3600 for one in (0.1, 4, 8, 12, 16))
    traced = Pump("Test T 1", "Test", "T 1", "sump", PumpCurve(flows, (18, 16.5, 14, 10, 5)))
    cellar = JOBS[0].model_copy(update={"pump": "Test T 1"})
    sizing = size(cellar, Catalogue([*PUMPS, traced]))
    assert sizing.chosen is not None
    assert sizing.chosen.candidate.pump is traced
    assert not sizing.failures
    running = sizing.running
    assert running is not None
    assert flow_at_level(running, -30.0, 0.0) == 0.0  # left of the first point: none is claimed
    full = flow_at_level(running, 0.0, 0.0)
    assert traced.curve.covers(full)


@pytest.mark.parametrize("half", [{"phases": None}, {"voltage_v": None}])
def test_half_a_supply_that_is_stated_is_proposed_as_no_remedy(half):
    """Pumps of 400 V without phases, or the reverse: the remedies turned NaN into a number."""
    pumps = [
        replace(pump, **({"voltage_v": 400.0, "phases": 3} | half))
        for pump in PUMPS
        if pump.family == "sump"
    ]
    found = remedies(size(JOBS[0], Catalogue(pumps)), Catalogue(pumps))
    assert all("nan" not in one.text("metric") for one in found)


def _at_the_edge(seed: int) -> None:
    draw = random.Random(seed)
    job, catalogue = edges.job(draw), edges.catalogue(draw)
    sizing = size(job, catalogue)
    assert not sizing.failures, (seed, sizing.failures[0])
    remedies(sizing, catalogue)
    text = told(sizing)
    said = [verdict(sizing).main.text(job.units)]
    said += [one.message.text(job.units) for one in sizing.checks]
    for sentence in (*said, text):
        assert " nan" not in sentence.lower(), (seed, sentence)


@pytest.mark.parametrize("seed", range(40))  # 18: a pit run by a traced curve
def test_catalogues_and_jobs_at_their_edges_never_break_a_part(seed):
    _at_the_edge(seed)


@pytest.mark.nightly
@pytest.mark.parametrize("begin", range(0, 2000, 100))
def test_two_thousand_of_them(begin):
    for seed in range(begin, begin + 100):
        _at_the_edge(seed)
