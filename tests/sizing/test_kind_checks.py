"""What the checks of each kind say when a fact goes wrong, a row each: job, edits, check, state."""

import pytest

from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS, WHOLE, check

ROWS = [
    ("cabins-over-the-ridge", (), "standing", "watch"),
    ("cabins-over-the-ridge", (("answers.people", "60"),), "standing", "hold"),
    ("cabins-over-the-ridge", (("answers.people", "8"),), "standing", "fail"),
    (
        "cabins-over-the-ridge",
        (
            ("answers.stated_flow", "2.8 m3/h"),
            ("answers.flow_from", "stated"),
            ("answers.people", ""),
        ),
        "standing",
        "watch",
    ),
    (
        "cabins-over-the-ridge",
        (("legs.b.ends_at", "9 m"), ("legs.l1.ends_at", "11 m")),
        "summit",
        "hold",
    ),
    ("cabins-over-the-ridge", (("legs.a.fittings", "2 elbow"),), "valves", "fail"),
    ("cabins-over-the-ridge", (("answers.inlet_level", "0.6 m"),), "inlet", "fail"),
    ("plant-nursery-well", (), "yield", "hold"),
    ("plant-nursery-well", (), "storage", "hold"),
    ("plant-nursery-well", (("answers.tank_volume", "500 l"),), "tank", "hold"),
    ("plant-nursery-well", (("answers.tank_volume", "60 l"),), "tank", "fail"),
    ("plant-nursery-well", (("answers.precharge", "2.9 bar"),), "precharge", "fail"),
    (
        "plant-nursery-well",
        (("answers.pump_setting", "45.5 m"), ("legs.a.length", "46 m")),
        "above_bottom",
        "fail",
    ),
    (
        "plant-nursery-well",
        (("answers.pump_setting", "44 m"), ("legs.a.length", "44 m")),
        "above_bottom",
        "watch",
    ),
    (
        "plant-nursery-well",
        (("answers.pump_setting", "24 m"), ("answers.static_level", "14 m")),
        "cover",
        "watch",
    ),
    ("plant-nursery-well", (("answers.casing", "300 mm"),), "cooling", "fail"),
    ("observatory-solar-well", (), "months", "hold"),
    (
        "observatory-solar-well",
        (
            ("lists.months.m12.sun", "0.15 h"),
            ("answers.stated_flow", "0.5 m3/h"),
            ("answers.flow_from", "stated"),
        ),
        "months",
        "fail",
    ),
    ("observatory-solar-well", (("answers.tank", "3 m3"),), "tank_days", "fail"),
    ("observatory-solar-well", (("answers.tank", "6 m3"),), "tank_days", "watch"),
    ("converted-mill", (("answers.upgrade", "rain"),), "upgrade", "hold"),
    ("converted-mill", (("answers.supply_pressure", "0.9 bar"),), "supply", "watch"),
    ("converted-mill", (("answers.supply_pressure", "0.5 bar"),), "supply", "fail"),
    ("converted-mill", (), "lowest", "watch"),
    ("converted-mill", (), "outlet", "hold"),
    ("converted-mill", (("pump", "tiddan-swift-4"),), "outlet", "fail"),
    (
        "converted-mill",
        (("answers.supply_from", "tank"), ("answers.tank_level", "1 m")),
        "suction",
        "hold",
    ),
    ("bakery-cistern", (("answers.floats", "both"),), "floats", "hold"),
    ("bakery-cistern", (("answers.floats", "none"),), "floats", "fail"),
    ("bakery-cistern", (), "fill", "hold"),
    ("bakery-cistern", (("pump", "vessmar-j-40"),), "fill", "fail"),
    (
        "bakery-cistern",
        (("answers.source_level", "-5.8 m"), ("legs.a.length", "9 m")),
        "lift",
        "watch",
    ),
    ("bakery-cistern", (("legs.a.fittings", "2 elbow"),), "lift", "watch"),
    ("hospice-rill", (), "sheet", "hold"),
    (
        "hospice-rill",
        (("answers.weir_width", "1.1 m"), ("answers.flow_from", "turnover")),
        "sheet",
        "watch",
    ),
    (
        "hospice-rill",
        (("answers.weir_width", "2.4 m"), ("answers.flow_from", "turnover")),
        "sheet",
        "fail",
    ),
    ("hospice-rill", (), "static", "hold"),
    (
        "hospice-rill",
        (("answers.hours_per_year", "8700 h"), ("answers.energy_price", "0.9")),
        "year",
        "watch",
    ),
    ("marine-classroom", (("answers.sump_level", "250 mm"),), "power_cut", "hold"),
    ("marine-classroom", (("answers.siphon_depth", "120 mm"),), "power_cut", "fail"),
    ("marine-classroom", (), "quick_rule", "watch"),
    ("marine-classroom", (), "noise", "hold"),
    ("marine-classroom", (), "box", "hold"),
    ("hydrotherapy-tub", (("answers.cover_rating", "12 m3/h"),), "cover", "fail"),
    ("hydrotherapy-tub", (("answers.suction_outlets", "1"),), "outlets", "fail"),
    ("hydrotherapy-tub", (("answers.blower", "far"),), "blower", "fail"),
    ("hydrotherapy-tub", (("answers.jet_pressure", "0.2 bar"),), "jets", "fail"),
    (
        "hydrotherapy-tub",
        (("lists.jets.r1.count", "2"), ("pump", "quorl-p-30")),
        "too_strong",
        "watch",
    ),
    ("soup-kitchen-van", (), "prime", "hold"),
    (
        "soup-kitchen-van",
        (("answers.tank_level", "-1.5 m"), ("legs.a.length", "2 m")),
        "prime",
        "watch",
    ),
    ("soup-kitchen-van", (("answers.switch_off", "4.5 bar"),), "switch", "fail"),
    ("soup-kitchen-van", (("answers.accumulator", "1 l"),), "cycling", "fail"),
    ("soup-kitchen-van", (("answers.liquid", "disinfectant"),), "elastomer", "watch"),
]


