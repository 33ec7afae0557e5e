"""Whether the pipe lies under the frost."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, message
from sizing.base.rounding import at_least
from sizing.checks.base import Check, Site, alone, state


@alone("the frost")
def frost_check(site: Site, *, drains_back: bool) -> Iterator[Check]:
    """The pipe's cover against the depth of frost; nothing where no frost is told.

    A line that drains back at every stop holds no water that could freeze.
    """
    facts = site.facts
    frost = facts.optional("frost_depth") if facts.asks("frost_depth") else None
    if frost is None or frost <= 0:
        return
    cover = facts.optional("pipe_cover")
    under = cover is not None and bool(at_least(cover, frost))
    yield Check(
        "frost",
        "Pipe under the frost",
        state(under or drains_back, cover is None),
        message("The line drains back at every stop: nothing stands in it to freeze.")
        if drains_back and not under
        else message(
            "Frost reaches {frost} down, and nobody has said how deep the pipe lies.",
            frost=Measure(frost, "length"),
        )
        if cover is None
        else message(
            "The pipe lies {cover} under the ground; frost reaches {frost} down.",
            cover=Measure(cover, "length"),
            frost=Measure(frost, "length"),
        ),
        "Lay it deeper, let it drain back at every stop, or lag and heat it; keep inlet and outlet"
        " open where they come to the surface.",
        weight="must" if cover is None and not drains_back else "should",
        asks=cover is None and not drains_back,
        about="site",
    )
