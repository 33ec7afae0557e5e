from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sizing.pump.catalogue import id_of
from sizing.pump.catalogue_file import COLUMNS, CatalogueFileError, read_csv, write_csv

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
    (GOOD.replace("0; 10; 20; 30", "0; 10").replace("20; 18; 14; 6", "20; 18"), "2 points; a curve needs 4"),
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
    row = read_csv(f"{HEADER}\n{GOOD.replace('20; 18; 14; 6', '18; 20; 14; 6').replace('0; 10', '5; 10')}\n")[0]
    assert row.pump is not None
    assert len(row.doubts) == 2


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "missing: maker"), ("maker,model\n", "missing: family"), (HEADER + ",colour\n", "not known: colour"), (HEADER + '\n"a', "not a CSV file")],
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
    assert all(pump.curve.powers_w and pump.price and pump.noise_db and pump.warranty_years for pump in pumps)
    assert any(pump.curve.npsh_required_m for pump in pumps)


def test_writing_and_reading_a_catalogue_changes_nothing(catalogue):
    again = [row.pump for row in read_csv(write_csv(catalogue.pumps))]
    for before, after in zip(catalogue.pumps, again, strict=True):
        assert after.curve.flows_m3s == pytest.approx(before.curve.flows_m3s, rel=1e-9)
        assert after.curve.powers_w == pytest.approx(before.curve.powers_w, rel=1e-9)
        assert (after.pump_id, after.float_type, after.phases) == (before.pump_id, before.float_type, before.phases)
        assert after.width_m == pytest.approx(before.width_m, rel=1e-9)


@settings(max_examples=300, deadline=None)
@given(st.text(alphabet=st.sampled_from(list('abc,;"\n\r 0123456789.-\x00é')), max_size=200))
def test_no_file_breaks_the_reading(text):
    for content in (text, f"{HEADER}\n{text}"):
        try:
            rows = read_csv(content)
        except CatalogueFileError:
            continue
        assert all(row.pump is not None or row.problems for row in rows)


def test_ids_are_plain():
    assert id_of("Ondrath ", "K 42/é (V)") == "ondrath-k-42-v"


def test_every_column_is_documented():
    text = Path("docs/catalogue-file.md").read_text()
    assert all(f"`{column.name}`" in text for column in COLUMNS)
