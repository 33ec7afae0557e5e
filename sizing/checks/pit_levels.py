"""How the levels of a pit stand to each other: alarm, second pump, inlet."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.errors import SizingError
from sizing.base.message import Measure, apart, message
from sizing.base.rounding import at_least, at_most
from sizing.checks.base import Check, Site, alone, state
from sizing.document.answers import Facts
from sizing.storage.plan import Plan


def lag_level_m(facts: Facts) -> float | None:
    """Where a second pump starts [m]; None where that is not asked or not told."""
    return facts.optional("lag_level") if facts.asks("lag_level") else None


@alone("the levels of the pit")
def level_checks(site: Site, plan: Plan) -> Iterator[Check]:
    """Alarm, second pump and inlet against each other and the start."""
    facts, rules = site.facts, site.rules
    start, alarm, depth = facts.si("start_level"), facts.si("alarm_level"), facts.si("pit_depth")
    inlet = facts.optional("inlet_level")
    if not start < depth:
        raise SizingError("the pump must start below the rim of the pit")
    top, where = (depth, "rim") if inlet is None else (inlet, "lowest inlet")
    yield Check(
        "alarm",
        f"Alarm between start and {where}",
        state(
            bool(at_least(alarm, start + rules.low("BAS-09")) and at_most(alarm, top)),
            bool(start < alarm < depth and at_most(alarm, top)),
        ),
        message(
            "The alarm stands {over} the start and {under} the " + where + ".",
            over=apart(alarm - start),
            under=apart(alarm - top),
        ),
        "Set it about 100 mm over the start, and under what it warns of.",
        about="site",
    )
    lag = lag_level_m(facts)
    if lag is not None:
        yield Check(
            "lag",
            "Second pump between start and alarm",
            state(start < lag < alarm),
            message(
                "The second pump starts {over} the first and {under} the alarm.",
                over=apart(lag - start),
                under=apart(lag - alarm),
            ),
            "Set it between the two: it helps before anybody is called.",
            about="site",
        )
    if inlet is not None:
        room = inlet - start
        yield Check(
            "inlet",
            "Inlet above the start",
            state(bool(at_least(room, rules.low("BAS-08"))), room >= 0),
            message(
                "The lowest inlet lies {room} the start level; {least} over it keeps it from"
                " standing full (rule BAS-08). The {wasted} between it and the rim are of no use to"
                " the pump.",
                wasted=Measure(plan.area_m2 * max(depth - inlet, 0.0), "volume"),
                room=apart(room),
                least=Measure(rules.low("BAS-08"), "length"),
            ),
            "Depth over the inlet is of no use: lower the start level or deepen the pit.",
            about="site",
        )
