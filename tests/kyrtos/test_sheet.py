"""What the worksheet prints, without a browser or a database."""

from pathlib import Path

import pytest

from kyrtos.accounts.models import Membership, Role
from kyrtos.accounts.permissions import ALLOWED, can
from kyrtos.paper.view_model import paper_view
from kyrtos.shops.models import Shop
from kyrtos.worksheet import fields
from kyrtos.worksheet.sheet import sheet
from sizing.document.answers import Facts
from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.size import size
from tests.thin import some

DEMO = Path(__file__).parents[2] / "demo"
CATALOGUE = Catalogue([row.pump for row in read_csv((DEMO / "pumps.csv").read_text())])
CELLAR = intake.loads((DEMO / "jobs" / "01-bookbinders-cellar.json").read_bytes())


def printed(*edits):
    job = CELLAR
    for path, text in edits:
        job = edit(job, path, text).job
    return sheet(size(job, CATALOGUE), currency="€")


def field(key, *edits):
    job = CELLAR
    for path, text in edits:
        job = edit(job, path, text).job
    sizing = size(job, CATALOGUE)
    question = next(question for question in sizing.kind.questions if question.key == key)
    return fields.of_question(
        job, Facts(job, sizing.kind.questions), question, fields.missing_paths(sizing.missing)
    )


def test_a_field_shows_what_was_typed_with_its_standing():
    shown = field("pit_diameter")
    assert (shown.value, shown.provenance, shown.problem, shown.widget) == (
        "1000 mm",
        "measured",
        "",
        "figure",
    )


HINTS = [
    ("rise", (("answers.rise", "4 in"),), "= 102\u00a0mm"),
    (
        "pit_depth",
        (("answers.pit_depth", "5 m"),),
        "unusual: 0.40\u00a0m to 2.50\u00a0m is usual; did you mean 5 ft?",
    ),
    ("water_temperature", (), "assumed: usual ground water of temperate places"),
    ("water_temperature", (("answers.water_temperature", "50 F"),), "= 10\u00a0°C"),
    ("rise", (), "In the wettest hour, pump unplugged: mark the level, wait, mark it again."),
]


@pytest.mark.parametrize(("key", "edits", "hint"), HINTS)
def test_the_hint_below_a_field(key, edits, hint):
    assert field(key, *edits).hint == hint


def test_a_field_that_cannot_be_read_keeps_the_text_and_says_why():
    shown = field("rise", ("answers.rise", "a bit"))
    assert shown.value == "a bit"
    assert "no number" in shown.problem


def test_a_field_that_is_needed_says_so():
    assert field("stated_flow", ("answers.flow_from", "stated")).needed
    assert not field("stated_flow").needed


def test_the_sheet_never_contradicts_itself():
    for system in ("metric", "us"):
        made = printed(("units", system))
        verdict = made.verdict.replace("\u00a0", " ")
        assert f"will run at {made.tape_at}, {made.tape_total}".replace("\u00a0", " ") in verdict
        assert f"Needs {made.needed}".replace("\u00a0", " ") in verdict
        assert made.choosing.candidates[0].flow == made.tape_at
        assert next(stage.decided for stage in made.stages if stage.code == "flow") == made.needed


def test_the_stages_say_what_each_decided():
    decided = {stage.code: stage.decided for stage in printed().stages}
    assert decided == {
        "water": "clear ground water",
        "flow": "6.36\u00a0m³/h",
        "run": "lift 6.44\u00a0m, pipe 43.4\u00a0m",
        "pump": "Vessmar Tarn 80",
        "proof": "18 hold, 1 fail",
    }


def test_the_schools_of_friction_and_fittings_are_chosen_on_the_sheet():
    plain, other = (
        printed(),
        printed(("friction", "hazen_williams"), ("fitting_method", "equivalent_length")),
    )
    assert [field.value for field in plain.hydraulic_methods] == ["darcy_weisbach", "k", ""]
    assert [field.value for field in other.hydraulic_methods] == [
        "hazen_williams",
        "equivalent_length",
        "",  # as built: nothing measured yet
    ]
    assert [row.head for row in plain.tape] != [row.head for row in other.tape]
    assert any(
        "Hazen" in line.working.source or "10.67" in line.working.formula for line in other.tape
    )


