"""Why a pump stands where it stands, in words."""

from __future__ import annotations

import numpy as np

from sizing.base.message import Measure, Message, message
from sizing.base.noise import together_db
from sizing.operating_point.many import CANNOT_LIFT, OFF_END, OPERATES
from sizing.pump.catalogue import Pump
from sizing.selection.limit import ASK, FAILS, WATCH
from sizing.selection.requirement import asks_of
from sizing.selection.sweep import Sweep


def short_of(sweep: Sweep, at: int) -> tuple[float, float] | None:
    """The share of flow and the head that a pump lacks which runs, but gives too little.

    The head is NaN where its curve ends before.
    """
    if sweep.operating_point.status[at] != OPERATES or sweep.enough[at]:
        return None
    if sweep.wanted.served is not None:
        return float(sweep.short[at]), float("nan")
    wanted = sweep.wanted.flow_m3s
    head = float(sweep.catalogue.head_at(sweep.rows[[at]], np.array([wanted]))[0])
    return -float(sweep.surplus[at]), sweep.system.head_at(wanted) - head


def fit_reasons(sweep: Sweep, at: int) -> list[Message]:
    """Why a pump that fits stands where it stands."""
    share, surplus = (
        Measure(float(sweep.share[at]), "ratio"),
        Measure(float(sweep.surplus[at]), "ratio"),
    )
    where = (
        "in the middle of"
        if sweep.preferred[at]
        else "far left on"
        if sweep.share[at] < 1
        else "far right on"
    )
    reasons = [message(where + " its curve ({share} of its best flow)", share=share)]
    what = "head" if sweep.wanted.held_by_outlets else sweep.wanted.needs_word
    bigger = "bigger than need be: " if sweep.too_big[at] else ""
    reasons.append(
        message(bigger + "{surplus} more {what} than needed", surplus=surplus, what=what)
    )
    reasons += [
        limit.miss(sweep, at)
        for limit, states in zip(sweep.wanted.limits, sweep.states, strict=True)
        if states[at] == WATCH
    ]
    if not sweep.reserve_enough[at]:
        reasons.append(
            message(
                "only {reserve} of head in reserve at shut-off",
                reserve=Measure(float(sweep.operating_point.shutoff_margin_m[at]), "length"),
            )
        )
    pump = sweep.catalogue.pumps[sweep.rows[at]]
    if sweep.wanted.quiet and pump.noise_db is not None:
        reasons.append(_noise(pump.noise_db, sweep.catalogue.running))
    return reasons + _in_stock(pump, sweep.catalogue.bought)


def _noise(one_db: float, running: int) -> Message:
    """Of one pump; where several run, of each and of all."""
    if running == 1:
        return message("{noise} dB(A) at 1 m", noise=f"{one_db:g}")
    return message(
        "{noise} dB(A) at 1 m each, {all} together",
        noise=f"{one_db:g}",
        all=f"{together_db(one_db, running):.0f}",
    )


def _in_stock(pump: Pump, bought: int) -> list[Message]:
    if pump.stock is not None and pump.stock >= bought:
        return [message("in stock")]
    return (
        []
        if pump.lead_days is None
        else [message("comes in {days} days", days=f"{pump.lead_days:g}")]
    )


def ask_reasons(sweep: Sweep, at: int) -> list[Message]:
    """What to ask the maker of a pump that might do."""
    wanted, pump = sweep.wanted, sweep.catalogue.pumps[sweep.rows[at]]
    asks = [
        asks_of(requirement, pump)
        for requirement, silent in zip(wanted.requirements, sweep.silent, strict=True)
        if silent[at]
    ] + [
        limit.asks
        for limit, states in zip(wanted.limits, sweep.states, strict=True)
        if states[at] == ASK
    ]
    return [message("might do: ask the maker for {asks}", asks=" and ".join(asks))]


def miss_reasons(sweep: Sweep, at: int) -> list[Message]:
    """Why a pump does not fit: all that is known to speak against it, and what is not known."""
    pump, short = sweep.catalogue.pumps[sweep.rows[at]], short_of(sweep, at)
    reasons = [
        requirement.miss(pump)
        for requirement, met in zip(sweep.wanted.requirements, sweep.met, strict=True)
        if not met[at]
    ]
    reasons += [
        limit.miss(sweep, at)
        for limit, states in zip(sweep.wanted.limits, sweep.states, strict=True)
        if states[at] in (ASK, FAILS)
    ]
    if sweep.operating_point.status[at] == CANNOT_LIFT:
        lack = Measure(-float(sweep.operating_point.shutoff_margin_m[at]), "length")
        reasons.append(
            message("cannot lift it: {lack} too little head with no flow at all", lack=lack)
        )
    elif sweep.operating_point.status[at] == OFF_END:
        reasons.append(
            message("would run off the end of its curve: the pipe holds too little against it")
        )
    elif short:
        reasons.append(
            message(
                "{short} short of the {what}",
                short=Measure(short[0], "ratio", 1),
                what=sweep.wanted.needs_word,
            )
        )
    return reasons
