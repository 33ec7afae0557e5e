"""A hand sum typed from scratch or pasted from a spreadsheet, in any units."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.aftercare.calculation_review.hand_sum import right
from sizing.aftercare.calculation_review.sheet import cells, read_sheet
from sizing.aftercare.calculation_review.written import FACTS, GOT, read

CISTERN = {
    "flow": "38 l/min",
    "lift": "6 m",
    "length": "24 m",
    "fittings": "8 m",
    "bore": "27.2 mm",
    "nominal": "32 mm",
    "pump_efficiency": "45 %",
    "motor_efficiency": "70 %",
}


def got(**figures):
    return read(CISTERN | {f"got_{code}": text for code, text in figures.items()}, "metric")


def head_of(**changes):
    return right(read(CISTERN | changes, "metric").facts).figures().head


def test_a_right_sum_is_right():
    found = got(head=f"{head_of():.3g} m")
    assert not found.problems
    assert found.explained["head"].is_right


@pytest.mark.parametrize(
    ("changes", "figures", "code"),
    [
        ({"fittings": ""}, ("head",), "fittings_left_out"),
        ({"bore": "32 mm"}, ("head",), "nominal_as_inside"),
    ],
)
def test_a_slip_in_the_facts_is_found_in_the_figure(changes, figures, code):
    found = got(**{name: f"{head_of(**changes):.4g} m" for name in figures})
    assert found.explained["head"].code == code


def test_two_slips_of_one_power_are_found_together():
    """Litres where gallons belong, and no fittings: 3.785 times the power of a shorter run."""
    plain = right(read(CISTERN | {"fittings": ""}, "metric").facts).figures()
    found = got(shaft_power=f"{plain.shaft_power * 3.7854 / 745.7:.4g} hp")
    assert found.explained["shaft_power"].code == "fittings_left_out+lpm_in_gpm_formula"


def test_over_the_top_and_the_npsh_need_their_facts():
    found = read(CISTERN | {"top": "9 m", "got_head": f"{head_of():.3g} m"}, "metric")
    assert found.explained["head"].code == "static_to_the_rim"
    bare = read(CISTERN | {"got_npsh": "7 m"}, "metric")
    assert "npsh" not in bare.explained
    high = read(CISTERN | {"over": "3 m", "altitude": "0 m", "got_npsh": "-3.2 m"}, "metric")
    assert high.explained["npsh"].code == "npsh_by_gauge"


def test_where_a_pump_runs_is_asked_with_its_curve():
    curve = "12 m 0 l/min, 11 m 20, 8 m 40, 3 m 60"
    found = read(CISTERN | {"curve": curve, "open_flow": "70 l/min"}, "metric")
    runs = right(found.facts).figures()
    assert 20 < runs.flow * 60e3 < 60
    assert runs.head == pytest.approx(float(found.facts.curve.head_m(runs.flow)))


@pytest.mark.parametrize(
    "name", [*FACTS, *(f"got_{code}" for code in GOT), "fixture_units", "curve"]
)
@pytest.mark.parametrize("text", ["much", "1e400", "-9e9", "3 apples", "\0", "½½"])
def test_nonsense_stands_beside_its_field_alone(name, text):
    found = read(CISTERN | {name: text}, "metric")
    assert list(found.problems) == [name]
    assert found.given[name] == text[:200].strip()


def test_what_is_missing_is_asked_for():
    found = read({"lift": "3 m"}, "us")
    assert found.facts is None
    assert found.missing == ("Flow wanted", "Pipe", "Its bore")


@given(st.dictionaries(st.sampled_from([*FACTS, "curve", "got_head"]), st.text(max_size=12)))
def test_whatever_is_typed_nothing_breaks(given_texts):
    read(CISTERN | given_texts, "us")


PAGES = [
    (
        "Design flow (gpm)\t10\nStatic head\t20\tft\nPipe length\t80\tft\n"
        "Inside diameter\t1.05 in\nEquivalent length\t25\tft\nPump efficiency\t45%\n"
        "TDH (ft)\t31.2\nBHP\t0.17\thp\nFudge\t3",
        {
            "flow": "10 gpm",
            "lift": "20 ft",
            "length": "80 ft",
            "bore": "1.05 in",
            "fittings": "25 ft",
            "pump_efficiency": "45 %",
            "got_head": "31.2 ft",
            "got_shaft_power": "0.17 hp",
        },
        ("Fudge",),
    ),
    (
        "Flow rate = 38 l/min\nLift: 6 m\nSuction length; 2 m\nMotor efficiency: 70 %",
        {
            "flow": "38 l/min",
            "lift": "6 m",
            "suction_length": "2 m",
            "motor_efficiency": "70 %",
        },
        (),
    ),
    ("nothing here\n\n12\t13\nTotal\t\t", {}, ()),
    # the same quantity twice: the first stands, the second is told
    ("Flow\t10\tgpm\nFlow\t12\tgpm", {"flow": "10 gpm"}, ("Flow",)),
    # a unit that cannot be is no such quantity
    ("Flow\t10\tft", {}, ("Flow",)),
]


@pytest.mark.parametrize(("page", "texts", "unknown"), PAGES)
def test_a_pasted_page_is_read_by_its_labels_and_units(page, texts, unknown):
    found = read_sheet(cells(page))
    assert found.texts == texts
    assert found.unknown == unknown


@given(st.text(max_size=300))
def test_any_page_at_all_is_read_without_breaking(page):
    found = read_sheet(cells(page))
    read(found.texts, "metric")
