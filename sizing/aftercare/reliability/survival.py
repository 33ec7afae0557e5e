"""How long pumps last: Kaplan-Meier, exponential and Weibull, those still running as censored.

Kaplan and Meier, J. Am. Stat. Assoc. 53 (1958): the share that still runs, with Greenwood's
interval on the log-log scale. A pump that was old already when its record began counts from that
age on only (left truncation: Klein and Moeschberger, Survival Analysis, 4.6). The fits are by
maximum likelihood with right-censoring, given survival to the entry; the interval of an exponential
mean is exact, 2 T / chi2 (Epstein and Sobel 1953).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from sizing.base.errors import SizingError, check_range
from sizing.base.units import DAYS_PER_YEAR
from sizing.hydraulics.friction import Array

Mask = NDArray[np.bool_]

CONFIDENCE = 0.95
FEW = 5  # failures under which a figure is called few
_SHORTEST_YEARS = 1.0 / DAYS_PER_YEAR
_RATIO_95 = 3.84  # chi2 of one degree: when a second parameter earns its place


@dataclass(frozen=True)
class Spell:
    """How long one pump has stood [years], and whether it failed then or runs on.

    ``entry_years`` is its age when its record began: of those that failed before, nobody knows.
    """

    years: float
    failed: bool
    entry_years: float = 0.0

    def __post_init__(self) -> None:
        check_range("years in service", self.years, 0.0, 200.0, "years")
        check_range("age when its record began", self.entry_years, 0.0, self.years, "years")


@dataclass(frozen=True)
class Step:
    """From here on this share runs, surely between low and high."""

    years: float
    share: float
    low: float
    high: float
    at_risk: int  # pumps that the step was told by


@dataclass(frozen=True)
class Span:
    """A length of time with its interval at 95 %; an end that nobody can tell yet is None."""

    years: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Weibull:
    """Survival exp(-(t / scale)^shape); shape over one wears out, under one fails young.

    ``better`` says whether its second parameter explains more than chance would, against the
    exponential: twice the difference of the log-likelihoods over 3.84.
    """

    shape: float
    shape_low: float
    shape_high: float
    scale_years: float
    mean_years: float
    mean_sigma_years: float
    better: bool
    log_likelihood: float

    def share_at(self, years: float) -> float:
        """The share that still runs."""
        return math.exp(-((years / self.scale_years) ** self.shape))


@dataclass(frozen=True)
class Lifetimes:
    """What a group of pumps says: how many, the curve, its median, and the two fits."""

    count: int
    failed: int
    years: float  # watched, of all of them together
    curve: tuple[Step, ...]
    median: Span
    mean: Span  # exponential: all years over the failures
    weibull: Weibull | None
    oldest_years: float = 0.0

    @property
    def breaks_off(self) -> bool:
        """Whether the curve falls to nothing at an age that some pump outlived.

        Too few were watched there: it says nothing of use.
        """
        last = self.curve[-1] if self.curve else None
        return last is not None and last.share == 0.0 and self.oldest_years > last.years

    def restricted_mean_years(self, to_years: float) -> float:
        """Mean life up to an age: the area under the curve."""
        area, share, since = 0.0, 1.0, 0.0
        for step in self.curve:
            if step.years >= to_years:
                break
            area, share, since = area + share * (step.years - since), step.share, step.years
        return area + share * (to_years - since)

    @property
    def expected(self) -> Span:
        """The mean life: of the Weibull fit where that explains more than chance, else plain."""
        fit = self.weibull
        if fit is None or not fit.better:
            return self.mean
        reach = float(scipy.stats.norm.ppf(0.5 + CONFIDENCE / 2.0)) * fit.mean_sigma_years
        return Span(fit.mean_years, max(fit.mean_years - reach, 0.0), fit.mean_years + reach)

    @property
    def few(self) -> bool:
        """Whether there are too few failures to lean on."""
        return self.failed < FEW

    def share_at(self, years: float) -> float:
        """The share that still runs after so many years, by the curve."""
        found = 1.0
        for step in self.curve:
            if step.years > years:
                break
            found = step.share
        return found


def lifetimes(spells: Sequence[Spell]) -> Lifetimes:
    """What a group of pumps says of how long they last.

    Raises
    ------
    SizingError
        No pump at all.
    """
    if not spells:
        raise SizingError("there is no pump to tell from")
    years = np.array([max(one.years, _SHORTEST_YEARS) for one in spells])
    entry = np.array([one.entry_years for one in spells])
    failed = np.array([one.failed for one in spells])
    watched = float((years - entry).sum())
    curve = _curve(years, entry, failed)
    return Lifetimes(
        count=len(spells),
        failed=int(failed.sum()),
        years=watched,
        curve=curve,
        median=_median(curve),
        mean=_exponential(watched, int(failed.sum())),
        weibull=_weibull(years, entry, failed),
        oldest_years=float(years.max()),
    )


def _curve(years: Array, entry: Array, failed: Mask) -> tuple[Step, ...]:
    reach = float(scipy.stats.norm.ppf(0.5 + CONFIDENCE / 2.0))
    steps: list[Step] = []
    share, spread = 1.0, 0.0
    for age in np.unique(years[failed]):
        at_risk = int(((entry < age) & (years >= age)).sum())
        died = int((failed & (years == age)).sum())
        share *= 1.0 - died / at_risk
        if died == at_risk:  # where the curve is at nothing its interval is not defined
            steps.append(Step(float(age), 0.0, 0.0, steps[-1].high if steps else 1.0, at_risk))
            break
        spread += died / (at_risk * (at_risk - died))
        logs, error = math.log(share), reach * math.sqrt(spread)
        low, high = (math.exp(logs * math.exp(sign * error / -logs)) for sign in (1, -1))
        steps.append(Step(float(age), share, low, high, at_risk))
    return tuple(steps)


def _median(curve: Sequence[Step]) -> Span:
    """When half has failed; its ends where the interval's own curves pass a half."""

    def first(pick: str) -> float | None:
        return next((one.years for one in curve if getattr(one, pick) <= 0.5), None)

    return Span(first("share"), first("low"), first("high"))


