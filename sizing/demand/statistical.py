"""Peak demand by probability: how many fixtures run at once, exactly, without any old table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from sizing.base.errors import SizingError, check_range
from sizing.hydraulics.friction import Array

_GRAIN_M3S = 1e-15  # flows are told apart to this: finer than anybody writes them
_NEGLIGIBLE = 1e-25  # states less probable than this are dropped: it cannot show in any digit
MOST_FIXTURES = 5000


@dataclass(frozen=True)
class Group:
    """So many equal fixtures, each running at its flow with a probability at any moment."""

    count: int
    probability: float
    flow_m3s: float


@dataclass(frozen=True)
class Statistical:
    demand_flow_m3s: float
    cumulative_at_demand_flow: float
    probability_all_idle: float
    mean_flow_m3s: float


def statistical(
    groups: Sequence[Group], *, percentile: float = 0.99, zero_truncated: bool = False
) -> Statistical:
    """The smallest flow that is not exceeded with the wanted probability.

    All fixtures run or stand independently; the number running in a group is binomial. The total's
    distribution is the exact convolution over every sum that can occur (US National Bureau of
    Standards, Hunter 1940, generalised; US uniform code appendix M 2017 for efficient fixtures).

    Parameters
    ----------
    percentile : such as 0.99.
    zero_truncated : given that at least one fixture runs, for few fixtures, where the flow is
        mostly zero.

    Raises
    ------
    SizingError
        No fixtures, more than 5000, or a probability or flow that cannot be.
    """
    check_range("percentile", percentile, 0.5, 0.999999, "")
    if not groups or not 0 < sum(group.count for group in groups) <= MOST_FIXTURES:
        raise SizingError(f"name 1 to {MOST_FIXTURES} fixtures")
    flows, chances = np.zeros(1, dtype=np.int64), np.ones(1)
    for group in groups:
        flows, chances = _with_group(flows, chances, group)
    idle = float(chances[0]) if flows[0] == 0 else 0.0
    running = 1.0 - idle
    if zero_truncated and running <= 0:
        raise SizingError("no fixture ever runs: every probability is zero")
    cumulative = np.cumsum(chances)
    cumulative = (cumulative - idle) / running if zero_truncated else cumulative
    at = min(int(np.searchsorted(cumulative, percentile - 1e-12)), len(flows) - 1)
    mean = sum(group.count * group.probability * group.flow_m3s for group in groups)
    return Statistical(float(flows[at]) * _GRAIN_M3S, float(cumulative[at]), idle, mean)


def _with_group(
    flows: NDArray[np.int64], chances: Array, group: Group
) -> tuple[NDArray[np.int64], Array]:
    """The distribution with one more group: every sum, like sums merged."""
    check_range("probability that a fixture runs", group.probability, 0.0, 1.0, "")
    check_range("flow of a fixture", group.flow_m3s, 0.0, 1.0, "m³/s")
    number = np.arange(group.count + 1)
    own = scipy.stats.binom.pmf(number, group.count, group.probability)
    kept = own > _NEGLIGIBLE
    steps = number[kept] * round(group.flow_m3s / _GRAIN_M3S)
    sums, where = np.unique((flows[:, None] + steps).ravel(), return_inverse=True)
    merged = np.bincount(where, weights=np.outer(chances, own[kept]).ravel())
    alive = merged > _NEGLIGIBLE
    return np.asarray(sums[alive], dtype=np.int64), np.asarray(merged[alive], dtype=float)
