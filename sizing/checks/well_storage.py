"""Storage at a well: what the peak takes beyond its yield, and an open tank filled all day."""

from __future__ import annotations

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_least, at_most
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.storage.well import Storage, storage_for_day, storage_for_peak

_BOOSTER = "A booster of its own job draws from the tank: the worksheet makes it, linked."


def peak_m3s(site: Site) -> float:
    """What the taps draw at once [m3/s], whatever the well gives."""
    return site.demand.inflow_m3s * site.demand.margin


@alone("the storage")
def storage_check(running: Running) -> Check:
    """Behind a pressure tank: whether the well gives the whole peak, else what storage it takes."""
    wanted, given = peak_m3s(running), running.demand.needed_m3s
    if given >= wanted:
        return Check(
            "storage",
            "Storage",
            "hold",
            message("The well gives the whole peak: no storage is needed."),
            weight="note",
        )
    time = running.facts.si("peak_time")
    found = storage_for_peak(peak_flow_m3s=wanted, peak_time_s=time, refill_flow_m3s=given)
    return Check(
        code="storage",
        label="Storage",
        state="watch",
        message=message(
            "The peak of {wanted} is more than the well gives: an open tank of {volume} carries"
            " {time} of it, and fills again in {fill} while nobody draws.",
            wanted=Measure(wanted, "flow"),
            volume=Measure(found.volume_m3, "volume"),
            time=Measure(time, "time"),
            fill=Measure(found.fill_time_s, "time"),
        ),
        remedy="Say under How much that the well pump fills an open tank: then it is sized to the"
        " day's water, and a booster of its own job draws from the tank.",
        weight="note",
        about="site",
        working=_working(
            (
                ("peak", Measure(wanted, "flow")),
                ("well gives", Measure(given, "flow")),
                ("the peak lasts", Measure(time, "time")),
            ),
            "(peak − yield) × time",
            found.volume_m3,
        ),
    )


@alone("the open tank")
def open_tank_check(running: Running, day_m3: float) -> Check:
    """The open tank: it carries the peak, and the hours in which the day's water is drawn."""
    facts, refill = running.facts, running.flow_m3s
    found = _open_tank(running, day_m3)
    have = facts.optional("storage_volume")
    wanted = found.volume_m3
    told = "" if have is None else "It holds {have}. "
    return Check(
        code="storage",
        label="Storage tank",
        state="hold"
        if have is None
        else state(bool(at_least(have, wanted)), bool(at_least(have, wanted / 2.0))),
        message=message(
            told + "{wanted} carry what is drawn beyond the {refill} that come in, and fill again"
            " in {fill} while nobody draws.",
            have=Measure(have or 0.0, "volume"),
            wanted=Measure(wanted, "volume"),
            refill=Measure(refill, "flow"),
            fill=Measure(found.fill_time_s, "time"),
        ),
        remedy=_BOOSTER if have is None or have >= wanted else f"Take a larger tank. {_BOOSTER}",
        weight="note" if have is None else "should",
        about="site",
        working=_working(
            (
                ("peak", Measure(peak_m3s(running), "flow")),
                ("the peak lasts", Measure(facts.si("peak_time"), "time")),
                ("the day's water", Measure(day_m3, "volume")),
                ("drawn within", Measure(facts.si("pumping_time"), "time")),
                ("comes in", Measure(refill, "flow")),
            ),
            "larger of (peak − refill) × its time, and day's water − refill × time it is drawn in",
            wanted,
        ),
    )


def _open_tank(running: Running, day_m3: float) -> Storage:
    facts, refill = running.facts, running.flow_m3s
    return max(
        storage_for_peak(
            peak_flow_m3s=peak_m3s(running),
            peak_time_s=facts.si("peak_time"),
            refill_flow_m3s=refill,
        ),
        storage_for_day(
            day_volume_m3=day_m3, drawn_in_s=facts.si("pumping_time"), refill_flow_m3s=refill
        ),
        key=lambda one: one.volume_m3,
    )


@alone("the day's water")
def day_check(site: Site, day_m3: float) -> Check:
    """Whether the well gives the day's water: in the hours wanted, or at least in the whole day."""
    refill, may_run = site.demand.needed_m3s, site.facts.si("refill_time")
    takes = day_m3 / refill
    return Check(
        "day",
        "The day's water",
        state(bool(at_most(takes, may_run)), bool(at_most(takes, SECONDS_PER_DAY))),
        message(
            "{day} a day at {refill} take {takes}; it may run {may_run}.",
            day=Measure(day_m3, "volume"),
            refill=Measure(refill, "flow"),
            takes=Measure(takes, "time"),
            may_run=Measure(may_run, "time"),
        ),
        "Let it run longer, use less water, or find a second source: no tank makes up for a well"
        " that gives less than the day takes.",
        weight="must",
        about="site",
    )


def _working(inputs: tuple[tuple[str, Measure], ...], equation: str, volume_m3: float) -> Working:
    return Working(
        "Storage",
        equation,
        inputs,
        Measure(volume_m3, "volume"),
        "continuity; compare rule WEL-10",
    )
