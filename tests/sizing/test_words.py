"""Rules, sentences, verdicts and requirements: what people read."""

from pathlib import Path

import pytest

from sizing.base.errors import SizingError, UnknownName
from sizing.base.message import Measure, Working, message
from sizing.base.rules import SHIPPED, Rules, defaults
from sizing.document.answers import Facts, Question
from sizing.document.job import Figure, JobDocument
from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.kinds import kind
from sizing.pump.catalogue import Catalogue
from sizing.results.verdict import verdict
from sizing.selection.requirement import AtLeast, AtMost, FamilyIn, Supply
from sizing.size import size


def test_a_sentence_waits_for_its_system_of_units():
    sentence = message(
        "lifts {head} in {count} legs of {name}", head=Measure(9.81, "length"), count=3, name="pipe"
    )
    assert sentence.text("metric") == "lifts 9.81\u00a0m in 3 legs of pipe"
    assert sentence.text("us") == "lifts 32.2\u00a0ft in 3 legs of pipe"


def test_a_working_lists_what_went_in_and_what_came_out():
    made = Working(
        "Speed",
        "v = Q / A",
        (("flow", Measure(0.001, "flow")), ("note", "as typed")),
        Measure(1.5, "velocity"),
        "continuity",
    )
    assert made.lines("metric") == [
        ("flow", "3.60\u00a0m³/h"),
        ("note", "as typed"),
        ("gives", "1.50\u00a0m/s"),
    ]


RULES = [
    # id, usual value in SI, from the trade units of the table
    ("SMP-05", 1.5),
    ("CYC-01", 10 / 3600),
    ("CYC-02", 60.0),
    ("VEL-12", 1.22),
    ("BAS-09", 0.102),
    ("SMP-01", 0.057 / 60 / 100),
    ("CHO-01", 0.85),
    ("SMP-06", 0.75),
    ("TNK-02", 138_000.0),
    ("BAS-10", None),
]


@pytest.mark.parametrize(("rule_id", "si"), RULES)
def test_rules_are_read_into_si(rule_id, si):
    assert SHIPPED.rule(rule_id).typical_si == (None if si is None else pytest.approx(si))


def test_a_shop_puts_its_own_value_over_a_rule():
    shop = Rules({"SMP-05": 1.25})
    assert (shop.value("SMP-05"), shop.rule("SMP-05").overridden) == (1.25, True)
    assert (shop.low("SMP-05"), SHIPPED.value("SMP-05")) == (1.25, 1.5)


def test_ends_that_a_rule_does_not_name_are_its_usual_value():
    assert SHIPPED.high("CYC-02") == SHIPPED.value("CYC-02")
    assert SHIPPED.low("CYC-01") == SHIPPED.value("CYC-01")


def test_rules_in_words_and_unknown_rules_raise():
    with pytest.raises(SizingError, match="no usual value"):
        SHIPPED.value("BAS-12")
    with pytest.raises(UnknownName, match="did you mean"):
        SHIPPED.rule("SMP-55")


def test_every_rule_says_what_it_is_about_and_where_it_is_from():
    for rule in defaults().values():
        assert rule.application
        assert rule.parameter
        assert rule.source
        assert rule.confidence in ("high", "medium", "low")


def changed(job, *edits):
    for path, text in edits:
        job = edit(job, path, text).job
    return job


VERDICTS = [
    (
        (),
        "watch",
        (
            "The Vessmar Tarn 80 will run at 7.22 m³/h, 8.70 m, at 106 % of its best flow, with 13"
            " % in hand; over 99 % sure of its duty."
        ),
    ),
    ((("units", "us"),), "watch", "Needs 28.0 gpm at 27.0 ft."),
    ((("pump", "vessmar-tarn-65"),), "bad", "13 % short of it."),
    ((("pump", "harrowick-g-15"),), "bad", "The Harrowick G 15"),
    ((("answers.rise", "800 mm"),), "bad", "No pump of 82 fits; nearest: Harrowick E 75, gives"),
    (
        (("answers.rise", "172 mm"), ("answers.margin", "1.6")),
        "bad",
        "gives 11.16 m³/h of 11.44 m³/h",
    ),
    ((("answers.flow_from", "stated"),), "open", "Still needed: stated flow into the pit."),
]