def test_a_rough_duty_lists_pumps_without_picture_or_dialogs():
    from sizing.document.job import JobDocument
    from sizing.kinds import kind

    job = JobDocument(kind="sump", title="rough").model_copy(
        update={"legs": kind("sump").default_legs}
    )
    for path, text in (
        ("answers.stated_flow", "6 m3/h"),
        ("answers.flow_from", "stated"),
        ("answers.rough_head", "8 m"),
    ):
        job = edit(job, path, text).job
    made = sheet(size(job, CATALOGUE), currency="€")
    assert (made.choosing.rough, made.wide, made.choosing.dialogs, made.verdict_state) == (
        True,
        None,
        (),
        "open",
    )
    assert made.choosing.candidates


def test_a_pick_is_marked_in_the_list_and_in_the_stage():
    made = printed(("pump", "tiddan-linnet-15"))
    assert [one.pump_id for one in made.choosing.candidates if one.picked] == ["tiddan-linnet-15"]
    assert (
        next(stage.decided for stage in made.stages if stage.code == "pump")
        == "Tiddan Linnet 15 (your pick)"
    )


def test_legs_carry_speed_and_loss_that_agree_with_the_tape():
    made = printed()
    lost = sum(float(leg.loss.split("\u00a0")[0]) for leg in made.legs)
    lift = float(made.tape[0].head)
    assert lift + lost == pytest.approx(float(made.tape_total), abs=0.03)


def test_a_leg_that_is_left_out_has_no_figures():
    from sizing.editing.edit_structure import add_leg

    made = sheet(size(add_leg(CELLAR), CATALOGUE), currency="€")
    assert (made.legs[3].speed, made.legs[3].loss, made.legs[3].length.needed) == ("", "", True)


def test_lines_beyond_the_governing_point_say_that_they_cost_nothing():
    made = printed(("legs.l1.ends_at", "1 m"))
    idle = [row for row in made.tape if not row.counted]
    assert idle
    assert {row.head for row in idle} == {"runs down"}


def test_the_paper_lists_every_fact_with_where_it_is_from():
    shop = Shop(name="Ilvermoor Pump & Pipe", currency="€")
    from datetime import UTC, datetime

    view = paper_view(
        size(CELLAR, CATALOGUE),
        shop=shop,
        number=1,
        revision=1,
        issued=datetime(2026, 11, 23, tzinfo=UTC),
        issued_by="Wenna",
    )
    facts = {line.label: (line.value, line.provenance) for line in view.facts}
    assert facts["Rise with the pump off"] == ("102 mm", "measured on site")
    assert facts["Margin on the flow"] == ("1.5 ×", "assumed")
    assert facts["Yard, ends at"] == ("6.9 m", "told by the customer")
    assert "Hardest rain" not in facts
    assert dict(view.pump_facts)["Price"] == "€ 243.00"
    assert view.issued == "23 Nov 2026"


@pytest.mark.parametrize(
    ("role", "count"),
    [(Role.OWNER, 7), (Role.ESTIMATOR, 5), (Role.TECHNICIAN, 2), (Role.VIEWER, 1), ("ghost", 0)],
)
def test_roles_are_a_closed_table(role, count):
    every = ALLOWED[Role.OWNER]
    assert sum(can(Membership(role=role), action) for action in every) == count


PATHS = [f"answers.{question.key}" for question in size(CELLAR, CATALOGUE).kind.questions] + [
    f"legs.b.{name}" for name in ("name", "pipe", "length", "ends_at", "fittings", "bore", "side")
]
VALUES = [
    "",
    "0",
    "-5",
    "1e9",
    "99999 km",
    "0.001",
    "5 psi",
    "12 in",
    "abc",
    "clear",
    "1.2.3",
    "½",
    "500 elbow",
    "suction",
    "PE100 SDR 11 63 mm",
]


@pytest.mark.parametrize("path", some(PATHS, 5))
def test_whatever_is_typed_anywhere_the_sheet_prints(path):
    for value in VALUES:
        made = printed((path, value))
        assert made.verdict
        assert len(made.stages) == 5
