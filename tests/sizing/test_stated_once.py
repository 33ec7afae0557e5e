"""What a rule says is said the same wherever it is said."""

import pytest

from sizing.analysis import methods
from sizing.analysis.changed import known
from sizing.base.noise import noise_in_words
from sizing.base.spreadsheet import harmless
from sizing.pump.catalogue_file import read_csv
from sizing.pump.catalogue_write import write_csv
from sizing.size import size
from tests.sizing.test_kinds import JOBS, check


def test_proof_and_dialog_tell_the_same_quick_head(catalogue):
    tank = size(JOBS["marine-classroom"], catalogue)
    dialog = next(one for one in methods.schools(known(tank)) if one.code == "aquarium")
    proof = check(tank, "quick_rule").message.values["quick"].value_si
    assert dialog.head_m == pytest.approx(proof)


def test_a_noise_is_like_one_thing_only(catalogue):
    tank = size(JOBS["marine-classroom"], catalogue)
    noise = tank.chosen.candidate.pump.noise_db
    assert noise_in_words(noise) in check(tank, "noise").message.text("metric")


@pytest.mark.parametrize(
    ("text", "safe"),
    [("=1+1", " =1+1"), ("@x", " @x"), ("+1", " +1"), ("-cmd|x", " -cmd|x"), ("-2.4 m", "-2.4 m")],
)
def test_no_cell_is_taken_for_a_formula(text, safe):
    assert harmless(text) == safe


def test_no_cell_of_a_catalogue_file_is_a_formula_and_it_reads_back(catalogue):
    import dataclasses

    odd = dataclasses.replace(catalogue.pumps[0], note="=HYPERLINK(1)")
    text = write_csv([odd])
    assert ",=" not in text
    assert read_csv(text)[0].pump.note == "=HYPERLINK(1)"