@pytest.mark.parametrize(("edits", "state", "says"), VERDICTS)
def test_verdicts(cellar, catalogue, edits, state, says):
    told = verdict(size(changed(cellar, *edits), catalogue))
    text = told.main.text("us" if edits and edits[0] == ("units", "us") else "metric").replace(
        "\u00a0", " "
    )
    assert (told.state, says in text) == (state, True), text


def test_a_leg_left_out_is_the_first_thing_told(catalogue):
    crawl = intake.loads(Path("demo/jobs/03-boathouse-crawl-space.json").read_bytes())
    worries = [text.text("us") for _, text in verdict(size(crawl, catalogue)).worries]
    assert worries[0] == "left out: length of the yard run is not known"


def test_worries_come_worst_first_and_are_few(cellar, catalogue):
    job = changed(
        cellar,
        ("answers.alarm_level", "300 mm"),
        ("answers.start_level", "480 mm"),
        ("answers.time_to_come", "8 h"),
        ("legs.a.pipe", "PVC-U PN10 32 mm"),
    )
    states = [state for state, _ in verdict(size(job, catalogue)).worries]
    assert len(states) == 3
    assert states == sorted(states, key=["fail", "watch"].index)


def test_a_pump_picked_in_spite_of_a_requirement_says_why_it_does_not_fit(cellar, catalogue):
    told = verdict(
        size(changed(cellar, ("answers.voltage", "115 V"), ("pump", "ondrath-k-11")), catalogue)
    )
    assert any("needs 230" in text.text("metric") for _, text in told.worries)


REQUIREMENTS = [
    FamilyIn(("sump", "effluent")),
    AtLeast("solids_m", 0.01, "size", "solids", "{has} {wanted}"),
    AtMost("width_m", 0.21, "size", "width", "{has} {wanted}"),
    Supply(230.0, 1, 0.1),
]


@pytest.mark.parametrize("requirement", REQUIREMENTS, ids=lambda one: type(one).__name__)
def test_met_and_shortfall_of_a_requirement_agree(catalogue, requirement):
    met, lack = requirement.met(catalogue), requirement.shortfall(catalogue)
    assert met.any()
    assert not met.all()
    assert (lack[met] == 0).all()
    assert (lack[~met] > 0).all()


def test_a_requirement_on_one_pump_is_that_on_the_catalogue(catalogue):
    for requirement in REQUIREMENTS:
        alone = [bool(requirement.met(Catalogue([pump]))[0]) for pump in catalogue.pumps]
        assert alone == requirement.met(catalogue).tolist()


def test_questions_that_hang_on_others_appear_with_them():
    questions = kind("sump").questions
    blank = Facts(JobDocument(kind="sump"), questions)
    shown = {question.key for question in questions if blank.shown(question)}
    assert "pit_diameter" in shown
    assert not {"pit_length", "runoff", "soil"} & shown
    square = Facts(
        JobDocument(
            kind="sump",
            answers={"pit_shape": "rectangular", "rain_area": Figure(value=20, unit="m²")},
        ),
        questions,
    )
    assert {"pit_length", "pit_width", "runoff", "rain_rate"} <= {
        question.key for question in questions if square.shown(question)
    }


def test_standings_are_counted_for_what_applies(cellar):
    standings = Facts(cellar, kind("sump").questions).provenances()
    assert "Pit diameter" in standings["measured"]
    assert "Area drained to the pit" in standings["drawing"]
    assert "Hardest rain" not in standings["assumed"]
    assert set(standings["assumed"]) == {
        "Water temperature",
        "Largest solid",
        "Margin on the flow",
        "Supply voltage",
        "Mains frequency",
    }


def test_a_question_knows_the_unit_of_each_system():
    question = Question("q", "Q", "run", "length", "mm", "in")
    assert (
        question.unit("metric"),
        question.unit("us"),
        Question("f", "F", "flow", "flow").unit("us"),
    ) == ("mm", "in", "gpm")


def test_an_unknown_kind_raises_with_near_ones():
    with pytest.raises(UnknownName, match="did you mean sump"):
        kind("sumpf")
