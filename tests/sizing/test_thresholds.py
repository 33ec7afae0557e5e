"""Each threshold holds, watches and fails where it should; each rule of the order decides."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from sizing.base.errors import SizingError
from sizing.base.rounding import ROUNDING
from sizing.base.rules import SHIPPED
from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import Speeds, velocities
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve import at_speed
from sizing.results.verdict import verdict
from sizing.selection import order
from sizing.selection.match import candidate, match
from sizing.selection.requirement import AtLeast, AtMost, Supply
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS
from tests.sizing.test_match import FLOW, ROUTE, names, pump, wanted


@pytest.fixture(scope="module")
def running(catalogue):
    return size(JOBS["bookbinders-cellar"], catalogue).running


def state_of(running, code):
    return next(one.state for one in pump_checks(running) if one.code == code)


UNDER, OVER = 1 - 2 * ROUNDING, 1 + 2 * ROUNDING  # by more than rounding
LOW, HIGH = SHIPPED.low("HI-01"), SHIPPED.high("HI-01")
FURTHEST = SHIPPED.value("CHO-17")


@pytest.mark.parametrize(
    ("share", "state"),
    [
        (LOW, "hold"),
        (HIGH, "hold"),
        (LOW * UNDER, "watch"),
        (HIGH * OVER, "watch"),
        (0.6 * LOW, "watch"),
        (FURTHEST, "watch"),
        (0.6 * LOW * UNDER, "fail"),
        (FURTHEST * OVER, "fail"),
    ],
)
def test_the_place_on_the_curve(running, share, state):
    moved = replace(running, pump=replace(running.pump, share_of_best_flow=share))
    assert state_of(moved, "on_curve") == state


def test_a_pump_far_right_that_may_be_throttled_to_the_duty_is_watched(running):
    far = replace(running, pump=replace(running.pump, share_of_best_flow=FURTHEST * 1.2))
    assert state_of(far, "on_curve") == "fail"
    twice = replace(far, flow_m3s=2 * far.demand.needed_m3s)
    assert state_of(twice, "on_curve") == "watch"


def test_enough_flow(running):
    needed, inflow = running.demand.needed_m3s, running.demand.inflow_m3s
    for flow, state in (
        (needed, "hold"),
        (needed * (1 - 1e-9), "hold"),
        (needed * UNDER, "watch"),
        (inflow, "watch"),
        (inflow * UNDER, "fail"),
    ):
        assert state_of(replace(running, flow_m3s=flow), "flow") == state


def test_reserve_at_shut_off(running):
    least = SHIPPED.value("CHO-03") * running.system.static_head_m
    for margin, state in (
        (least, "hold"),
        (least * UNDER, "watch"),
        (1e-9, "watch"),
        (0.0, "fail"),
        (-1.0, "fail"),
    ):
        moved = replace(running, pump=replace(running.pump, shutoff_margin_m=margin))
        assert state_of(moved, "reserve") == state


def test_speed_in_a_pipe(running):
    speed = float(running.system.velocities_m_s(running.flow_m3s)[0, 0])
    low, high = SHIPPED.low("VEL-12"), SHIPPED.high("VEL-12")
    for wanted_speed, state in (
        (low, "hold"),
        (high, "hold"),
        (0.99 * low, "watch"),
        (1.25 * high, "watch"),
        (1.26 * high, "fail"),
    ):
        moved = replace(running, flow_m3s=running.flow_m3s * wanted_speed * (1 + 1e-12) / speed)
        if wanted_speed in (high, 1.25 * high):
            moved = replace(moved, flow_m3s=moved.flow_m3s * (1 - 1e-9))
        speeds = Speeds("VEL-12", "", "VEL-12")
        assert next(velocities(moved, moved.flow_m3s, speeds)).state == state


KEYS = (
    "watched",
    "far_too_big",
    "preferred",
    "too_big",
    "reserve",
    "step",
    "noise",
    "stock",
    "cost",
    "name",
)


def two_pumps(decides: str):
    """Pumps A and B: B is better by every rule after ``decides``, A by that one alone."""
    at = KEYS.index(decides)

    def better(key):  # which of the two is better by a key: 0 is A, 1 is B, None neither
        place = KEYS.index(key)
        return None if place < at else 0 if place == at else 1

    def flags(key, good, bad):
        first = better(key)
        return np.array([good if first in (None, index) else bad for index in (0, 1)])

    dearer = {None: (100.0, 100.0), 0: (100.0, 200.0), 1: (200.0, 100.0)}
    cost = np.array(dearer[better("step")])
    if decides in ("noise", "stock", "cost", "name"):  # within one step of each other
        cost = np.array(
            {None: (100.0, 100.0), 0: (100.0, 101.0), 1: (101.0, 100.0)}[better("cost")]
        )
    columns = {"stock": flags("stock", 1.0, np.nan), "noise_db": flags("noise", 30.0, 60.0)}
    catalogue = SimpleNamespace(
        rank_by_id=np.array([0, 1]) if better("name") in (None, 0) else np.array([1, 0]),
        bought=1,
        column=lambda name: columns[name],
    )
    sweep = SimpleNamespace(
        catalogue=catalogue,
        rows=np.array([0, 1]),
        rules=SHIPPED,
        wanted=SimpleNamespace(quiet=True),
        operating_point=SimpleNamespace(flow_m3s=np.array([0.001, 0.001])),
        reserve_enough=flags("reserve", True, False),
        too_big=flags("too_big", False, True),
        preferred=flags("preferred", True, False),
        far_too_big=flags("far_too_big", False, True),
        watched=flags("watched", False, True),
    )
    return sweep, cost


@pytest.mark.parametrize("decides", KEYS)
def test_each_rule_of_the_order_goes_before_those_behind_it(decides, monkeypatch):
    sweep, cost = two_pumps(decides)
    monkeypatch.setattr(order, "costs_per_year", lambda *_: cost)
    assert list(order.in_order(sweep, np.array([0, 1]))) == [0, 1]


def test_noise_counts_only_where_people_live_beside_it(monkeypatch):
    sweep, cost = two_pumps("noise")
    sweep.wanted.quiet = False
    monkeypatch.setattr(order, "costs_per_year", lambda *_: cost)
    assert list(order.in_order(sweep, np.array([0, 1]))) == [1, 0]  # B is on the shelf


@pytest.mark.parametrize(("voltage", "phases", "fits"), [(230, 1, True), (230, 3, False)])
def test_the_phases_of_the_supply_count(voltage, phases, fits):
    found = match(
        Catalogue([pump("one")]), ROUTE, wanted(FLOW, Supply(voltage, phases, 0.1)), SHIPPED
    )
    assert bool(found.fits) is fits


@pytest.mark.parametrize(
    ("volts", "fits"), [(253.0, True), (253.4, False), (207, True), (206, False)]
)
def test_a_motor_takes_a_voltage_a_tenth_off_its_own(volts, fits):
    found = match(Catalogue([pump("one")]), ROUTE, wanted(FLOW, Supply(volts, 1, 0.1)), SHIPPED)
    assert bool(found.fits) is fits


SHORT, LIMIT = "only {has}; {wanted} wanted", SHIPPED.value("CHO-04")


@pytest.mark.parametrize(
    ("has", "kind"),
    [(0.01, "fits"), (0.01 * (1 - LIMIT), "near"), (0.01 * (1 - LIMIT) - 2e-5, "out")],
)
def test_one_requirement_may_be_missed_by_so_much(has, kind):
    requirement = AtLeast("solids_m", 0.01, "size", "solids", SHORT)
    found = match(Catalogue([pump("one", solids_m=has)]), ROUTE, wanted(FLOW, requirement), SHIPPED)
    assert (bool(found.fits), bool(found.near_misses)) == (kind == "fits", kind == "near")


def test_two_requirements_missed_by_a_little_are_out():
    solids = AtLeast("solids_m", 0.0101, "size", "solids", SHORT)
    width = AtMost("width_m", 0.199, "size", "width", SHORT)
    found = match(Catalogue([pump("one")]), ROUTE, wanted(FLOW, solids, width), SHIPPED)
    assert (found.fits, found.near_misses) == ((), ())
    assert dict(found.out) == {"solids": 1, "width": 1} or sum(dict(found.out).values()) == 1


def test_pumps_out_for_one_reason_are_counted_together():
    both = [AtLeast("solids_m", 1.0, "size", "solids", SHORT) for _ in range(2)]
    found = match(Catalogue([pump("a"), pump("b")]), ROUTE, wanted(FLOW, both[0]), SHIPPED)
    assert found.out == (("solids", 2),)


def test_a_fit_exactly_at_the_flow_needed_is_a_fit():
    assert names(match(Catalogue([pump("one")]), ROUTE, wanted(FLOW), SHIPPED).fits) == ["one"]


def test_a_pump_picked_by_a_person_says_what_it_says_in_the_list():
    catalogue = Catalogue([pump("one")])
    (listed,) = match(catalogue, ROUTE, wanted(FLOW), SHIPPED).fits
    picked = candidate(catalogue, ROUTE, wanted(FLOW), SHIPPED, 0)
    assert (picked.fits, picked.reasons) == (True, listed.reasons)


def test_a_pump_that_is_not_listed_is_not_found():
    found = match(Catalogue([pump("one")]), ROUTE, wanted(FLOW), SHIPPED)
    assert found.find("one") is not None
    assert found.find("another") is None


def test_the_worst_worry_comes_first(catalogue):
    job = changed(JOBS["bookbinders-cellar"], ("answers.stop_level", "270 mm"))
    job = changed(job, ("answers.start_level", "290 mm"), ("answers.alarm_level", "1.3 m"))
    states = [state for state, _ in verdict(size(job, catalogue)).worries]
    assert states[0] == "bad"
    assert states == sorted(states, key=("bad", "ask", "watch").index)


@pytest.mark.parametrize(("length", "told"), [("3.75 m", False), ("3.0 m", True)])
def test_a_leg_shorter_than_its_climb_is_told(catalogue, length, told):
    sizing = size(changed(JOBS["bookbinders-cellar"], ("legs.b.length", length)), catalogue)
    assert any("too short" in problem for problem in sizing.problems) is told
    assert [one.path for one in sizing.wrong] == (["legs.b.length"] if told else [])


def test_a_slower_pump_is_not_credited_with_a_lower_npsh_required(curve):
    assert at_speed(curve, 0.5).npsh_required_m == curve.npsh_required_m


def test_an_arrangement_that_is_none_is_refused(catalogue):
    with pytest.raises(SizingError):
        catalogue.arranged("parallel", 0)
