import dataclasses
import random
import re
from pathlib import Path
from xml.etree import ElementTree

import pytest
from django.template.loader import render_to_string
from django.utils import translation
from hypothesis import given
from hypothesis import strategies as st

from kyrtos.drawing import labels
from kyrtos.drawing.curve_chart import curve_chart
from kyrtos.drawing.labels import Box, Wish
from kyrtos.drawing.picture import NARROW, WIDE, picture
from kyrtos.drawing.scale import Scale, px, step, ticks
from kyrtos.drawing.section import widths
from sizing import intake
from sizing.edit import edit
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.size import size

DEMO = Path(__file__).parents[2] / "demo"


@pytest.fixture(scope="module")
def catalogue():
    return Catalogue([row.pump for row in read_csv((DEMO / "pumps.csv").read_text())])


@pytest.fixture(scope="module")
def cellar():
    return intake.loads((DEMO / "jobs" / "01-bookbinders-cellar.json").read_bytes())


@given(st.floats(-1e4, 1e4), st.floats(0.1, 1e4), st.floats(0, 500), st.floats(10, 900), st.floats(0, 1))
def test_a_scale_goes_there_and_back(low, span, start, length, share):
    scale = Scale(low, low + span, start, start + length)
    value = low + share * span
    assert scale.value(scale.pixel(value)) == pytest.approx(value, rel=1e-9, abs=1e-6)


@given(st.floats(-1e3, 1e3), st.floats(1e-3, 1e4), st.integers(2, 12))
def test_ticks_are_round_and_within(low, span, most):
    found = ticks(low, low + span, most)
    assert len(found) <= most + 1
    assert all(low - span * 1e-6 <= value <= low + span * (1 + 1e-6) for value in found)
    assert f"{step(span, most):e}"[0] in "125"


@pytest.mark.parametrize(("value", "text"), [(12.54, "12.5"), (12.0, "12"), (-0.04, "0"), (1e6, "1000000")])
def test_pixels_are_written_with_a_point(value, text):
    assert px(value) == text


@given(st.lists(st.tuples(st.text("abc ", min_size=1, max_size=20), st.floats(0, 500), st.floats(0, 300)), max_size=15))
def test_labels_never_overlap_and_stay_inside(wanted):
    bounds = Box(0, 0, 500, 300)
    placed = labels.place([Wish(text, x, y, "any", rank=rank) for rank, (text, x, y) in enumerate(wanted)], bounds)
    for index, one in enumerate(placed):
        assert one.box.within(bounds)
        assert not any(one.box.overlaps(other.box) for other in placed[:index])


def test_an_important_label_is_never_dropped():
    everywhere = [Box(0, 0, 500, 300)]
    assert len(labels.place([Wish("must", 200, 100, "any", must=True)], Box(0, 0, 500, 300), everywhere)) == 1
    assert labels.place([Wish("may", 200, 100, "any")], Box(0, 0, 500, 300), everywhere) == []


def test_a_short_leg_stays_visible_beside_a_long_one():
    short, long = widths([5.0, 500.0], [5.0, 500.0], 440.0)
    assert short + long == pytest.approx(440.0)
    assert short > 30


def heights(drawn, scale_of):
    """The y scale of a picture, from two of its ticks: pixel -> metres."""
    numbers = [(float(tick.at), float(tick.text.replace("−", "-"))) for tick in drawn.y_ticks]
    (y1, h1), (y2, h2) = numbers[0], numbers[-1]
    return Scale(h1, h2, y1, y2)


@pytest.mark.parametrize("frame", [WIDE, NARROW], ids=["wide", "narrow"])
def test_section_and_chart_share_one_height_scale(cellar, catalogue, frame):
    sizing = size(cellar, catalogue)
    drawn = picture(sizing, "metric", frame)
    y = heights(drawn, frame)
    head = sizing.ledger.total_head_m
    assert y.value(float(drawn.lift[2])) == pytest.approx(head, abs=0.05)
    assert y.value(float(drawn.duty[1])) == pytest.approx(head, abs=0.05)
    assert y.value(float(drawn.lift[1])) == pytest.approx(0.0, abs=0.05)
    # the outlet lies at 6.6 m over the pit's bottom; the water stands at 0.16 m when the pump stops
    assert y.value(float(drawn.outlet[1])) == pytest.approx(6.44, abs=0.05)
    assert y.value(float(drawn.static_tie)) == pytest.approx(sizing.system.static_head_m, abs=0.05)


def test_the_grade_line_falls_leg_by_leg_to_the_outlet(cellar, catalogue):
    sizing = size(cellar, catalogue)
    drawn = picture(sizing, "metric")
    levels = [[float(pair.split(",")[1]) for pair in leg.grade.split()] for leg in drawn.legs]
    assert all(end >= start for start, end in levels)
    assert levels[0][0] == float(drawn.lift[2])
    assert levels[-1][1] == pytest.approx(float(drawn.outlet[1]), abs=1.0)


