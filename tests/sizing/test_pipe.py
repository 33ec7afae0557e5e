import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base import tables
from sizing.base.errors import SeveralFit, UnknownName
from sizing.hydraulics import pipe_words, pipes


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


def test_every_pipe_is_read_by_its_own_label():
    for one in pipes.pipes().values():
        assert pipe_words.read(one.label) == one
        assert one in pipe_words.find(one.label)


@pytest.mark.parametrize(
    ("text", "label"),
    [
        (" pvc-u  pn10 50 MM ", "PVC-U PN10 50 mm"),
        ("1-1/2 in PVC sch 40", "PVC Sch 40 1-1/2 in"),
        ('1.5" sch40 pvc', "PVC Sch 40 1-1/2 in"),
        ("1½ in schedule 80 PVC", "PVC Sch 80 1-1/2 in"),
        ("63 pe100 sdr11", "PE100 SDR 11 63 mm"),
        ("63x5.8 PE 100 SDR 11", "PE100 SDR 11 63 mm"),
        ("PE-100 63 mm sdr 13,6", "PE100 SDR 13.6 63 mm"),
        ("DN50 steel", "steel EN 10255 DN50"),
        ("2in copper L", "copper L 2 in"),
        ("Ø 32 uPVC PN 16", "PVC-U PN16 32 mm"),
        ("old 16/22 aquarium hose", "aquarium hose 16/22 mm"),
        ("spa hose 2 inch", "flexible PVC hose 2 in"),
        ("2 in ABS drain pipe", "ABS DWV 2 in"),
        ("22 mm thin copper", "copper EN 1057 thin 22 mm"),
        ("25 mm pond hose", "pond tubing, metric 25 mm"),
    ],
)
def test_a_pipe_is_read_in_any_order_and_spelling(text, label):
    assert pipe_words.read(text).label == label


@pytest.mark.parametrize(
    ("text", "choices"),
    [
        ("40 mm PE", ["PE100 SDR 11 40 mm", "PE100 SDR 13.6 40 mm", "PE100 SDR 17 40 mm"]),
        ("3/4 copper", ["copper K 3/4 in", "copper L 3/4 in", "copper M 3/4 in"]),
        ("50 pvc", ["PVC-U PN10 50 mm", "PVC-U PN16 50 mm"]),
        ("2 in black pipe", ["steel Sch 40 2 in", "steel Sch 80 2 in"]),
    ],
)
def test_where_several_pipes_fit_each_is_named_and_none_is_taken(text, choices):
    with pytest.raises(SeveralFit) as told:
        pipe_words.read(text)
    assert list(told.value.choices) == choices


@pytest.mark.parametrize(
    "text",
    [
        "",
        "2 in",
        "pvc",
        "2 in glass pipe",
        "2 in stainless steel",
        "32 mm pex",
        "copper pvc 1 in",
        "sch 40 sch 80 pvc 2 in",
        "hose 1 in",
        "DN50 pvc",
        "2 in 3 in abs",
        "1/0 in pvc",
        "PVC-U PN10 51 mm",
    ],
)
def test_what_names_no_pipe_is_refused(text):
    assert pipe_words.find(text) == ()
    with pytest.raises(UnknownName):
        pipe_words.read(text)


@given(st.text(max_size=60))
def test_nothing_that_can_be_typed_breaks_the_reading_of_pipes(text):
    for one in pipe_words.find(text):
        assert one in pipes.pipes().values()


@pytest.mark.parametrize(
    ("look_up", "says"),
    [
        (lambda: pipes.pipe("pvc_sch4", "2 in"), "did you mean pvc_sch40"),
        (lambda: pipes.pipe("pvc_sch40", "2.1 in"), "did you mean 2 in"),
        (lambda: pipe_words.read("PVC-U PN10 51 mm"), "did you mean PVC-U PN10"),
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


@pytest.mark.parametrize(
    ("typed", "some"),
    [
        ("40", "PE100 SDR 11 40 mm"),
        ("40 p", "PVC-U PN10 40 mm"),
        ("cop", "copper L 1/2 in"),
        ("63 pe100 sd", "PE100 SDR 17 63 mm"),
    ],
)
def test_what_is_half_typed_suggests_by_material_and_size(typed, some):
    found = [one.label for one in pipe_words.suggest(typed)]
    assert some in found
    assert len(found) <= 8


@pytest.mark.parametrize("typed", ["", "   ", "zzz", "2 in glass"])
def test_what_means_nothing_suggests_nothing(typed):
    assert pipe_words.suggest(typed) == ()
