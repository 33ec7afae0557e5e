"""How long the fleet lasts, against the truth it was made from, and what that says for the next."""

from __future__ import annotations

from datetime import date

import pytest

from kyrtos.demo.fleet import COUNT, LOOKED, TRUTH
from kyrtos.drawing.reliability_chart import life_chart
from kyrtos.house_rules.services import rules_of
from kyrtos.installations import reliability
from sizing.aftercare.reliability.survival import FEW, Spell
from sizing.aftercare.reliability.survival import lifetimes as lifetimes_of
from tests.kyrtos.reading import text_of


@pytest.mark.parametrize(("maker", "model"), TRUTH)
def test_the_truth_of_every_model_lies_where_the_fleet_says(shop, maker, model):
    truth = TRUTH[(maker, model)]
    rows = list(reliability.known(shop, maker=maker, model=model))
    found = reliability.together(rows, LOOKED)
    assert len(rows) > 15
    at = truth.scale_years * 0.7
    should = 2.718281828 ** -((0.7) ** truth.shape)
    step = [one for one in found.curve if one.years <= at][-1]
    assert step.low - 0.12 <= should <= step.high + 0.12
    assert found.weibull.shape_low * 0.8 <= truth.shape <= found.weibull.shape_high * 1.25


def test_the_fleet_is_the_same_every_time(shop):
    rows = shop.installed.exclude(serial__in=["VE220841", "…4471"])
    assert rows.count() == COUNT
    failed = rows.filter(state="failed")
    assert 130 < failed.count() < 190
    assert all(one.installed <= one.ended <= LOOKED for one in failed)


@pytest.mark.parametrize("by", reliability.GROUPS)
def test_every_way_of_grouping_counts_every_pump_once(shop, by):
    groups = reliability.by_group(shop, by, 0.3, LOOKED)
    assert sum(one.life.count for one in groups) == shop.installed.count()


def test_the_page_says_who_fails_young_and_who_wears_out(estimator):
    young = text_of(estimator.get("/pumps/life/", {"group": "Quorl S-33"}))
    old = text_of(estimator.get("/pumps/life/", {"group": "Ondrath K 11"}))
    assert "fail young" in young
    assert "they wear out" in old
    assert "short cycling (were to start 18.0/h)" in old


def test_an_unknown_group_or_way_is_no_error(estimator):
    assert estimator.get("/pumps/life/?by=moon&group=none").status_code == 200


def test_nothing_to_tell_from_is_said(estimator, shop):
    shop.installed.all().delete()
    assert "Nothing to tell from yet" in text_of(estimator.get("/pumps/life/"))


def test_the_owner_takes_the_life_into_the_cost_of_owning(as_role, shop):
    owner = as_role("owner")
    assert "Take this mean" in text_of(owner.get("/pumps/life/"))
    owner.post("/pumps/life/as-rule/", {"by": "model", "group": "Ondrath K 11"})
    found = reliability.together(
        list(reliability.known(shop, maker="Ondrath", model="K 11")), date.today()
    )
    years = rules_of(shop).value("CHO-07")
    assert years == pytest.approx(found.expected.years, abs=0.06)
    assert "our own log" in shop.house_rules.get(rule_id="CHO-07").reason


def test_from_too_few_nothing_is_taken(as_role, shop):
    before = rules_of(shop).value("CHO-07")
    answer = as_role("owner").post(
        "/pumps/life/as-rule/", {"by": "model", "group": "Vessmar Tarn 80"}, follow=True
    )
    assert f"fewer than {FEW}" in text_of(answer)
    assert rules_of(shop).value("CHO-07") == before


def test_a_pump_found_standing_counts_from_the_day_its_record_begins(shop, estimator):
    site, today = shop.sites.first(), date.today()
    old, new = today.replace(year=today.year - 6, day=1), today
    for number, day in enumerate((old, new)):
        sent = {"maker": "Quiet", "model": f"Q {number}", "installed": str(day)}
        assert estimator.post(f"/sites/{site.pk}/pumps/new/", sent).status_code == 302
    late, fresh = (shop.installed.get(model=f"Q {number}") for number in range(2))
    assert (late.known_since, fresh.known_since) == (today, None)
    spell = reliability.spell_of(late, today)
    assert spell.entry_years == pytest.approx(spell.years)  # nothing of its years was watched
    assert "On record since" in text_of(estimator.get(f"/p/{late.code}/"))


def test_the_curve_says_how_many_it_stands_on():
    spells = [Spell(years=float(age), failed=age % 2 == 0) for age in range(1, 13)]
    life = lifetimes_of(spells)
    chart = life_chart(life, "K 11")
    counts = [int(count) for _, count in chart.at_risk]
    assert counts[0] == 11  # at the first failure, in the second year
    assert counts == sorted(counts, reverse=True)
    assert counts[-1] == life.curve[-1].at_risk
