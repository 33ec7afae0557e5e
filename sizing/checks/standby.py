"""Whether a building that cannot be without water or drains has a second pump."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import message
from sizing.checks.base import Check, Site, alone, state


@alone("the pump that stands by")
def standby_check(site: Site, building: str) -> Iterator[Check]:
    """One pump on duty and one that stands by (BST-04); nothing where ``building`` is ''."""
    if not building:
        return
    standing_by, shared = site.job.standby > 0, site.facts.running_pumps > 1
    yield Check(
        "standby",
        "Standby pump",
        state(standing_by, shared),
        message("A pump stands by: one that fails is taken over (rule BST-04).")
        if standing_by
        else message(
            "No pump stands by. With one of {pumps} failed the rest give less; {building} cannot be"
            " without (rule BST-04)."
            if shared
            else "One pump alone: when it fails, {building} is without (rule BST-04).",
            pumps=str(site.facts.running_pumps),
            building=building,
        ),
        "Fit a second pump that takes over by itself, and alternates with the first.",
        about="site",
    )
