import random
from dataclasses import replace

import pytest

from sizing.base.rules import SHIPPED, Rules
from sizing.pump.catalogue import EMPTY, Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.selection.match import candidate, match
from sizing.selection.requirement import (
    AtLeast,
    AtMost,
    DrinkingWater,
    FamilyIn,
    Mains,
    Supply,
)
from sizing.selection.sweep import Wanted
from tests.sizing.conftest import leg, system

ROUTE = system(leg(end_elevation_m=6.0, length_m=60.0))


def pump(name, scale=1.0, **more) -> Pump:
    flows, heads = (0.0, 0.0006, 0.0012, 0.0018, 0.0024, 0.003), (12.0, 11.6, 10.5, 8.8, 6.2, 2.5)
    curve = PumpCurve(tuple(q * scale for q in flows), heads, (160, 205, 245, 275, 295, 305))
    usual = {
        "family": "sump",
        "solids_m": 0.01,
        "width_m": 0.2,
        "voltage_v": 230.0,
        "phases": 1,
        "price": 200.0,
        "hottest_c": 40.0,
    }
    return Pump(name, "Ondrath", name, curve=curve, **(usual | more))


def wanted(flow=0.0018, *requirements) -> Wanted:
    return Wanted(
        flow, requirements, volume_per_year_m3=2000.0, energy_price_per_kwh=0.3, life_years=7.0
    )


FLOW = candidate(Catalogue([pump("usual")]), ROUTE, wanted(), SHIPPED, 0).flow_m3s


def names(candidates):
    return [one.pump.pump_id for one in candidates]


def test_enough_flow_fits_a_little_less_is_near_much_less_is_out():
    found = match(
        Catalogue([pump("good"), pump("short", 0.85), pump("tiny", 0.3)]),
        ROUTE,
        wanted(0.99 * FLOW),
        SHIPPED,
    )
    assert (names(found.fits), names(found.near_misses)) == (["good"], ["short"])
    assert found.out == (("too little flow", 1),)


@pytest.mark.parametrize(
    ("requirement", "change", "says"),
    [
        (FamilyIn(("sump",)), {"family": "grinder"}, "not made for this"),
        (
            AtLeast("solids_m", 0.01, "size", "solids", "passes only {has}; {wanted} wanted"),
            {"solids_m": 0.004},
            "passes only 4",
        ),
        (
            AtMost("width_m", 0.25, "size", "width", "{has} wide, room for {wanted}"),
            {"width_m": 0.4},
            "400",
        ),
        (Supply(230.0, 1, 0.1), {"voltage_v": 400.0, "phases": 3}, "needs 400"),
    ],
)
def test_each_requirement_throws_out_with_its_reason(requirement, change, says):
    bad = pump("bad", **change)
    found = match(Catalogue([pump("good"), bad]), ROUTE, wanted(0.0018, requirement), SHIPPED)
    assert names(found.fits) == ["good"]
    assert found.out == ((requirement.label, 1),)
    alone = candidate(Catalogue([bad]), ROUTE, wanted(0.0018, requirement), SHIPPED, 0)
    assert says in alone.reasons[0].text("metric")


@pytest.mark.parametrize(
    ("requirement", "change", "asks"),
    [
        (
            AtMost("width_m", 0.25, "size", "width", "{has} {wanted}", "how wide it is"),
            {"width_m": None},
            "how wide it is",
        ),
        (Supply(230.0, 1, 0.1), {"voltage_v": None}, "which supply"),
        (DrinkingWater(), {"drinking_water": None}, "listed for drinking water"),
        (Mains(60.0, 50.0), {"frequency_hz": None}, "mains frequency"),
    ],
)
def test_what_a_maker_does_not_state_is_asked_and_not_held_against_the_pump(
    requirement, change, asks
):
    silent = pump("silent", **change)
    found = match(Catalogue([silent]), ROUTE, wanted(0.0018, requirement), SHIPPED)
    assert (names(found.fits), names(found.to_ask), found.out) == ([], ["silent"], ())
    assert asks in found.to_ask[0].reasons[0].text("metric")
    assert found.nearest == found.to_ask[0]


