import json
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import EditError, SizingError
from sizing.base.rules import SHIPPED
from sizing.document import job as document
from sizing.document.answers import Facts, MissingFact
from sizing.document.job import Figure, JobDocument, JobFileError
from sizing.editing.edit import edit, problem, remark
from sizing.editing.edit_structure import add_leg, move_leg, remove_leg
from sizing.kinds import kind, kinds


@pytest.fixture
def blank() -> JobDocument:
    return JobDocument(kind="sump", title="Undercroft", legs=kind("sump").default_legs)


def done(job, *edits):
    for path, text in edits:
        made = edit(job, path, text)
        assert made.problem is None, (path, made.problem)
        job = made.job
    return job


def test_a_job_file_written_and_read_is_the_same_job(cellar):
    assert document.loads(json.dumps(document.dump(cellar))) == cellar


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("not json", "not JSON"),
        ("[1]", "one JSON object"),
        ('{"format": "kyrtos-job/9"}', "this version reads"),
        ('{"format": "kyrtos-job/1"}', "kind: it is missing"),
        (
            '{"format": "kyrtos-job/1", "kind": "sump", "colour": 1}',
            "colour: a job file holds nothing of that name",
        ),
        (
            (
                '{"format": "kyrtos-job/1", "kind": "sump", "answers": {"rise": {"value": NaN,'
                ' "unit": "m"}}}'
            ),
            "answers.rise",
        ),
        (
            (
                '{"format": "kyrtos-job/1", "kind": "sump", "legs": [{"id": "a", "series": "x",'
                ' "nominal": "y", "fittings": [{"fitting": "gizmo"}]}]}'
            ),
            "gizmo",
        ),
    ],
)
def test_a_bad_job_file_is_told_where(text, says):
    with pytest.raises(JobFileError, match=says):
        document.loads(text)


def test_figures_keep_what_was_typed_and_stand_until_said_otherwise(blank):
    job = done(
        blank,
        ("answers.rise", "4 1/2 in"),
        ("answers.rise.standing", "measured"),
        ("answers.rise", "120"),
    )
    figure = job.answers["rise"]
    assert (figure.unit, figure.text, figure.provenance) == ("in", "120 in", "measured")


def test_bad_text_is_kept_beside_the_last_good_value(blank):
    job = done(blank, ("answers.pit_diameter", "600 mm"))
    made = edit(job, "answers.pit_diameter", "wide")
    assert "no number" in made.problem
    assert made.job.answers["pit_diameter"].text == "600 mm"
    assert problem(made.job, "answers.pit_diameter") == made.problem
    mended = done(made.job, ("answers.pit_diameter", "24 in"))
    assert mended.pending == {}
    assert problem(mended, "answers.pit_diameter") is None


BAD = [
    (
        "answers.pit_diameter",
        "12 m",
        (
            "the pit diameter cannot be|pit diameter cannot be 12 m; it must lie between"
            " 0.15\u00a0m and 6.00\u00a0m"
        ),
    ),
    ("answers.pit_diameter", "-600 mm", "cannot be"),
    ("answers.rise", "20 l/s", "is a unit of flow"),
    ("answers.margin", "0.5", "cannot be 0.5"),
    ("answers.liquid", "treacle", "no choice is called"),
    ("answers.rise.standing", "guessed", "give the figure first"),
    ("legs.a.length", "-3 m", "the length of a leg cannot be"),
    ("legs.a.pipe", "PVC 51", "did you mean"),
    ("legs.a.fittings", "2 chek", "did you mean check"),
    ("legs.a.length.standing", "told", "give the figure first"),
    ("units", "cubits", "no choice"),
]


@pytest.mark.parametrize(("path", "text", "says"), BAD)
def test_what_cannot_be_is_told_and_changes_nothing_else(blank, path, text, says):
    made = edit(blank, path, text)
    assert made.problem is not None
    assert any(part in made.problem for part in says.split("|"))
    assert made.job.model_copy(update={"pending": {}}) == blank


@pytest.mark.parametrize(
    "path",
    ["colour", "answers.colour", "legs.zz.length", "legs.a.colour", "answers.", "legs.a", ""],
)
def test_a_path_that_leads_nowhere_is_a_broken_form(blank, path):
    with pytest.raises(SizingError):
        edit(blank, path, "5 m")


@pytest.mark.parametrize(("path", "most"), [("title", 200), ("customer", 200), ("legs.a.name", 60)])
def test_a_text_too_long_is_told_and_never_cut(blank, path, most):
    made = edit(blank, path, "x" * (most + 1))
    assert f"at most {most}" in made.problem
    assert made.job.pending[path] == "x" * (most + 1)
    assert edit(blank, path, "x" * most).problem is None