@pytest.mark.parametrize(
    "name", ["07-plant-nursery-well", "09-converted-mill", "10-bakery-cistern", "11-hospice-rill", "13-hydrotherapy-tub", "14-soup-kitchen-van"]
)
@pytest.mark.parametrize("frame", [WIDE, NARROW], ids=["wide", "narrow"])
def test_every_place_is_drawn_to_the_one_scale(catalogue, name, frame):
    sizing = size(intake.loads((DEMO / "jobs" / f"{name}.json").read_bytes()), catalogue)
    drawn = picture(sizing, "metric", frame)
    y = heights(drawn, frame)
    ledger, route = sizing.ledger, sizing.system.route
    before = sum(line.head_m for line in ledger.lines if line.code == "drawdown" or (line.leg is not None and line.leg < route.suction_legs))
    # the lift's foot lies below zero by what was lost before the pump, and the lift is the total head
    assert y.value(float(drawn.lift[1])) == pytest.approx(-before, abs=0.02 * ledger.total_head_m + 0.06)
    assert y.value(float(drawn.lift[2])) == pytest.approx(ledger.total_head_m - before, abs=0.02 * ledger.total_head_m + 0.06)
    assert float(drawn.duty[1]) <= float(drawn.lift[2]) + 0.1
    pipes = [float(part) for leg in drawn.legs for pair in leg.pipe.split() for part in pair.split(",")]
    assert min(pipes) >= 0
    assert max(pipes) <= max(frame.width, frame.height)
    if not route.closed_loop:
        rise = route.legs[-1].end_elevation_m - route.start_level_m - sizing.system.water.head_m(route.supply_pressure_pa)
        assert y.value(float(drawn.outlet[1])) == pytest.approx(rise, abs=0.02 * ledger.total_head_m + 0.06)


def test_no_picture_without_a_run(cellar, catalogue):
    assert picture(size(cellar.model_copy(update={"legs": ()}), catalogue), "metric") is None


def _random_job(cellar, rng):
    job = cellar
    edits = {
        "legs.a.length": f"{rng.uniform(2.0, 6.0):.2f} m", "legs.a.ends_at": f"{rng.uniform(0.4, 4.0):.2f} m",
        "legs.b.length": f"{rng.uniform(30, 400):.1f} m", "legs.b.ends_at": f"{rng.uniform(-2, 12):.2f} m",
        "legs.l1.length": f"{rng.uniform(20, 90):.1f} m", "legs.l1.ends_at": f"{rng.uniform(0.5, 9):.2f} m",
        "answers.rise": f"{rng.uniform(30, 200):.0f} mm",
    }  # fmt: skip
    for path, text in edits.items():
        job = edit(job, path, text).job
    return job


def test_labels_of_two_hundred_random_sites_never_overlap(cellar, catalogue):
    rng = random.Random(7)
    drawn = [picture(size(_random_job(cellar, rng), catalogue), rng.choice(["metric", "us"]), frame) for _ in range(100) for frame in (WIDE, NARROW)]
    shown = [one for one in drawn if one is not None]
    assert len(shown) > 150
    clashes = 0
    for one in shown:
        boxes = []
        for label in one.labels:
            wide, size_px = labels.width(label.text, float(label.size)), float(label.size)
            left = {"start": 0.0, "middle": wide / 2, "end": wide}[label.anchor]
            boxes.append((label, Box(float(label.x) - left, float(label.y) - size_px, float(label.x) - left + wide, float(label.y))))
        clashes += sum(a.overlaps(b) for index, (la, a) in enumerate(boxes) for lb, b in boxes[:index])
    assert clashes <= 0.03 * len(shown)  # labels that must be there may touch where a site leaves no room


def test_the_template_prints_well_formed_svg_whatever_the_locale(cellar, catalogue, settings):
    settings.USE_I18N = settings.USE_THOUSAND_SEPARATOR = True
    drawn = picture(size(cellar, catalogue), "metric")
    with translation.override("de"):
        text = render_to_string("drawing/picture.svg", {"picture": drawn, "size": "wide"})
        chart = render_to_string("drawing/curve_chart.svg", {"chart": curve_chart(catalogue.pumps[0], "us")})
    for svg in (text, chart):
        ElementTree.fromstring(re.sub(r"^\{#.*?#\}", "", svg.strip()))
        assert not re.search(r'"\d+,\d+"', svg)
    assert 'role="img"' in text
    assert "style=" not in text


def test_every_field_of_a_picture_is_text_or_a_tuple(cellar, catalogue):
    drawn = picture(size(cellar, catalogue), "metric")
    for field in dataclasses.fields(drawn):
        assert not isinstance(getattr(drawn, field.name), float), field.name
