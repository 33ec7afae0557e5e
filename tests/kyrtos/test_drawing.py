import dataclasses
import random
import re
from itertools import pairwise
from pathlib import Path
from xml.etree import ElementTree

import pytest
from django.template.loader import render_to_string
from django.utils import translation
from hypothesis import given
from hypothesis import strategies as st

from kyrtos.drawing import label_requests, labels
from kyrtos.drawing.curve_chart import curve_chart
from kyrtos.drawing.labels import Box, Wish
from kyrtos.drawing.layout import Drawing, duty_px
from kyrtos.drawing.picture import NARROW, WIDE, picture
from kyrtos.drawing.scale import Scale, px, step, ticks
from kyrtos.drawing.section import widths
from sizing.base import units
from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.editing.edit_structure import set_survey
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.size import size
from tests.thin import count

DEMO = Path(__file__).parents[2] / "demo"


@pytest.fixture(scope="module")
def catalogue():
    return Catalogue([row.pump for row in read_csv((DEMO / "pumps.csv").read_text())])


@pytest.fixture(scope="module")
def cellar():
    return intake.loads((DEMO / "jobs" / "01-bookbinders-cellar.json").read_bytes())


@given(
    st.floats(-1e4, 1e4),
    st.floats(0.1, 1e4),
    st.floats(0, 500),
    st.floats(10, 900),
    st.floats(0, 1),
)
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


@pytest.mark.parametrize(
    ("value", "text"), [(12.54, "12.5"), (12.0, "12"), (-0.04, "0"), (1e6, "1000000")]
)
def test_pixels_are_written_with_a_point(value, text):
    assert px(value) == text


@given(
    st.lists(
        st.tuples(st.text("abc ", min_size=1, max_size=20), st.floats(0, 500), st.floats(0, 300)),
        max_size=15,
    )
)
def test_labels_never_overlap_and_stay_inside(wanted):
    bounds = Box(0, 0, 500, 300)
    placed = labels.place(
        [Wish(text, x, y, "any", rank=rank) for rank, (text, x, y) in enumerate(wanted)], bounds
    )
    for index, one in enumerate(placed):
        assert one.box.within(bounds)
        assert not any(one.box.overlaps(other.box) for other in placed[:index])


def test_an_important_label_is_never_dropped():
    everywhere = [Box(0, 0, 500, 300)]
    assert (
        len(
            labels.place(
                [Wish("must", 200, 100, "any", must=True)], Box(0, 0, 500, 300), everywhere
            )
        )
        == 1
    )
    assert labels.place([Wish("may", 200, 100, "any")], Box(0, 0, 500, 300), everywhere) == []


def test_a_short_leg_stays_visible_beside_a_long_one():
    short, long = widths([5.0, 500.0], [5.0, 500.0], 440.0)
    assert short + long == pytest.approx(440.0)
    assert short > 30


def heights(drawn, scale_of):
    """The y scale of a picture, from two of its ticks: pixel -> metres."""
    numbers = [(float(tick.at), float(tick.text.replace("−", "-"))) for tick in drawn.plot.y.ticks]
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
    "name",
    [
        "07-plant-nursery-well",
        "09-converted-mill",
        "10-bakery-cistern",
        "11-hospice-rill",
        "13-hydrotherapy-tub",
        "14-soup-kitchen-van",
    ],
)
@pytest.mark.parametrize("frame", [WIDE, NARROW], ids=["wide", "narrow"])
def test_every_place_is_drawn_to_the_one_scale(catalogue, name, frame):
    sizing = size(intake.loads((DEMO / "jobs" / f"{name}.json").read_bytes()), catalogue)
    drawn = picture(sizing, "metric", frame)
    y = heights(drawn, frame)
    ledger, route = sizing.ledger, sizing.system.route
    before = sum(
        line.head_m
        for line in ledger.lines
        if line.code == "drawdown" or (line.leg is not None and line.leg < route.suction_legs)
    )
    # the lift's foot lies below zero by what was lost before the pump, and the lift is the total
    # head
    assert y.value(float(drawn.lift[1])) == pytest.approx(
        -before, abs=0.02 * ledger.total_head_m + 0.06
    )
    assert y.value(float(drawn.lift[2])) == pytest.approx(
        ledger.total_head_m - before, abs=0.02 * ledger.total_head_m + 0.06
    )
    assert float(drawn.duty[1]) <= float(drawn.lift[2]) + 0.1
    pipes = [
        float(part) for leg in drawn.legs for pair in leg.pipe.split() for part in pair.split(",")
    ]
    assert min(pipes) >= 0
    assert max(pipes) <= max(frame.width, frame.height)
    if not route.closed_loop:
        rise = (
            route.legs[-1].end_elevation_m
            - route.start_level_m
            - sizing.system.water.head_m(route.supply_pressure_pa)
        )
        assert y.value(float(drawn.outlet[1])) == pytest.approx(
            rise, abs=0.02 * ledger.total_head_m + 0.06
        )


