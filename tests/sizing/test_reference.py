import json
from pathlib import Path

import pytest

from sizing.reference.__main__ import main
from sizing.reference.cases import FAMILIES, agrees, run

FILES = sorted((Path(__file__).parents[1] / "reference").glob("open_*.json"))
CASES = [case for path in FILES for case in json.loads(path.read_text())["cases"]]


@pytest.mark.parametrize(
    "case", [case for case in CASES if case["family"] in FAMILIES], ids=lambda case: case["id"]
)
def test_open_reference_case(case):
    assert run(case).misses == ()


def test_every_family_of_this_release_has_a_case():
    assert {case["family"] for case in CASES} >= set(FAMILIES)


def test_a_wrong_answer_an_error_and_an_unknown_family_are_misses():
    case = next(case for case in CASES if case["family"] == "power")
    wrong = case | {"expected": {"shaft_power_w": {"value": 1.0, "rel": 0.01, "abs": 0.0}}}
    broken = case | {"inputs": {}}
    assert "shaft_power_w: got" in run(wrong).misses[0]
    assert "KeyError" in run(broken).misses[0]
    assert "not answered yet" in run(case | {"family": "tides"}).misses[0]


@pytest.mark.parametrize(
    ("got", "value", "ok"),
    [
        (1.0009, 1.0, True),
        (1.01, 1.0, False),
        (False, True, False),
        (True, True, True),
        (None, None, True),
        ("operates", "operates", True),
        (float("nan"), 1.0, False),
    ],
)
def test_agreement(got, value, ok):
    assert agrees(got, {"value": value, "rel": 1e-3, "abs": 0.0}) is ok


def test_the_runner_prints_a_line_a_case_and_exits_by_the_outcome(tmp_path, capsys):
    good = tmp_path / "good.json"
    case = next(case for case in CASES if case["family"] == "power")
    good.write_text(json.dumps({"format": "kyrtos-reference-cases/1", "cases": [case]}))
    assert main([str(good)]) == 0
    assert "1 of 1 cases pass" in capsys.readouterr().out
    good.write_text(
        json.dumps({"format": "kyrtos-reference-cases/1", "cases": [case | {"family": "tides"}]})
    )
    assert main([str(good)]) == 1
    with pytest.raises(SystemExit, match="cannot be read"):
        main([str(tmp_path / "absent.json")])
