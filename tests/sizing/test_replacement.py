"""A dead pump on the counter: its plate, what it did, what does the same, what to flag."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.aftercare.replacement.duty import promised_run
from sizing.aftercare.replacement.old_pump import OldPump, frame_of, guess, power_of
from sizing.aftercare.replacement.ports import nominal
from sizing.aftercare.replacement.replacement import replacement
from sizing.base.errors import SizingError
from sizing.base.units import unit
from tests.sizing.test_wear_and_as_built import PROMISE

HP = unit("hp", "power").to_si(1.0)
PIT = {"lift_m": 4.0, "length_m": 12.0, "bore_m": 0.04}


def named(catalogue, model):
    return next(one for one in catalogue.pumps if one.model == model)


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("1-1/2 in", 40),
        ("DN 40", 40),
        ("40 mm", 40),
        ("2", 50),
        ("1 1/4 inch", 32),
        ("3 in", 80),
        ("7 in", None),
        ("flange", None),
        ("", None),
    ],
)
def test_ports_are_one_size_however_they_are_written(text, size):
    assert nominal(text) == size


@pytest.mark.parametrize(
    ("amps", "hp", "says"),
    [
        (2.6, 1.0, "Not a true 1 hp"),
        (5.6, 1.0, "agree"),
        (9.5, 1.0, "overloaded"),
        (5.6, None, ""),
    ],
)
def test_the_label_against_the_amps(amps, hp, says):
    found = power_of(OldPump(voltage_v=230.0, current_a=amps, label_power_w=hp and hp * HP))
    assert says in found.says
    assert (found.says == "") is (hp is None)
    assert "assumed" in found.assumed


def test_without_amps_or_volts_nothing_is_said_of_power():
    assert power_of(OldPump(voltage_v=230.0)) is None
    assert power_of(OldPump(current_a=3.0)) is None


def test_three_phases_draw_root_three_as_much():
    one, three = (
        power_of(OldPump(voltage_v=400.0, current_a=3.0, phases=phases)).plate for phases in (1, 3)
    )
    ratio = three.input_power_w / three.power_factor / (one.input_power_w / one.power_factor)
    assert ratio == pytest.approx(3**0.5)
    with pytest.raises(SizingError, match="one phase or three"):
        guess(2, 1.0)


@pytest.mark.parametrize(
    ("bolts", "says"), [(0.0889, "small"), (0.105, "large"), (0.1018, "again"), (None, "")]
)
def test_the_frame_by_its_bolts(bolts, says):
    assert says in frame_of(OldPump(bolt_spacing_m=bolts))


def test_like_for_like_comes_first_and_the_same_pump_before_all(catalogue):
    k11 = named(catalogue, "K 11")
    found = replacement(OldPump(maker="Ondrath", model="K 11", **PIT), catalogue, known=k11)
    assert found.pumps[0].pump == k11
    assert found.pumps[0].like_for_like
    heavy = [sum(one.heavy for one in each.changes) for each in found.pumps[1:]]
    assert heavy == sorted(heavy)
    assert all(0.85 <= one.flow_m3s / found.duty.flow_m3s <= 2.0 for one in found.pumps)


def test_a_plate_that_the_catalogue_lacks_is_found_by_power_and_lift(catalogue):
    old = OldPump(family="sump", voltage_v=230.0, current_a=2.6, label_power_w=HP, lift_m=5.0)
    found = replacement(old, catalogue)
    assert found.duty.how.startswith("its power and its lift")
    assert found.pumps
    assert all(one.pump.family == "sump" for one in found.pumps)
    assert not any(one.pump.voltage_v and one.pump.voltage_v < 200 for one in found.pumps)


DUTIES = [
    (OldPump(family="sump", flow_m3s=1.5e-3, **PIT), "its flow on its run"),
    (OldPump(family="sump", flow_m3s=1.5e-3, lift_m=4.0), "its flow, and its lift"),
    (OldPump(family="sump", label_power_w=HP / 2, lift_m=4.0), "its power and its lift"),
    (OldPump(family="sump", label_power_w=HP / 2), "pumps of its power"),
    (OldPump(family="sump", flow_m3s=1.5e-3), ""),
    (OldPump(family="sump"), ""),
    (OldPump(family="spa", flow_m3s=20 / 3600), "at the head that"),  # a loop lifts nothing
    (OldPump(family="spa", label_power_w=HP), "pumps of its power"),
    (OldPump(family="spa"), ""),
]


@pytest.mark.parametrize(("old", "how"), DUTIES)
def test_the_duty_comes_from_the_best_that_is_known(catalogue, old, how):
    found = replacement(old, catalogue)
    assert (found.duty.how if found.duty else "").find(how) >= 0
    assert bool(found.duty) is bool(how)
    assert bool(found.pumps) <= bool(found.duty)


def test_an_old_jobs_run_is_the_run(catalogue):
    k11 = named(catalogue, "K 11")
    found = replacement(OldPump(), catalogue, known=k11, run=promised_run(PROMISE))
    point = found.pumps[0]
    assert point.head_m == pytest.approx(4.0 + 6e5 * point.flow_m3s**2, rel=1e-4)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"outlet": "1-1/4 in"}, "a reducer"),
        ({"seen": {"float": "yes"}}, "a switch is needed"),
        ({"solids_m": 0.05}, "passes"),
        ({"height_m": 0.2}, "higher"),
        ({"width_m": 0.1}, "wider"),
        ({"label_power_w": 60.0}, "breaker"),
        ({"speeds": 2}, "two speeds"),
        ({"direction": "up"}, "turn the new wet end"),
        ({"seal": "lip seal {x}"}, "seal"),
        ({"speed_rpm": 1450.0}, "faster"),
    ],
)
def test_what_each_changes_is_told(catalogue, change, says):
    plain = OldPump(family="sump", flow_m3s=2e-3, **PIT)
    bare = replace(named(catalogue, "K 11"), float_type="none", solids_m=0.005)
    bare = replace(bare, seal="carbon and ceramic", speed_rpm=2850.0)
    from sizing.pump.catalogue import Catalogue

    one = Catalogue([bare])
    before = replacement(plain, one).pumps[0].changes
    after = replacement(replace(plain, **change), one).pumps[0].changes
    assert not any(says in each.message.text("metric") for each in before)
    assert any(says in each.message.text("metric") for each in after)


def test_another_supply_is_no_replacement(catalogue):
    old = OldPump(family="sump", flow_m3s=1.5e-3, voltage_v=115.0, phases=1, **PIT)
    found = replacement(old, catalogue)
    assert all(one.pump.voltage_v in (None, 115.0, 120.0) for one in found.pumps)
    assert ("want another supply" in dict(found.fell_out)) or not found.pumps


FLAGS = [
    ({"age_years": 2.0}, 8.0, "It lasted 2 years"),
    ({"age_years": 7.0}, 8.0, None),
    ({"age_years": 2.0}, None, None),
    ({"lift_m": 1.0, "length_m": 5.0, "bore_m": 0.05}, None, "too big for the lift"),
    ({"lift_m": 8.5, "length_m": 60.0, "bore_m": 0.032}, None, "too weak"),
    ({"lift_m": 40.0}, None, "never have lifted"),
    ({"serves": {"liquid": "sewage", "place": "pit", "feeds": "gravity"}}, None, "wrong family"),
    ({"voltage_v": 230.0, "current_a": 9.0, "label_power_w": HP / 2}, None, "more than its label"),
]


@pytest.mark.parametrize(("change", "lasts", "says"), FLAGS)
def test_the_old_one_was_wrong(catalogue, change, lasts, says):
    k11 = named(catalogue, "K 11")
    old = replace(OldPump(lift_m=5.0, length_m=14.0, bore_m=0.04), **change)
    texts = [one.text for one in replacement(old, catalogue, known=k11, lasts_years=lasts).flags]
    if says is None:
        assert not texts
    else:
        assert any(says in one for one in texts)
        assert len(texts) == 1 or says in texts[0]


def test_the_family_by_what_is_seen_and_what_goes_with_it(catalogue):
    seen = {"stands": "water", "cutter": "yes"}
    found = replacement(OldPump(seen=seen), catalogue)
    assert [one.family for one in found.families if one.fits] == ["grinder"]
    assert "floats and alarm" in dict(found.parts)
    with pytest.raises(SizingError, match="no family"):
        replacement(OldPump(family="balloon"), catalogue)


figures = st.one_of(st.none(), st.floats(1e-4, 1e3))


@given(st.tuples(*[figures] * 6), st.sampled_from(["", "sump", "spa", "well"]))
def test_whatever_is_known_nothing_breaks(catalogue, values, family):
    names = ("lift_m", "length_m", "bore_m", "flow_m3s", "age_years", "label_power_w")
    old = OldPump(family=family, **dict(zip(names, values)))
    try:
        found = replacement(old, catalogue)
    except SizingError:
        return
    for one in found.pumps:
        assert one.flow_m3s > 0 < one.head_m


def test_where_the_old_one_was_too_strong_nothing_stronger_is_like_for_like(catalogue):
    k11 = named(catalogue, "K 11")
    old = OldPump(lift_m=1.0, length_m=5.0, bore_m=0.05)
    found = replacement(old, catalogue, known=k11)
    assert found.flags[0].too_big
    for one in found.pumps:
        stronger = one.flow_m3s > 1.1 * found.duty.flow_m3s
        assert not (stronger and one.like_for_like)


@pytest.mark.parametrize(
    ("family", "serves"),
    [
        ("sump", {"liquid": "sewage"}),
        ("transfer", {"liquid": "sewage", "place": "pit"}),
        ("", {"liquid": "sewage", "place": "pit", "feeds": "gravity"}),
        ("sump", {"liquid": "ground", "place": "well"}),
    ],
)
def test_what_the_water_rules_out_is_not_sold_again(catalogue, family, serves):
    old = OldPump(
        family=family,
        serves=serves,
        lift_m=4.0,
        flow_m3s=1.5e-3,
        voltage_v=230.0,
        phases=1,
    )
    found = replacement(old, catalogue)
    allowed = {one.family for one in found.families if one.fits}
    assert family not in allowed
    assert {one.pump.family for one in found.pumps} <= allowed
    if "sewage" in serves.values():
        assert allowed <= {"sewage", "grinder", "effluent"}
        assert allowed & {"sewage", "grinder"}
    against = [one for one in found.families if one.family == family]
    assert all(one.reasons and not one.fits for one in against)


def test_what_suits_stays_like_for_like(catalogue):
    old = OldPump(family="sump", serves={"liquid": "ground", "place": "pit"}, lift_m=4.0)
    found = replacement(old, catalogue)
    assert [one.family for one in found.families if one.fits] == ["sump"]
