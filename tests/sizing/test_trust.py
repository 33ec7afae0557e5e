"""What to measure next, the chance of the duty, and how wrong a figure may be."""

import numpy as np
import pytest

from sizing.analysis import chance, sensitivity
from sizing.analysis.changed import NotYet, changed_system, known
from sizing.base.rules import SHIPPED, Rules
from sizing.editing import intake
from sizing.operating_point.one import operating_point
from sizing.pump.catalogue import EMPTY
from sizing.selection import chance as sampled
from sizing.size import size
from tests.sizing.conftest import DEMO, changed

JOBS = {
    path.stem[3:]: intake.loads(path.read_bytes())
    for path in sorted((DEMO / "jobs").glob("*.json"))
}


def asked(job, catalogue, rules=SHIPPED):
    return known(size(job, catalogue, rules))


@pytest.fixture(scope="module")
def base(cellar, catalogue):
    return asked(cellar, catalogue)


def spread(base, path):
    return next(one.spread_si for one in sensitivity.uncertain_figures(base) if one.path == path)


def test_a_spread_follows_the_standing_and_a_typed_one_goes_first(cellar, catalogue):
    stands = ["measured", "drawing", "told", "assumed"]
    wide = [
        spread(asked(changed(cellar, ("legs.b.length.standing", one)), catalogue), "legs.b.length")
        for one in stands
    ]
    assert wide == pytest.approx([26 * share for share in (0.02, 0.05, 0.1, 0.25)])
    levels = [
        spread(
            asked(changed(cellar, ("legs.b.ends_at.standing", one)), catalogue), "legs.b.ends_at"
        )
        for one in stands
    ]
    assert levels == [0.02, 0.1, 0.3, 0.5]
    typed = asked(changed(cellar, ("legs.b.length", "26 m ± 4 m")), catalogue)
    assert spread(typed, "legs.b.length") == pytest.approx(4.0)
    strict = asked(
        cellar, catalogue, Rules({"TRU-06": 0.01, "TRU-07": 0.01, "TRU-05": 0.01, "TRU-08": 0.01})
    )
    assert spread(strict, "legs.b.ends_at") == 0.01


def test_what_is_money_or_a_wish_is_not_in_doubt(base):
    paths = {one.path for one in sensitivity.uncertain_figures(base)}
    assert paths.isdisjoint(
        {"answers.energy_price", "answers.margin", "answers.voltage", "answers.hours_per_year"}
    )
    assert {"answers.pit_diameter", "legs.l1.ends_at", "answers.water_temperature"} <= paths


def test_swings_are_ranked_and_each_end_is_what_the_sheet_would_say(cellar, catalogue, base):
    ranked = sensitivity.sensitivities(base)
    sizes = [one.size_m3s for one in ranked]
    assert sizes == sorted(sizes, reverse=True)
    swing = next(one for one in ranked if one.path == "legs.l1.ends_at")
    higher = size(
        changed(cellar, ("legs.l1.ends_at", f"{6.6 + swing.figure.spread_si} m")), catalogue
    )
    assert operating_point(base.curve, higher.system).point.flow_m3s == pytest.approx(
        swing.flow_high_m3s
    )
    wider = next(one for one in ranked if one.path == "answers.pit_diameter")
    assert wider.needed_low_m3s < base.demand.needed_m3s < wider.needed_high_m3s
    assert {"the pump itself", "wall of the yard"} <= {one.label for one in ranked}


def test_measuring_a_figure_takes_it_down_the_list(cellar, catalogue):
    order = [
        one.path
        for one in sensitivity.sensitivities(
            asked(changed(cellar, ("legs.l1.ends_at.standing", "assumed")), catalogue)
        )
        if one.figure
    ]
    assert order[0] == "legs.l1.ends_at"
    order = [
        one.path
        for one in sensitivity.sensitivities(
            asked(changed(cellar, ("legs.l1.ends_at.standing", "measured")), catalogue)
        )
        if one.figure
    ]
    assert order[0] != "legs.l1.ends_at"


def test_the_choice_changes_where_it_is_said_to_and_not_before(cellar, catalogue, base):
    tips = sensitivity.tipping_points(base, catalogue, sensitivity.sensitivities(base))
    found = next(one for one in tips if one.figure.path == "legs.l1.ends_at")
    names = []
    for share in (0.97, 1.03):
        moved = size(found.figure.put(cellar, found.by_si * share), catalogue)
        names.append(moved.chosen.candidate.pump.name)
    assert names[0] == base.pump_name
    assert names[1] == found.pump_name != base.pump_name
    calm = next(one for one in tips if one.figure.path == "answers.water_temperature")
    assert calm.by_si is None


def test_a_pick_that_stops_fitting_counts_as_a_change(cellar, catalogue):
    picked = asked(changed(cellar, ("pump", "ondrath-k-11")), catalogue)
    tips = sensitivity.tipping_points(picked, catalogue, sensitivity.sensitivities(picked))
    assert any(tip.pump_name == "Ondrath K 11 no longer fits" for tip in tips)


