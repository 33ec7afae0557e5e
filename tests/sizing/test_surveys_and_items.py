"""Surveys of the ground, items with a loss of their own, walls, branches and bores as they are
typed into a leg.
"""

import contextlib
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import SizingError
from sizing.base.water import water
from sizing.document import build_route, items
from sizing.document.build_route import Ends, system_curve
from sizing.document.job import Figure, Surveyed, dump, load
from sizing.editing import edit, edit_structure
from sizing.hydraulics import pipes, survey

WATER = water(12.0)

HILL = "distance, elevation\n0, 2\n300, 14.5\n700, 9\n1000, 11"
GPX = """<gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>
<trkpt lat="50.0" lon="10.0"><ele>300</ele></trkpt>
<trkpt lat="50.001" lon="10.0"><ele>312</ele></trkpt>
<trkpt lat="50.001" lon="10.0"><ele>312</ele></trkpt>
<trkpt lat="50.003" lon="10.0"><ele>305</ele></trkpt>
</trkseg></trk></gpx>"""


@pytest.fixture
def job(cellar):
    return cellar


def changed(job, path, text):
    found = edit.edit(job, path, text)
    assert found.problem is None, found.problem
    return found.job


@pytest.mark.parametrize(
    "text",
    [
        HILL,
        HILL.replace(", ", ";"),
        HILL.replace(", ", "\t"),
        "elevation distance\n2 0\n14.5 300\n9 700\n11 1000",
        "0 2\n300 m 14.5 m\n700 9\n1 km 11",
    ],
)
def test_a_survey_reads_however_it_is_typed(text):
    if " m " in text:
        text = (
            text.replace(" m 14.5 m", ", 14.5")
            .replace("1 km 11", "1 km, 11")
            .replace("0 2", "0, 2")
            .replace("700 9", "700, 9")
        )
    assert survey.read(text) == [(0, 2), (300, 14.5), (700, 9), (1000, 11)]


def test_feet_are_feet():
    assert survey.read("0, 0\n100, 10", "ft")[1] == pytest.approx((30.48, 3.048))


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "nothing in it"),
        ("0 1", "2 to 5000 points"),
        ("0 1\nx 2", "point 2"),
        ("0 1\n0 2", "not further on"),
        ("0 1\n5", "two numbers"),
        ("0 1\n9 99999", "elevations"),
    ],
)
def test_a_survey_that_cannot_be_says_where(text, told):
    with pytest.raises(SizingError, match=told):
        survey.read(text)


def test_a_track_gives_distances_on_the_ground():
    pairs = survey.read_gpx(GPX)
    assert [round(elevation) for _, elevation in pairs] == [300, 312, 305]
    assert pairs[1][0] == pytest.approx(111.2, abs=0.4)  # a thousandth of a degree of latitude
    assert pairs[2][0] == pytest.approx(333.6, abs=1.0)


def test_a_geojson_line_gives_the_same_ground():
    line = {
        "type": "LineString",
        "coordinates": [[10.0, 50.0, 300], [10.0, 50.001, 312], [10.0, 50.003, 305]],
    }
    wrapped = {"type": "FeatureCollection", "features": [{"type": "Feature", "geometry": line}]}
    assert np.array(survey.read_geojson(json.dumps(wrapped))) == pytest.approx(
        np.array(survey.read_gpx(GPX))
    )


@pytest.mark.parametrize(
    "text",
    [
        "{",
        "[]",
        '{"type": "Point", "coordinates": [1, 2]}',
        '{"type": "LineString", "coordinates": [[1, 2], [3, 4]]}',
        '{"type": "LineString", "coordinates": [["a", 2, 3], [3, 4, 5]]}',
    ],
)
def test_what_is_no_line_with_heights_is_refused(text):
    with pytest.raises(SizingError):
        survey.read_geojson(text)
    with pytest.raises(SizingError):
        survey.read_gpx(text)


@pytest.mark.parametrize("depth", [500, 900, 100_000])
def test_geojson_nested_without_end_is_refused_and_breaks_nothing(depth):
    with pytest.raises(SizingError):
        survey.read_geojson('{"geometry":' * depth + "{}" + "}" * depth)


