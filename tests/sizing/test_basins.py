"""Which basin would do for a job, and what the pit that is there bears."""

import math
import re
from dataclasses import replace

import pytest

from sizing.analysis import basins
from sizing.analysis.changed import NotYet, known
from sizing.base.errors import SizingError
from sizing.size import size
from sizing.storage import basin_list
from sizing.storage.basin_build import flotation, passes_hatch, room
from sizing.storage.basin_design import candidate
from tests.sizing.conftest import changed
from tests.sizing.test_over_time import PITS, PUMPS, base


@pytest.mark.parametrize("name", PITS)
def test_the_best_is_the_first_that_does_and_keeps_the_rules(name):
    found = basins.basins(base(name))
    wanted, best = found.wanted, found.best
    assert best is not None
    assert best.starts_per_pump_per_h(wanted) <= wanted.allowed_starts_per_h * (1 + 1e-9)
    assert best.run_time_no_inflow_s(wanted) >= wanted.minimum_run_time_s * (1 - 1e-9)
    assert best.inlet_m - best.alarm_m >= basins.FREEBOARD_M - 1e-12
    smaller = [size for size in basins.on_sale_m() if size < (best.diameter_m, best.depth_m)]
    assert not any(candidate(wanted, *size).does for size in smaller)
    assert [row.diameter_m for row in found.rows] == sorted({row.diameter_m for row in found.rows})


@pytest.mark.parametrize("name", PITS)
def test_the_pit_that_is_there_does_exactly_up_to_what_it_bears(name):
    found = basins.basins(base(name))
    size = (found.here.diameter_m, found.here.depth_m)
    for share, does in ((0.999, True), (1.001, False)):
        flows = (found.here_bears_m3s * share,) * len(found.wanted.pump_flows_m3s)
        wanted = replace(found.wanted, pump_flows_m3s=flows)
        assert candidate(wanted, *size).does is does


def test_a_reserve_asks_for_more_and_a_wish_is_judged_like_the_others():
    job = base("04")
    plain, more = basins.basins(job), basins.basins(job, reserve_s=8 * 3600.0)
    assert plain.best.area_m2 * plain.best.depth_m < (
        float("inf") if more.best is None else more.best.area_m2 * more.best.depth_m
    )
    wish = basins.basins(job, wish_m=(54 * 0.0254, 90 * 0.0254)).wish
    assert wish.does
    assert not basins.basins(job, wish_m=(0.3, 3.0)).wish.wide_enough


@pytest.mark.parametrize("name", ["01", "04", "06"])
def test_a_basin_that_is_taken_does_on_the_job_what_it_said(name):
    found = basins.basins(base(name))
    best = found.best
    job = basins.taken(base(name), best.diameter_m, best.depth_m)
    then = size(job.model_copy(update={"pump": found_pump(name)}), PUMPS)
    starts = next(one for one in then.checks if one.code == "starts")
    worst = starts.message.values["worst"].value_si * 3600
    assert worst == pytest.approx(best.starts_per_pump_per_h(found.wanted), rel=0.05)
    assert starts.state != "fail"
    assert next(one for one in then.checks if one.code == "run_time").state != "fail"
    assert then.demand.inflow_m3s == pytest.approx(base(name).sizing.demand.inflow_m3s, rel=1e-3)


def found_pump(name):
    return base(name).sizing.chosen.candidate.pump.pump_id


def test_a_maker_who_allows_few_starts_asks_for_more_room():
    plain = basins.basins(base("01")).wanted
    kind = base("01").sizing.kind
    running = base("01").sizing.running
    pump = replace(running.pump.pump, most_starts_per_s=4 / 3600)
    few = basins.wanted_of(replace(running, pump=replace(running.pump, pump=pump)), kind)
    assert few.allowed_starts_per_h == pytest.approx(4.0)
    assert few.storage_m3 > plain.storage_m3


def test_without_a_pit_it_says_so():
    with pytest.raises(NotYet, match="no pit"):
        basins.basins(base("07"))


