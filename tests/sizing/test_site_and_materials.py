"""What sites and materials do to a pump: each check shown to hold, to watch and to fail.

Rows as in :mod:`tests.sizing.test_three_states`: a demo job, edits, what its pump is changed in.
"""

from __future__ import annotations

from dataclasses import replace

import pytest

from sizing.analysis.changed import known
from sizing.analysis.electrics import electrics
from sizing.results.verdict import state_of
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_judgement import CELLAR, CISTERN, CLUB, MILL, TUB, VAN, WELL, twins
from tests.sizing.test_kinds import JOBS, check

CABINS, HOSTEL, RILL, TANK = (
    "cabins-over-the-ridge",
    "hostel-willow-bed",
    "hospice-rill",
    "marine-classroom",
)
FROM_TANK = (
    ("answers.supply_from", "tank"),
    ("answers.tank_level", "1 m"),
    ("legs.a.ends_at", "0 m"),
)
DRIVE = ("answers.control", "drive")
CROWDED = ("answers.use", "congested use: public toilets or showers")
BY_UNITS = (("answers.discharge_units", "12"), ("answers.flow_from", "discharge"))
FROST = ("answers.frost_depth", "0.8 m")
BRONZE = {"materials": "cast iron, bronze impeller"}
STAINLESS = {"materials": "stainless steel 304"}
BEST = {"materials": "PP, stainless steel 316"}
HIGHER = {"curve": lambda one: replace(one, heads_m=tuple(3 * head for head in one.heads_m))}


def weaker(share):
    """A curve of so much of the head."""
    return lambda one: replace(one, heads_m=tuple(share * head for head in one.heads_m))


