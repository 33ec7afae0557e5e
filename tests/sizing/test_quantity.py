import re

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base import numbers, quantity, tables, units
from sizing.base.errors import UnknownName, UnreadableQuantity
from sizing.base.reader import Reader, reading
from sizing.document.job import Figure

# Exact by definition: inch 25.4 mm, US gallon 231 in3, imperial gallon 4.54609 l, psi from
# 0.45359237 kg and standard gravity.
READABLE = [
    ("38 gpm", "flow", 38 * 231 * 0.0254**3 / 60),
    ("12 imp gal/min", "flow", 12 * 4.54609e-3 / 60),
    ("6000 l/day", "flow", 6 / 86400),
    ("1,250 l/h", "flow", 1.25 / 3600),
    ("7 gallons an hour", "flow", 7 * 231 * 0.0254**3 / 3600),
    (".35 l / s", "flow", 0.35e-3),
    ("60 Litres per Minute", "flow", 1e-3),
    ("1e-3 m3/s", "flow", 1e-3),
    ("14 ft 6 in", "length", 14.5 * 0.3048),
    ("5'10", "length", 70 * 0.0254),
    ("5ft6in", "length", 66 * 0.0254),
    ("-2 ft 6 in", "length", -30 * 0.0254),
    ("3/4 in", "length", 0.75 * 0.0254),
    ("1-1/2 in", "length", 1.5 * 0.0254),
    ("1½ in", "length", 1.5 * 0.0254),
    ("−1.2 m", "length", -1.2),
    ("2.5 bar", "pressure", 2.5e5),
    ("40 psi", "pressure", 40 * 0.45359237 * 9.80665 / 0.0254**2),
    ("0.5 hp", "power", 0.5 * 550 * 0.3048 * 0.45359237 * 9.80665),
    ("50 F", "temperature", 10.0),
    ("283.15 K", "temperature", 10.0),
    ("1 h 30 min", "time", 5400.0),
    ("40 mm/h", "rain", 0.04 / 3600),
    ("57 l/min per 100 m2", "seepage", 0.057 / 60 / 100),
    ("150 %", "ratio", 1.5),
    ("4 500 l", "volume", 4.5),
    ("4\u202f500 l", "volume", 4.5),
    ("12'500 l", "volume", 12.5),
    ("7'-10\"", "length", 94 * 0.0254),
    ("~12 m", "length", 12.0),
    ("ca. 3 bar", "pressure", 3e5),
    ("about 5 gpm", "flow", 5 * 3.785411784e-3 / 60),
    ("4500 litres a day", "flow", 4.5 / 86400),
    ("22 S", "latitude", -22.0),
    ("22° 30' S", "latitude", -22.5),
    ("S 33° 52'", "latitude", -33 - 52 / 60),
    ("22°30'36\"S", "latitude", -22.51),
    ("46.5 deg", "latitude", 46.5),
    ("-22.5", "latitude", -22.5),
    ("47 north", "latitude", 47.0),
]
REFUSED = [
    ("", "flow", "nothing is written"),
    ("  ", "length", "nothing is written"),
    ("-", "flow", "no number"),
    ("--5 m", "length", "no number"),
    ("+-5 m", "length", "no number"),
    ("1..2 l/s", "flow", "no number"),
    ("1.2.3 l/s", "flow", "parts thousands"),
    ("nan l/s", "flow", "no number"),
    ("inf m", "length", "no number"),
    ("1e999 l/s", "flow", "too large"),
    ("l/s", "flow", "no number"),
    ("12 bananas", "flow", "'bananas' is not a unit"),
    ("25 psi", "flow", "is a unit of pressure"),
    ("7 gpm", "length", "is a unit of flow"),
    ("3/0 in", "length", "divides by zero"),
    ("5,25 m", "length", "a comma only parts thousands"),
    ("1,25,000 l/h", "flow", "a comma only parts thousands"),
    ("3 ft 2 psi", "length", "is a unit of pressure"),
    ("6 in 2 ft", "length", "larger one after a smaller"),
    ("1 2 m", "length", "a number without its unit"),
    ("5", "flow", "has no unit"),
    ("-300 C", "temperature", "colder than anything"),
    ("5 l//s", "flow", "not a unit"),
    ("٣ m", "length", "no number"),
    ("0,500 m", "length", "a comma only parts thousands"),
    ("-22 S", "latitude", "names its side twice"),
    ("22 E", "latitude", "north or south"),
    ("95 N", "latitude", "beyond a pole"),
    ("22° 70' S", "latitude", "60 minutes or more"),
    ("down under", "latitude", "is no latitude"),
    ("1.2.3 N", "latitude", "is no latitude"),
]
RANGES = [
    ("4 to 10 /h", "frequency", 4 / 3600, 10 / 3600),
    ("2.5 - 3.5 bar", "pressure", 2.5e5, 3.5e5),
    ("22 to 26 m", "length", 22.0, 26.0),
    ("14 ft 6 in to 15 ft", "length", 174 * 0.0254, 180 * 0.0254),
    ("1-1/2 to 2 in", "length", 1.5 * 0.0254, 2 * 0.0254),
    ("-3 to -1 m", "length", -3.0, -1.0),
    ("90 s – 2 min", "time", 90.0, 120.0),
    ("5 to 5 m", "length", 5.0, 5.0),
]
NO_RANGES = ["2-1/2 in", "-5 m", "1e-3 m", "12 m", "7'-10\""]


