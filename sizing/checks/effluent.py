"""What must hold for effluent that is dosed to a bed: outlets that stay open, doses that fit."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, message
from sizing.checks import pit
from sizing.checks.base import Check, Running, Site, alone, state

_FINEST_M = 2e-4  # what an emitter's labyrinth lets through, usual (assumed)
_DOSE_NEAR, _DOSE_FAR = 1.25, 2.0  # times the dose wanted, either way


@alone("the outlets against the solids")
def holes_check(site: Site) -> Iterator[Check]:
    """Whether what the effluent carries passes the outlets; nothing where none are counted."""
    facts = site.facts
    by_outlets = facts.choice("flow_from") in ("largest", "network")
    if facts.optional("orifices") is None or not by_outlets:
        return
    holes = facts.choice("outlet_type") == "holes"
    bore = facts.si("orifice_diameter") if holes else _FINEST_M
    filtered = facts.choice("liquid") == "filtered" or bool(facts.optional("filter_loss"))
    solid = facts.si("largest_solid")
    passes = filtered or solid < bore
    yield Check(
        "holes",
        "Solids pass the outlets",
        state(passes, not holes),  # a spray head may pass more than an emitter
        message("A filter before the outlets keeps them open.")
        if filtered
        else message(
            "Solids of {solid} come, and "
            + ("the holes are {bore}" if holes else "an emitter passes about {bore}")
            + (": they pass." if passes else ": they block one after the other."),
            solid=Measure(solid, "size"),
            bore=Measure(bore, "bore"),
        ),
        "Fit a filter behind the pump or in the tank's outlet, finer than the outlets.",
        weight="must",
        about="site",
    )


@alone("the dose that the floats give")
def dose_by_floats(site: Site, area_m2: float) -> Iterator[Check]:
    """What the floats hold against the dose that is wanted: the bed gets what the floats give."""
    facts = site.facts
    if facts.answer("doses") is None:
        return  # nobody has asked for so many
    held = area_m2 * (facts.si("start_level") - facts.si("stop_level"))
    wanted = facts.si("daily_volume") / facts.si("doses")
    off = max(held / wanted, wanted / held)
    yield Check(
        "dose_by_floats",
        "Doses that the floats give",
        state(off <= _DOSE_NEAR, off <= _DOSE_FAR),
        message(
            "Between the floats stand {held}: {count} doses a day instead of {doses} of {wanted}.",
            held=Measure(held, "volume"),
            wanted=Measure(wanted, "volume"),
            count=f"{facts.si('daily_volume') / held:.1f}",
            doses=f"{facts.si('doses'):g}",
        ),
        "Set the floats so far apart that they hold one dose, or dose by a timer.",
        about="site",
    )


@alone("the dose against the line")
def dose_against_line(running: Running, area_m2: float) -> Check:
    """The dose against the line that it has to fill first."""
    facts = running.facts
    dose = area_m2 * (facts.si("start_level") - facts.si("stop_level"))
    wanted, line = facts.si("daily_volume") / facts.si("doses"), pit.line_volume_m3(running)
    back = 0.0 if pit.holds_back(running) else line
    delivered = dose - back
    low = running.rules.low("EFF-05")
    found = state(delivered >= low * line, delivered >= 2 * line)
    text = message(
        "Between its levels the tank gives {dose}, of which {back} runs back; {wanted} a dose is"
        " wanted, and at least {low} times the line's {line} (rule EFF-05).",
        dose=Measure(dose, "volume"),
        back=Measure(back, "volume"),
        wanted=Measure(wanted, "volume"),
        low=f"{low:g}",
        line=Measure(line, "volume"),
    )
    remedy = (
        ""
        if found == "hold"
        else (
            "Set the levels further apart, dose less often, or take a narrower line: a dose that"
            " only fills the line wets the near end of the bed."
        )
    )
    return Check("dose", "Dose against the line", found, text, remedy, about="site")
