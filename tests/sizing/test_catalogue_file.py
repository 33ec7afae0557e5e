import re
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_columns import COLUMNS
from sizing.pump.catalogue_file import CatalogueFileError, completed, read_csv
from sizing.pump.catalogue_write import write_csv
from sizing.pump.identity import id_of

HEADER = "maker,model,family,flow_unit,head_unit,flows,heads,powers_w,solids,price"
GOOD = "Quorl,S-1,sump,gpm,ft,0; 10; 20; 30,20; 18; 14; 6,200; 230; 260; 280,1/2 in,142"


def test_reads_units_in_and_beside_the_cells():
    pump = read_csv(f"{HEADER}\n{GOOD}\n")[0].pump
    assert pump.pump_id == "quorl-s-1"
    assert pump.curve.flows_m3s[1] == pytest.approx(10 * 231 * 0.0254**3 / 60)
    assert pump.curve.heads_m[0] == pytest.approx(20 * 0.3048)
    assert (pump.solids_m, pump.price, pump.width_m) == (pytest.approx(0.0127), 142.0, None)


BAD = [
    (GOOD.replace("sump", "sumpy"), "family 'sumpy' is not one of"),
    (GOOD.replace("gpm", "psi"), "'psi' is not a unit of flow"),
    (GOOD.replace("0; 10; 20; 30", "0; 10; 10; 30"), "must rise"),
    (GOOD.replace("20; 18; 14; 6", "20; 18; 14"), "4 flows and 3 values of heads"),
    (GOOD.replace("0; 10; 20; 30", "0; ten; 20; 30"), "must be numbers"),
    (
        GOOD.replace("0; 10; 20; 30", "0; 10").replace("20; 18; 14; 6", "20; 18"),
        "2 points; a curve needs 4",
    ),
    (GOOD.replace("gpm", "l/s"), "wrong unit"),
    (GOOD.replace("1/2 in", "large"), "solids: 'large' holds no number"),
    (GOOD.replace("142", "-5"), "cannot be negative"),
    (GOOD.replace("Quorl", ""), "maker is empty"),
    (GOOD + ",extra", "more cells than"),
    (GOOD.replace("142", "1e30"), "price: no pump has so much"),
    (GOOD.replace("1/2 in", "12 m"), "solids: no pump has so much"),
    (GOOD.replace("18", "1e30"), "heads hold a number that no pump has"),
]


@pytest.mark.parametrize(("line", "says"), BAD)
def test_each_bad_row_is_told_and_gives_no_pump(line, says):
    row = read_csv(f"{HEADER}\n{line}\n")[0]
    assert row.pump is None
    assert says in "; ".join(row.problems)


def test_a_pump_named_twice_is_told():
    rows = read_csv(f"{HEADER}\n{GOOD}\n{GOOD}\n")
    assert rows[1].problems == ("the same maker, model and variant as line 2",)


def test_a_rising_curve_and_one_without_shut_off_are_doubted_not_refused():
    row = read_csv(
        f"{HEADER}\n{GOOD.replace('20; 18; 14; 6', '18; 20; 14; 6').replace('0; 10', '5; 10')}\n"
    )[0]
    assert row.pump is not None
    assert len(row.doubts) == 2


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "missing: maker"),
        ("maker,model\n", "missing: family"),
        (HEADER + ",colour\n", "not known: colour"),
        (HEADER + '\n"a', "not a CSV file"),
    ],
)
def test_a_file_that_is_no_catalogue_is_told(text, says):
    with pytest.raises(CatalogueFileError, match=says):
        read_csv(text)


def test_the_demo_catalogue_is_rich_and_whole():
    rows = read_csv(Path("demo/pumps.csv").read_text())
    pumps = [row.pump for row in rows]
    assert all(pumps)
    assert len(pumps) >= 40
    assert len({pump.maker for pump in pumps}) >= 4
    assert all(
        pump.curve.powers_w and pump.price and pump.noise_db and pump.warranty_years
        for pump in pumps
    )
    assert any(pump.curve.npsh_required_m for pump in pumps)


def test_writing_and_reading_a_catalogue_changes_nothing(catalogue):
    again = [row.pump for row in read_csv(write_csv(catalogue.pumps))]
    for before, after in zip(catalogue.pumps, again, strict=True):
        assert after.curve.flows_m3s == pytest.approx(before.curve.flows_m3s, rel=1e-9)
        assert after.curve.powers_w == pytest.approx(before.curve.powers_w, rel=1e-9)
        assert (after.pump_id, after.float_type, after.phases) == (
            before.pump_id,
            before.float_type,
            before.phases,
        )
        assert after.width_m == pytest.approx(before.width_m, rel=1e-9)


@settings(max_examples=300)
@given(st.text(alphabet=st.sampled_from(list('abc,;"\n\r 0123456789.-\x00é')), max_size=200))
def test_no_file_breaks_the_reading(text):
    for content in (text, f"{HEADER}\n{text}"):
        try:
            rows = read_csv(content)
        except CatalogueFileError:
            continue
        assert all(row.pump is not None or row.problems for row in rows)


def test_ids_are_plain_where_they_leave_nothing_out():
    assert id_of("Ondrath ", "K-42/b  (V)") == "ondrath-k-42-b-v"
    assert re.fullmatch(r"ondrath-k-42-v-[0-9a-f]{8}", id_of("Ondrath ", "K 42/é (V)"))
    assert re.fullmatch(r"pump-[0-9a-f]{8}", id_of("水泵", "三号"))


TWINS = [
    ("Quorl", "Pro", "Pro+"),
    ("Quorl", "Tärn 100", "Törn 100"),
    ("Quorl", "S-25", "S 25"),
    ("Quorl", "²", "³"),
    ("水泵", "一", "二"),
]


@pytest.mark.parametrize(("maker", "one", "other"), TWINS)
def test_pumps_of_different_names_never_share_an_id(maker, one, other):
    rows = read_csv(
        "\n".join(
            [HEADER, *(GOOD.replace("Quorl,S-1", f"{maker},{model}") for model in (one, other))]
        )
    )
    assert [row.problems for row in rows] == [(), ()]
    assert len({row.pump.pump_id for row in rows} - {""}) == 2


def test_case_and_spaces_make_no_other_pump():
    rows = read_csv("\n".join([HEADER, GOOD, GOOD.replace("Quorl,S-1", "QUORL, s-1 ")]))
    assert rows[1].problems == ("the same maker, model and variant as line 2",)


def test_an_id_of_an_older_program_finds_its_pump():
    rows = read_csv("\n".join([HEADER, GOOD.replace("S-1", "Pro+"), GOOD.replace("S-1", "Max")]))
    catalogue = Catalogue([row.pump for row in rows])
    assert catalogue.pumps[catalogue.find("quorl-pro")].model == "Pro+"
    assert catalogue.find("quorl") is None


def test_what_a_file_says_nothing_about_stays():
    before = read_csv(f"{HEADER},stock,npsh\n{GOOD},2,1; 1; 2; 3")[0].pump
    row = completed(read_csv(f"{HEADER}\n{GOOD}")[0], before)
    assert (row.pump, row.doubts) == (before, ())
    other = completed(read_csv(f"{HEADER}\n{GOOD.replace('0; 10', '0; 9')}")[0], before)
    assert (other.pump.stock, other.pump.curve.npsh_required_m) == (2, None)
    assert "the NPSH known before no longer goes with it" in other.doubts[0]


def test_every_column_is_documented():
    text = Path("docs/catalogue-file.md").read_text()
    assert all(f"`{column.name}`" in text for column in COLUMNS)