@pytest.mark.parametrize(("text", "dimension", "si"), READABLE)
def test_reads_what_people_type(text, dimension, si):
    assert quantity.read(text, dimension).si == pytest.approx(si, rel=1e-12)


@pytest.mark.parametrize(("text", "dimension", "says"), REFUSED)
def test_refuses_with_a_sentence(text, dimension, says):
    with pytest.raises(UnreadableQuantity, match=says):
        quantity.read(text, dimension)


def test_a_bare_number_takes_the_unit_of_the_field():
    read = quantity.read(" 12 ", "flow", "gpm")
    assert (read.value, read.unit.symbol, read.bare) == (12.0, "gpm", True)


def test_keeps_the_unit_that_was_typed():
    read = quantity.read("14 ft 6 in", "length")
    assert (read.value, read.unit.symbol, read.text, read.bare) == (14.5, "ft", "14 ft 6 in", False)


@given(st.text(max_size=30), st.sampled_from(sorted(units.SI_UNITS)))
def test_any_text_is_read_or_refused(text, dimension):
    try:
        si = quantity.read(text, dimension).si
    except UnreadableQuantity:
        return
    assert abs(si) < float("inf")


@given(
    st.floats(1e-6, 1e6), st.sampled_from(["l/s", "l/min", "m³/h", "gpm", "gph", "imp gpm", "cfs"])
)
def test_writing_and_reading_a_flow_changes_nothing(value, symbol):
    assert quantity.read(f"{value!r} {symbol}", "flow").value == pytest.approx(value, rel=1e-15)


@pytest.mark.parametrize("row", units.tables.rows("units"), ids=lambda row: row["symbol"])
def test_every_spelling_in_the_table_is_read(row):
    for spelling in (row["symbol"], *filter(None, row["spellings"].split(";"))):
        assert quantity.read(f"3 {spelling}", row["dimension"]).unit.symbol == row["symbol"]


def test_an_unknown_symbol_raises_with_near_ones():
    with pytest.raises(UnknownName, match="did you mean"):
        units.unit("gpmm", "flow")


SHOWN = [
    (9.806, "length", "metric", "9.81\u00a0m"),
    (9.806, "length", "us", "32.2\u00a0ft"),
    (-0.001, "length", "metric", "−0.0010\u00a0m"),
    (0.0, "length", "metric", "0.00\u00a0m"),
    (-0.0, "length", "metric", "0.00\u00a0m"),
    (12345.6, "length", "metric", "12\u202f345.60\u00a0m"),
    (1.8e-3, "flow", "metric", "6.48\u00a0m³/h"),
    (45.0, "time", "metric", "45\u00a0s"),
    (257.0, "time", "us", "4\u00a0min 17\u00a0s"),
    (25800.0, "time", "metric", "7\u00a0h 10\u00a0min"),
    (200000.0, "time", "metric", "2\u00a0days 7\u00a0h"),
    (float("inf"), "time", "metric", "never"),
    (10 / 3600, "frequency", "metric", "10.0/h"),
    (1.02, "ratio", "us", "102\u00a0%"),
]


@pytest.mark.parametrize(("si", "dimension", "system", "text"), SHOWN)
def test_shows_figures_as_people_of_a_system_read_them(si, dimension, system, text):
    assert units.show(si, dimension, system) == text


@pytest.mark.parametrize(("text", "dimension", "low", "high"), RANGES)
def test_reads_a_range(text, dimension, low, high):
    found = quantity.read_range(text, dimension)
    assert [one.si for one in found] == pytest.approx([low, high])