ROWS = [
    # before the pump
    # fittings that sewage passes
    (CLUB, (), {}, "rags", "hold"),
    (CLUB, (("legs.a.fittings", "spring check, gate valve"),), {}, "rags", "fail"),
    (CABINS, (), {}, "rags", "hold"),
    (CABINS, (("legs.a.fittings", "ball check, y-strainer, ball valve"),), {}, "rags", "fail"),
    # how long sewage stands
    (CLUB, (), {}, "standing", "hold"),
    (CLUB, (("legs.b.length", "900 m"), ("answers.people", "4")), {}, "standing", "fail"),
    # a second pump
    (MILL, (), {}, "standby", "fail"),
    (MILL, (("standby", "1"),), {}, "standby", "hold"),
    (MILL, (("arrangement", "parallel"),), {}, "standby", "watch"),
    (MILL, (("answers.building", "residential building"),), {}, "standby", None),
    (
        CLUB,
        (*BY_UNITS, ("answers.use", "congested use: public toilets or showers")),
        {},
        "standby",
        "fail",
    ),
    (CLUB, BY_UNITS, {}, "standby", None),
    # effluent
    (HOSTEL, (), {}, "holes", "hold"),
    (HOSTEL, (("answers.liquid", "settled"),), {}, "holes", "fail"),
    (
        HOSTEL,
        (("answers.liquid", "settled"), ("answers.largest_solid", "1 mm")),
        {},
        "holes",
        "hold",
    ),
    (
        HOSTEL,
        (
            ("answers.liquid", "settled"),
            ("answers.outlet_type", "rated"),
            ("answers.outlet_flow", "8 l/h"),
            ("answers.outlet_head", "10 m"),
        ),
        {},
        "holes",
        "watch",
    ),
    (HOSTEL, (), {}, "dose_by_floats", "hold"),
    (HOSTEL, (("answers.doses", "8"),), {}, "dose_by_floats", "watch"),
    (HOSTEL, (("answers.doses", "24"),), {}, "dose_by_floats", "fail"),
    (HOSTEL, (("answers.doses", "2"),), {}, "dose_by_floats", "fail"),
    (HOSTEL, (("answers.doses", ""),), {}, "dose_by_floats", None),
    # boosters
    (MILL, (), {}, "dry_run", None),
    # a wide suction pipe: air gathers in it where it lifts
    (MILL, (*FROM_TANK, ("legs.a.pipe", "PVC-U PN10 160 mm")), {}, "velocity_a", "hold"),
    (
        MILL,
        (*FROM_TANK, ("answers.tank_level", "-2 m"), ("legs.a.pipe", "PVC-U PN10 160 mm")),
        {},
        "velocity_a",
        "watch",
    ),
    (MILL, FROM_TANK, {}, "dry_run", "watch"),
    (MILL, (*FROM_TANK, ("answers.dry_run", "none")), {}, "dry_run", "fail"),
    (MILL, (*FROM_TANK, ("answers.dry_run", "fitted")), {}, "dry_run", "hold"),
    (MILL, (DRIVE,), {"slowest_speed": 0.3}, "drive", "hold"),
    (MILL, (DRIVE,), {"slowest_speed": None}, "drive", "watch"),
    (MILL, (DRIVE,), {"slowest_speed": 0.98}, "drive", "fail"),
    # the motor
    (WELL, (), {}, "volts", "hold"),
    (WELL, (("answers.voltage", "212 V"),), {"current_a": 9.0}, "volts", "fail"),
    (VAN, (), {}, "cable", None),
    (VAN, (("answers.cable_length", "2 m"),), {}, "cable", "hold"),
    (
        VAN,
        (("answers.cable_length", "9 m"), ("answers.cable_size", "1.5 mm²")),
        {},
        "cable",
        "fail",
    ),
    # the well
    (WELL, (), {}, "starts_a_day", "hold"),
    (WELL, (("answers.garden", "8 m3"),), {}, "starts_a_day", "watch"),
    (WELL, (("answers.garden", "60 m3"),), {}, "starts_a_day", "fail"),
    (WELL, (), {}, "ceiling", "hold"),
    (WELL, (("answers.cut_in", "6 bar"), ("answers.cut_out", "7.5 bar")), {}, "ceiling", "watch"),
    (WELL, (("answers.cut_in", "9 bar"), ("answers.cut_out", "11 bar")), HIGHER, "ceiling", "fail"),
    (WELL, (), {"drinking_water": True}, "listed", "hold"),
    (WELL, (), {"drinking_water": None}, "listed", "watch"),
    (WELL, (), {"drinking_water": False}, "listed", "fail"),
    # what it is made of
    (TANK, (), {}, "made_sea", None),  # made for it, its maker need not say
    (TANK, (), BEST, "made_sea", "hold"),
    (TANK, (), STAINLESS, "made_sea", "watch"),
    (TANK, (), BRONZE, "made_sea", "fail"),
    (TANK, (), {"materials": "PP"}, "made_reef", "hold"),
    (TANK, (), {"materials": "PP, bronze bush"}, "made_reef", "fail"),
    (TUB, (), BEST, "made_chlorinated", "hold"),
    (TUB, (), STAINLESS, "made_chlorinated", "watch"),
    (TUB, (), BRONZE, "made_chlorinated", "fail"),
    (RILL, (), BRONZE, "made_fish", None),
    (RILL, (("answers.fish", "yes"),), {"materials": "PP"}, "made_fish", "hold"),
    (RILL, (("answers.fish", "yes"),), BRONZE, "made_fish", "watch"),
    (WELL, (("answers.well_water", "acid"),), {"materials": ""}, "made_acid", "watch"),
    (WELL, (("answers.well_water", "acid"),), STAINLESS, "made_acid", "hold"),
    (WELL, (("answers.well_water", "acid"),), {"materials": "galvanised"}, "made_acid", "fail"),
    (WELL, (("answers.well_water", "brackish"),), BRONZE, "made_brackish", "watch"),
    (WELL, (("answers.well_water", "brackish"),), BEST, "made_brackish", "hold"),
    # frost
    (CELLAR, (), {}, "frost", None),
    (CELLAR, (FROST,), {}, "frost", "watch"),
    (CELLAR, (FROST, ("answers.pipe_cover", "0.9 m")), {}, "frost", "hold"),
    (CELLAR, (FROST, ("answers.pipe_cover", "0.5 m")), {}, "frost", "fail"),
    (HOSTEL, (FROST, ("answers.pipe_cover", "0.5 m")), {}, "frost", "hold"),  # it drains back
    # the tub
    (TUB, (), {}, "primes", None),
    (TUB, (("answers.pump_over_water", "-0.4 m"),), {}, "primes", "hold"),
    (TUB, (("answers.pump_over_water", "0.3 m"),), {}, "primes", "fail"),
    (TUB, (), {}, "blower_jets", "hold"),
    (TUB, (), {"curve": weaker(0.75)}, "blower_jets", "watch"),
    (TUB, (), {"curve": weaker(0.6)}, "blower_jets", "fail"),
    (TUB, (("answers.blower", "none"),), {}, "blower_jets", None),
]