def test_all_that_speaks_against_a_pump_is_told_at_once():
    bad = pump("bad", solids_m=0.001, voltage_v=400.0, phases=3, width_m=None)
    requirements = (
        AtLeast("solids_m", 0.01, "size", "solids", "passes only {has}; {wanted} wanted"),
        Supply(230.0, 1, 0.1),
        AtMost("width_m", 0.25, "size", "width", "{has} {wanted}", "how wide it is"),
    )
    alone = candidate(Catalogue([bad]), ROUTE, wanted(0.0018, *requirements), SHIPPED, 0)
    said = " ".join(reason.text("metric") for reason in alone.reasons)
    assert all(one in said for one in ("passes only", "needs 400", "does not say how wide"))


def test_missing_one_requirement_by_a_little_is_a_near_miss():
    wide = pump("wide", width_m=0.26)
    found = match(
        Catalogue([wide]),
        ROUTE,
        wanted(0.0018, AtMost("width_m", 0.25, "size", "too wide", "{has} wide; {wanted} there")),
        SHIPPED,
    )
    assert names(found.near_misses) == ["wide"]
    assert found.near_misses[0].reasons[0].text("metric") == "260\u00a0mm wide; 250\u00a0mm there"


def test_a_short_pump_says_how_much_head_would_close_the_gap():
    found = match(Catalogue([pump("short", 0.85)]), ROUTE, wanted(0.99 * FLOW), SHIPPED)
    short, lack = found.near_misses[0].short_of
    assert lack == pytest.approx(
        ROUTE.head_at(0.99 * FLOW) - found.near_misses[0].pump.curve.head_at(0.99 * FLOW)
    )
    assert short == pytest.approx(-found.near_misses[0].surplus)


def test_order_middle_of_the_curve_then_not_too_big_then_cost():
    middle, dearer = pump("middle"), pump("dearer", price=900.0)
    big = pump("big", 1.8, price=10.0)
    found = match(Catalogue([big, dearer, middle]), ROUTE, wanted(0.95 * FLOW), SHIPPED)
    assert names(found.fits) == ["middle", "dearer", "big"]


def test_a_dearer_pump_with_the_same_curve_never_ranks_above():
    pumps = [pump(f"p{index}", price=100.0 + 37 * index) for index in range(8)]
    random.Random(3).shuffle(pumps)
    assert names(match(Catalogue(pumps), ROUTE, wanted(), SHIPPED).fits) == [
        f"p{index}" for index in range(8)
    ]


def test_order_does_not_depend_on_the_order_of_rows(catalogue):
    shuffled = list(catalogue.pumps)
    random.Random(1).shuffle(shuffled)
    assert names(match(catalogue, ROUTE, wanted(), SHIPPED).fits) == names(
        match(Catalogue(shuffled), ROUTE, wanted(), SHIPPED).fits
    )


def test_a_house_rule_changes_what_counts_as_near():
    shop = Rules({"CHO-01": 0.95})
    assert not match(Catalogue([pump("short", 0.85)]), ROUTE, wanted(0.99 * FLOW), shop).near_misses


def test_every_pump_is_a_fit_a_near_miss_or_counted_out(catalogue):
    found = match(
        catalogue,
        ROUTE,
        wanted(0.0018, FamilyIn(("sump", "effluent")), Supply(230.0, 1, 0.1)),
        SHIPPED,
    )
    near = found.considered - found.fit_count - sum(count for _, count in found.out)
    assert near >= len(found.near_misses) > 0
    assert found.considered == len(catalogue)


def test_more_static_never_gives_more_flow(catalogue):
    low, high = (
        match(catalogue, system(leg(end_elevation_m=lift)), wanted(), SHIPPED)
        for lift in (5.0, 6.0)
    )
    flows = {one.pump.pump_id: one.flow_m3s for one in low.fits}
    assert all(one.flow_m3s < flows[one.pump.pump_id] for one in high.fits)


def test_a_pump_that_fits_does_so_wherever_it_stands_in_the_order():
    many = Catalogue([pump(f"p{index:03d}", price=100.0 + index) for index in range(80)])
    assert len(match(many, ROUTE, wanted(), SHIPPED).fits) == 50
    assert candidate(many, ROUTE, wanted(), SHIPPED, 79).fits
    assert not candidate(Catalogue([pump("tiny", 0.3)]), ROUTE, wanted(), SHIPPED, 0).fits


def test_an_empty_catalogue_and_an_unpriced_pump():
    assert match(EMPTY, ROUTE, wanted(), SHIPPED).considered == 0
    assert (
        match(Catalogue([replace(pump("free"), price=None)]), ROUTE, wanted(), SHIPPED)
        .fits[0]
        .cost_per_year
        is None
    )
