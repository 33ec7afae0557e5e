"""What would not live is not recommended; what cannot happen is not called a failure.

Each case is a demo job with something changed and a few pumps of its own: what an expert would
take, refuse or warn of. The pumps are twins of the one that the demo takes, but for one thing.
"""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest

from sizing.analysis import chance as trust
from sizing.analysis import grid, methods
from sizing.analysis.arrangements import options
from sizing.analysis.changed import known
from sizing.analysis.follow_on import job_of
from sizing.base.errors import SizingError
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import PumpCurve
from sizing.results.report import report
from sizing.results.verdict import state_of, verdict
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS, check

GOOD = {"price": 300.0}
CHEAP = {"price": 100.0}


def twins(job, catalogue, *changes):
    """Pumps like the one that the demo job takes, named a, b, c: each with its changes."""
    base = size(job, catalogue).chosen.candidate.pump
    found = []
    for letter, change in zip("abc", changes, strict=False):
        more = dict(change)
        curve = more.pop("curve", lambda one: one)(base.curve)
        found.append(replace(base, pump_id=letter, model=letter, curve=curve, **more))
    return Catalogue(found)


def npsh(metres):
    return lambda curve: replace(curve, npsh_required_m=(metres,) * len(curve.flows_m3s))


def steeper(times):
    """More head towards no flow, the same at the middle of the curve and beyond."""

    def made(curve: PumpCurve) -> PumpCurve:
        middle = curve.flows_m3s[len(curve.flows_m3s) // 2]
        heads = [
            head * (1 + (times - 1) * max(1 - flow / middle, 0.0))
            for flow, head in zip(curve.flows_m3s, curve.heads_m, strict=True)
        ]
        return replace(curve, heads_m=tuple(heads))

    return made


def drooping(first_m):
    return lambda curve: replace(curve, heads_m=(first_m, *curve.heads_m[1:]))


def wider(times):
    return lambda curve: curve.scaled(times, 1.0, times)


CELLAR, CISTERN, WELL = "bookbinders-cellar", "bakery-cistern", "plant-nursery-well"
MILL, TUB, VAN, CLUB = (
    "converted-mill",
    "hydrotherapy-tub",
    "soup-kitchen-van",
    ("rowing-club-changing-rooms"),
)
# job, edits, what the twins differ in, whom an expert takes, a word of why the others are out
MUSTS = [
    ("cavitates", CISTERN, (), ({"curve": npsh(9.0)} | CHEAP, GOOD), "b", "cavitate"),
    ("thin margin", CISTERN, (), ({"curve": npsh(6.3)} | CHEAP, GOOD), "b", None),
    ("droops", CELLAR, (), ({"curve": drooping(3.0)} | CHEAP, GOOD), "b", "cannot start"),
    ("overload", CELLAR, (), ({"motor_power_w": 150.0} | CHEAP, GOOD), "b", "overloaded"),
    ("bursts", WELL, (), ({"curve": steeper(1.8)} | CHEAP, GOOD), "b", "rated for"),
    (
        "far left",
        CELLAR,
        (),
        ({"curve": wider(10.0), "motor_power_w": None} | CHEAP, GOOD),
        "b",
        "too little flow",
    ),
    (
        "yield",
        WELL,
        (("answers.tested_yield", "3.6 m3/h"), ("answers.test_drawdown", "8 m")),
        ({"curve": wider(1.5)} | CHEAP, GOOD),
        "b",
        "more than the well gives",
    ),
    (
        "maker's least",
        CELLAR,
        (),
        ({"least_flow_m3s": 0.003} | CHEAP, GOOD),
        "b",
        "too little flow",
    ),
    ("not made", CELLAR, (), ({"discontinued": True} | CHEAP, GOOD), "b", "no longer made"),
    ("drinking", WELL, (), ({"drinking_water": False} | CHEAP, GOOD), "b", "drinking water"),
    ("mains", CELLAR, (), ({"frequency_hz": 60.0} | CHEAP, GOOD), "b", "mains frequency"),
    (
        "60 Hz",
        CELLAR,
        (("answers.supply_frequency", "60 Hz"),),
        ({"frequency_hz": 50.0} | CHEAP, {"frequency_hz": 60.0} | GOOD),
        "b",
        "mains frequency",
    ),
    ("hot", CISTERN, (("answers.water_temperature", "52 C"),), (CHEAP,), None, "not for water"),
    (
        "hot pipe",
        CISTERN,
        (("answers.water_temperature", "55 C"),),
        ({"hottest_c": 90.0, "curve": npsh(1.0)},),
        None,
        "rated for",
    ),
    ("often", CELLAR, (("answers.start_level", "188 mm"),), (CHEAP,), None, "start too often"),
    (
        "cover",
        WELL,
        (("answers.pump_setting", "22 m"), ("legs.a.length", "24 m")),
        (CHEAP,),
        None,
        "draw the well down",
    ),
    ("switch", VAN, (("answers.switch_off", "5 bar"),), (CHEAP,), None, "never reaches"),
    (
        "cover rated",
        TUB,
        (("answers.cover_rating", "24.2 m3/h"),),
        ({"curve": wider(1.3)} | CHEAP, {"curve": wider(0.99)} | GOOD),
        "b",
        "covers are rated for",
    ),
    ("warranty", CELLAR, (("answers.warranty_least", "5 years"),), (CHEAP,), None, "warranty"),
    ("loud", CELLAR, (("answers.noise_most", "40 dB"),), (CHEAP,), None, "too loud"),
    ("dear", CELLAR, (("answers.budget", "200"),), (CHEAP, GOOD), "a", "over the budget"),
    (
        "late",
        CELLAR,
        (("answers.lead_most", "3 day"),),
        ({"stock": 0.0, "lead_days": 9.0},),
        None,
        "comes too late",
    ),
    ("room", CELLAR, (("answers.room_width", "150 mm"),), (CHEAP,), None, "too wide for the room"),
    ("dry", CELLAR, (("answers.stands", "dry"),), (CHEAP,), None, "stands the other way"),
    ("dc", CELLAR, (("answers.current_kind", "dc"),), (CHEAP,), None, "runs on mains"),
]


@pytest.mark.parametrize(
    ("name", "edits", "pumps", "taken", "says"),
    [case[1:] for case in MUSTS],
    ids=[case[0] for case in MUSTS],
)
def test_what_would_not_live_falls_out_with_its_reason(catalogue, name, edits, pumps, taken, says):
    shop = twins(JOBS[name], catalogue, *pumps)
    found = size(changed(JOBS[name], *edits), shop)
    assert (found.recommended and found.recommended.pump.pump_id) == taken
    assert (state_of(found) == "bad") is (taken is None)
    if says:
        assert any(says in label for label, _ in found.match.out), found.match.out


@pytest.mark.parametrize("name", sorted(JOBS))
def test_checks_and_matching_never_disagree(catalogue, name):
    """A pump that fits fails no must of its own; one that a limit threw out fails one."""
    found = size(JOBS[name], catalogue)
    if found.match is None:
        return
    for one in found.match.fits[:4]:
        proof = size(JOBS[name].model_copy(update={"pump": one.pump.pump_id}), catalogue)
        assert [check.code for check in proof.checks if check.fatal and check.about == "pump"] == []


@pytest.mark.parametrize(
    ("case", "code"),
    [
        ("cavitates", "suction"),
        ("droops", "starts_against"),
        ("overload", "motor"),
        ("bursts", "pressure"),
        ("far left", "least_flow"),
        ("yield", "yield"),
        ("often", "starts"),
        ("cover", "cover"),
        ("switch", "switch"),
        ("cover rated", "cover_flow"),
    ],
)
def test_what_a_limit_throws_out_fails_its_check_in_proof(catalogue, case, code):
    _, name, edits, pumps, _, _ = next(one for one in MUSTS if one[0] == case)
    shop = twins(JOBS[name], catalogue, *pumps)
    picked = changed(JOBS[name], *edits).model_copy(update={"pump": "a"})
    failing = [check.code for check in size(picked, shop).checks if check.fatal]
    assert code in failing


SILENT = [
    (CELLAR, {"solids_m": None}, "largest solid"),
    (CELLAR, {"width_m": None}, "how wide"),
    (CELLAR, {"lowest_stop_m": None}, "lowest stop"),
    (CELLAR, {"hottest_c": None}, "how hot"),
    (CELLAR, {"voltage_v": None}, "which supply"),
    (WELL, {"drinking_water": None}, "drinking water"),
    (CISTERN, {"curve": lambda curve: replace(curve, npsh_required_m=None)}, "NPSH"),
    ("observatory-solar-well", {"curve": lambda c: replace(c, powers_w=None)}, "input power"),
]


@pytest.mark.parametrize(("name", "change", "asks"), SILENT)
def test_what_is_not_stated_is_a_question_and_no_failure(catalogue, name, change, asks):
    found = size(JOBS[name], twins(JOBS[name], catalogue, change))
    assert [one.pump.pump_id for one in found.match.to_ask] == ["a"]
    assert asks in found.match.to_ask[0].reasons[0].text("metric")
    assert (found.recommended, found.match.out, state_of(found)) == (None, (), "ask")
    picked = changed(JOBS[name], ("pump", "a"))  # the same word, picked or not
    assert state_of(size(picked, twins(JOBS[name], catalogue, change))) == "ask"
    assert "ask the maker" in verdict(found).main.text("metric")


SITES = [
    (CLUB, (("legs.a.pipe", "PVC-U PN10 40 mm"),), "bore"),
    (MILL, (("answers.supply_pressure", "0.5 bar"),), "supply"),
    (TUB, (("answers.cover_rating", "12 m3/h"),), "cover"),
    (TUB, (("answers.suction_outlets", "1"),), "outlets"),
    (TUB, (("answers.outlet_spacing", "0.4 m"),), "spacing"),
    (VAN, (("answers.tank_level", "-3 m"), ("legs.a.length", "4 m")), "prime"),
]


@pytest.mark.parametrize(("name", "edits", "code"), SITES)
def test_what_the_site_does_to_every_pump_is_its_fault_and_said_first(catalogue, name, edits, code):
    found = size(changed(JOBS[name], *edits), catalogue)
    assert code in [check.code for check in found.site_faults]
    assert (found.recommended, state_of(found)) == (None, "bad")
    assert "The site first: " in verdict(found).main.text("metric")


def test_an_inflow_that_cannot_come_starts_nothing(catalogue):
    """A peak of a tenth of the pump's flow: it starts far less often than at half its flow."""
    job = changed(
        JOBS[CELLAR],
        ("answers.flow_from", "stated"),
        ("answers.stated_flow", "0.6 m3/h"),
        ("answers.margin", "1"),
        ("pump", "ondrath-k-11"),
    )
    starts = next(one for one in size(job, catalogue).checks if one.code == "starts")
    worst = starts.message.values["worst"].value_si * 3600
    storage = starts.message.values["storage"].value_si
    flow = size(job, catalogue).running.flow_m3s * 3600
    assert worst == pytest.approx(0.6 * (1 - 0.6 / flow) / storage, rel=1e-3)
    assert starts.state == "hold"


def test_pumps_that_take_turns_share_the_starts(catalogue):
    often = changed(JOBS[CELLAR], ("answers.start_level", "188 mm"))
    alone, turns = (
        size(job, catalogue) for job in (often, often.model_copy(update={"standby": 1}))
    )
    assert alone.match.fit_count < turns.match.fit_count
    said = next(one for one in turns.checks if one.code == "starts").message.text("metric")
    assert "taking turns" in said


def test_two_pumps_at_once_tell_the_starts_of_one_alone_too(catalogue):
    job = JOBS["bookbinders-cellar"].model_copy(
        update={"arrangement": "parallel", "running_pumps": 2}
    )
    found = check(size(job, catalogue), "starts").message
    assert "one alone starts" in found.template
    assert 0 < found.values["alone"].value_si < found.values["worst"].value_si
    plain = check(size(JOBS["bookbinders-cellar"], catalogue), "starts").message
    assert "one alone" not in plain.template


def test_taps_hold_the_flow_to_what_is_drawn(catalogue):
    """A pump twice as large gives no tap more than it takes: no speed fails for it."""
    shop = twins(JOBS[MILL], catalogue, {"curve": wider(2.0)})
    found = size(JOBS[MILL], shop)
    assert found.running.flow_m3s == found.demand.needed_m3s
    assert {one.state for one in found.checks if one.code.startswith("velocity")} == {"hold"}
    assert found.chosen.candidate.excess_m > 0
    base = known(found)
    assert {one.flow_m3s for one in grid.grid(base, "b").rows[0].cells} == {found.running.flow_m3s}
    assert options(base)[0].flow_m3s == found.running.flow_m3s
    assert {one.flow_m3s for one in methods.schools(base)} == {found.running.flow_m3s}


def test_a_well_pump_that_fills_an_open_tank_goes_by_the_day_and_leaves_a_booster(catalogue):
    open_tank = changed(JOBS["plant-nursery-well"], ("answers.fills", "open"))
    found = size(open_tank, catalogue)
    assert found.demand.needed_m3s == pytest.approx(2.3 / (12 * 3600))
    assert found.system.route.delivery_pressure_pa == 0.0
    booster = job_of(found)
    assert booster.kind == "booster"
    peak = size(
        changed(booster, ("answers.tank_level", "0.5 m"), ("legs.b.length", "9 m")), catalogue
    ).demand.inflow_m3s
    assert peak == pytest.approx(found.demand.inflow_m3s, rel=0.005)
    assert found.demand.inflow_m3s == size(JOBS["plant-nursery-well"], catalogue).demand.inflow_m3s


def test_a_job_that_leaves_nothing_makes_no_other(catalogue):
    with pytest.raises(SizingError, match="leaves no other"):
        job_of(size(JOBS["plant-nursery-well"], catalogue))


@pytest.mark.parametrize(
    ("edits", "together", "goes_in"),
    [
        ((("answers.chamber", "130 mm"),), 1, True),
        ((("answers.chamber", "109 mm"),), 1, False),
        ((("answers.chamber", "130 mm"), ("answers.chamber_length", "260 mm")), 1, True),
        ((("answers.chamber", "130 mm"), ("answers.chamber_length", "180 mm")), 1, False),
        ((("answers.chamber", "260 mm"), ("answers.chamber_length", "260 mm")), 2, True),
        ((("answers.chamber", "260 mm"), ("answers.chamber_length", "205 mm")), 2, False),
        ((("answers.chamber", "230 mm"), ("answers.chamber_length", "215 mm")), 2, True),
        ((("answers.chamber", "130 mm"), ("answers.chamber_height", "160 mm")), 1, True),
        ((("answers.chamber", "130 mm"), ("answers.chamber_height", "155 mm")), 1, False),
        ((("answers.chamber", "130 mm"), ("answers.chamber_clear", "0 mm")), 1, True),
        ((("answers.chamber", "130 mm"), ("answers.chamber_clear", "40 mm")), 1, False),
    ],
)
def test_all_pumps_go_into_the_chamber_with_their_cords(catalogue, edits, together, goes_in):
    sizes = {"width_m": 0.1, "length_m": 0.2, "height_m": 0.15, "price": 1.0}
    job = changed(JOBS["marine-classroom"], *edits)
    if together > 1:
        job = job.model_copy(update={"arrangement": "parallel", "running_pumps": together})
    found = size(job, twins(JOBS["marine-classroom"], catalogue, sizes))
    assert [one.pump.pump_id for one in found.match.fits] == (["a"] if goes_in else [])
    if not goes_in:
        said = found.match.nearest.reasons[0].text("metric")
        assert "cord and guard" in said
        too_high = edits[-1] == ("answers.chamber_height", "155 mm")
        assert ("high; the chamber" in said) == too_high  # only the side that truly misses is told


def test_a_size_that_the_record_lacks_is_asked_for(catalogue):
    job = changed(JOBS["marine-classroom"], ("answers.chamber", "300 mm"))
    shop = twins(job, catalogue, {"width_m": 0.1, "length_m": None, "price": 1.0})
    assert size(job, shop).match.fit_count == 1  # only its width is bounded
    longer = changed(job, ("answers.chamber_length", "400 mm"))
    asked = size(longer, shop).match.to_ask[0]
    assert asked.pump.pump_id == "a"
    assert asked.reasons[0].text("metric").endswith("ask the maker for its length")


@pytest.mark.parametrize(
    ("name", "edits", "says"),
    [
        (MILL, (("answers.supply_pressure", "6 bar"),), "the main alone"),
        ("hospice-rill", (("legs.a.ends_at", "-2 m"),), "the fall alone"),
    ],
)
def test_no_pump_needed_is_an_answer(catalogue, name, edits, says):
    found = size(changed(JOBS[name], *edits), catalogue)
    assert (found.recommended, found.chosen) == (None, None)
    assert says in verdict(found).main.text("metric")
    assert state_of(found) != "bad"


def test_rounding_decides_nothing(catalogue):
    job = changed(JOBS[CELLAR], ("answers.largest_solid", "10 mm"))
    hair, less = ({"solids_m": 0.01 - 9e-6}, {"solids_m": 0.0097})
    assert size(job, twins(job, catalogue, hair)).match.fit_count == 1
    assert size(job, twins(job, catalogue, less)).match.fit_count == 0


def test_a_curve_of_other_mains_is_scaled_where_the_motor_is_made_for_them(catalogue):
    job = changed(JOBS[CELLAR], ("answers.supply_frequency", "60 Hz"))
    shop = twins(job, catalogue, {"frequency_hz": 50.0, "also_hz": 60.0, "motor_power_w": 900.0})
    stated, scaled = shop.pumps[0], size(job, shop).chosen.candidate.pump
    assert scaled.scaled_hz == 60.0
    assert scaled.curve.heads_m == pytest.approx([h * 1.44 for h in stated.curve.heads_m])
    assert scaled.curve.flows_m3s == pytest.approx([q * 1.2 for q in stated.curve.flows_m3s])
    assert scaled.curve.powers_w == pytest.approx([p * 1.728 for p in stated.curve.powers_w])
    row = shop.at_mains(60.0)
    assert row.table.heads_m == pytest.approx(scaled.curve.heads_m)
    assert row.powers_w == pytest.approx(scaled.curve.powers_w)


def test_solar_goes_by_the_day_and_names_the_month_and_the_panels(catalogue):
    job = changed(JOBS["observatory-solar-well"], ("answers.daily_need", "14 m3"))
    found = size(job, catalogue)
    said = next(one for one in found.checks if one.code == "months").message.text("metric")
    assert found.recommended is None
    assert "short in" in said
    enough = changed(job, ("answers.panels", "5"))
    assert size(enough, catalogue).match.fit_count > found.match.fit_count


def test_the_chance_of_a_solar_pump_goes_by_its_day(catalogue):
    def found(need):
        job = changed(JOBS["observatory-solar-well"], ("answers.daily_need", need))
        return size(job, catalogue)

    easy, tight = found("2 m3"), found("11 m3")
    assert easy.chosen.candidate.chance > 0.99
    served = tight.chosen.candidate.surplus
    chance = tight.chosen.candidate.chance
    assert 0 < served < 0.15
    assert 0.5 < chance < 0.95
    job, wanted = tight.job, tight.wanted
    sampler = trust.sampler(known(tight), tight.rules)
    routes, factor = replace(sampler, up=0 * sampler.up, down=0 * sampler.down).sample(2)
    curve = tight.chosen.candidate.pump.curve
    still = wanted.served._served_on(curve, *_grid(curve, routes), np.ones_like(factor))
    assert still == pytest.approx(1 + served, rel=0.01)
    assert job.kind == "solar_well"


def _grid(curve, routes):
    flows = np.linspace(0.0, curve.last_flow_m3s, 41)
    return flows, np.array([routes.head_m(np.full(2, flow)) for flow in flows])


def test_the_report_says_its_verdict_and_what_is_recommended(catalogue):
    said = report(size(JOBS[CELLAR], catalogue))
    assert said["recommended"] == "vessmar-tarn-80"  # over 99 % sure where the cheaper one is 57 %
    assert said["verdict"]["state"] == "watch"
    assert said["verdict"]["worries"][0] == {"state": "watch", "said": "Power cut: fails"}


@pytest.mark.parametrize(
    ("edits", "code"),
    [((), 0), ((("legs.b.length", "1 m"),), 3), ((("answers.flow_from", "stated"),), 2)],
)
def test_the_command_ends_with_what_the_verdict_is(tmp_path, edits, code):
    job = changed(JOBS[CELLAR], *edits)
    (tmp_path / "job.json").write_text(job.model_dump_json(by_alias=True, exclude_none=True))
    asked = ["-m", "sizing", tmp_path / "job.json", "--catalogue", "demo/pumps.csv"]
    made = subprocess.run([sys.executable, *asked], capture_output=True, text=True, check=False)
    assert made.returncode == code, made.stderr
    assert json.loads(made.stdout)["format"] == "kyrtos-sizing/1"


def test_the_weakest_fitting_bounds_the_pressure_as_a_pipe_does(catalogue):
    job = changed(JOBS["converted-mill"], ("legs.b.rated", "6 bar"))
    plain, weak = size(JOBS["converted-mill"], catalogue), size(job, catalogue)
    assert plain.match.fit_count > weak.match.fit_count
    assert "its weakest fitting" in check(weak, "pressure").message.text("metric")
    strong = size(changed(job, ("legs.b.rated", "25 bar")), catalogue)
    assert strong.match.fit_count == plain.match.fit_count
    gone = size(changed(job, ("legs.b.rated", "")), catalogue)
    assert gone.match.fit_count == plain.match.fit_count


def test_jets_ask_for_a_height_or_a_pressure_and_their_nozzle_gives_the_flow(catalogue):
    jets = (
        ("lists.jets.r1.count", "3"),
        ("lists.jets.r1.bore", "10 mm"),
        ("answers.flow_from", "jets"),
    )
    plain = changed(JOBS["hospice-rill"], *jets)
    assert [one.path for one in size(plain, catalogue).missing] == [
        "lists.jets.r1.flow",
        "answers.jet_height",
    ]
    by_height = size(changed(plain, ("answers.jet_height", "1.2 m")), catalogue)
    head_m = 1.2 / 0.85
    one_m3s = 0.95 * np.pi / 4 * 0.01**2 * np.sqrt(2 * 9.80665 * head_m)
    assert by_height.demand.needed_m3s == pytest.approx(3 * one_m3s)
    (nozzles,) = by_height.system.route.devices
    assert nozzles.rated_head_m == pytest.approx(head_m)
    by_pressure = size(
        changed(plain, ("answers.jet_height", "1.2 m"), ("answers.nozzle_pressure", "0.3 bar")),
        catalogue,
    )
    assert by_pressure.system.route.devices[0].rated_head_m == pytest.approx(3.06, rel=0.01)
    rises = check(by_height, "jets").message.values["rises"].value_si
    flow = by_height.chosen.candidate.flow_m3s
    assert rises == pytest.approx(1.2 * (flow / by_height.demand.needed_m3s) ** 2)
