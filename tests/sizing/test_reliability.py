"""How long pumps last, held against lifelines' own figures and against a known truth."""

from __future__ import annotations

import lifelines
import numpy as np
import pytest

from sizing.aftercare.reliability.cost_of_a_year import Served, grouped
from sizing.aftercare.reliability.survival import FEW, Spell, lifetimes
from sizing.base.errors import SizingError


def fleet(count: int, shape: float, scale: float, seed: int) -> list[Spell]:
    """Pumps put in over twelve years, looked at in the end."""
    dice = np.random.default_rng(seed)
    lives = scale * dice.weibull(shape, count)
    stood = dice.uniform(0.1, 12.0, count)
    return [Spell(max(float(min(a, b)), 0.01), bool(a <= b)) for a, b in zip(lives, stood)]


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize(("shape", "scale"), [(1.0, 6.0), (2.4, 9.0), (0.7, 12.0)])
def test_the_curve_and_the_fits_are_those_of_lifelines(seed, shape, scale):
    spells = fleet(120, shape, scale, seed)
    years, failed = [one.years for one in spells], [one.failed for one in spells]
    ours = lifetimes(spells)
    theirs = lifelines.KaplanMeierFitter().fit(years, failed)
    low, high = (theirs.confidence_interval_.iloc[:, at] for at in (0, 1))
    for step in ours.curve:
        assert step.share == pytest.approx(float(theirs.predict(step.years)), abs=1e-9)
        assert step.low == pytest.approx(float(low.loc[step.years]), abs=1e-6)
        assert step.high == pytest.approx(float(high.loc[step.years]), abs=1e-6)
    median = theirs.median_survival_time_
    assert ours.median.years == (None if np.isinf(median) else pytest.approx(median))
    fit = lifelines.WeibullFitter().fit(years, failed)
    assert ours.weibull is not None
    assert ours.weibull.shape == pytest.approx(fit.rho_, rel=2e-3)
    assert ours.weibull.scale_years == pytest.approx(fit.lambda_, rel=2e-3)
    span = fit.summary.loc["rho_"]
    width = span["coef upper 95%"] - span["coef lower 95%"]
    assert ours.weibull.shape_high - ours.weibull.shape_low == pytest.approx(width, rel=0.05)
    plain = lifelines.ExponentialFitter().fit(years, failed)
    assert ours.mean.years == pytest.approx(plain.lambda_, rel=1e-3)


def test_the_known_truth_lies_within_the_intervals_as_often_as_they_say():
    """Of 120 fleets with a mean of 8 years some 95 in a hundred hold it."""
    held = sum(
        (life := lifetimes(fleet(60, 1.0, 8.0, seed)).mean).low <= 8.0 <= life.high
        for seed in range(120)
    )
    assert 108 <= held <= 120


@pytest.mark.parametrize(("shape", "better"), [(1.0, False), (3.0, True)])
def test_a_second_parameter_must_earn_its_place(shape, better):
    found = lifetimes(fleet(300, shape, 8.0, 11)).weibull
    assert found is not None
    assert found.better is better
    assert (found.shape_low <= 1.0 <= found.shape_high) is not better


def test_nobody_failed_yet():
    found = lifetimes([Spell(3.0, failed=False), Spell(5.0, failed=False)])
    assert (found.median.years, found.mean.years, found.weibull) == (None, None, None)
    assert found.mean.low == pytest.approx(8.0 / 3.0, rel=0.2)  # 8 years, 3 at the most at 95 %
    assert found.few


def test_few_is_said_until_there_are_enough():
    spells = [Spell(2.0 + at, failed=True) for at in range(FEW)]
    assert not lifetimes(spells).few
    assert lifetimes(spells[:-1]).few


def test_none_and_nonsense_are_refused():
    with pytest.raises(SizingError, match="no pump"):
        lifetimes([])
    with pytest.raises(SizingError, match="years in service"):
        Spell(-1.0, failed=True)


def test_what_a_year_costs_orders_the_models():
    def pump(group, years, price, repairs=0.0, cause=""):
        return Served(group, Spell(years, failed=True), price, repairs, 500.0, 400.0, cause)

    cheap, dear = pump("cheap", 2.0, 200.0, cause="jammed"), pump("dear", 10.0, 500.0, 50.0)
    runs = Served("new", Spell(1.0, failed=False), 300.0, 0.0, None, None)
    rows = grouped([cheap, dear, runs], 0.30)
    assert [one.group for one in rows] == ["dear", "cheap", "new"]
    # 500 / 10 + 50 / 10 + 0.5 kW 400 h at 0.30
    assert rows[0].cost_per_year == pytest.approx(50.0 + 5.0 + 60.0)
    assert rows[1].causes == (("jammed", 1),)
    assert rows[2].cost_per_year is None


def test_late_records_are_left_truncated_as_in_lifelines():
    """3,000 pumps, half of them in use for years before anybody kept records."""
    chance = np.random.default_rng(20261201)
    life = 9.0 * chance.weibull(2.3, 9000)
    entry = np.where(chance.random(9000) < 0.5, chance.uniform(0.0, 8.0, 9000), 0.0)
    seen = entry + chance.uniform(0.5, 9.0, 9000)
    kept = np.flatnonzero(life > entry)[:3000]  # who failed before is in no record
    years = np.minimum(life, seen)[kept]
    failed, entered = (life <= seen)[kept], entry[kept]
    found = lifetimes(
        [Spell(*row) for row in zip(years.tolist(), failed.tolist(), entered.tolist(), strict=True)]
    )
    theirs = lifelines.KaplanMeierFitter().fit(years, failed, entry=entered)
    for age in (1.0, 3.0, 6.0, 9.0, 12.0):
        assert found.share_at(age) == pytest.approx(float(theirs.predict(age)), abs=2e-3)
    fit = lifelines.WeibullFitter().fit(years, failed, entry=entered)
    assert found.weibull.shape == pytest.approx(fit.rho_, rel=1e-3)
    assert found.weibull.scale_years == pytest.approx(fit.lambda_, rel=1e-3)
    assert found.weibull.shape == pytest.approx(2.3, rel=0.06)  # and the truth
    assert found.weibull.scale_years == pytest.approx(9.0, rel=0.04)
    naive = lifetimes([Spell(*row) for row in zip(years.tolist(), failed.tolist(), strict=True)])
    assert naive.weibull.scale_years > 1.05 * found.weibull.scale_years  # as if all began new
