"""What readings at a pump mean: the first line of a table that holds, with what to look at first.

Never a verdict inside the error of measurement: low and high ask for two sigmas besides a share.
The shares are the rules HND-01 to HND-06 and, for the voltage at the motor, CHO-08.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sizing.aftercare.commissioning.readings import Compared
from sizing.base.rules import SHIPPED, Rules

_TWO = 2.0
_PERCENT = 100.0
_SPEEDS = (0.75, 1.3)  # beyond them no mains and no drive explains it


@dataclass(frozen=True)
class Diagnosis:
    """One line: its code, what it says, why, and what to look at first."""

    code: str
    label: str
    why: str
    look: str
    holds: Callable[[Compared, Rules], bool]


def _percent(rules: Rules, rule_id: str) -> float:
    return _PERCENT * rules.value(rule_id)


def _head_low(found: Compared, rules: Rules, by: str = "HND-01") -> bool:
    return found.head.low(_percent(rules, by))


def _head_high(found: Compared, rules: Rules) -> bool:
    return found.head.high(_percent(rules, "HND-01"))


def _power_high(found: Compared, rules: Rules) -> bool:
    return found.power.high(_percent(rules, "HND-03"))


def _friction_high(found: Compared, rules: Rules) -> bool:
    return found.system.high(_percent(rules, "HND-01"))


def _volts_low(found: Compared, rules: Rules) -> bool:
    return found.voltage is not None and found.voltage.low(_percent(rules, "CHO-08"))


def _suction_blocked(found: Compared, rules: Rules) -> bool:
    """The run takes more head, and most of what is more it takes before the pump."""
    before = found.suction
    return (
        before is not None
        and _friction_high(found, rules)
        and before.high(_percent(rules, "HND-01"))
        and before.amount > found.system.amount / 2
    )


def _leaks_on_the_way(found: Compared, rules: Rules) -> bool:
    """One larger flow explains head and power together: it does not all arrive."""
    power = found.leak_power_percent
    return (
        found.promised.deep
        and _head_low(found, rules)
        and power is not None
        and abs(power) <= _percent(rules, "HND-06")
        and found.power.high(_percent(rules, "HND-06"))
    )


def _water_lower(found: Compared, rules: Rules) -> bool:
    return found.level is not None and found.level.low(_percent(rules, "HND-01"))


def _impossible(found: Compared, rules: Rules) -> bool:
    readings = found.readings
    over = readings.efficiency - _TWO * readings.sigma(lambda one: one.efficiency)
    k = readings.k_s2_m5 + _TWO * readings.sigma(lambda one: one.k_s2_m5)
    return (
        readings.head_m <= 0
        or readings.power_factor.value > 1
        or over > found.promised.possible_efficiency
        or k < 0
    )


def _other_speed(found: Compared, rules: Rules) -> bool:
    ratio, power = found.speed_ratio, found.speed_power_percent
    return (
        (_head_low(found, rules) or _head_high(found, rules))
        and ratio is not None
        and power is not None
        and _SPEEDS[0] <= ratio <= _SPEEDS[1]
        and abs(ratio - 1.0) >= rules.value("HND-05")
        and abs(power) <= _percent(rules, "HND-06")
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
        lambda found, rules: _head_low(found, rules) and found.readings.unsteady,
    ),
    Diagnosis(
        "low_voltage_and_friction",
        "low voltage, and more friction than promised",
        "the motor gets too few volts while it runs, and the run takes more head than it should",
        "the volts first (the cable's joints and thickness, the supply under load); then read again"
        " and look for a valve part closed",
        lambda found, rules: _volts_low(found, rules) and _friction_high(found, rules),
    ),
    Diagnosis(
        "low_voltage",
        "low voltage at the motor",
        "the motor gets too few volts while it runs: it turns slower, draws more and runs hot",
        "the volts at the supply with the pump on and off; the cable: joints, thickness, length",
        _volts_low,
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
        _head_high,
    ),
    Diagnosis(
        "reversed_rotation",
        "it turns backwards",
        "the head is low by a third or more, on three phases",
        "swap two phases and read again",
        lambda found, rules: _head_low(found, rules, "HND-02") and found.readings.phases == 3,
    ),
    Diagnosis(
        "leak_on_the_way",
        "a leak between the pump and the meter",
        "head and power are those of a larger flow than arrives",
        "the drop pipe, its joints and check valve: listen at the well head after the stop, and see"
        " whether the line loses its pressure",
        _leaks_on_the_way,
    ),
    Diagnosis(
        "rubbing_or_jammed",
        "it rubs or is jammed",
        "it draws more power than the curve says",
        "turn it by hand with the power off: a rag, sand, a bearing",
        _power_high,
    ),
    Diagnosis(
        "pump_worn_or_recirculating",
        "worn, or water runs round inside",
        "the head is low at about the power of the curve",
        "impeller and wear ring; a bypass or check valve that stands open",
        _head_low,
    ),
    Diagnosis(
        "reading_doubtful",
        "a reading is doubtful",
        "the water is moved, but the power for it is not there",
        "the clamp: one wire alone, the right range, the right phase",
        lambda found, rules: found.power.low(_percent(rules, "HND-04")),
    ),
    Diagnosis(
        "suction_blocked",
        "the suction is blocked",
        "the run takes more head than it should, most of it before the pump",
        "strainer, foot valve, a valve before the pump part closed, a hose drawn flat",
        _suction_blocked,
    ),
    Diagnosis(
        "more_friction",
        "more friction than promised",
        "the run takes more head than it should at that flow",
        "a valve part closed, something in the pipe, a thinner pipe than was told",
        _friction_high,
    ),
    Diagnosis(
        "less_friction_or_leak",
        "less friction than promised, or a leak",
        "the run takes less head than it should at that flow",
        "a leak or an open branch; an outlet lower, fewer fittings than were told",
        lambda found, rules: found.system.low(_percent(rules, "HND-01")),
    ),
    Diagnosis(
        "water_lower",
        "the water stands lower than it was sized for",
        "pump and run are as promised; the water has farther to go, so that less of it comes",
        "the well's drawdown at this flow, a clogged screen, a dry season; a level that was told"
        " wrong",
        _water_lower,
    ),
    Diagnosis(
        "as_predicted",
        "as predicted",
        "everything lies within what both are sure of",
        "nothing: keep the readings for the next time",
        lambda found, rules: True,
    ),
)


def diagnose(found: Compared, rules: Rules = SHIPPED) -> Diagnosis:
    """The first line that holds, by a house's rules."""
    return next(one for one in TABLE if one.holds(found, rules))