def test_a_survey_gives_length_end_and_high_ground(job):
    leg = job.legs[-1]
    surveyed = edit_structure.set_survey(job, leg.id, survey.read(HILL), shift=False)
    system = system_curve(surveyed, Ends(0.0), WATER)
    last = system.route.legs[-1]
    assert last.length_m == pytest.approx(1000.4, abs=0.3)
    assert last.end_elevation_m == 11
    assert system.static_head_m == 14.5
    assert load(dump(surveyed)) == surveyed
    dropped = edit_structure.drop_survey(surveyed, leg.id)
    assert build_route.length_m(dropped.legs[-1], 1) == pytest.approx(last.length_m, abs=0.01)
    assert system_curve(dropped, Ends(0.0), WATER).static_head_m == 11


def test_a_survey_over_the_sea_is_shifted_to_where_the_leg_begins(job):
    leg, before = job.legs[-1], job.legs[-2]
    shifted = edit_structure.set_survey(job, leg.id, [(0, 300), (50, 312), (90, 305)], shift=True)
    begins = before.ends_at.si("length")
    assert [point.elevation_m for point in shifted.legs[-1].survey] == pytest.approx(
        [begins, begins + 12, begins + 5]
    )
    with pytest.raises(SizingError, match="no level yet"):
        edit_structure.set_survey(job, job.legs[0].id, [(0, 300), (50, 312)], shift=True)


def test_a_pipe_shorter_than_its_ground_is_refused(job):
    surveyed = edit_structure.set_survey(job, job.legs[-1].id, survey.read(HILL), shift=False)
    short = changed(surveyed, f"legs.{job.legs[-1].id}.length", "900 m")
    with pytest.raises(SizingError, match="its survey runs over"):
        system_curve(short, Ends(0.0), WATER)
    assert changed(short, f"legs.{job.legs[-1].id}.length", "").legs[-1].length is None


ITEMS = [
    ("filter 0.2 to 0.5 bar at 10 m³/h", [(10 / 3600, 2.04, 5.10)]),
    ("meter 3 m at 5 m3/h, 12 m at 10 m3/h", [(5 / 3600, 3.0, 3.0), (10 / 3600, 12.0, 12.0)]),
    ("UV 55 W: 0.05 bar at 1,250 l/h", [(1250 / 3.6e6, 0.51, 0.51)]),
    ("heater 2 psi at 20 gpm", [(20 * 6.309e-5, 1.407, 1.407)]),
]


@pytest.mark.parametrize(("text", "points"), ITEMS)
def test_items_are_read_as_typed_and_written_back(text, points):
    (made,) = items.read(text, "metric")
    assert items.read(items.write([made]), "metric") == (made,)
    for dirty in (False, True):
        device = items.device(made, water(12.0), dirty=dirty)
        for flow, clean, fouled in points:
            assert float(device.loss_m(flow)) == pytest.approx(fouled if dirty else clean, rel=5e-3)


@pytest.mark.parametrize(
    "text",
    [
        "filter",
        "filter 2",
        "0.2 bar at 5 m³/h",
        "filter 2 kg at 5 m³/h",
        "filter 0.2 bar at 3 bar",
        "meter 4 m at 1 m³/h, 2 m at 2 m³/h",
        "meter -1 m at 1 m³/h",
        "filter 1 m at 0 m³/h",
    ],
)
def test_items_that_cannot_be_are_told(job, text):
    found = edit.edit(job, f"legs.{job.legs[0].id}.items", text)
    assert found.problem
    assert found.job.pending[f"legs.{job.legs[0].id}.items"] == text


def test_a_filter_due_for_cleaning_costs_more_than_a_clean_one(job):
    fitted = changed(job, f"legs.{job.legs[0].id}.items", "filter 0.2 to 0.5 bar at 10 m³/h")
    heads = [
        system_curve(changed(fitted, "filters", state), Ends(0.0), WATER).head_at(10 / 3600)
        for state in ("clean", "dirty")
    ]
    assert heads[1] - heads[0] == pytest.approx(0.3e5 / (999.5 * 9.80665), rel=1e-3)