def test_a_figure_that_contradicts_another_changes_no_choice(catalogue):
    base = asked(JOBS["cabins-over-the-ridge"], catalogue)
    found = next(
        tip
        for tip in sensitivity.tipping_points(base, catalogue, sensitivity.sensitivities(base))
        if tip.figure.path == "legs.l1.length"
    )
    assert (
        found.by_si is None
    )  # shorter than its survey it cannot be; that is a slip, not another pump


@pytest.mark.parametrize("name", [name for name in JOBS if name not in ("chandlers-undercroft",)])
def test_a_route_without_any_doubt_asks_for_the_sheets_own_head(catalogue, name):
    base = asked(JOBS[name], catalogue)
    sampler = chance.sampler(base, SHIPPED)
    still = sampled.Sampler(sampler.system, sampler.now, sampler.down * 0, sampler.up * 0, 0.0)
    routes, factor = still.sample(5)
    assert routes.head_m(routes.needed_m3s) == pytest.approx(
        base.system.head_at(base.demand.needed_m3s)
    )
    assert factor == pytest.approx(1.0)
    assert routes.needed_m3s == pytest.approx(base.demand.needed_m3s)


@pytest.mark.parametrize(
    "name",
    [
        "bookbinders-cellar",
        "cabins-over-the-ridge",
        "plant-nursery-well",
        "converted-mill",
        "hydrotherapy-tub",
    ],
)
def test_a_sampled_route_is_the_job_with_that_figure_moved(catalogue, name):
    base = asked(JOBS[name], catalogue)
    sampler, doubts = chance.sampler(base, SHIPPED), sensitivity.uncertain_figures(base)
    for index, doubt in enumerate(doubts):
        if doubt.dimension != "length":
            continue
        moved = doubt.put(base.sizing.job, doubt.spread_si)
        only = np.zeros_like(sampler.up)
        only[index] = sampler.up[index]
        rows = sampler.now + only[index]
        routes = sampled._routes(sampler.system, rows[None, :], 1.0)
        try:
            exact = changed_system(base, moved)
        except Exception:  # a leg that cannot climb so far is left where it was
            continue
        flow = routes.needed_m3s
        if all(not leg.tops for leg in exact.route.legs):
            assert routes.head_m(flow)[0] == pytest.approx(
                exact.head_at(float(flow[0])), rel=1e-9
            ), doubt.path


def test_the_chance_is_the_same_every_time_and_says_its_own_error(base):
    curves = [
        ("chosen", base.pump),
        ("twice", base.pump.scaled(1.0, 2.0, 1.0)),
        ("half", base.pump.scaled(1.0, 0.5, 1.0)),
    ]
    chosen, strong, weak = chance.chances(base, curves)
    assert chance.chances(base, curves)[0] == chosen
    assert 0 < weak.share + 1e-9 <= chosen.share <= strong.share == 1.0
    assert strong.error == pytest.approx(3 / chance.SAMPLES)
    assert chosen.error == pytest.approx(
        1.96 * np.sqrt(chosen.share * (1 - chosen.share) / chance.SAMPLES), rel=1e-3
    )
    more = chance.chances(base, curves[:1], 20_000)[0]
    assert abs(more.share - chosen.share) < 2 * chosen.error


def test_the_duty_test_agrees_with_solving_every_route(base):
    routes, factor = chance.sampler(base, SHIPPED).sample(60)
    met = sampled.duty_met([base.pump], routes, factor)[0]
    for sample in range(60):
        alone = routes.needed_m3s[sample] * np.linspace(1e-3, 1.6, 400)
        one = sampled.Routes(
            routes.system,
            {key: column[:, sample : sample + 1] for key, column in routes.legs.items()},
            {key: column[sample] for key, column in routes.fixed.items()},
            routes.needed_m3s[sample],
            routes.needed_now_m3s,
        )
        inside = alone[alone <= base.pump.last_flow_m3s]
        excess = base.pump.head_m(inside) * factor[sample] - np.array(
            [float(one.head_m(np.array([q]))[0]) for q in inside]
        )
        reaches = inside[excess >= 0].max(initial=0.0)
        if abs(reaches / routes.needed_m3s[sample] - 1) > 0.01:  # the grid is as fine as that
            assert met[sample] == (reaches >= routes.needed_m3s[sample])


def test_running_off_the_end_counts_as_met_and_is_marked(base):
    flows = np.array(base.pump.flows_m3s)
    short = type(base.pump)(
        tuple(flows * 0.4), tuple(np.array(base.pump.heads_m) * 0 + 30.0 - flows * 100)
    )
    (found,) = chance.chances(base, [("short", short)])
    assert short.last_flow_m3s < base.demand.needed_m3s
    assert found.share == found.off_end_share == 1.0


def test_nothing_to_measure_without_a_pump(cellar, catalogue):
    high = asked(cellar, EMPTY)
    with pytest.raises(NotYet):
        sensitivity.sensitivities(high)
    with pytest.raises(NotYet):
        sensitivity.tipping_points(high, catalogue, ())
