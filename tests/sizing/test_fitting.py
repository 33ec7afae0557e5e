import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base import tables
from sizing.base.errors import SizingError, UnknownName
from sizing.hydraulics import fitting_words, fittings
from sizing.hydraulics.fittings import Counted, NoCoefficient


@pytest.mark.parametrize("row", tables.rows("fittings_ft"), ids=lambda row: row["nominal"])
def test_the_turbulent_factor_agrees_with_the_table(row):
    assert fittings.turbulent_factor(float(row["id_mm"]) / 1000) == pytest.approx(
        float(row["fT_current"]), abs=6e-4
    )  # printed to three decimals


K_VALUES = [
    # id, method, bore [m], Reynolds number, K worked by hand from the published constants
    ("elbow_90_std_threaded", "tp410", 0.0525, None, 30 * 0.0190),
    ("entrance_sharp", "tp410", 0.05, None, 0.5),
    ("exit", "tp410", 0.05, None, 1.0),
    ("check_spring_inline", "tp410", 0.05, None, 3.0),
    ("elbow_90_std_threaded", "hooper", 0.0508, 1e5, 800 / 1e5 + 0.4 * (1 + 1 / 2)),
    ("elbow_90_std_threaded", "darby", 0.0508, 1e5, 800 / 1e5 + 0.14 * (1 + 4.0 / 2**0.3)),
]


@pytest.mark.parametrize(("fitting_id", "method", "bore", "reynolds", "k"), K_VALUES)
def test_k_by_each_method(fitting_id, method, bore, reynolds, k):
    assert fittings.k_value(fitting_id, bore, method=method, reynolds=reynolds) == pytest.approx(
        k, rel=5e-3
    )


def test_a_method_without_the_fitting_falls_back_to_tp410():
    assert fittings.k_value("exit", 0.05, method="darby", reynolds=1e5) == 1.0


def test_a_fitting_that_hangs_on_its_make_has_no_k():
    with pytest.raises(NoCoefficient, match="curve"):
        fittings.k_value("water_meter", 0.05)


def test_equivalent_length_is_the_length_ratio_times_the_bore():
    assert fittings.equivalent_length_m("elbow_90_std_threaded", 0.05) == pytest.approx(1.5)
    assert fittings.equivalent_length_m("exit", 0.05) == pytest.approx(
        0.05 / fittings.turbulent_factor(0.05)
    )


def test_trade_tables_are_looked_up_exactly():
    assert fittings.trade_equivalent_length_m("pvc_glued", "90 elbow", "1 in") == 0.76
    with pytest.raises(UnknownName, match="did you mean"):
        fittings.trade_equivalent_length_m("pvc_glued", "90 elbow", "1.1 in")


WORDS = [
    ("3 elbow, check, gate", [("elbow_90_glued", 3), ("check_swing_100", 1), ("gate_valve", 1)]),
    ("2 x 45; elbows × 3", [("elbow_45_std", 2), ("elbow_90_glued", 3)]),
    ("90, Ball Valve", [("elbow_90_glued", 1), ("ball_valve_full", 1)]),
    ("tee branch\nexit", [("tee_branch_threaded", 1), ("exit", 1)]),
    ("", []),
    ("90 elbow", [("elbow_90_glued", 1)]),  # an angle is no count
    ("45 ell, 3x 90 elbow", [("elbow_45_std", 1), ("elbow_90_glued", 3)]),
    ("3 90° elbows", [("elbow_90_glued", 3)]),
    ("2 45s and a union", [("elbow_45_std", 2), ("union", 1)]),
    ("four 90 deg bends; NRV", [("elbow_90_glued", 4), ("check_swing_100", 1)]),
    ('2 in ball valve, 1-1/2" swing check valve', [("ball_valve_full", 1), ("check_swing_100", 1)]),
    ("check valve (spring, in line)", [("check_spring_inline", 1)]),
    ("inline spring check valve x 2", [("check_spring_inline", 2)]),
    ("long radius 90 ell (2)", [("elbow_90_long_threaded", 2)]),
    ("full port ball valve: 2, gate valve", [("ball_valve_full", 2), ("gate_valve", 1)]),
    ("non-return valve", [("check_swing_100", 1)]),
    ("22½° elbow", [("elbow_22", 1)]),
    ("2 in-line spring checks, 2 inline spring check", [("check_spring_inline", 2)] * 2),
    ("3/4 ball valve, 1 1/2 elbow", [("ball_valve_full", 1), ("elbow_90_glued", 1)]),
    ('3 x 1-1/2 in elbow; 2 1-1/4" unions', [("elbow_90_glued", 3), ("union", 2)]),
    ("elbow 90", [("elbow_90_glued", 1)]),
    ("threaded 90 elbow", [("elbow_90_std_threaded", 1)]),
    ("tee (straight through)", [("tee_run_threaded", 1)]),
    ("foot valve with strainer & 6 couplings", [("foot_poppet", 1), ("coupling", 6)]),
]


@pytest.mark.parametrize(("text", "found"), WORDS)
def test_reads_short_words_with_counts(text, found):
    assert [(one.fitting_id, one.count) for one in fitting_words.read(text)] == found


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("2 chek", "did you mean check"),
        ("elbow, banana", "no fitting is called 'banana'"),
        ("45 long elbow", "no fitting is called"),  # no such one in the table: not guessed
        ("elbow valve thing", "no fitting is called"),
        ("2 1/2 elbows", "may be 2 of 1/2 in or one of 2-1/2 in"),
    ],
)
def test_an_unknown_word_is_told(text, says):
    with pytest.raises(SizingError, match=says):
        fitting_words.read(text)


def test_a_count_beyond_reason_is_told():
    with pytest.raises(SizingError, match="1 to 500"):
        fitting_words.read("600 elbow")


@given(
    st.lists(
        st.tuples(st.sampled_from(sorted(fittings.fittings())), st.integers(1, 20)), max_size=5
    )
)
def test_writing_and_reading_fittings_changes_nothing(pairs):
    counted = tuple(Counted(*pair) for pair in pairs)
    assert fitting_words.read(fitting_words.write(counted)) == counted


def test_every_label_is_read_as_its_fitting():
    first = {}
    for row in tables.rows("fitting_words"):
        first.setdefault(row["label"], row["fitting_id"])
    for label, fitting_id in first.items():
        assert fitting_words.read(label) == (Counted(fitting_id, 1),), label


def test_every_word_names_a_fitting_that_exists():
    for row in tables.rows("fitting_words"):
        assert row["fitting_id"] in fittings.fittings()
