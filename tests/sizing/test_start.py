"""What a new job begins with, on a shop's own terms."""

import re

import pytest

from sizing.base import tables, units
from sizing.base.reader import Reader, reading
from sizing.base.rules import SHIPPED, Override, Rules
from sizing.document.job import Figure, dump, load
from sizing.editing.edit import edit, text_at
from sizing.hydraulics.pipes import pipe
from sizing.kinds import kind, kinds
from sizing.kinds.start import Terms, first_document, region_defaults
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS

US = Terms("us", voltage_v=115.0, phases=1, frequency_hz=60.0)


def test_a_metric_job_begins_with_what_its_kind_and_its_region_have():
    for code in kinds():
        document = first_document(code, Terms())
        assert document.legs == kind(code).default_legs
        assert document.answers == region_defaults("metric", code)


# what a practitioner of the region would type, by hand
_REGIONS = [
    (
        "us",
        "well",
        {"voltage": "230 V", "supply_frequency": "60 Hz", "volume_per_person": "75 gal"},
    ),
    (
        "us",
        "sewage",
        {"voltage": "115 V", "volume_per_person": "70 gal", "speed_limits": "us", "flush": "tank"},
    ),
    ("us", "booster", {"voltage": "115 V", "outlet_limit": "us", "supply_frequency": "60 Hz"}),
    ("us", "demand_delivery", {"voltage": None}),  # a van's battery has 12 V everywhere
    ("metric", "sewage", {"voltage": None, "speed_limits": "en", "volume_per_person": None}),
    ("metric", "booster", {"outlet_limit": "en", "supply_frequency": None}),
    ("uk", "well", {"voltage": None, "volume_per_person": "150 l"}),
    ("uk", "pressure_sewer", {"speed_limits": "en", "volume_per_person": "150 l"}),
]


@pytest.mark.parametrize(("system", "code", "answers"), _REGIONS)
def test_a_new_job_has_the_defaults_of_its_region(system, code, answers):
    """Without a word of the shop; None: as the kind has it, which is European."""
    found = first_document(code, Terms(system)).answers
    told = {key: getattr(found.get(key), "text", found.get(key)) for key in answers}
    assert told == answers


def test_every_default_of_a_region_is_asked_by_its_kinds_and_read():
    for row in tables.rows("region_defaults"):
        for code in row["kinds"].split() or kinds():
            asked = {one.key: one for one in kind(code).questions}.get(row["question"])
            if asked is None:
                assert not row["kinds"], (code, row["question"])
            elif asked.choices:
                assert row["answer"] in {one.code for one in asked.choices}
            else:
                assert Figure.read(row["answer"], asked.dimension, "").agrees(asked.dimension)
        assert row["source"]


@pytest.mark.parametrize(
    ("flush", "taken"),
    [("unknown", "dfu_valve"), ("tank", "dfu_tank"), ("valve", "dfu_valve")],
)
def test_how_toilets_flush_says_which_school_of_units_counts(catalogue, flush, taken):
    job = next(one for one in JOBS.values() if "drainage_units" in one.answers)
    kept = {"drainage_units", "largest_solid", "toilets"}
    plain = job.model_copy(
        update={"answers": {key: one for key, one in job.answers.items() if key in kept}}
    )
    demand = size(changed(plain, ("answers.flush", flush)), catalogue).demand
    by = {one.code: one.flow_m3s for one in demand.methods}
    assert by["dfu_valve"] > by["dfu_tank"]
    assert demand.inflow_m3s == by[taken]


def test_a_sewage_line_by_us_practice_needs_no_european_bore(catalogue):
    """Where it is said; the units of the job decide nothing."""
    job = next(one for one in JOBS.values() if one.kind == "sewage")
    rules = [
        kind("sewage").bore_rule_for(
            size(one.model_copy(update={"units": units}), catalogue).running
        )
        for units in ("metric", "us")
        for one in (changed(job, ("answers.speed_limits", code)) for code in ("en", "us"))
    ]
    assert rules == ["SEW-01", "", "SEW-01", ""]
    unsaid = job.model_copy(
        update={"answers": {k: v for k, v in job.answers.items() if k != "speed_limits"}}
    )
    assert kind("sewage").bore_rule_for(size(unsaid, catalogue).running) == "SEW-01"


@pytest.mark.parametrize("code", sorted(kinds()))
def test_a_us_job_begins_in_inches_with_its_own_supply_and_pipes(code, catalogue):
    document = first_document(code, US)
    asked = {one.key: one for one in kind(code).questions}
    if "voltage" in asked:
        # a well's pump runs between the two legs of a split supply
        assert document.answers["voltage"].text == ("230 V" if code == "well" else "115 V")
        assert document.answers["supply_frequency"].text == "60 Hz"
    for key, answer in document.answers.items():
        if not isinstance(answer, str):
            assert answer.provenance == "assumed"
            assert answer.agrees(asked[key].dimension)
            assert answer.unit not in ("mm", "m", "l", "l/s", "bar", "°C", "mm/h")
    assert all(leg.nominal.endswith("in") for leg in document.legs)
    assert load(dump(document)) == document
    assert size(document, catalogue).problems == ()