def test_an_endless_text_is_refused(blank):
    with pytest.raises(EditError, match="longer"):
        edit(blank, "note", "x" * 6000)


def test_a_blank_goes_back_to_the_default_or_to_not_answered(blank):
    job = done(
        blank,
        ("answers.margin", "1.25"),
        ("answers.rise", "5 in"),
        ("answers.margin", ""),
        ("answers.rise", " "),
    )
    assert job.answers == {}


def test_a_needed_figure_cannot_be_blanked_silently(blank):
    job = done(blank, ("answers.pit_depth", "1.1 m"))
    made = edit(job, "answers.pit_depth", "")
    assert "nothing is written" in made.problem
    assert made.job.answers == job.answers


def test_legs_come_go_and_move(blank):
    job = add_leg(blank, "a")
    assert [leg.id for leg in job.legs] == ["a", "l1", "b"]
    assert [leg.id for leg in move_leg(job, "l1", -1).legs] == ["l1", "a", "b"]
    assert [leg.id for leg in move_leg(job, "b", 1).legs] == ["a", "l1", "b"]
    assert [leg.id for leg in remove_leg(job, "a").legs] == ["l1", "b"]
    with pytest.raises(SizingError, match="taken out of the job"):
        remove_leg(job, "zz")


def test_removing_a_leg_removes_what_was_pending_in_it(blank):
    job = edit(blank, "legs.a.length", "long").job
    assert remove_leg(job, "a").pending == {}


def test_a_run_has_an_end_to_its_legs(blank):
    job = blank
    while len(job.legs) < 40:
        job = add_leg(job)
    with pytest.raises(SizingError, match="at most 40"):
        add_leg(job)


def test_an_unusual_figure_is_remarked_with_the_unit_that_may_be_meant():
    question = next(
        question for question in kind("sump").questions if question.key == "pit_diameter"
    )
    assert remark(question, Figure(value=600, unit="mm"), "metric", SHIPPED) == ""
    assert "did you mean 3 ft" in remark(question, Figure(value=3, unit="m"), "metric", SHIPPED)


def test_facts_fall_back_to_defaults_as_assumed(blank):
    facts = Facts(blank, kind("sump").questions)
    assert facts.fact("margin").provenance == "assumed"
    assert facts.si("margin") == 1.5
    with pytest.raises(MissingFact, match="Pit depth"):
        facts.si("pit_depth")


@given(
    st.text(max_size=20),
    st.sampled_from(
        [f"answers.{question.key}" for question in kind("sump").questions]
        + ["legs.a.length", "legs.a.fittings", "legs.a.pipe"]
    ),
)
def test_no_text_in_any_field_breaks_an_edit(text, path):
    made = edit(JobDocument(kind="sump", legs=kind("sump").default_legs), path, text)
    assert document.load(document.dump(made.job)) == made.job


@pytest.mark.parametrize("one", kinds().values(), ids=lambda one: one.code)
def test_each_kind_declares_questions_that_hold_together(one):
    keys = [question.key for question in one.questions]
    assert len(set(keys)) == len(keys)
    for question in one.questions:
        assert bool(question.choices) != bool(question.dimension), question.key
        if question.default_by(SHIPPED):
            assert (
                question.low <= question.default_by(SHIPPED).si(question.dimension) <= question.high
            )
            assert question.source, question.key
        if question.choices:
            assert question.default in {choice.code for choice in question.choices}
        if question.shown_when:
            assert question.shown_when[0] in keys
    assert one.cautions


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (
            lambda file: file.update(legs=file["legs"][:1] * 41),
            "legs: at most 40 legs, and this file has 41",
        ),
        (lambda file: file.update(title="x" * 201), "title: at most 200 letters"),
        (lambda file: file.update(pumps=9), "pumps: at most 6"),
        (lambda file: file.update(pumps=1), "pumps: at least 2"),
        (lambda file: file.update(colour="red"), "a job file holds nothing of that name"),
        (lambda file: file.pop("kind"), "kind: it is missing"),
        (lambda file: file.update(units="miles"), "units: it is one of 'metric', 'us' or 'uk'"),
    ],
)
def test_a_job_file_over_a_limit_is_refused_in_our_words(cellar, change, says):
    file = document.dump(cellar)
    change(file)
    with pytest.raises(document.JobFileError, match=re.escape(says)):
        document.load(file)
