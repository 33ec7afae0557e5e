"""A pump from its box: points in any words, a curve of its family's shape, a place in the match."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.base.errors import GoneError, SizingError
from sizing.document import own_pumps
from sizing.document.job import dump, load
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_columns import families
from sizing.pump.label_data import head_m, read_points, rough_curve, shapes
from sizing.size import size
from tests.sizing.conftest import changed

FT, GPH = 0.3048, 0.003785411784 / 3600


@pytest.mark.parametrize(
    ("text", "points"),
    [
        ("6 ft 2450 gph, 12 ft 1300", [(2450 * GPH, 6 * FT), (1300 * GPH, 12 * FT)]),
        ("2450 gph at 6 ft; 1300 gph @ 12 ft", [(2450 * GPH, 6 * FT), (1300 * GPH, 12 * FT)]),
        ("6' = 2450 gph\n12' = 1300", [(2450 * GPH, 6 * FT), (1300 * GPH, 12 * FT)]),
        ("100 l/min 4 m, 60 7", [(0.1 / 60, 4.0), (0.06 / 60, 7.0)]),
        ("1,250 l/h 3 m", [(1.25 / 3600, 3.0)]),
        ("8 m 10 m3/h", [(10 / 3600, 8.0)]),
        ("1 bar 20 l/min", [(0.02 / 60, 1e5 / 9806.65)]),
        ("", []),
    ],
)
def test_points_are_read_as_printed(text, points):
    found = [
        (flow.si, head_m(head.value, head.unit.symbol))
        for flow, head in read_points(text, "m³/h", "m")
    ]
    assert found == [pytest.approx(one, rel=3e-3) for one in points]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("6 ft", "not a flow and a head"),
        ("6 ft 12 ft", "two of the same"),
        ("6 ft 20 V", "neither a unit of flow nor of head"),
        ("banana", "not a flow and a head"),
    ],
)
def test_what_is_no_point_is_told(text, says):
    with pytest.raises(SizingError, match=says):
        read_points(text, "m³/h", "m")


@given(
    head=st.floats(1, 100),
    flow=st.floats(1e-4, 1e-1),
    family=st.sampled_from(sorted(shapes())),
)
def test_a_curve_goes_through_its_ends_and_falls_within_its_bounds(head, flow, family):
    found = rough_curve([(0.0, head), (flow, 0.0)], family)
    heads = np.array(found.curve.heads_m)
    assert found.curve.shut_off_head_m == pytest.approx(head, rel=1e-3)
    assert found.curve.last_flow_m3s == pytest.approx(flow, rel=1e-3)
    assert (np.diff(heads) < 1e-9).all()
    assert (np.array(found.low_m) <= heads + 1e-9).all()
    assert (heads <= np.array(found.high_m) + 1e-9).all()


def test_printed_points_bend_the_curve():
    ends = [(0.0, 8.0), (3e-3, 0.0)]
    usual = rough_curve(ends, "sump").curve.head_at(1.5e-3)
    told = rough_curve([*ends, (1.5e-3, 6.5)], "sump").curve.head_at(1.5e-3)
    assert usual < 6.3
    assert told == pytest.approx(6.5, abs=0.05)


def test_a_real_curve_is_met_within_a_tenth_from_three_numbers(catalogue):
    """Every sump pump of the demo catalogue, known only by its ends and its middle."""
    worst = []
    for pump in catalogue.pumps:
        curve = pump.curve
        if pump.family != "sump" or curve.heads_m[-1] > 0.2 * curve.shut_off_head_m:
            continue
        middle = curve.last_flow_m3s / 2
        points = [(q, float(curve.head_at(q))) for q in (0.0, middle, curve.last_flow_m3s)]
        made = rough_curve(points, "sump").curve
        along = np.linspace(0, curve.last_flow_m3s, 9)
        gap = np.abs(made.head_m(along) - curve.head_m(along)).max() / curve.shut_off_head_m
        worst.append(float(gap))
    assert worst
    assert max(worst) < 0.1


@pytest.mark.parametrize(
    ("points", "says"),
    [
        ([(0.0, 8.0)], "two figures"),
        ([(0.0, 8.0), (1e-3, 9.0)], "has to fall"),
        ([(0.0, 8.0), (1e-3, -1.0)], "less than nothing"),
    ],
)
def test_what_cannot_be_a_curve_is_told(points, says):
    with pytest.raises(SizingError, match=says):
        rough_curve(points, "sump")


def test_every_family_has_a_shape():
    assert set(shapes()) == set(families())


BOX = {"name": "Old faithful", "family": "sump", "open_flow": "14 m3/h", "highest_head": "12 m"}


def test_a_pump_from_its_box_is_chosen_among_like_any_pump(cellar, catalogue):
    job = own_pumps.add(cellar, BOX | {"largest_solid": "10 mm"})
    found = size(job, catalogue)
    assert found.match.considered == len(catalogue) + 1
    listed = found.match.find("own-p1")
    assert listed is not None
    assert listed.pump.name == "Old faithful"
    picked = size(changed(job, ("pump", "own-p1")), catalogue)
    assert picked.chosen.candidate.pump.pump_id == "own-p1"
    assert picked.problems == ()
    alone = size(changed(job, ("pump", "own-p1")), Catalogue([]))
    assert alone.chosen.operating_point.point.flow_m3s == pytest.approx(
        picked.chosen.operating_point.point.flow_m3s
    )
    others = [one.pump.pump_id for one in found.match.fits if one.pump.pump_id != "own-p1"]
    before = [one.pump.pump_id for one in size(cellar, catalogue).match.fits]
    assert others == before


def test_own_pumps_are_kept_in_the_job_file_and_taken_out_again(cellar):
    job = own_pumps.add(own_pumps.add(cellar, BOX), BOX | {"name": "Another"})
    assert load(dump(job)) == job
    assert [one.id for one in job.own_pumps] == ["p1", "p2"]
    left = own_pumps.remove(changed(job, ("pump", "own-p1")), "own-p1")
    assert ([one.name for one in left.own_pumps], left.pump) == (["Another"], None)
    with pytest.raises(GoneError):
        own_pumps.remove(left, "own-p1")


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"name": " "}, "name"),
        ({"open_flow": "a lot"}, "open_flow"),
        ({"open_flow": "", "highest_head": ""}, "open_flow"),
        ({"highest_head": "12 V"}, "highest_head"),
        ({"points": "6 ft"}, "points"),
        ({"family": "teapot"}, "points"),
        ({"largest_solid": "big"}, "largest_solid"),
    ],
)
def test_what_is_wrong_with_a_box_is_told_by_field(cellar, wrong, field):
    with pytest.raises(own_pumps.OwnPumpError) as told:
        own_pumps.add(cellar, BOX | wrong)
    assert told.value.field == field
