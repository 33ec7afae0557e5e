"""What a pump that runs for most of the year costs beside its price."""

from __future__ import annotations

from sizing.base.message import Measure, message
from sizing.checks.base import Check, Running, alone
from sizing.pump.power import energy_of_year


@alone("the cost of a year")
def year_check(running: Running) -> Check:
    """What a pump that runs for most of the year costs beside its price."""
    facts, power, pump = running.facts, running.pump.power_w, running.pump.pump
    label = "Electricity of a year"
    if power is None:
        return Check(
            "year",
            label,
            "watch",
            message("The maker gives no input power: the year's electricity is not known."),
            "Ask for the power at this flow.",
            weight="note",
        )
    found = energy_of_year(power, facts.si("hours_per_year"), facts.si("energy_price"))
    text = message(
        "It takes {power} for {hours} a year: {energy}, which costs {cost}"
        + (" beside its price of {price}." if pump.price else "."),
        power=Measure(power, "power"),
        hours=Measure(facts.si("hours_per_year"), "time"),
        energy=Measure(found.energy_j, "energy"),
        cost=f"{found.cost:,.0f}",
        price=f"{pump.price or 0:,.0f}",
    )
    dear = pump.price is not None and found.cost > pump.price
    remedy = (
        "A wider pipe or an adjustable pump pays for itself: each metre of head saved is saved year"
        " after year."
    )
    return Check("year", label, "watch" if dear else "hold", text, remedy, weight="note")