@pytest.mark.parametrize(
    ("name", "edits", "code", "state"),
    ROWS,
    ids=[f"{name}-{code}-{state}-{number}" for number, (name, _, code, state) in enumerate(ROWS)],
)
def test_a_check_holds_watches_or_fails(name, edits, code, state, catalogue):
    sizing = size(changed(JOBS[name], *edits), catalogue)
    assert sizing.chosen is not None
    found = check(sizing, code)
    assert found.state == state, found.message.text("metric")
    if state == "fail":
        assert found.remedy


@pytest.mark.parametrize("name", sorted(WHOLE))
def test_every_check_of_a_kind_is_named_once_and_speaks_in_both_systems(name, catalogue):
    sizing = size(WHOLE[name], catalogue)
    codes = [one.code for one in sizing.checks]
    assert len(codes) == len(set(codes))
    assert {"flow", "months"} & set(codes)
    assert "reserve" in codes
    for one in sizing.checks:
        metric, us = one.message.text("metric"), one.message.text("us")
        assert "{" not in metric + us
        assert one.working is None or one.working.lines("us")


PROBLEMS = [
    ("plant-nursery-well", (("answers.cut_in", "4 bar"),), "stop at a higher pressure"),
    ("plant-nursery-well", (("answers.pump_setting", "14.5 m"),), "depth of the pump"),
    ("soup-kitchen-van", (("answers.switch_on", "3 bar"),), "start the pump at a lower pressure"),
    ("cabins-over-the-ridge", (("answers.start_level", "300 mm"),), "higher level than it stops"),
    ("cabins-over-the-ridge", (("answers.discharge", "main"),), None),
    ("converted-mill", (("answers.supply_from", "tank"),), None),
]


@pytest.mark.parametrize(
    ("name", "edits", "says"), PROBLEMS, ids=[f"{name}-{says}" for name, _, says in PROBLEMS]
)
def test_facts_that_contradict_each_other_are_told_and_missing_ones_asked(
    name, edits, says, catalogue
):
    sizing = size(changed(JOBS[name], *edits), catalogue)
    if says is None:
        assert sizing.missing
    else:
        assert any(says in problem for problem in sizing.problems), sizing.problems


def test_a_pressurised_main_costs_its_pressure(catalogue):
    cabins = JOBS["cabins-over-the-ridge"]
    into = changed(
        cabins,
        ("answers.discharge", "main"),
        ("answers.main_pressure", "0.9 bar"),
        ("legs.l1.ends_at", "12 m"),
    )
    free = changed(cabins, ("legs.l1.ends_at", "12 m"))
    more = size(into, catalogue).system.head_at(0.0) - size(free, catalogue).system.head_at(0.0)
    assert more == pytest.approx(
        12.0 + 0.9e5 / (999.5 * 9.80665) - 13.4, abs=0.02
    )  # the end governs instead of the 13.4 m summit


def test_a_filter_in_the_suction_takes_from_what_the_water_has_left(catalogue):
    plain = changed(JOBS["bakery-cistern"], ("pump", "vessmar-j-40"))
    lost, flows = [], []
    for job in (plain, changed(plain, ("legs.a.items", "filter: 0.3 bar at 4 m3/h"))):
        sizing = size(job, catalogue)
        lost.append(dict(check(sizing, "suction").working.inputs)["suction loss"].value_si)
        flows.append(sizing.at_flow_m3s)
        pipe, fittings = sizing.system.losses_m(flows[-1])
        lost[-1] -= float((pipe + fittings)[0, 0])
    # 0.3 bar of water at 12 °C is 3.06 m, and grows with the flow squared
    assert lost == pytest.approx([0.0, 3.06 * (flows[1] * 3600 / 4) ** 2], rel=2e-3, abs=1e-9)
