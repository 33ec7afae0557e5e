"""Every rule that a house may set decides something: set away from its value, an answer turns."""

from __future__ import annotations

import dataclasses

import pytest

from sizing.analysis import methods, sensitivity
from sizing.analysis.changed import known
from sizing.base.rules import PARTS, Override, Rules, defaults
from sizing.document.answers import Facts
from sizing.document.job import Figure, ListRow
from sizing.kinds import kinds
from sizing.kinds.well_questions import daily_volume_m3
from sizing.pump.catalogue import Catalogue
from sizing.results.report import report
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS
from tests.thin import some

SETTABLE = [
    f"{rule.rule_id} {part}" for rule in defaults().values() for part in PARTS if part in rule.parts
]
FACTORS = (0.3, 3.0)
# A job on which a rule has a say: its name, edits, and the rules with their parts.
WITNESSES = [
    (
        "bookbinders-cellar",
        (),
        (
            "VEL-12 low",
            "VEL-12 high",
            "CYC-01 usual",
            "CHO-17 usual",
            "CHO-21 usual",
            "CHO-22 usual",
            "CYC-02 usual",
            "BAS-08 low",
            "BAS-09 low",
            "HI-01 low",
            "HI-01 high",
            "SMP-02 usual",
            "SMP-05 low",
            "SMP-05 usual",
            "SMP-05 high",
            "CHO-01 usual",
            "CHO-02 usual",
            "CHO-03 usual",
            "CHO-07 usual",
            "CHO-10 usual",
            "CHO-11 usual",
            "CHO-16 usual",
            "CHO-13 low",
            "CHO-13 usual",
            "MOT-07 usual",
            "MOT-08 usual",
            "ELE-12 usual",
        ),
    ),
    ("chandlers-undercroft", (), ("CHO-06 usual",)),
    (
        "rowing-club-changing-rooms",
        (),
        (
            "VEL-07 low",
            "VEL-09 high",
            "CYC-03 usual",
            "CHO-20 usual",
            "BAS-14 usual",
        ),
    ),
    ("rowing-club-changing-rooms", (), ("SEW-01 usual",)),
    ("rowing-club-changing-rooms", (("answers.people", ""),), ("CHO-19 usual",)),
    (
        "rowing-club-changing-rooms",
        (
            ("answers.people", ""),
            ("answers.drainage_units", ""),
            ("answers.discharge_units", "12"),
            ("answers.flow_from", "largest"),
        ),
        ("CHO-18 usual",),
    ),
    ("hostel-willow-bed", (), ("VEL-11 low", "EFF-05 low", "CHO-23 usual")),
    (
        "cabins-over-the-ridge",
        (),
        ("RET-01 high", "RET-02 high", "PSW-01 usual", "PSW-02 usual"),
    ),
    (
        "plant-nursery-well",
        (),
        (
            "VEL-13 high",
            "CYC-10 usual",
            "TNK-01 usual",
            "MOT-01 usual",
            "WEL-01 usual",
            "WEL-07 usual",
            "WEL-13 usual",
            "WEL-14 usual",
        ),
    ),
    (
        "plant-nursery-well",
        (
            ("answers.outlets", ""),
            ("answers.spray_flow", ""),
            ("answers.flow_from", "day"),
            ("answers.garden", ""),
        ),
        ("CHO-24 usual",),
    ),
    ("observatory-solar-well", (), ("SOL-01 usual", "SOL-02 usual")),
    (
        "converted-mill",
        (),
        (
            "VEL-02 high",
            "VEL-06 high",
            "NPSH-03 usual",
            "BST-03 usual",
            "BST-07 high",
            "BST-06 usual",
            "TNK-05 usual",
        ),
    ),
    ("converted-mill", (), ("BST-09 usual", "NPSH-01 low")),
    (
        "converted-mill",
        (
            ("answers.supply_from", "tank"),
            ("answers.tank_level", "-2 m"),
            ("legs.a.pipe", "PVC-U PN10 160 mm"),
        ),
        ("VEL-02 low",),
    ),
    ("bakery-cistern", (), ("VEL-01 high", "NPSH-05 usual", "NPSH-06 usual")),
    (
        "hospice-rill",
        (),
        ("CHO-09 usual", "VEL-15 high", "PND-02 usual", "PND-03 usual", "PND-05 usual"),
    ),
    (
        "marine-classroom",
        (),
        (
            "VEL-16 high",
            "AQU-01 usual",
            "AQU-01 low",
            "AQU-01 high",
            "AQU-02 usual",
            "AQU-03 usual",
            "AQU-05 usual",
            "AQU-07 usual",
            "POW-01 usual",
            "CHO-14 usual",
            "MOT-07 low",
        ),
    ),
    (
        "hydrotherapy-tub",
        (),
        ("VEL-18 high", "VEL-19 high", "SPA-02 low", "SPA-02 usual", "SPA-02 high", "SPA-06 low"),
    ),
    (
        "soup-kitchen-van",
        (),
        ("TNK-01 low", "DEM-01 usual", "DEM-02 low", "DEM-02 high", "DEM-03 usual"),
    ),
    (
        "plant-nursery-well",
        (("answers.cut_in", ""), ("answers.cut_out", "")),
        ("TNK-02 usual", "TNK-03 usual"),
    ),
    (
        "bakery-cistern",
        (("answers.source_level", "-5.8 m"), ("legs.a.length", "9 m")),
        ("NPSH-05 high",),
    ),
    (
        "hospice-rill",
        (("answers.sheet", "medium"), ("answers.flow_from", "sheet")),
        ("PND-04 usual",),
    ),
    ("hydrotherapy-tub", (("lists.jets.r1.flow", ""),), ("SPA-01 usual",)),
    (
        "plant-nursery-well",
        (("answers.baths", "WEL-02"), ("answers.flow_from", "baths")),
        ("CYC-09 usual", "WEL-02 usual"),
    ),
    (
        "plant-nursery-well",
        (("answers.baths", "WEL-03"), ("answers.flow_from", "baths")),
        ("WEL-03 usual",),
    ),
    (
        "plant-nursery-well",
        (("answers.baths", "WEL-04"), ("answers.flow_from", "baths")),
        ("WEL-04 usual",),
    ),
    (
        "plant-nursery-well",
        (("answers.baths", "WEL-05"), ("answers.flow_from", "baths")),
        ("WEL-05 usual",),
    ),
    (
        "hostel-willow-bed",
        (("answers.distal_head", ""), ("answers.doses", "")),
        ("EFF-02 usual", "EFF-07 usual"),
    ),
    ("bookbinders-cellar", (("answers.pit_diameter", "330 mm"),), ("CHO-04 usual", "CHO-05 usual")),
    ("bookbinders-cellar", (("answers.voltage", "245 V"),), ("CHO-08 usual",)),
    ("soup-kitchen-van", (("answers.accumulator", "0.5 l"),), ("DEM-03 low",)),
    (
        "plant-nursery-well",
        (("answers.pump_setting", "45.5 m"), ("legs.a.length", "46 m")),
        ("WEL-13 low",),
    ),
    (
        "plant-nursery-well",
        (("answers.pump_setting", "24 m"), ("answers.static_level", "14 m")),
        ("WEL-14 low",),
    ),
    ("observatory-solar-well", (("answers.tank", "3 m3"),), ("SOL-02 low",)),
    ("converted-mill", (("answers.supply_pressure", "0.9 bar"),), ("BST-03 low",)),
    ("converted-mill", (("answers.outlet_limit", "en"),), ("BST-10 high",)),
    (
        "rowing-club-changing-rooms",
        (("answers.speed_limits", "en"),),
        ("VEL-22 low", "VEL-22 high"),
    ),
    ("hospice-rill", (("answers.jet_height", "1.2 m"),), ("PND-08 usual",)),
    (
        "bookbinders-cellar",
        (),
        (
            "VEL-15 low",
            "VEL-16 low",
            "AQU-06 usual",
            "PND-01 usual",
            "TRU-01 usual",
            "TRU-02 usual",
            "TRU-03 usual",
            "TRU-04 usual",
            "TRU-05 usual",
            "TRU-07 usual",
            "TRU-09 usual",
        ),
    ),
    ("boathouse-crawl-space", (), ("TRU-08 usual",)),
    (
        "plant-nursery-well",
        (("answers.generator", "2 kW"), ("answers.highest_outlet", "9 m")),
        ("ELE-03 high", "ELE-08 usual", "ELE-13 usual", "BST-02 usual", "BST-02 low"),
    ),
    ("cabins-over-the-ridge", (("answers.arrangement", "own"),), ("VEL-21 usual",)),
    ("marine-classroom", (("pump", "ondrath-k-11"),), ("CHO-14 high",)),
    ("plant-nursery-well", (), ("TNK-06 usual", "TNK-06 high")),
    ("bakery-cistern", (("answers.altitude", "2000 m"),), ("ELE-14 usual",)),
    (
        "bookbinders-cellar",
        (("answers.room_width", "300 mm"), ("answers.room_rails", "yes")),
        ("CHO-15 usual",),
    ),
    ("hostel-willow-bed", (), ("TRU-06 usual",)),
    (
        "bookbinders-cellar",
        (
            ("answers.flow_from", "drained_area"),
            ("answers.soil", "sand"),
            ("answers.drained_area", "200 m2"),
        ),
        ("SMP-01 usual",),
    ),
]
BY_RULE = {rule: (name, edits) for name, edits, rules in WITNESSES for rule in rules}
ANIMALS = [rule for rule in SETTABLE if rule.startswith("WEL-A-")]
# Read by a dialog alone.
BY_DIALOG = (
    "AQU-",
    "PND-",
    "TRU-",
    "VEL-",
)
SHOWN_ELSEWHERE = {
    "MOT-02 usual",
    "MOT-06 usual",
    "CHO-12 usual",
    "NPSH-07 usual",
    "CYC-01 high",
    "CYC-03 high",
    "CYC-02 low",
    *(f"HND-0{number} usual" for number in range(1, 7)),
    *(f"CYC-0{number} high" for number in (6, 7, 8)),
}  # below, each with pumps of its own; HND in test_handover


