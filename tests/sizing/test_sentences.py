"""Jobs told in sentences: each fact in its field, none in a wrong one."""

import re
from pathlib import Path

import pytest

from sizing.base.errors import SizingError
from sizing.editing.edit import edit
from sizing.editing.sentence.read import read_sentence
from sizing.editing.sentence.reading import value_at
from sizing.facts import facts_of, main
from sizing.kinds.start import Terms

LINES = (Path(__file__).parent / "sentences.txt").read_text(encoding="utf-8").splitlines()


def table():
    rows = []
    for line in LINES:
        if line.startswith("    "):
            path, _, text = line.strip().partition(" = ")
            rows[-1][3][path] = text
        elif line and not line.startswith("#"):
            rows.append((*(part.strip() for part in line.split("|", 2)), {}))
    return rows


def told(read):
    """What was read, by path; rows of a list without the name of the row."""
    return {re.sub(r"^(lists\.\w+)\.\w+\.", r"\1.", one.path): one for one in read.facts}


@pytest.mark.parametrize(("units", "kind", "sentence", "facts"), table())
def test_each_fact_is_in_its_field_and_none_in_another(units, kind, sentence, facts):
    read = read_sentence(sentence, Terms(units))
    assert read.kind == kind
    found = told(read)
    assert {*found} == {*facts}
    for path, text in facts.items():
        typed = edit(read.job, found[path].path, text)
        assert typed.problem is None
        assert found[path].value == pytest.approx(value_at(typed.job, found[path].path)), path


def test_what_a_field_refuses_is_asked_and_goes_into_no_other():
    read = read_sentence("well, static -4 m, drilled to 90000 m", Terms("metric"))
    assert read.facts == ()
    assert len(read.asked) == 2
    assert all("must lie between" in one for one in read.asked)


def test_what_no_rule_knows_is_told():
    read = read_sentence("cellar sump 18 in pit, 14 bananas, blue", Terms("us"))
    assert read.not_read == ("14 bananas",)


def test_without_a_word_of_its_kind_nothing_is_guessed():
    said = facts_of("40 ft of 1-1/2 in pvc, 12 ft up", "us")
    assert (said["kind"], said["facts"]) == ("", [])
    assert said["not_read"] == ["40 ft of 1-1/2 in pvc, 12 ft up"]


def test_what_a_sizing_still_lacks_is_asked():
    said = facts_of("cellar sump 18 in pit, rises 4 in in 70 s", "us")
    assert any("length of the riser" in one for one in said["asked"])


@pytest.mark.parametrize("sentence", ["", "·⟦L3⟧ well", "well " * 700, "sump " + "9" * 3000])
def test_nonsense_is_read_as_nothing(sentence):
    assert facts_of(sentence, "metric")["facts"] == []


def test_what_is_too_long_is_refused(capsys):
    with pytest.raises(SizingError, match="too long"):
        read_sentence("a" * 4001, Terms("us"))
    assert main(["a" * 4001]) == 1
    assert main(["a cellar sump", "--units", "us"]) == 0
    assert '"kind": "sump"' in capsys.readouterr().out


def test_a_pipe_that_may_be_several_is_asked_and_stays_as_typed():
    read = read_sentence("cellar sump, 25 ft of 1-1/4 in poly pipe, 8 ft up", Terms("us"))
    assert "legs.a.pipe" not in told(read)
    assert read.job.pending == {"legs.a.pipe": "1-1/4 in poly pipe"}
    assert any("choose one" in one for one in read.asked)


@pytest.mark.parametrize(
    ("behind", "leg"), [("down the well", "a"), ("to the house", "b"), ("up to a tank", "b")]
)
def test_one_run_of_a_well_is_its_riser_unless_it_leads_to_the_house(behind, leg):
    read = read_sentence(f"well, 60 m of 40 mm pe100 sdr 11 {behind}", Terms("metric"))
    assert told(read)[f"legs.{leg}.length"].value == 60.0
    assert [one.id for one in read.job.legs] == ["a", "b"]


@pytest.mark.parametrize(("margin", "times"), [("25 %", 1.25), ("12.5 %", 1.125)])
def test_a_margin_is_so_much_more_than_the_flow(margin, times):
    read = read_sentence(f"cellar sump, {margin} margin", Terms("metric"))
    assert told(read)["answers.margin"].value == pytest.approx(times)


def test_a_margin_that_cannot_be_read_is_asked():
    read = read_sentence("cellar sump, 12,5 % margin", Terms("metric"))
    assert told(read) == {}
    assert len(read.asked) == 1


def test_a_number_alone_is_no_fitting():
    assert told(read_sentence("cellar sump, 90, 45", Terms("us"))) == {}


def test_a_figure_far_from_what_is_usual_is_read_and_asked_about():
    read = read_sentence("well, pressure tank of 12000 l", Terms("metric"))
    assert told(read)["answers.tank_volume"].value == pytest.approx(12.0)
    assert any("far from what is usual" in one for one in read.asked)