def test_us_defaults_are_round_and_near_the_metric_ones():
    document = first_document("sump", US)
    assert {key: document.answers[key].text for key in ("stop_level", "start_level")} == {
        "stop_level": "6 in",
        "start_level": "16 in",
    }
    assert first_document("well", US).answers["cut_in"].text == "30 psi"
    for code in kinds():
        for question in kind(code).questions:
            answer = first_document(code, US).answers.get(question.key)
            if question.key in region_defaults("us", code):
                continue
            if question.default and answer is not None and question.key not in _SUPPLY:
                usual = question.default_by(SHIPPED).si(question.dimension)
                assert answer.si(question.dimension) == pytest.approx(usual, rel=0.17, abs=0.01)


_SUPPLY = ("voltage", "supply_frequency", "phases")


def test_what_the_house_has_set_is_not_rounded_away():
    own = Rules({"TNK-03": Override(usual_si=2.4e5)})
    assert "cut_in" not in first_document("well", US, own).answers


def test_the_shops_pipe_comes_in_the_size_nearest_in_bore():
    document = first_document("sump", Terms(pipes={"sump": "copper_l", "": "pvc_sch80"}))
    for leg, before in zip(document.legs, kind("sump").default_legs, strict=True):
        assert leg.series == "copper_l"
        ratio = pipe(leg.series, leg.nominal).inside_diameter_m
        assert ratio == pytest.approx(
            pipe(before.series, before.nominal).inside_diameter_m, rel=0.15
        )
    assert {leg.series for leg in first_document("well", Terms(pipes={"": "pvc_sch80"})).legs} == {
        "pvc_sch80"
    }
    assert first_document("sump", Terms(fittings={"": "hooper"})).fitting_method == "hooper"


def test_a_reader_has_units_of_ones_own_where_the_system_knows_them():
    with reading(Reader({"flow": "l/min", "power": "hp", "length": "ft"})):
        assert units.show(0.001, "flow", "metric") == "60.0\u00a0l/min"
        assert units.show(0.001, "flow", "uk") == "60.0\u00a0l/min"
        assert units.show(0.001, "flow", "us") == "15.9\u00a0gpm"
        assert units.show(3.048, "length", "metric") == "3.05\u00a0m"
        assert units.show(3.048, "length", "uk") == "10.0\u00a0ft"
        assert units.show(745.7, "power", "us") == "1.00\u00a0hp"
    assert units.show(0.001, "flow", "metric") == "3.60\u00a0m³/h"


def test_a_comma_is_read_shown_and_kept_as_a_point(cellar):
    with reading(Reader(style="comma")):
        job = changed(cellar, ("legs.b.length", "12,5 m"), ("answers.stated_flow", "1.250 l/h"))
        assert text_at(job, "legs.b.length") == "12,5 m"
        assert units.show(9.81, "length", "metric") == "9,81\u00a0m"
        assert text_at(edit(job, "title", "Pump 2.5").job, "title") == "Pump 2.5"
    assert job.leg("b").length.text == "12.5 m"
    assert job.answers["stated_flow"].value == 1250
    assert job.answers["stated_flow"].agrees("flow")


@pytest.mark.parametrize("name", ["bookbinders-cellar", "observatory-solar-well", "hospice-rill"])
def test_no_sentence_and_no_working_keeps_a_decimal_point_for_who_reads_a_comma(name, catalogue):
    sizing = size(JOBS[name], catalogue)
    with reading(Reader(style="comma")):
        told = [text.text("us") for one in sizing.match.fits for text in one.reasons]
        told += [text.text("metric") for _, text in sizing.match.order]
        for check in sizing.checks:
            told.append(check.message.text("us"))
            told += [text for _, text in (check.working.lines("metric") if check.working else ())]
    assert [text for text in told if re.search(r"\d\.\d", text)] == []
    assert any(re.search(r"\d,\d", text) for text in told)


def test_a_field_goes_on_in_the_unit_it_got(cellar):
    job = changed(cellar, ("answers.pit_diameter", "18 in"), ("answers.pit_diameter", "24"))
    assert job.answers["pit_diameter"].text == "24 in"
    assert changed(cellar, ("answers.rise", "120")).answers["rise"].unit in ("mm", "in")


def test_levels_that_the_shop_decides_are_designed_and_site_facts_are_told(cellar):
    job = changed(
        first_document("sump", Terms()),
        ("answers.start_level", "420 mm"),
        ("answers.pit_depth", "900 mm"),
        ("answers.margin", "1.4 x"),
    )
    found = {key: answer.provenance for key, answer in job.answers.items()}
    assert found == {"start_level": "designed", "pit_depth": "told", "margin": "designed"}
    told = changed(
        job, ("answers.start_level.standing", "measured"), ("answers.start_level", "43 cm")
    )
    assert told.answers["start_level"].provenance == "measured"