def answer(job, catalogue, rules, *, dialogs=False):
    """What a page shows of a job: the report, its defaults; and the dialogs that read rules."""
    sizing = size(job, catalogue, rules)
    questions = [question for question in sizing.kind.questions if question.dimension]
    shown = [report(sizing), [sizing.facts.figure(question.key) for question in questions]]
    shown.append([question.usual_by(rules) for question in questions])
    for dialog in (methods.schools, sensitivity.sensitivities) if dialogs else ():
        shown.append(dialog(known(sizing)))
    return repr(shown)


def away(rule: str, factor: float) -> Rules:
    rule_id, part = rule.split()
    found = defaults()[rule_id]
    value = found.typical_si if found.part(part) is None else found.part(part)
    return Rules({rule_id: Override(**{f"{part}_si": value * factor})})


def turns(job, catalogue, rule, factors=FACTORS) -> bool:
    dialogs = rule.startswith(BY_DIALOG)
    before = answer(job, catalogue, Rules({}), dialogs=dialogs)
    return any(
        answer(job, catalogue, away(rule, factor), dialogs=dialogs) != before for factor in factors
    )


def test_every_rule_that_can_be_set_has_a_job_on_which_it_shows():
    assert set(SETTABLE) == {*BY_RULE, *ANIMALS, *SHOWN_ELSEWHERE}


