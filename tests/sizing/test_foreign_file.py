"""A supplier's file as it comes: signs, headings, units and shape found out."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.pump.catalogue_file import CatalogueFileError, read_rows
from sizing.pump.foreign_file import heading, in_our_columns, read_sheet, understand

GPM, FT = 3.785411784e-3 / 60, 0.3048
LONG = (
    "Hersteller;Modell;Flow (gpm);Head ft;price_eur\n"
    "Ordel;Z 1;20;18;\n"
    "Ordel;Z 1;0;30;1.250,50\n"
    "Ordel;Z 1;10,5;25;\n"
    "Ordel;Z 1;28;5,5;\n"
    "Ordel;Z 2;0;12;99\nOrdel;Z 2;5;11;\nOrdel;Z 2;9;8;\nOrdel;Z 2;12;2;\n"
)


def pumps(content: bytes, fixed=None, by_hand=None):
    fixed = fixed or {}
    sheet = read_sheet(content)
    found = understand(sheet, by_hand or {}, fixed)
    assert (found.unknown, found.missing) == ((), ())
    return read_rows(*in_our_columns(sheet, found, fixed))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_a_row_a_point_with_semicolons_and_commas_in_any_encoding(encoding):
    rows = pumps(LONG.replace("Ordel", "Örtel & Söhne").encode(encoding), {"family": "sump"})
    assert [row.problems for row in rows] == [(), ()]
    first = rows[0].pump
    assert (first.maker, first.model, first.price) == ("Örtel & Söhne", "Z 1", 1250.5)
    assert first.curve.flows_m3s == pytest.approx([0, 10.5 * GPM, 20 * GPM, 28 * GPM])
    assert first.curve.heads_m == pytest.approx([30 * FT, 25 * FT, 18 * FT, 5.5 * FT])


def test_flows_in_columns_by_head():
    content = b"Make,Model,5 ft,@ 10 ft,Flow at 15 ft,20'\nOrdel,P9,2450,1800,1000,0\n"
    rows = pumps(content, {"flow_unit": "gph", "family": "pond"})
    curve = rows[0].pump.curve
    assert curve.heads_m == pytest.approx([20 * FT, 15 * FT, 10 * FT, 5 * FT])
    assert curve.flows_m3s[-1] == pytest.approx(2450 * GPM / 60)


def test_numbered_points_in_columns_with_tabs():
    content = (
        "maker\tmodel\tfamily\tQ1 [l/min]\tQ2 [l/min]\tQ3 [l/min]\tQ4 [l/min]"
        "\tH1 [m]\tH2 [m]\tH3 [m]\tH4 [m]\n"
        "Ordel\tT 4\ttransfer\t0\t20\t40\t60\t30\t28\t22\t10\n"
    )
    curve = pumps(content.encode())[0].pump.curve
    assert curve.flows_m3s == pytest.approx([0, 0.02 / 60, 0.04 / 60, 0.06 / 60])
    assert curve.heads_m == (30, 28, 22, 10)


@pytest.mark.parametrize(
    ("text", "column", "unit"),
    [
        ("Flow (gpm)", "flow", "gpm"),
        ("Head ft", "head", "ft"),
        ("price_eur", "price", "eur"),
        ("Price (€)", "price", ""),
        ("Förderhöhe [m]", "head", "m"),
        ("P1 kW", "power", "kW"),
        ("Voltage", "voltage", ""),
        ("Bestand", "stock", ""),
        ("Colour", "", ""),
        ("", "", ""),
    ],
)
def test_what_a_heading_means(text, column, unit):
    found = heading(text)
    assert found.column == column
    assert not column or found.unit in (unit, "")
    if unit and unit != "eur":
        assert found.unit == unit


def test_powers_in_kilowatts_become_watts_and_a_unit_goes_into_the_cell():
    content = (
        "maker;model;family;flow m3/h;head m;p1 kW;solids in\n"
        "Ordel;K;sump;0;9;0,5;1/2\nOrdel;K;sump;4;8;0,7;\n"
        "Ordel;K;sump;8;6;0,9;\nOrdel;K;sump;12;2;1,0;\n"
    )
    pump = pumps(content.encode())[0].pump
    assert pump.curve.powers_w == pytest.approx([500, 700, 900, 1000])
    assert pump.solids_m == pytest.approx(0.0127)


def test_what_is_not_known_is_asked_and_may_be_left_out_or_matched():
    sheet = read_sheet(b"Make,Model,Flow gpm,Head ft,Colour,Art\nOrdel,X,1,2,blue,sump\n")
    found = understand(sheet, {}, {})
    assert found.unknown == ("Colour", "Art")
    assert found.missing == ("family",)
    found = understand(sheet, {"Colour": "", "Art": "family"}, {})
    assert (found.unknown, found.missing) == ((), ())


def test_a_price_list_is_known_by_what_it_lacks():
    sheet = read_sheet(b"SKU;Preis;Bestand\nx-1;12,50;3\n")
    found = understand(sheet, {}, {})
    assert (found.shape, found.unknown, found.missing) == ("prices", (), ())
    assert in_our_columns(sheet, found, {}) == (
        ["pump_id", "price", "stock"],
        [(2, ["x-1", "12.50", "3"])],
    )


@given(st.binary(max_size=300))
def test_no_bytes_break_the_reader(content):
    try:
        sheet = read_sheet(content)
    except CatalogueFileError:
        return
    understand(sheet, {}, {})
