"""What must hold for the return pump of an aquarium."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working, message
from sizing.base.noise import noise_in_words, together_db
from sizing.base.rounding import at_most
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Check, Running, alone, state
from sizing.document.answers import Facts
from sizing.hydraulics.quick_rules import aquarium_rule
from sizing.storage.return_sump import return_sump


def take_offs_m3s(facts: Facts) -> float:
    """What reactors, a steriliser and the like take besides the display."""
    return sum(row.optional("flow") or 0.0 for row in facts.rows("take_offs"))


def share_of_display(facts: Facts, flow_m3s: float) -> float:
    """The share of the pump's flow that comes to the display.

    Raises
    ------
    SizingError
        The take-offs want all of it, or more.
    """
    more = take_offs_m3s(facts)
    if more >= flow_m3s:
        raise SizingError("the take-offs want more than the whole flow: state a larger one")
    return 1.0 - more / flow_m3s


def _to_the_display_m3s(running: Running) -> float:
    """What turns the tank over where the pump runs: take-offs do not."""
    return running.flow_m3s * share_of_display(running.facts, running.demand.inflow_m3s)


@alone("the flow printed on the box")
def box_check(running: Running) -> Check:
    """The figure on the box against what runs: the commonest wrong purchase."""
    box = running.curve.last_flow_m3s
    share = running.flow_m3s / box
    text = message(
        "The curve ends at {box}, much like the figure on its box; plumbed here it gives {flow},"
        " {share} of it, and turns the tank over {rate} an hour.",
        box=Measure(box, "flow"),
        flow=Measure(running.flow_m3s, "flow"),
        share=Measure(share, "ratio"),
        rate=(
            f"{_to_the_display_m3s(running) * SECONDS_PER_HOUR / volume:.1f} times"
            if (volume := running.facts.optional("tank_volume"))
            else "an unknown number of times"
        ),
    )
    return Check("box", "The box and the truth", "hold", text, weight="note")


@alone("the quick head rule")
def quick_rule_check(running: Running) -> Check:
    """The quick rules for head beside the whole calculation: what each would say."""
    rules = running.rules
    fittings = Counter(
        one.fitting for leg in running.legs for one in leg.fittings for _ in range(one.count)
    )
    quick = aquarium_rule(running.system, fittings, rules)
    full = running.system.head_at(running.flow_m3s)
    text = message(
        "The quick rules (AQU-05 to AQU-07) say {quick}; worked out it is {full}. They know neither"
        " the flow nor the bore.",
        quick=Measure(quick.head_m, "length"),
        full=Measure(full, "length"),
    )
    inputs = (
        ("up", Measure(quick.static_m, "length")),
        ("90° elbows", f"{quick.elbows_90}"),
        ("45° elbows", f"{quick.elbows_45}"),
        ("flat run", Measure(quick.flat_m, "length")),
        ("each 90° elbow", Measure(rules.value("AQU-05"), "length")),
        ("of the flat run", Measure(rules.value("AQU-07"), "ratio")),
    )
    working = Working(
        "Quick head rule",
        "up + elbows + a tenth of the flat run",
        inputs,
        Measure(quick.head_m, "length"),
        "aquarium rules of thumb",
    )
    return Check(
        code="quick_rule",
        label="Quick rule for head",
        state="hold" if abs(quick.head_m - full) <= 0.25 * full else "watch",
        message=text,
        remedy="Go by the whole calculation: it knows the bore.",
        working=working,
        weight="note",
    )


@alone("the back-siphon in a power cut")
def power_cut_checks(running: Running) -> list[Check]:
    """What runs back in a power cut against the room in the sump."""
    facts = running.facts
    area = facts.optional("display_area")
    if area is None:
        return []
    holds = facts.choice("siphon_break") == "yes"
    pipes = sum(leg.volume_m3 for leg in running.system.route.legs)
    found = return_sump(
        drained=[(area, facts.si("siphon_depth"))],
        pipes_m3=pipes,
        other_volume_m3=0.0,
        sump_plan_area_m2=facts.si("sump_area"),
        sump_rim_level_m=facts.si("sump_rim"),
        sump_running_level_m=facts.si("sump_level"),
    )
    text = message(
        "When the power goes {volume} run down; the sump has room for {room}. It may run at {safe}"
        " at most.",
        volume=Measure(found.volume_into_sump_m3, "volume"),
        room=Measure(found.room_before_m3, "volume"),
        safe=Measure(found.highest_safe_running_level_m, "length"),
    )
    inputs = (
        ("display", Measure(area, "area")),
        ("runs down over it", Measure(facts.si("siphon_depth"), "length", 3)),
        ("pipes hold", Measure(pipes, "volume", 1)),
        ("sump", Measure(facts.si("sump_area"), "area")),
        ("rim − running level", Measure(facts.si("sump_rim") - facts.si("sump_level"), "length")),
    )
    working = Working(
        "What runs down",
        "display area × depth + pipes",
        inputs,
        Measure(found.volume_into_sump_m3, "volume", 1),
        "continuity",
    )
    remedy = "Run the sump lower, raise the nozzle, or drill a siphon break" + (
        " (the one there may clog: do not count on it)." if holds else "."
    )
    return [
        Check(
            code="power_cut",
            label="Power cut",
            state=state(not found.overflows),
            about="site",
            message=text,
            remedy=remedy,
            working=working,
        )
    ]


@alone("the turnover")
def turnover_check(running: Running) -> Iterator[Check]:
    """How often the tank really turns over, against the range of its school (AQU-01)."""
    volume = running.facts.optional("tank_volume")
    if not volume:
        return
    low, high = running.rules.low("AQU-01"), running.rules.high("AQU-01")
    turns = _to_the_display_m3s(running) / volume
    yield Check(
        "turnover",
        "Turnover that really runs",
        "hold" if low <= turns <= high else "watch",
        message(
            "The tank turns over {turns}; {low} to {high} is the range of a plumbed return (rule"
            " AQU-01).",
            turns=Measure(turns, "turnover"),
            low=Measure(low, "turnover"),
            high=Measure(high, "turnover"),
        ),
        "More only makes noise and costs current; wave pumps move the water in the tank.",
        weight="note",
        about="site",
    )


@alone("the restart after a power cut")
def restart_check(running: Running) -> Check:
    """Air trapped under a check valve, or in the pump, when the power comes back."""
    valve = any(
        entry.fitting.startswith("check_") for leg in running.legs for entry in leg.fittings
    )
    return Check(
        "restart",
        "Start again after a power cut",
        "watch" if valve else "hold",
        message(
            "Under the check valve air stays and the pump may turn in it: drill a small hole below"
            " it (rule BAS-13), and clean it often."
            if valve
            else "No check valve traps air over the pump: it fills again by itself.",
        ),
        "Try it: pull the plug, wait, plug it in again.",
        weight="note",
        about="site",
    )


@alone("the noise")
def noise_check(running: Running) -> Check:
    """How loud it is where people sit, all pumps that run together."""
    one, rules = running.pump.pump.noise_db, running.rules
    if one is None:
        return Check(
            "noise",
            "Noise",
            "watch",
            message("The maker does not say how loud it is."),
            "Ask, or hear one.",
        )
    noise = together_db(one, running.running)
    usual, most = rules.value("CHO-14"), rules.high("CHO-14")
    return Check(
        "noise",
        "Noise",
        state(bool(at_most(noise, usual)), bool(at_most(noise, most))),
        message(
            "{noise} dB at 1 m: like {words}; up to {usual} is borne where people sit (rule"
            " CHO-14).",
            noise=f"{noise:.0f}",
            words=noise_in_words(noise),
            usual=f"{usual:g}",
        ),
        "Set it on soft feet with a hose tail, or run a larger one slower.",
    )
