"""The pump itself: enough flow, in the middle of its curve, with reserve."""

from __future__ import annotations

from sizing.base.message import Measure, message
from sizing.checks.base import Check, Running, state


def pump_checks(running: Running, *codes: str) -> list[Check]:
    """The pump itself: enough flow, in the middle of its curve, with reserve.

    ``codes`` ("flow", "on_curve", "reserve") names those wanted, in that order; none means all.
    """
    return [_CHECKS[code](running) for code in codes or _CHECKS]


def _flow(running: Running) -> Check:
    needed, flow = running.demand.needed_m3s, running.flow_m3s
    return Check(
        "flow",
        "Enough flow",
        state(flow >= needed, flow >= min(running.demand.inflow_m3s, needed)),
        message(
            "It moves {flow}; {needed} is needed.",
            flow=Measure(flow, "flow"),
            needed=Measure(needed, "flow"),
        ),
        "Take a stronger pump, a wider pipe or a lower outlet.",
    )


def _place_on_curve(running: Running) -> Check:
    share, low, high = (
        running.pump.share_of_best_flow,
        running.rules.low("HI-01"),
        running.rules.high("HI-01"),
    )
    return Check(
        "on_curve",
        "In the middle of its curve",
        state(low <= share <= high, low * 0.6 <= share <= high * 1.15),
        message(
            "It runs at {share} of its best flow; {low} to {high} is kind to it (rule HI-01).",
            share=Measure(share, "ratio"),
            low=Measure(low, "ratio"),
            high=Measure(high, "ratio"),
        ),
        "A pump at the edge of its curve wears, heats up or shakes: take one whose best flow is"
        " nearer.",
    )


def _reserve(running: Running) -> Check:
    margin, static = running.pump.shutoff_margin_m, running.system.static_head_m
    wanted = running.rules.value("CHO-03") * abs(static)
    return Check(
        "reserve",
        "Reserve at shut-off",
        state(margin >= wanted, margin > 0),
        message(
            "With no flow it could push {margin} higher than it has to; at least {wanted} is wanted"
            " (rule CHO-03).",
            margin=Measure(margin, "length"),
            wanted=Measure(wanted, "length"),
        ),
        "Take a pump with more head at shut-off: a small error in the levels would stop this one.",
    )


_CHECKS = {"flow": _flow, "on_curve": _place_on_curve, "reserve": _reserve}