def _exponential(years: float, failed: int) -> Span:
    tail = (1.0 - CONFIDENCE) / 2.0
    low = 2.0 * years / float(scipy.stats.chi2.ppf(1.0 - tail, 2 * failed + 2))
    if not failed:
        return Span(None, low, None)
    return Span(years / failed, low, 2.0 * years / float(scipy.stats.chi2.ppf(tail, 2 * failed)))


def _weibull(years: Array, entry: Array, failed: Mask) -> Weibull | None:
    """The fit; None with fewer than three failures, or where they are all of one age."""
    if failed.sum() < 3 or np.ptp(years[failed]) == 0.0:
        return None
    middle = float(years.mean())
    logs, count = np.log(years / middle), int(failed.sum())
    entered = np.log(entry[entry > 0] / middle)

    def loss(at: Array) -> float:
        shape, scale = math.exp(at[0]), at[1]
        power = np.exp(shape * (logs - scale)).sum() - np.exp(shape * (entered - scale)).sum()
        inside = count * (at[0] - scale) + (shape - 1.0) * float(np.sum((logs - scale)[failed]))
        return float(power - inside)

    found = scipy.optimize.minimize(loss, np.zeros(2), method="BFGS", options={"gtol": 1e-7})
    if not np.all(np.isfinite(found.x)) or abs(found.x[0]) > 5.0:
        return None
    shape, scale = math.exp(found.x[0]), middle * math.exp(found.x[1])
    errors = _curvature_inverse(loss, found.x)
    if not errors[0, 0] > 0:  # no maximum: too few were watched
        return None
    spread = float(scipy.stats.norm.ppf(0.5 + CONFIDENCE / 2.0)) * math.sqrt(errors[0, 0])
    exposure = float((years - entry).sum()) / middle
    return Weibull(
        shape=shape,
        shape_low=shape * math.exp(-spread),
        shape_high=shape * math.exp(spread),
        scale_years=scale,
        mean_years=scale * float(scipy.special.gamma(1.0 + 1.0 / shape)),
        mean_sigma_years=_mean_sigma(shape, scale, errors),
        better=2.0 * (_exponential_loss(exposure, count) - float(found.fun)) > _RATIO_95,
        log_likelihood=-float(found.fun) - count * math.log(middle),
    )


def _exponential_loss(exposure: float, count: int) -> float:
    """The loss where the shape is one and the scale is the best for that."""
    return count + count * math.log(exposure / count)


def _curvature_inverse(loss: Callable[[Array], float], at: Array, step: float = 1e-4) -> Array:
    """The inverse of the second derivatives: the covariance of the two logarithms."""
    hessian = np.empty((2, 2))
    for i in range(2):
        for j in range(2):
            a, b = np.eye(2)[i] * step, np.eye(2)[j] * step
            hessian[i, j] = (
                loss(at + a + b) - loss(at + a - b) - loss(at - a + b) + loss(at - a - b)
            ) / (4.0 * step**2)
    return np.asarray(np.linalg.inv(hessian))


def _mean_sigma(shape: float, scale: float, errors: Array) -> float:
    """Of the mean, first order in the two logarithms."""

    def mean(at: tuple[float, float]) -> float:
        return math.exp(at[1]) * float(scipy.special.gamma(1.0 + math.exp(-at[0])))

    here, step = (math.log(shape), math.log(scale)), 1e-5
    slope = np.array(
        [
            (mean((here[0] + step, here[1])) - mean((here[0] - step, here[1]))) / (2 * step),
            mean(here),
        ]
    )
    return math.sqrt(float(slope @ errors @ slope))
