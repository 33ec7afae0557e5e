"""The usual site that is drawn before the facts are there."""

import pytest

from sizing.analysis.typical import typical_site
from sizing.base.units import SYSTEMS
from sizing.document.build_route import likely_ends
from sizing.editing.edit import edit
from sizing.kinds import kinds
from sizing.kinds.start import Terms, first_document
from sizing.pump.catalogue import EMPTY
from sizing.size import size
from tests.sizing.conftest import changed


@pytest.mark.parametrize("system", SYSTEMS)
@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_blank_job_of_every_kind_has_a_usual_site(code, system):
    blank = first_document(code, Terms(system))
    site = typical_site(blank)
    assert site.sizing.problems == ()
    assert site.sizing.missing == ()
    assert site.sizing.ledger.total_head_m > 0
    assert {one.path for one in size(blank, EMPTY).missing} <= site.made_up


def test_what_is_known_stays_as_it_is():
    job = changed(
        first_document("sump", Terms()),
        ("legs.a.length", "1.2 m"),
        ("answers.pit_depth", "900 mm"),
        ("legs.b.ends_at", "6 m"),
    )
    site = typical_site(job)
    assert site.sizing.job.leg("a").length.text == "1.2 m"
    assert not site.made_up & {"legs.a.length", "answers.pit_depth", "legs.b.ends_at"}
    assert site.sizing.problems == ()  # the made-up lengths reach what is known


def test_a_job_that_lacks_nothing_is_its_own_usual_site(cellar):
    assert typical_site(cellar).made_up == frozenset()


def test_a_pipe_in_doubt_is_made_up_too():
    job = edit(first_document("sump", Terms()), "legs.a.pipe", "40 mm PE").job
    assert "legs.a.pipe" in typical_site(job).made_up


def test_a_way_to_the_flow_that_was_begun_asks_for_its_rest():
    job = changed(first_document("sump", Terms()), ("answers.rise", "60 mm"))
    asked = {one.path for one in size(job, EMPTY).missing}
    assert "answers.rise_time" in asked
    assert "answers.rise" not in asked


def test_ends_of_legs_that_follow_are_proposed():
    job = changed(first_document("sump", Terms()), ("legs.a.length", "9 ft"))
    assert [(words, one.shown()) for words, one in likely_ends(job, job.leg("a"))] == [
        ("straight up", "2.743 m")
    ]
    assert likely_ends(job, job.leg("b")) == ()
    job = changed(job, ("legs.a.ends_at", "2.5 m"), ("legs.b.length", "10 m"))
    assert likely_ends(job, job.leg("a")) == ()
    assert [(words, one.shown()) for words, one in likely_ends(job, job.leg("b"))] == [
        ("level with the leg before", "2.5 m"),
        ("straight up", "12.5 m"),
    ]
