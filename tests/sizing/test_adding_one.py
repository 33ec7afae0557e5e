"""What the docs promise of the core: one file more is a kind, or a scenario."""

import pytest

from sizing.analysis.changed import known
from sizing.analysis.typical import typical_site
from sizing.kinds import kind, kinds
from sizing.kinds.base import Kind
from sizing.kinds.start import Terms, first_document
from sizing.over_time.scenarios import all_scenarios, scenarios
from sizing.results.report import report
from sizing.results.verdict import verdict
from sizing.size import size
from tests.added import KIND, SCENARIO, one_more
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS

ANSWERS = (
    ("answers.stated_flow", "25 l/min"),
    ("answers.trough_level", "0.4 m"),
    ("legs.a.length", "18 m"),
    ("legs.a.ends_at", "1.2 m"),
)


@pytest.fixture
def one_more_kind(monkeypatch, tmp_path):
    with one_more(monkeypatch, tmp_path, "sizing.kinds", "wash_down", KIND, "sizing.kinds.kinds"):
        yield kind("wash_down")
    assert "wash_down" not in kinds()


@pytest.mark.parametrize("system", ["metric", "us", "uk"])
def test_a_kind_in_one_file_begins_is_drawn_and_is_sized(one_more_kind, catalogue, system):
    blank = first_document(one_more_kind.code, Terms(system))
    assert typical_site(blank) is not None
    found = size(changed(blank, *ANSWERS), catalogue)
    assert found.failures == ()
    assert found.problems == ()
    assert found.chosen is not None
    assert verdict(found).main.text(system)
    assert report(found)["checks"]


def test_a_kind_that_forgets_something_says_what(one_more_kind):
    with pytest.raises(TypeError, match="does not state: usual_legs"):
        type(
            "Forgetful",
            (Kind,),
            {
                **{
                    key: value
                    for key, value in vars(type(one_more_kind)).items()
                    if key != "usual_legs"
                },
                "code": "forgetful",
            },
        )


def test_a_scenario_in_one_file_is_found_and_run(monkeypatch, tmp_path, catalogue):
    with one_more(
        monkeypatch,
        tmp_path,
        "sizing.over_time.scenarios",
        "lunch",
        SCENARIO,
        "sizing.over_time.scenarios.all_scenarios",
    ):
        found = size(JOBS["bookbinders-cellar"], catalogue)
        able = [one.code for one in scenarios(found.kind, found.running)]
        assert "over_lunch" in able
        kept = found.job.model_copy(update={"scenarios": {"over_lunch": {}}})
        told = [one for one in size(kept, catalogue).checks if one.code == "over_time_over_lunch"]
        assert [one.state for one in told] == ["hold"]
        assert known(found).sizing is found
    assert "over_lunch" not in all_scenarios()
