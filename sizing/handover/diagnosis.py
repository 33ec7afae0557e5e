"""What readings at a pump mean: the first line of a table that holds, with what to look at first.

Never a verdict inside the error of measurement: low and high ask for two sigmas besides a share.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sizing.handover.readings import Compared

_TWO = 2.0


@dataclass(frozen=True)
class Diagnosis:
    """One line: its code, what it says, why, and what to look at first."""

    code: str
    label: str
    why: str
    look: str
    holds: Callable[[Compared], bool]


def _impossible(found: Compared) -> bool:
    readings = found.readings
    over = readings.efficiency - _TWO * readings.sigma(lambda one: one.efficiency)
    k = readings.k_s2_m5 + _TWO * readings.sigma(lambda one: one.k_s2_m5)
    return (
        readings.head_m <= 0
        or readings.power_factor.value > 1
        or over > found.promised.possible_efficiency
        or k < 0
    )


def _other_speed(found: Compared) -> bool:
    ratio, power = found.speed_ratio, found.speed_power_percent
    return (
        (found.head.low() or found.head.high())
        and ratio is not None
        and power is not None
        and 0.75 <= ratio <= 1.3
        and abs(ratio - 1.0) >= 0.03
        and abs(power) <= 6.0
    )


TABLE = (
    Diagnosis(
        "reading_doubtful",
        "a reading is doubtful",
        "what was read cannot be: more water power than any such pump makes of that current, or"
        " less head than the height",
        "read every gauge again: zero, unit, height; which phase the clamp was on",
        _impossible,
    ),
    Diagnosis(
        "air_or_vapour",
        "air or vapour",
        "the head is low and the needles swing",
        "strainer, foot valve, level over the intake, leaks on the suction side",
        lambda found: found.head.low() and found.readings.unsteady,
    ),
    Diagnosis(
        "wrong_speed_or_frequency",
        "another speed or frequency",
        "one other speed explains head and power together",
        "the plate's hertz against the mains; the drive's setting; the voltage under load",
        _other_speed,
    ),
    Diagnosis(
        "reading_doubtful",
        "a reading is doubtful",
        "more head than the curve has at that flow, and no speed explains it",
        "the gauge and the bucket: one of them reads wrong",
        lambda found: found.head.high(),
    ),
    Diagnosis(
        "reversed_rotation",
        "it turns backwards",
        "the head is low by a third or more, on three phases",
        "swap two phases and read again",
        lambda found: found.head.low(30.0) and found.readings.phases == 3,
    ),
    Diagnosis(
        "rubbing_or_jammed",
        "it rubs or is jammed",
        "it draws more power than the curve says",
        "turn it by hand with the power off: a rag, sand, a bearing",
        lambda found: found.power.high(10.0),
    ),
    Diagnosis(
        "pump_worn_or_recirculating",
        "worn, or water runs round inside",
        "the head is low at about the power of the curve",
        "impeller and wear ring; a bypass or check valve that stands open",
        lambda found: found.head.low(),
    ),
    Diagnosis(
        "reading_doubtful",
        "a reading is doubtful",
        "the water is moved, but the power for it is not there",
        "the clamp: one wire alone, the right range, the right phase",
        lambda found: found.power.low(15.0),
    ),
    Diagnosis(
        "more_friction",
        "more friction than promised",
        "the run takes more head than it should at that flow",
        "a valve part closed, something in the pipe, a thinner pipe than was told",
        lambda found: found.system.high(),
    ),
    Diagnosis(
        "less_friction_or_leak",
        "less friction than promised, or a leak",
        "the run takes less head than it should at that flow",
        "a leak or an open branch; an outlet lower, fewer fittings than were told",
        lambda found: found.system.low(),
    ),
    Diagnosis(
        "as_predicted",
        "as predicted",
        "everything lies within what both are sure of",
        "nothing: keep the readings for the next time",
        lambda found: True,
    ),
)


def diagnose(found: Compared) -> Diagnosis:
    """The first line that holds."""
    return next(one for one in TABLE if one.holds(found))