def test_no_picture_without_a_run(cellar, catalogue):
    assert picture(size(cellar.model_copy(update={"legs": ()}), catalogue), "metric") is None


KINDS = [
    "01-bookbinders-cellar",
    "04-rowing-club-changing-rooms",
    "05-hostel-willow-bed",
    "06-cabins-over-the-ridge",
    "07-plant-nursery-well",
    "09-converted-mill",
    "10-bakery-cistern",
    "11-hospice-rill",
    "12-marine-classroom",
    "13-hydrotherapy-tub",
    "14-soup-kitchen-van",
]


def _random_job(rng):
    """A demo job with its lengths, levels and names moved about at random, now and then with a
    survey or a long name.
    """
    job = intake.loads((DEMO / "jobs" / f"{rng.choice(KINDS)}.json").read_bytes())
    for leg in job.legs:
        for field in ("length", "ends_at"):
            figure = getattr(leg, field)
            if figure is not None:
                text = f"{figure.value * rng.uniform(0.6, 2.5):.2f} {figure.unit}"
                job = edit(job, f"legs.{leg.id}.{field}", text).job
        if rng.random() < 0.2:
            job = edit(
                job,
                f"legs.{leg.id}.name",
                rng.choice(["behind the old boiler house wall", "x", "Überlaufstrecke", "run 2"]),
            ).job
    if rng.random() < 0.2 and job.kind != "spa":
        ground = [(at * 40.0, rng.uniform(1, 14)) for at in range(rng.randint(2, 40))]
        job = set_survey(job, job.legs[-1].id, ground, shift=False)
    return job


def test_labels_of_random_jobs_never_overlap(catalogue):
    rng = random.Random(7)
    shown = wanted = 0
    for _ in range(count(60, 500)):
        sizing, system, frame = (
            size(_random_job(rng), catalogue),
            rng.choice(["metric", "us"]),
            rng.choice([WIDE, NARROW]),
        )
        drawn = picture(sizing, system, frame)
        if drawn is None:
            continue
        shown += 1
        boxes = [one.box for one in label_requests.placed(Drawing(sizing, system, frame))]
        assert not any(
            one.overlaps(other) for index, one in enumerate(boxes) for other in boxes[:index]
        )
        assert all(
            box.left >= 0
            and box.right <= frame.width + 5
            and box.top >= 0
            and box.bottom <= frame.height
            for box in boxes
        )
        roles = {label.role for label in drawn.labels}
        wanted += {"lift"} <= roles and ("duty" in roles) == (drawn.duty is not None)
        numbers = [
            float(part)
            for leg in drawn.legs
            for line in (leg.pipe, leg.grade)
            for pair in line.split()
            for part in pair.split(",")
        ]
        assert all(-1 <= number <= frame.width for number in numbers)
    assert shown > count(40, 350)
    assert (
        wanted > 0.99 * shown
    )  # what the pump lifts and where it runs is never dropped for want of room


def test_a_surveyed_leg_is_drawn_over_its_ground(catalogue):
    job = intake.loads((DEMO / "jobs" / "06-cabins-over-the-ridge.json").read_bytes())
    sizing = size(job, catalogue)
    drawn = picture(sizing, "metric")
    y = heights(drawn, WIDE)
    start = sizing.system.route.start_level_m
    levels = [y.value(float(pair.split(",")[1])) + start for pair in drawn.legs[2].pipe.split()]
    assert levels == pytest.approx([13.4, 12.2, 10.4, 10.9, 10.1, 9.7, 8.9], abs=0.1)
    grade = [y.value(float(pair.split(",")[1])) + start for pair in drawn.legs[2].grade.split()]
    assert all(after <= before + 0.1 for before, after in pairwise(grade))


