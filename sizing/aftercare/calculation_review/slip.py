"""What a slip is: when it is possible, what it changes in a sum, how it is told."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sizing.aftercare.calculation_review.hand_sum import HandLeg, HandSum, Steps


@dataclass(frozen=True)
class Slip:
    """One slip: ``told`` says what went wrong, ``instead`` what to do."""

    code: str
    label: str
    told: str
    instead: str
    possible: Callable[[HandSum], bool]
    change: Callable[[Steps], Steps]


def each_leg(steps: Steps, change: Callable[[HandLeg], HandLeg]) -> Steps:
    """The sum with every leg changed."""
    return steps.with_facts(legs=tuple(change(leg) for leg in steps.facts.legs))


def flow_times(factor: float) -> Callable[[Steps], Steps]:
    """The number of the flow read in another unit."""
    return lambda steps: steps.with_facts(flow_m3s=steps.facts.flow_m3s * factor)