@pytest.mark.parametrize("rule", some(sorted(BY_RULE), 40))
def test_a_rule_that_is_set_away_changes_something(rule, catalogue):
    name, edits = BY_RULE[rule]
    assert turns(changed(JOBS[name], *edits), catalogue, rule)


@pytest.mark.parametrize("rule", ANIMALS)
def test_each_animal_drinks_by_its_own_rule(rule):
    animal = rule.split()[0].removeprefix("WEL-A-")
    herd = ListRow(id="r1", cells={"animal": animal, "count": Figure(value=200, unit="×")})
    job = JOBS["plant-nursery-well"].model_copy(update={"lists": {"stock": (herd,)}})
    kind = kinds()["well"]
    drunk = [
        daily_volume_m3(Facts(job, kind.questions, kind.lists), rules)
        for rules in (Rules({}), away(rule, 3.0))
    ]
    assert drunk[1] > drunk[0]


def test_a_motor_of_unknown_width_is_as_wide_as_its_rule_says(catalogue):
    job = JOBS["plant-nursery-well"]
    pump = size(job, catalogue).chosen.candidate.pump
    unknown = Catalogue([dataclasses.replace(pump, width_m=None)])
    assert turns(changed(job, ("pump", pump.pump_id)), unknown, "MOT-06 usual")


