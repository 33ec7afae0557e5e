"""How long sewage stands in a pressure pipe: what is old turns septic, smells and eats concrete."""

from __future__ import annotations

from sizing.base.message import Measure, Working, message
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Site, alone


@alone("the retention time")
def standing_check(site: Site, daily_m3: float | None) -> Check:
    """How long the sewage stands in the pipe on an average day: the rules RET-01 to RET-03."""
    label = "Standing time"
    if daily_m3 is None:
        return Check(
            "standing",
            label,
            "watch",
            message("How long it stands in the pipe is not known: give the people."),
            "Give the people: the day's flow follows.",
            about="site",
        )
    volume = sum(leg.volume_m3 for leg in site.system.route.legs)
    stands = volume / daily_m3 * SECONDS_PER_DAY
    fine, most = site.rules.high("RET-01"), site.rules.high("RET-02")
    text = message(
        "It stands {stands} in the pipe on an average day; under {fine} is fine, over {most} it"
        " turns septic (rules RET-01 to RET-03).",
        stands=Measure(stands, "time"),
        fine=Measure(fine, "time"),
        most=Measure(most, "time"),
    )
    inputs = (
        ("pipe holds", Measure(volume, "volume")),
        ("sewage a day", Measure(daily_m3, "volume")),
    )
    return Check(
        code="standing",
        label=label,
        state="hold" if stands <= fine else "watch" if stands <= most else "fail",
        message=text,
        remedy="Take a narrower main as far as the head allows, flush it by a timer at night, dose"
        " against sulphide, or vent and line the end.",
        working=Working(
            "Standing time",
            "pipe volume / daily volume",
            inputs,
            Measure(stands, "time"),
            "continuity",
        ),
        about="site",
    )
