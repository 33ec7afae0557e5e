"""Whether what passes the pump passes the pipe."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Filling, Measure, message
from sizing.base.rounding import at_least
from sizing.checks.base import Check, Site, alone
from sizing.document.build_route import leg_name


@alone("the bore for solids")
def bore_check(site: Site, solid_m: float, *, wanted: str = "") -> Iterator[Check]:
    """The narrowest leg against the largest solid; ``wanted`` is a rule on the bore by id."""
    legs = site.system.route.legs
    narrow = min(range(len(legs)), key=lambda index: legs[index].inside_diameter_m)
    bore = legs[narrow].inside_diameter_m
    passes = bool(at_least(bore, solid_m))
    least = site.rules.value(wanted) if wanted else 0.0
    asked: dict[str, Filling] = {"least": Measure(least, "size"), "rule": wanted}
    yield Check(
        code="bore",
        label="Solids pass the pipe",
        state="fail" if not passes else "hold" if at_least(bore, least) else "watch",
        message=message(
            "The narrowest pipe (the {leg}) has a bore of {bore}; solids of {solid} come"
            + ("; {least} is asked of a line without a cutter (rule {rule})." if wanted else "."),
            leg=leg_name(site.legs[narrow], narrow + 1),
            bore=Measure(bore, "bore"),
            solid=Measure(solid_m, "size"),
            **(asked if wanted else {}),
        ),
        remedy=(
            "Take a wider pipe: the first solid blocks this one, whatever the pump."
            if not passes
            else "Take the wider pipe where the flow still scours it, or a pump with a cutter."
        ),
        weight="must",
        about="site",
    )
