"""The pump itself: enough flow, in the middle of its curve, with reserve."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sizing.base.message import Measure, apart, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import STATES, Check, Running, alone, state, state_of
from sizing.selection.limit import far_right_states, least_flow_states

_FURTHEST_LEFT = 0.6  # of the preferred range's left end: beyond, it fails


@alone("the pump on its curve")
def pump_checks(running: Running, *codes: str) -> list[Check]:
    """The pump itself: enough flow, in the middle of its curve, with reserve.

    ``codes`` names those wanted, in that order; none means all.
    """
    return [_CHECKS[code](running) for code in codes or _CHECKS]


@alone("the flow against the need")
def _flow(running: Running) -> Check:
    needed, flow = running.demand.needed_m3s, running.flow_m3s
    if running.pump.excess_m:
        return Check(
            "flow",
            "Enough at the peak",
            "hold",
            message(
                "The outlets draw {needed} at the most, and there it holds {head}: {excess} more"
                " than the run asks. With fewer open the pressure rises towards its shut-off.",
                needed=Measure(needed, "flow"),
                head=Measure(running.operating_head_m, "length"),
                excess=Measure(running.pump.excess_m, "length"),
            ),
            weight="must",
        )
    return Check(
        "flow",
        "Enough flow",
        state(
            bool(at_least(flow, needed)),
            bool(at_least(flow, min(running.demand.inflow_m3s, needed))),
        ),
        message(
            "It moves {flow}; {needed} is needed.",
            flow=Measure(flow, "flow"),
            needed=Measure(needed, "flow"),
        ),
        "Take a stronger pump, a wider pipe or a lower outlet.",
        weight="must",
    )


@alone("the place on the curve")
def _place_on_curve(running: Running) -> Check:
    share, low, high = (
        running.pump.share_of_best_flow,
        running.rules.low("HI-01"),
        running.rules.high("HI-01"),
    )
    throttled = share * running.demand.needed_m3s / running.flow_m3s
    right = bool(share > high) and not bool(at_most(share, high))
    if right:
        found = far_right_states(np.array([share]), np.array([throttled]), running.rules)[0]
        to_duty = at_most(throttled, high) and throttled < share
        return Check(
            "on_curve",
            "Not far right of its best flow",
            STATES[int(found)],
            message(
                "It runs at {share} of its best flow; {low} to {high} is kind to it (rule HI-01),"
                " {most} is borne (rule CHO-17)."
                + (" Throttled to {needed} it would run at {throttled}." if to_duty else ""),
                share=Measure(share, "ratio"),
                low=Measure(low, "ratio"),
                high=Measure(high, "ratio"),
                most=Measure(running.rules.value("CHO-17"), "ratio"),
                needed=Measure(running.demand.needed_m3s, "flow"),
                throttled=Measure(throttled, "ratio"),
            ),
            "Throttle it to the flow needed with a valve, or take one whose best flow is larger: so"
            " far right it shakes, wants more NPSH and may overload.",
            weight="must",
        )
    return Check(
        "on_curve",
        "In the middle of its curve",
        state(bool(at_least(share, low)), bool(at_least(share, low * _FURTHEST_LEFT))),
        message(
            "It runs at {share} of its best flow; {low} to {high} is kind to it (rule HI-01).",
            share=Measure(share, "ratio"),
            low=Measure(low, "ratio"),
            high=Measure(high, "ratio"),
        ),
        "A pump at the edge of its curve wears, heats up or shakes: take one whose best flow is"
        " nearer.",
    )


@alone("the strength of the pump")
def strength_check(running: Running) -> Iterator[Check]:
    """Whether it is far stronger than is asked: another pump would be cheaper and kinder."""
    most, needed = running.rules.value("CHO-09"), running.demand.needed_m3s
    if running.facts.asks("panels"):  # the sun sizes it by its hardest month
        return
    head_m = running.system.head_at(needed)
    by_head = running.pump.excess_m > 0
    over = running.pump.excess_m / max(head_m, 1e-9) if by_head else running.flow_m3s / needed - 1.0
    if by_head and head_m <= 0:
        return
    yield Check(
        "far_too_strong",
        "Not far too strong",
        state(bool(at_most(over, most))),
        message(
            (
                "It holds {over} more head than the run asks"
                if by_head
                else "It moves {over} more than is needed"
            )
            + "; {most} more is another pump (rule CHO-09).",
            over=Measure(max(over, 0.0), "ratio"),
            most=Measure(most, "ratio"),
        ),
        "Take a smaller pump, a trimmed impeller or a lower speed; or throttle it, and pay for"
        " that.",
    )


@alone("the minimum flow")
def _least_flow(running: Running) -> Check:
    rules, share = running.rules, running.pump.share_of_best_flow
    stated = running.pump.pump.least_flow_m3s
    if stated is not None:
        least = stated * running.running
        return Check(
            "least_flow",
            "Enough flow to keep it cool",
            state(bool(at_least(running.flow_m3s, least))),
            message(
                "It runs at {flow}; its maker asks for {least} at least.",
                flow=Measure(running.flow_m3s, "flow"),
                least=Measure(least, "flow"),
            ),
            "Take a smaller pump, or let part of its flow run back.",
            weight="must",
        )
    return Check(
        "least_flow",
        "Enough flow to keep it cool",
        state_of(lambda figure: least_flow_states(figure, rules), share),
        message(
            "It runs at {share} of its best flow; {usual} is wanted, and under {least} it heats and"
            " shakes (rule CHO-13).",
            share=Measure(share, "ratio"),
            usual=Measure(rules.value("CHO-13"), "ratio"),
            least=Measure(rules.low("CHO-13"), "ratio"),
        ),
        "Take a smaller pump, or let part of its flow run back.",
        weight="must",
    )


@alone("the head in reserve")
def _reserve(running: Running) -> Check:
    margin, static = running.pump.shutoff_margin_m, running.system.static_head_m
    wanted = running.rules.value("CHO-03") * abs(static)
    return Check(
        "reserve",
        "Reserve at shut-off",
        state(bool(at_least(margin, wanted)), margin > 0),
        message(
            "With no flow it reaches {margin} what it has to; at least {wanted} over it is wanted"
            " (rule CHO-03).",
            margin=apart(margin),
            wanted=Measure(wanted, "length"),
        ),
        "Take a pump with more head at shut-off: a small error in the levels would stop this one.",
    )


@alone("the head at the start")
def _starts_against(running: Running) -> Check:
    margin = running.pump.shutoff_margin_m + running.starts_higher_by_m
    return Check(
        "starts_against",
        "Starts against a full line",
        state(margin > 0),
        message(
            "With the line full and still it has {margin} of head to spare when it starts.",
            margin=Measure(margin, "length"),
        )
        if margin > 0
        else message(
            "With the line full and still it lacks {margin} of head when it starts: it would turn"
            " in the same water and get hot.",
            margin=Measure(-margin, "length"),
        ),
        "Take a pump with more head at no flow, or let the line run empty at every stop.",
        weight="must",
    )


_CHECKS = {
    "flow": _flow,
    "on_curve": _place_on_curve,
    "least_flow": _least_flow,
    "reserve": _reserve,
    "starts_against": _starts_against,
}