@pytest.mark.parametrize(
    ("name", "rule"),
    [
        ("bookbinders-cellar", "CYC-01 high"),
        ("bookbinders-cellar", "CYC-02 low"),
        ("rowing-club-changing-rooms", "CYC-03 high"),
    ],
)
def test_starts_of_a_large_pump_are_refused_by_its_own_rule(name, rule, catalogue):
    pump = size(JOBS[name], catalogue).chosen.candidate.pump
    large = Catalogue([dataclasses.replace(pump, motor_power_w=2200.0)])
    assert turns(changed(JOBS[name], ("pump", pump.pump_id)), large, rule)


@pytest.mark.parametrize(
    ("rule", "power_w"), [("CYC-06", 370.0), ("CYC-07", 1500.0), ("CYC-08", 7500.0)]
)
def test_starts_a_day_are_those_of_the_motors_size(rule, power_w, catalogue):
    job = JOBS["plant-nursery-well"]
    pump = size(job, catalogue).chosen.candidate.pump
    shop = Catalogue([dataclasses.replace(pump, motor_power_w=power_w)])
    assert turns(changed(job, ("pump", pump.pump_id)), shop, f"{rule} high")


def test_a_six_inch_motor_is_cooled_by_its_own_rule(catalogue):
    job = changed(JOBS["plant-nursery-well"], ("answers.casing", "200 mm"))
    pump = size(job, catalogue).chosen.candidate.pump
    wide = Catalogue([dataclasses.replace(pump, width_m=0.143)])
    assert turns(changed(job, ("pump", pump.pump_id)), wide, "MOT-02 usual")


def test_a_silent_maker_is_asked_for_npsh_where_little_is_left(catalogue):
    job = JOBS["bakery-cistern"]
    pump = size(job, catalogue).chosen.candidate.pump
    curve = dataclasses.replace(pump.curve, npsh_required_m=None)
    silent = Catalogue([dataclasses.replace(pump, curve=curve)])
    assert turns(job, silent, "NPSH-07 usual")


def test_noises_count_as_alike_within_the_step_of_their_rule(catalogue):
    job = JOBS["marine-classroom"]
    fits = size(job, catalogue).match.fits[0].pump
    dear = dataclasses.replace(
        fits, pump_id="quiet", model="Quiet", noise_db=fits.noise_db - 4.0, price=fits.price * 1.01
    )
    assert turns(job, Catalogue([fits, dear]), "CHO-12 usual", (0.3, 10.0))


def test_defaults_in_round_figures_are_those_of_their_rules():
    for kind in kinds().values():
        for question in kind.questions:
            if question.default_rule:
                figure = question.default_by(Rules({}))
                ids = question.default_rule.split("+")
                shipped = sum(Rules({}).value(one) for one in ids) * question.rule_factor
                assert figure.si(question.dimension) == pytest.approx(shipped, rel=0.04)