@pytest.mark.parametrize("frame", [WIDE, NARROW], ids=["wide", "narrow"])
@pytest.mark.parametrize("system", ["metric", "us"])
def test_a_handle_dragged_to_a_level_gives_that_level(cellar, catalogue, frame, system):
    sizing = size(cellar, catalogue)
    drawn = picture(sizing, system, frame)
    y = heights(drawn, frame)
    by_path = {one.path: one for one in drawn.handles}
    assert {"legs.a.ends_at", "legs.l1.length", "answers.stop_level", "answers.start_level"} <= set(
        by_path
    )
    unit = units.shown_unit("length", system)
    end = by_path["legs.l1.ends_at"]
    assert unit.to_si(float(end.value)) == pytest.approx(6.6, abs=1e-3)
    there = 2.0 - 0.16  # two metres over the pit's bottom, as a head over the stop level
    moved = float(end.value) + (y.pixel(unit.from_si(there)) - float(end.y)) * float(end.per_px)
    assert unit.to_si(moved) == pytest.approx(2.0, abs=0.05)
    length = by_path["legs.b.length"]
    assert float(length.per_px) > 0
    assert unit.to_si(float(length.value)) == pytest.approx(26.0, abs=1e-2)


def test_a_well_is_pulled_down_to_make_it_deeper(catalogue):
    drawn = picture(
        size(intake.loads((DEMO / "jobs" / "07-plant-nursery-well.json").read_bytes()), catalogue),
        "metric",
    )
    handle = next(one for one in drawn.handles if one.path == "answers.pump_setting")
    assert float(handle.value) == pytest.approx(38.0)
    assert float(handle.per_px) > 0  # a depth grows downwards


def test_the_lifts_label_keeps_off_the_dotted_tie_of_a_well(catalogue):
    drawing = Drawing(
        size(intake.loads((DEMO / "jobs" / "07-plant-nursery-well.json").read_bytes()), catalogue),
        "metric",
        WIDE,
    )
    (lift,) = [one for one in label_requests.placed(drawing) if one.role == "lift"]
    tie = float(duty_px(drawing)[1])
    assert tie < drawing.section.lift_top[1] - 5  # drawdown: the lift's head is below the duty
    assert not lift.box.top < tie < lift.box.bottom


def test_every_place_has_its_ending(catalogue):
    found = {}
    for name in KINDS:
        drawn = picture(
            size(intake.loads((DEMO / "jobs" / f"{name}.json").read_bytes()), catalogue), "metric"
        )
        found[name[3:]] = (bool(drawn.ending.water), bool(drawn.ending.walls), len(drawn.storeys))
    assert found["bakery-cistern"] == found["marine-classroom"] == (True, True, 0)
    assert found["hospice-rill"] == (True, False, 0)
    assert found["soup-kitchen-van"] == (False, True, 0)
    assert found["converted-mill"][2] == 7
    assert found["bookbinders-cellar"] == (False, False, 0)


def test_the_template_prints_well_formed_svg_whatever_the_locale(cellar, catalogue, settings):
    settings.USE_I18N = settings.USE_THOUSAND_SEPARATOR = True
    drawn = picture(size(cellar, catalogue), "metric")
    with translation.override("de"):
        text = render_to_string("drawing/picture.svg", {"picture": drawn, "size": "wide"})
        chart = render_to_string(
            "drawing/curve_chart.svg", {"chart": curve_chart(catalogue.pumps[0], "us")}
        )
    for svg in (text, chart):
        ElementTree.fromstring(re.sub(r"^\{#.*?#\}", "", svg.strip()))
        assert not re.search(r'"\d+,\d+"', svg)
    assert 'role="img"' in text
    assert "style=" not in text


def test_every_field_of_a_picture_is_text_or_a_tuple(cellar, catalogue):
    drawn = picture(size(cellar, catalogue), "metric")
    for field in dataclasses.fields(drawn):
        assert not isinstance(getattr(drawn, field.name), float), field.name
