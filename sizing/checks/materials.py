"""Whether what the pump is made of stands the water (``data/materials.csv``, each with source)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cache

from sizing.base import tables
from sizing.base.message import message
from sizing.checks.base import Check, Running, alone, state

WATERS = {
    "sea": "sea water",
    "reef": "water with shrimps and corals in it",
    "fish": "water with fish in it",
    "chlorinated": "warm chlorinated water",
    "acid": "acid water",
    "brackish": "brackish water",
}
# Families that are made for a water: a maker who is silent means it.
_MADE_FOR = {
    "sea": ("aquarium", "filter", "diaphragm"),
    "reef": ("aquarium", "filter"),
    "fish": ("pond", "skimmer", "fountain", "filter", "aquarium"),
    "chlorinated": ("spa", "circulation"),
}


@cache
def _rows(water: str) -> tuple[tuple[str, tuple[str, ...], str, str, str], ...]:
    return tuple(
        (
            row["word"],
            tuple(one for one in row["but_not"].split(";") if one),
            row["harm"],
            row["why"],
            row["source"],
        )
        for row in tables.rows("materials")
        if row["water"] == water
    )


@alone("what it is made of")
def materials_check(running: Running, waters: Sequence[str]) -> Iterator[Check]:
    """What its maker says it is made of, against each water that attacks something."""
    pump = running.pump.pump
    made = pump.materials.lower()
    for water in waters:
        if not made:
            if pump.family not in _MADE_FOR.get(water, ()):
                yield _silent(water)
            continue
        harmed = [
            row
            for row in _rows(water)
            if row[0] in made and not any(word in made for word in row[1])
        ]
        worst = min(harmed, key=lambda row: row[2] != "bad", default=None)
        yield Check(
            f"made_{water}",
            f"Materials for {WATERS[water]}",
            state(worst is None, worst is not None and worst[2] != "bad"),
            message("Of {made}: nothing in it is attacked.", made=pump.materials)
            if worst is None
            else message(
                "Of {made}: {why} ({source}).", made=pump.materials, why=worst[3], source=worst[4]
            ),
            "Take a pump whose wetted parts stand it: plastic, bronze, stainless steel 316 or"
            " better, by the maker's table.",
            weight="must",
        )


def _silent(water: str) -> Check:
    return Check(
        f"made_{water}",
        f"Materials for {WATERS[water]}",
        "watch",
        message(
            "The maker does not say what it is made of; it meets {water}.", water=WATERS[water]
        ),
        "Ask the maker for the wetted parts, before it is bought.",
        weight="must",
        asks=True,
    )


@alone("the listing for drinking water")
def listing_check(running: Running) -> Check:
    """Whether a pump that drinking water passes is listed for it; a silent maker is asked."""
    listed = running.pump.pump.drinking_water
    return Check(
        "listed",
        "Listed for drinking water",
        state(bool(listed), listed is None),
        message(
            "Its maker states a listing for drinking water."
            if listed
            else "Its maker states that it is not listed for drinking water."
            if listed is False
            else "Its maker does not say whether it is listed for drinking water."
        ),
        "Take a pump that is listed for drinking water where the code asks for it.",
        weight="note" if listed is None else "should",
    )
