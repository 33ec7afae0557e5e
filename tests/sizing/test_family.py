import itertools

import pytest

from sizing.base.errors import SizingError
from sizing.pump.catalogue_columns import families
from sizing.selection.pump_family import FEEDS, LIQUIDS, PLACES, advise, clues, recognise, uses

JOBS = [
    # liquid, place, feeds, solid [m], lift [m], the family of the trade
    ("ground", "pit", "gravity", 0.005, 4, "sump"),
    ("settled", "pit", "gravity", 0.015, 6, "effluent"),
    ("sewage", "pit", "gravity", 0.05, 5, "sewage"),
    ("sewage", "pit", "main", 0.05, 18, "grinder"),
    ("sewage", "pit", "gravity", 0.05, 25, "grinder"),
    ("filtered", "chamber", "spray", 0.002, 30, "multistage_effluent"),
    ("drinking", "well", "taps", 0.001, 60, "well"),
    ("clean", "beside", "taps", 0.0, 30, "booster"),
    ("rain", "beside", "tank", 0.003, 12, "transfer"),
    ("pond", "pond", "fall", 0.008, 2, "pond"),
    ("pond", "skimmer", "fall", 0.02, 5, "skimmer"),
    ("sea", "chamber", "display", 0.0, 2, "aquarium"),
    ("chlorinated", "beside", "jets", 0.001, 0, "spa"),
    ("drinking", "tank", "taps", 0.0, 3, "diaphragm"),
]


@pytest.mark.parametrize(("liquid", "place", "feeds", "solid", "lift", "family"), JOBS)
def test_the_family_of_the_trade_is_among_those_that_fit(liquid, place, feeds, solid, lift, family):
    found = advise(liquid=liquid, place=place, feeds=feeds, solid_m=solid, lift_m=lift)
    fits = [one.family for one in found if one.fits]
    assert family in fits
    assert [one.fits for one in found] == sorted((one.fits for one in found), reverse=True)


TEMPTING = [
    # the wrong turns that people take, and the word that must be in the reason against
    (("sewage", "pit", "gravity", 0.05, 5), "grinder", "nothing to blunt"),
    (("sewage", "pit", "gravity", 0.05, 5), "effluent", "wipes"),
    (("sewage", "pit", "gravity", 0.05, 5), "sump", "clog"),
    (("pond", "pond", "fall", 0.008, 4), "skimmer", "Bare on a pond floor"),
    (("settled", "chamber", "spray", 0.003, 20), "multistage_effluent", "unfiltered"),
    (("ground", "pit", "gravity", 0.002, 6), "well", "cools its motor"),
    (("clean", "beside", "taps", 0.0, 20), "transfer", "no pressure for taps"),
]


@pytest.mark.parametrize(("job", "family", "says"), TEMPTING)
def test_each_tempting_other_is_refused_with_its_reason(job, family, says):
    liquid, place, feeds, solid, lift = job
    other = next(
        one
        for one in advise(liquid=liquid, place=place, feeds=feeds, solid_m=solid, lift_m=lift)
        if one.family == family
    )
    assert not other.fits
    assert says in " ".join(other.reasons)


def test_every_family_is_told_about_once_whatever_is_asked():
    for liquid, place, feeds in itertools.product(LIQUIDS, PLACES, FEEDS):
        found = advise(liquid=liquid, place=place, feeds=feeds, solid_m=0.005, lift_m=5)
        assert sorted(one.family for one in found) == sorted(families())
        assert all(one.reasons for one in found)


def test_the_tables_name_only_what_exists():
    for use in uses():
        assert use.family in families()
        assert use.liquids <= set(LIQUIDS), use.family
        assert use.places <= set(PLACES), use.family
        assert use.feeds <= set(FEEDS), use.family
        assert use.because
        assert all(use.why_not.values())
    assert {use.family for use in uses()} == set(families())
    for clue in clues():
        for _, label, left in clue.answers:
            assert left <= set(families()), label


OLD = [
    ({"cutter": "yes"}, {"grinder"}),
    (
        {
            "stands": "water",
            "inlet": "screen",
            "inlet_width": "small",
            "float": "yes",
            "slim": "stout",
        },
        {"sump"},
    ),
    ({"inlet": "open", "inlet_width": "large", "outlet": "large", "float": "yes"}, {"sewage"}),
    (
        {"stands": "water", "slim": "slim", "inlet": "screen"},
        {"well", "multistage_effluent", "solar"},
    ),
    (
        {"stands": "beside", "outlet": "large", "inlet_width": "medium"},
        {"transfer", "spa", "filter"},
    ),
]


@pytest.mark.parametrize(("seen", "wanted"), OLD)
def test_an_old_pump_is_known_by_what_can_be_seen(seen, wanted):
    assert {one.family for one in recognise(seen) if one.fits} == wanted


def test_what_speaks_against_a_family_is_told():
    sump = next(one for one in recognise({"cutter": "yes", "slim": "slim"}) if one.family == "sump")
    assert sump.reasons == (
        "not with a cutter or blades at the inlet",
        "not with slim and long, under 110 mm (4-1/4 in)",
    )


def test_nothing_seen_leaves_every_family():
    assert all(one.fits for one in recognise({}))


@pytest.mark.parametrize(
    "call",
    [
        lambda: advise(liquid="treacle", place="pit", feeds="gravity", solid_m=0.0, lift_m=1.0),
        lambda: advise(liquid="ground", place="moon", feeds="gravity", solid_m=0.0, lift_m=1.0),
        lambda: advise(liquid="ground", place="pit", feeds="gravity", solid_m=-1.0, lift_m=1.0),
        lambda: recognise({"colour": "red"}),
        lambda: recognise({"cutter": "perhaps"}),
    ],
)
def test_what_no_table_holds_is_refused(call):
    with pytest.raises(SizingError):
        call()