@pytest.mark.parametrize(
    ("text", "size", "price", "to_order"),
    [
        ("900 x 1500 mm; 480; stock", (0.9, 1.5), 480.0, False),
        ("54 by 90 in", (1.3716, 2.286), None, False),
        ("0.6 m x 1.2 m; €1,250.50; to order", (0.6, 1.2), 1250.5, True),
        ("600 × 900; to order", (0.6, 0.9), None, True),
    ],
)
def test_a_line_of_a_shops_list(text, size, price, to_order):
    (one,) = basin_list.read(f"\n{text}\n\n", "metric")
    assert one.size_m == pytest.approx(size)
    assert (one.price, one.to_order) == (price, to_order)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("900 x 1500\n900", "line 2, '900': type diameter by depth"),
        ("900 x 1500; cheap", "is no price"),
        ("900 x 1500; 1e9", "is no price"),
        ("9 x 15", "between 0.1 m and 10 m"),
        ("\n".join(["900 x 1500"] * 201), "holds 200"),
    ],
)
def test_a_list_that_cannot_be_read_names_its_line(text, says):
    with pytest.raises(SizingError, match=re.escape(says)):
        basin_list.read(text, "metric")


def test_a_shops_own_list_is_what_is_chosen_from():
    listed = basin_list.read("1500 x 1800; 900; stock\n1200 x 2400; 700; to order", "metric")
    found = basins.basins(base("04"), shop=listed)
    assert {row.diameter_m for row in found.rows} == {1.2, 1.5}
    assert found.listed[(found.best.diameter_m, found.best.depth_m)].price in (700.0, 900.0)


def test_pumps_and_floats_want_room_and_the_hatch_lets_the_pump_pass():
    wide, narrow = room(0.25, 2, 1.5, 0.3), room(0.25, 2, 0.5, 0.3)
    assert wide.pumps_fit
    assert not narrow.pumps_fit
    assert wide.floats_spare_m > 0 > narrow.floats_spare_m
    assert wide.pump_places_m == pytest.approx((-0.15, 0.15))
    assert passes_hatch(0.25, 0.6) == pytest.approx(0.3)
    assert passes_hatch(None, 0.2) < 0
    assert room(None, 1, 1.0, 0.2).pump_width_m == 0.25


def test_ground_water_lifts_an_empty_basin_by_what_it_displaces():
    dry = flotation(1.0, 2.0, 5.0, 0.0)
    assert (dry.lift_n, dry.holds, dry.collar_m3) == (0.0, True, 0.0)
    wet = flotation(1.0, 2.0, 0.5, 200.0)
    displaced = math.pi * 1.2**2 / 4 * 1.6
    assert wet.lift_n == pytest.approx(displaced * 1000 * 9.80665)
    assert not wet.holds
    held = wet.collar_m3 * 1400 + 200.0
    assert held == pytest.approx(1.1 * displaced * 1000)
    assert flotation(1.0, 2.0, 0.5, 5000.0).holds


def test_a_basin_as_built_says_what_frost_hatch_and_ground_do():
    job = base("04")
    one = basins.basins(job).here_as_it_is
    built = basins.built(job, one, basins.Site(0.6, 1.0, 0.8, 0.0))
    assert built.hatch_spare_m > 0
    assert built.frost_spare_m == pytest.approx(one.depth_m - one.inlet_m - 0.8)
    assert built.flotation.collar_m3 > 0
    plain = basins.built(job, one, basins.Site())
    assert (plain.hatch_spare_m, plain.frost_spare_m, plain.flotation) == (None, None, None)
    assert plain.outlet_spare_m is None


@pytest.mark.parametrize(("cover", "spare"), [("0.9 m", 0.1), ("0.5 m", -0.3)])
def test_the_outlet_is_held_against_the_frost_of_the_job(cover, spare):
    edits = (("answers.frost_depth", "0.8 m"), ("answers.pipe_cover", cover))
    job = known(size(changed(base("04").sizing.job, *edits), PUMPS))
    one = basins.basins(job).here_as_it_is
    found = basins.built(job, one, basins.Site())
    assert found.outlet_spare_m == pytest.approx(spare)
    assert found.frost_spare_m == pytest.approx(one.depth_m - one.inlet_m - 0.8)
