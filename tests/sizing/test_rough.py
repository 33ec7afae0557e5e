"""A flow and a head that somebody tells, before there is a run: matched, and called rough."""

from __future__ import annotations

import pytest

from sizing.document.job import JobDocument
from sizing.kinds import kind
from sizing.results.report import report
from sizing.results.verdict import state_of, verdict
from sizing.size import size
from tests.sizing.conftest import changed

ROUGH = (
    ("answers.stated_flow", "30 gpm"),
    ("answers.flow_from", "stated"),
    ("answers.margin", "1"),
    ("answers.rough_head", "35 ft"),
)


def blank(code, *edits):
    document = JobDocument(kind=code, title="at the counter", units="us")
    return changed(document.model_copy(update={"legs": kind(code).default_legs}), *edits)


def test_a_told_duty_names_pumps_and_proves_nothing(catalogue):
    found = size(blank("sump", *ROUGH), catalogue)
    said = verdict(found).main.text("us").replace("\u00a0", " ")
    assert said.startswith("Rough: 30.0 gpm at 35.0 ft. Of 82 pumps ")
    assert "nothing is proved" in said
    assert (state_of(found), found.recommended, found.checks) == ("open", None, ())
    best = found.match.fits[0]
    assert best.flow_m3s >= 30 * 6.309e-5
    assert best.head_m == pytest.approx(35 * 0.3048)
    assert report(found)["verdict"]["state"] == "open"


def test_a_run_that_is_begun_goes_before_a_rough_head(catalogue):
    begun = changed(blank("sump", *ROUGH), ("legs.a.length", "9 ft"))
    found = size(begun, catalogue)
    assert (found.rough_head_m, found.match) == (None, None)


def test_a_duty_that_no_pump_gives_says_so(catalogue):
    high = changed(blank("sump", *ROUGH), ("answers.rough_head", "400 ft"))
    assert "no pump would do" in verdict(size(high, catalogue)).main.text("us")


def test_a_closed_loop_has_no_rough_head():
    assert "rough_head" not in {question.key for question in kind("spa").questions}
