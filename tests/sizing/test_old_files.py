"""Files written by the first version open, and give the same numbers to 1e-9."""

from __future__ import annotations

import gzip
import json
from dataclasses import replace
from pathlib import Path

import pytest

from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.results.report import report
from sizing.size import size
from tests.sizing.conftest import changed

OLD = Path(__file__).parents[1] / "old"
SIZINGS = json.loads(gzip.decompress((OLD / "sizings.json.gz").read_bytes()))
JOBS = sorted((OLD / "jobs").glob("*.json"))
NUMBERS = ("demand", "system", "ledger")
OF_THE_PUMP = ("flow_m3s", "head_m", "shutoff_margin_m", "power_w", "share_of_best_flow")


@pytest.fixture(scope="module")
def old_catalogue() -> Catalogue:
    rows = read_csv((OLD / "pumps.csv").read_text())
    assert [row.problems for row in rows if row.problems] == []
    return Catalogue([row.pump for row in rows])


def numbers(content, path=""):
    """Every number in plain JSON content, by where it stands."""
    if isinstance(content, dict):
        parts = content.items()
    elif isinstance(content, list):
        parts = enumerate(content)
    else:
        return {path: content} if isinstance(content, float) else {}
    return {
        place: value for key, one in parts for place, value in numbers(one, f"{path}/{key}").items()
    }


# Their taps hold the flow to the need: it is no longer that of a wide-open system.
# Sea water is reckoned denser than fresh.
DENSER = TAKE_OFFS = ("12-marine-classroom",)
# What nobody named a wall for has that of its sewage now, and more friction.
ROUGHER = ("04-rowing-club-changing-rooms", "05-hostel-willow-bed", "06-cabins-over-the-ridge")
HELD_BY_OUTLETS = ("09-converted-mill", "14-soup-kitchen-van")


# By chance a bath and a cistern run with the flow that their chance was found with.
SCHOOLS_MENDED = ("/ways/6/flow_m3s", "/ways/7/flow_m3s")


@pytest.mark.parametrize("path", JOBS, ids=lambda path: path.stem)
def test_a_job_file_gives_the_same_numbers(path, old_catalogue):
    taken, before = intake.take_in(path.read_bytes()), SIZINGS[path.stem]
    assert taken.told == ()
    if path.stem in TAKE_OFFS:  # they left at the display then, whatever was so
        taken = replace(taken, job=edit(taken.job, "answers.take_offs_leave", "display").job)
    pump = before["chosen"] and before["chosen"]["pump"]
    now = report(size(taken.job.model_copy(update={"pump": pump}), old_catalogue))
    held = path.stem in HELD_BY_OUTLETS
    rel = 6e-3 if path.stem in DENSER else 1e-9
    for part in NUMBERS[:2] if held or path.stem in ROUGHER else NUMBERS:
        was = numbers(before[part])
        was = {place: value for place, value in was.items() if place not in SCHOOLS_MENDED}
        same = {place: value for place, value in numbers(now[part]).items() if place in was}
        assert same == pytest.approx(was, rel=rel, abs=max(1e-12, rel * 1e-3))
    if held:
        assert now["chosen"]["flow_m3s"] == pytest.approx(before["demand"]["needed_m3s"])
    elif path.stem in ROUGHER:
        clean = [(f"legs.{leg.id}.wall", "new and clean") for leg in taken.job.legs]
        job = changed(taken.job, *clean).model_copy(update={"pump": pump})
        smooth = report(size(job, old_catalogue))["chosen"]["flow_m3s"]
        assert now["chosen"]["flow_m3s"] < before["chosen"]["flow_m3s"] < smooth
    elif pump:
        kept = {name: before["chosen"][name] for name in OF_THE_PUMP}
        assert {name: now["chosen"][name] for name in OF_THE_PUMP} == pytest.approx(kept, rel=rel)