@pytest.mark.parametrize("text", NO_RANGES)
def test_a_dash_alone_makes_no_range(text):
    assert quantity.read_range(text, "length") is None


def test_a_range_that_falls_is_refused():
    with pytest.raises(UnreadableQuantity) as told:
        quantity.read_range("10 to 4 m", "length")
    assert told.value.code == "reversed_range"


def test_a_range_in_a_field_is_its_middle_and_how_wide_it_may_be_off():
    found = Figure.read("22 to 26", "length", "m")
    assert (found.value, found.plus_minus, found.text) == (24.0, 2.0, "22 to 26 m")
    assert found.agrees("length")
    with pytest.raises(UnreadableQuantity):
        Figure.read("3 to 4", "count", "×")


@pytest.mark.parametrize(
    ("text", "style", "value"),
    [
        ("1.250,5", "comma", 1250.5),
        ("30,5", "comma", 30.5),
        ("3.600", "comma", 3600.0),
        ("3.600", "point", 3.6),
        ("7,200", "comma", 7.2),
        ("1,250,000", "point", 1.25e6),
        ("0,500", "point", None),
        ("30,5", "point", None),
        ("30.5", "comma", None),
        ("1,250.5", "comma", None),
        ("12 500", "comma", 12500.0),
        (",5", "comma", 0.5),
    ],
)
def test_a_mark_that_fits_neither_use_is_never_guessed(text, style, value):
    assert numbers.number(text, style) == value


@given(st.floats(0, 1e9).map(lambda value: round(value, 3)), st.sampled_from(["point", "comma"]))
def test_a_number_written_in_groups_is_read_back(value, style):
    written = f"{value:,.3f}"
    if style == "comma":
        written = written.translate(str.maketrans(".,", ",."))
    assert numbers.number(written, style) == value


@pytest.mark.parametrize(
    ("text", "style", "other"),
    [
        ("1,250 l/h", "point", "1.250 l/h"),
        ("6.000 l", "point", "6000 l"),
        ("1.250 l/h", "comma", "1,250 l/h"),
        ("1,250,000 l", "point", None),
        ("12.5 m", "point", None),
        ("0.500 m", "point", None),
        ("1250 l", "point", None),
    ],
)
def test_a_doubtful_mark_has_another_reading(text, style, other):
    assert numbers.other_reading(text, style) == other


@pytest.mark.parametrize("text", ["5 kVA", "5000 VA", "5 kva", "5 kilovolt-amperes"])
def test_a_generators_rating_is_read_as_its_plate_has_it(text):
    assert quantity.read(text, "power", "W").si == pytest.approx(5000.0)


@pytest.mark.parametrize(
    ("style", "text", "says"),
    [
        ("point", "5,25 m", "'5,25 m': a comma only parts thousands"),
        ("comma", "5.25 m", "'5.25 m': a point only parts thousands"),
    ],
)
def test_a_wrong_mark_is_told_in_the_marks_of_who_typed_it(style, text, says):
    with reading(Reader(style=style)), pytest.raises(UnreadableQuantity, match=re.escape(says)):
        Figure.typed(text, "length", "m")


# pint's name of the SI unit, where a dimension has one that is measured
_SI_BY_PINT = {
    "length": "meter",
    "area": "meter**2",
    "volume": "meter**3",
    "time": "second",
    "flow": "meter**3/second",
    "pressure": "pascal",
    "power": "watt",
    "energy": "joule",
    "temperature": "kelvin",
    "temperature_step": "kelvin",
    "velocity": "meter/second",
    "rain": "meter/second",
    "seepage": "meter/second",
    "frequency": "1/second",
    "per_length": "meter**2/second",
    "voltage": "volt",
    "mains": "hertz",
    "current": "ampere",
    "charge": "coulomb",
    "mass": "kilogram",
    "angle": "degree",
}


def test_every_unit_is_as_large_as_pint_says():
    registry = pint.UnitRegistry()
    rows = tables.rows("units")
    assert {row["dimension"] for row in rows} <= set(units.SI_UNITS)
    for row in rows:
        found = units.unit(row["symbol"], row["dimension"])
        si = _SI_BY_PINT.get(row["dimension"], "")
        if row["dimension"] == "temperature":  # a scale with a zero of its own
            zero, one = (registry.Quantity(n, row["definition"]).to(si).magnitude for n in (0, 1))
            exact = one - zero, zero - 273.15
        else:
            exact = registry.Quantity(row["definition"]).to(si).magnitude, 0.0
        assert (found.scale, found.offset) == pytest.approx(exact)