@pytest.mark.parametrize(
    ("name", "edits", "change", "code", "state"),
    ROWS,
    ids=[f"{row[3]}-{row[4]}-{number}" for number, row in enumerate(ROWS)],
)
def test_a_check_holds_watches_and_fails(name, edits, change, code, state, catalogue):
    job, shop = JOBS[name], catalogue
    if change:
        shop = twins(job, catalogue, change)
        job = job.model_copy(update={"pump": "a"})
    sizing = size(changed(job, *edits), shop)
    found = [one for one in sizing.checks if one.code == code]
    assert [one.state for one in found] == ([] if state is None else [state])
    if state in ("watch", "fail"):
        assert found[0].remedy
        assert found[0].weight == "note" or state_of(sizing) != "good" or state == "watch"


def suction_over(job, top, end="0 m"):
    """The cistern's suction in two legs, the first of which climbs to a level."""
    first = job.legs[0]
    over = first.model_copy(update={"id": "s", "name": "over the wall"})
    job = job.model_copy(update={"legs": (over, *job.legs)})
    return changed(
        job, ("legs.s.length", "6 m"), ("legs.s.ends_at", top), (f"legs.{first.id}.ends_at", end)
    )


@pytest.mark.parametrize(
    ("top", "state"), [("-0.2 m", "hold"), ("0.04 m", "hold"), ("0.5 m", "fail")]
)
def test_air_gathers_where_a_suction_climbs_over_its_pump(catalogue, top, state):
    sizing = size(suction_over(JOBS[CISTERN], top), catalogue)
    found = check(sizing, "air_lock")
    assert found.state == state
    assert found.about == "site"
    flooded = suction_over(changed(JOBS[CISTERN], ("answers.source_level", "1.2 m")), top)
    assert check(size(flooded, catalogue), "air_lock").state == "hold"  # the water stands over it


@pytest.mark.parametrize(
    ("standby", "level", "state"), [(0, "-2.4 m", None), (1, "-2.4 m", "fail"), (1, "1 m", None)]
)
def test_pumps_that_lift_share_no_suction(catalogue, standby, level, state):
    job = changed(JOBS[CISTERN], ("answers.source_level", level))
    sizing = size(job.model_copy(update={"standby": standby}), catalogue)
    found = [one.state for one in sizing.checks if one.code == "own_suction"]
    assert found == ([] if state is None else [state])


def test_thin_air_takes_from_a_dry_motor_and_from_none_under_water(catalogue):
    high = changed(JOBS[CISTERN], ("answers.altitude", "2000 m"))
    rated = {"motor_power_w": size(JOBS[CISTERN], catalogue).running.pump.pump.motor_power_w}
    shop = twins(JOBS[CISTERN], catalogue, rated)
    loads = [
        check(size(job.model_copy(update={"pump": "a"}), shop), "motor").working.result.value_si
        for job in (JOBS[CISTERN], high)
    ]
    assert loads[1] == pytest.approx(loads[0] / 0.9, rel=0.03)  # 1 % for each 100 m over 1000 m
    assert "thin air" not in check(size(JOBS[CELLAR], catalogue), "motor").message.text("metric")


def test_a_pump_that_thin_air_overloads_is_not_taken(catalogue):
    job = JOBS[CISTERN]
    load = check(size(job, catalogue), "motor").working.result.value_si
    rated = size(job, catalogue).running.pump.pump.motor_power_w
    near = twins(job, catalogue, {"motor_power_w": rated * load / 1.13})  # up to 115 % is borne
    assert size(job, near).match.fits
    assert not size(changed(job, ("answers.altitude", "2500 m")), near).match.fits


def test_direct_current_has_a_fuse_and_neither_breaker_nor_generator(catalogue):
    found = electrics(known(size(JOBS[VAN], catalogue)), 6.0)
    assert found.direct
    assert found.starts == ()
    assert all(row.trips_m == float("inf") for row in found.rows)
    assert found.breaker_a >= 1.25 * found.amps
    mains = electrics(known(size(JOBS[WELL], catalogue)), 60.0)
    assert not mains.direct
    assert mains.starts


def test_a_leg_without_a_wall_has_that_of_what_it_carries(catalogue):
    def head(*edits):
        return size(changed(JOBS[CLUB], *edits), catalogue).needed_head_m

    both = [f"legs.{leg.id}.wall" for leg in JOBS[CLUB].legs]
    blank = head(*((path, "") for path in both))
    named = head(*((path, "raw sewage, smooth pipe") for path in both))
    assert blank == pytest.approx(named)
    assert blank > head(*((path, "new and clean") for path in both))
    steel = [(f"legs.{leg.id}.pipe", "steel Sch 40 2-1/2 in") for leg in JOBS[CLUB].legs]
    iron = [(path, "raw sewage, iron or steel") for path in both]
    assert head(*steel) == pytest.approx(head(*steel, *iron))
