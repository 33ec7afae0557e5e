"""Which basin would do for a job, and what the pit that is there bears."""

import pytest

from sizing.analysis import basins
from sizing.analysis.changed import NotYet
from sizing.storage.basin_design import Wanted, candidate
from tests.sizing.test_over_time import PITS, base


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
        wanted = Wanted(**{**vars(found.wanted), "pump_flows_m3s": flows})
        assert candidate(wanted, *size).does is does


def test_a_reserve_asks_for_more_and_a_wish_is_judged_like_the_others():
    job = base("04")
    plain, more = basins.basins(job), basins.basins(job, reserve_s=3600.0)
    assert plain.best.area_m2 * plain.best.depth_m < (
        float("inf") if more.best is None else more.best.area_m2 * more.best.depth_m
    )
    wish = basins.basins(job, wish_m=(54 * 0.0254, 90 * 0.0254)).wish
    assert wish.does
    assert not basins.basins(job, wish_m=(0.3, 3.0)).wish.wide_enough


def test_without_a_pit_it_says_so():
    with pytest.raises(NotYet, match="no pit"):
        basins.basins(base("07"))