def test_a_branch_carries_its_share_and_pipes_abreast_split_it(job):
    leg = job.legs[-1].id
    branch = changed(changed(job, f"legs.{leg}.share", "50"), f"legs.{leg}.abreast", "2")
    whole, part = (
        system_curve(one, Ends(0.0), WATER).velocities_m_s(2e-3)[-1, 0] for one in (job, branch)
    )
    assert part == pytest.approx(whole / 4)
    for text, path in (
        ("120", "share"),
        ("-5 %", "share"),
        ("0", "abreast"),
        ("two", "abreast"),
        ("21", "abreast"),
    ):
        assert edit.edit(branch, f"legs.{leg}.{path}", text).problem, text
    assert changed(branch, f"legs.{leg}.share", "").legs[-1].share is None


def test_a_bore_of_ones_own_takes_the_place_of_a_size(job):
    leg = job.legs[0].id
    own = changed(job, f"legs.{leg}.pipe", "bore 52 mm")
    assert build_route.bore_m(own.legs[0]) == pytest.approx(0.052)
    assert edit.text_at(own, f"legs.{leg}.pipe") == "bore 52 mm"
    back = changed(own, f"legs.{leg}.pipe", "PVC-U PN10 63 mm")
    assert back.legs[0].bore is None
    assert edit.edit(job, f"legs.{leg}.pipe", "bore 52 km").problem


@pytest.mark.parametrize("series", list(pipes.SERIES))
def test_an_aged_wall_is_never_smoother_than_a_new_one(series):
    usual, new, aged = (pipes.wall_of(series, code) for code in ("", "new", "aged"))
    assert new.roughness_m <= usual.roughness_m <= aged.roughness_m
    assert new.hazen_williams_c >= usual.hazen_williams_c >= aged.hazen_williams_c


@pytest.mark.parametrize("method", ["hazen_williams", "darcy_weisbach"])
@pytest.mark.parametrize("wall", list(pipes.walls()))
def test_every_wall_reckons_by_both_schools(job, wall, method):
    rough = changed(changed(job, f"legs.{job.legs[-1].id}.wall", wall), "friction", method)
    assert system_curve(rough, Ends(0.0), WATER).head_at(2e-3) > 0


@pytest.mark.parametrize("school", ["k", "hooper", "darby", "equivalent_length", "percent"])
def test_the_schools_of_fittings_agree_within_their_kind(job, school):
    found = changed(job, "fitting_method", school)
    _, fittings = system_curve(found, Ends(0.0), WATER).losses_m(2e-3)
    assert 0 < fittings.sum() < 3


def test_the_crude_school_takes_its_share_of_the_pipe(job):
    crude = changed(changed(job, "fitting_method", "percent"), "allowance", "25 %")
    pipe, fittings = system_curve(crude, Ends(0.0), WATER).losses_m(2e-3)
    assert fittings == pytest.approx(0.25 * pipe)
    assert edit.edit(crude, "allowance", "900 %").problem
    assert build_route.allowance(changed(crude, "allowance", "")) == build_route.DEFAULT_ALLOWANCE


@pytest.mark.parametrize(
    ("text", "dimension", "spread"),
    [
        ("12 m ± 0.5 m", "length", 0.5),
        ("12 ± 50 cm", "length", 0.5),
        ("12 m +- 5 %", "length", 0.6),
        ("3 +/- 0.2", "length", 0.2),
        ("20 °C ± 9 °F", "temperature", 5.0),
    ],
)
def test_a_plus_or_minus_is_read_with_its_figure(text, dimension, spread):
    figure = Figure.read(text, dimension, "m" if dimension == "length" else "°C")
    assert figure.plus_minus_si(dimension) == pytest.approx(spread)
    assert Figure.read(figure.shown(), dimension, "m") == figure
    assert Figure.read("12 m", "length", "m").plus_minus_si("length") is None


@given(st.text(max_size=60))
def test_no_text_breaks_the_readers(text):
    for reader in (
        survey.read,
        survey.read_gpx,
        survey.read_geojson,
        lambda one: items.read(one, "us"),
    ):
        with contextlib.suppress(SizingError):  # any other error is a defect
            reader(text)


def test_a_survey_in_a_file_must_go_on(job):
    content = dump(job)
    content["legs"][0]["survey"] = [
        Surveyed(distance_m=d, elevation_m=1).model_dump() for d in (0, 5, 5)
    ]
    with pytest.raises(SizingError, match="further on"):
        load(content)
