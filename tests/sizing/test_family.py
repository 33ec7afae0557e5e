import itertools

import pytest

from sizing.base.errors import SizingError
from sizing.pump.catalogue_columns import families
from sizing.selection.pump_family import (
    FEEDS,
    LIQUIDS,
    PLACES,
    advise,
    clues,
    for_kind,
    possible,
    recognise,
    uses,
)
from sizing.size import size
from tests.sizing.test_kinds import JOBS as JOB_FILES

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
    ("rain", "beside", "taps", 0.001, 20, "booster"),
    ("rain", "beside", "spray", 0.001, 20, "jet"),
    ("rain", "tank", "spray", 0.001, 20, "multistage_effluent"),
    ("pond", "beside", "fall", 0.004, 3, "transfer"),
    ("pond", "beside", "filter", 0.004, 1, "filter"),
    ("pond", "pond", "fall", 0.004, 0.6, "filter"),  # a low stream
    ("sea", "beside", "display", 0.0, 2, "aquarium"),
    ("sewage", "tank", "gravity", 0.05, 5, "sewage"),
    ("sewage", "tank", "main", 0.05, 18, "grinder"),
    ("settled", "tank", "gravity", 0.015, 6, "effluent"),
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


@pytest.mark.parametrize(("liquid", "place", "feeds", "solid", "lift", "family"), JOBS)
def test_what_is_not_known_speaks_against_nothing(liquid, place, feeds, solid, lift, family):
    asked = {"liquid": liquid, "place": place, "feeds": feeds}
    for known in ({"solid_m": None, "lift_m": lift}, {"solid_m": solid, "lift_m": None}):
        assert family in [one.family for one in advise(**asked, **known) if one.fits]
        assert family in possible(**asked, **known)


@pytest.mark.parametrize(
    ("liquid", "says"),
    [("sea", "Sea water"), ("hot", "so hot"), ("drinking", "drinking water"), ("pond", "muck")],
)
def test_the_reason_against_is_of_the_water_that_was_asked(liquid, says):
    found = advise(liquid=liquid, place="pit", feeds="gravity", solid_m=0.0, lift_m=3.0)
    (sump,) = [one for one in found if one.family == "sump"]
    assert says in sump.reasons[0]


@pytest.mark.parametrize("name", sorted(JOB_FILES))
def test_the_hint_and_the_recommendation_name_one_family(name, catalogue):
    sizing = size(JOB_FILES[name], catalogue)
    if sizing.recommended is None:
        return
    there = sizing.kind.situation(sizing.facts)
    loop = sizing.system.route.closed_loop
    lift = 0.0 if loop else sizing.system.governing(0.0)[1]
    hint = advise(
        liquid=there.liquid,
        place=there.place,
        feeds=there.feeds,
        solid_m=there.solid_m,
        lift_m=lift,
    )
    by_table = [one.family for one in hint if one.fits]
    assert sizing.recommended.pump.family in by_table


def test_a_family_whose_pumps_fit_is_never_told_as_wrong():
    found = advise(liquid="filtered", place="tank", feeds="spray", solid_m=0.003, lift_m=3.0)
    assert not next(one for one in found if one.family == "multistage_effluent").fits
    told = for_kind(found, ("effluent", "multistage_effluent"), {"multistage_effluent"})
    (one,) = [one for one in told if one.family == "multistage_effluent"]
    assert one.fits
    assert one.reasons[0].startswith("Pumps of it fit here. Usually: For a low lift it is dear")


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
