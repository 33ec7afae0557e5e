import pytest

from sizing.base import tables
from sizing.base.errors import UnknownName
from sizing.hydraulics import pipes


def test_every_row_of_the_table_is_a_pipe_with_a_bore_inside_its_outside():
    assert len(pipes.pipes()) == len(tables.rows("pipes")) == 339
    for one in pipes.pipes().values():
        assert 0 < one.inside_diameter_m < (one.outside_diameter_m or 1.0), one.label


def test_the_mean_bore_is_taken_where_the_table_knows_it():
    assert pipes.pipe("pvc_sch40", "1/2 in").inside_diameter_m == pytest.approx(15.29e-3)


def test_one_nominal_size_has_another_bore_in_another_family():
    bores = {
        series: pipes.pipe(series, "2 in").inside_diameter_m
        for series in ("pvc_sch40", "pvc_sch80", "copper_l")
    }
    assert len({round(bore, 5) for bore in bores.values()}) == 3


def test_every_family_has_a_name_and_a_usual_roughness():
    for series, _ in pipes.pipes():
        assert series in pipes.SERIES
        assert pipes.usual_roughness(series).design_m > 0


@pytest.mark.parametrize("text", ["PVC-U PN10 50 mm", " pvc-u  pn10 50 MM "])
def test_reads_a_pipe_by_its_label(text):
    assert pipes.read(text) == pipes.pipe("pvcu_pn10", "50 mm")


@pytest.mark.parametrize(
    ("look_up", "says"),
    [
        (lambda: pipes.pipe("pvc_sch4", "2 in"), "did you mean pvc_sch40"),
        (lambda: pipes.pipe("pvc_sch40", "2.1 in"), "did you mean 2 in"),
        (lambda: pipes.read("PVC-U PN10 51 mm"), "did you mean PVC-U PN10"),
        (lambda: pipes.roughness("steel", "new"), "did you mean"),
        (lambda: pipes.sizes("lead"), "no pipe family is called 'lead'"),
    ],
)
def test_an_unknown_name_raises_and_suggests_but_never_guesses(look_up, says):
    with pytest.raises(UnknownName, match=says):
        look_up()


def test_all_labels_differ():
    labels = [one.label.lower() for one in pipes.pipes().values()]
    assert len(set(labels)) == len(labels)
