"""Which family of pump a job wants, with the reasons, and why each tempting other is wrong.

All of it data.

``data/family_choice.csv`` holds what each family is for, a row a use; ``data/family_clues.csv``
what can be seen on an old pump.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import UnknownName, check_range
from sizing.pump.catalogue_columns import families

LIQUIDS = {
    "ground": "ground water",
    "rain": "rain water",
    "clean": "clean water",
    "drinking": "drinking water",
    "grey": "grey water (baths, laundry)",
    "settled": "settled effluent",
    "filtered": "filtered effluent",
    "sewage": "raw sewage, paper, wipes",
    "pond": "pond water with debris",
    "sea": "sea water",
    "hot": "hot water",
    "chlorinated": "chlorinated water",
}
PLACES = {
    "pit": "in a pit",
    "tank": "in a tank",
    "well": "in a drilled well",
    "pond": "on a pond floor",
    "skimmer": "behind a skimmer or intake",
    "chamber": "in a filter or sump chamber",
    "beside": "dry, beside the water",
}
FEEDS = {
    "gravity": "a free outlet or gravity sewer",
    "main": "a pressurised main",
    "tank": "a tank",
    "taps": "taps and fixtures",
    "spray": "sprays, drip, sprinklers",
    "jets": "jets of a tub",
    "fall": "a waterfall or stream",
    "fountain": "a fountain",
    "filter": "a filter, round and round",
    "display": "a display tank",
    "stir": "nothing: it circulates the same water",
}


# What a kind of job calls a water that it does not list under its name here.
_NEAREST = {"ground": "clear", "clean": "fresh"}


def answer_for(codes: Sequence[str], liquid: str) -> str:
    """The answer of a kind's own question for one of :data:`LIQUIDS`; '' where it has none."""
    return next((code for code in (liquid, _NEAREST.get(liquid, "")) if code in codes), "")


@dataclass(frozen=True)
class Use:
    """A row of the table: what a family is used for, and what to say where that fails."""

    family: str
    liquids: frozenset[str]
    places: frozenset[str]
    feeds: frozenset[str]
    solids_m: float
    lift_low_m: float
    lift_high_m: float
    because: str
    why_not: Mapping[str, str]


@dataclass(frozen=True)
class Advice:
    """A family with its verdict: the reason for it, or the reasons against."""

    family: str
    label: str
    fits: bool
    reasons: tuple[str, ...]


@dataclass(frozen=True)
class Clue:
    """One question about an old pump, with its answers: (code, label, families that it leaves)."""

    code: str
    question: str
    answers: tuple[tuple[str, str, frozenset[str]], ...]


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split("|"))


@lru_cache
def uses() -> tuple[Use, ...]:
    """Every row of the table, in its order."""
    criteria = ("liquid", "place", "feeds", "solids", "lift")
    return tuple(
        Use(
            family=row["family"],
            liquids=_set(row["liquids"]),
            places=_set(row["places"]),
            feeds=_set(row["feeds"]),
            solids_m=float(row["solids_mm"]) / 1000,
            lift_low_m=float(row["lift_low_m"]),
            lift_high_m=float(row["lift_high_m"]),
            because=row["because"],
            why_not={name: row[f"if_{name}"] for name in criteria},
        )
        for row in tables.rows("family_choice")
    )


@lru_cache
def not_for() -> dict[str, str]:
    """What each family is not for, in a few words."""
    return {row["family"]: row["not_for"] for row in tables.rows("families")}


def for_kind(
    found: tuple[Advice, ...], allowed: Sequence[str], matched: Collection[str] = ()
) -> tuple[Advice, ...]:
    """Advice narrowed to the families that a kind of job takes.

    The table knows neither flow nor pressure: a family of which pumps were ``matched`` to the job,
    with all that it asks, does it, whatever is usual.
    """

    def narrowed(one: Advice) -> Advice:
        if one.fits and one.family not in allowed:
            why = f"By its water and place it would do, but it is not for {not_for()[one.family]}."
            return replace(one, fits=False, reasons=(why,))
        if not one.fits and one.family in matched:
            said = ("Pumps of it fit here.", *one.reasons)
            return replace(one, fits=True, reasons=(" Usually: ".join(said[:2]),))
        return one

    return tuple(sorted(map(narrowed, found), key=lambda one: not one.fits))


@lru_cache
def _of_the_water() -> dict[str, str]:
    """Reasons that lie in a water itself, whatever a family is made for."""
    return {row["liquid"]: row["why_not"] for row in tables.rows("liquid_reasons")}


def _against(
    use: Use, liquid: str, place: str, feeds: str, solid_m: float | None, lift_m: float | None
) -> tuple[str, ...]:
    """Why this use does not apply, the weightiest reason first; nothing when it does.

    What is not known (None) speaks against nothing.
    """
    holds = {
        "liquid": liquid in use.liquids,
        "solids": solid_m is None or solid_m <= use.solids_m,
        "place": place in use.places,
        "feeds": feeds in use.feeds,
        "lift": lift_m is None or use.lift_low_m <= lift_m <= use.lift_high_m,
    }
    said = dict(use.why_not) | {"liquid": _of_the_water().get(liquid, use.why_not["liquid"])}
    return tuple(said[name] for name, held in holds.items() if not held)


def advise(
    *, liquid: str, place: str, feeds: str, solid_m: float | None, lift_m: float | None
) -> tuple[Advice, ...]:
    """Families for a job: those that fit first, then the tempting others, the nearest first.

    Parameters
    ----------
    liquid, place, feeds : codes of :data:`LIQUIDS`, :data:`PLACES`, :data:`FEEDS`.
    solid_m : the largest solid that must pass [m]; None: not known.
    lift_m : height from the water to the outlet [m]; None: not known.

    Raises
    ------
    UnknownName, OutOfRange
    """
    for what, code, known in (
        ("liquid", liquid, LIQUIDS),
        ("place", place, PLACES),
        ("use", feeds, FEEDS),
    ):
        if code not in known:
            raise UnknownName(what, code, known)
    if solid_m is not None:
        check_range("largest solid", solid_m, 0.0, 1.0, "m")
    if lift_m is not None:
        check_range("lift", lift_m, -100.0, 1000.0, "m")
    nearest: dict[str, tuple[Use, tuple[str, ...]]] = {}
    for use in uses():
        against = _against(use, liquid, place, feeds, solid_m, lift_m)
        if use.family not in nearest or len(against) < len(nearest[use.family][1]):
            nearest[use.family] = (use, against)
    ordered = sorted(nearest.values(), key=lambda pair: len(pair[1]))
    return tuple(
        Advice(use.family, families()[use.family], not against, against or (use.because,))
        for use, against in ordered
    )


def possible(
    *, liquid: str, place: str, feeds: str, solid_m: float | None, lift_m: float | None
) -> tuple[str, ...]:
    """Families that may still do, while some is not answered ('' or None); in table order."""
    found = dict.fromkeys(
        use.family
        for use in uses()
        if (not liquid or liquid in use.liquids)
        and (not place or place in use.places)
        and (not feeds or feeds in use.feeds)
        and (solid_m is None or solid_m <= use.solids_m)
        and (lift_m is None or use.lift_low_m <= lift_m <= use.lift_high_m)
    )
    return tuple(found)


def ruled_out_by(
    *, liquid: str, place: str, feeds: str, solid_m: float | None, lift_m: float | None
) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Where no family does all: each answer that rules it out, and the families without it.

    An answer is a key of 'liquid', 'place', 'feeds', 'solids', 'lift'.
    """
    without = {
        "liquid": ("", place, feeds, solid_m, lift_m),
        "place": (liquid, "", feeds, solid_m, lift_m),
        "feeds": (liquid, place, "", solid_m, lift_m),
        "solids": (liquid, place, feeds, None, lift_m),
        "lift": (liquid, place, feeds, solid_m, None),
    }
    found = []
    for name, (water, stands, goes, solid, lift) in without.items():
        left = possible(liquid=water, place=stands, feeds=goes, solid_m=solid, lift_m=lift)
        if left:
            found.append((name, left))
    return tuple(found)


@lru_cache
def clues() -> tuple[Clue, ...]:
    """The questions about an old pump."""
    made: dict[str, Clue] = {}
    for row in tables.rows("family_clues"):
        before = made.get(row["clue"], Clue(row["clue"], row["question"], ()))
        answer = (row["answer"], row["label"], _set(row["families"]))
        made[row["clue"]] = Clue(before.code, before.question, (*before.answers, answer))
    return tuple(made.values())


def recognise(seen: Mapping[str, str]) -> tuple[Advice, ...]:
    """Families that agree with everything seen on an old pump, then the others.

    With what speaks against them.

    Parameters
    ----------
    seen : answer by clue; what nobody could see is left out.

    Raises
    ------
    UnknownName
        A clue or an answer that the table does not hold.
    """
    against: dict[str, list[str]] = {family: [] for family in families()}
    known = {clue.code: clue for clue in clues()}
    for code, answer in seen.items():
        if code not in known:
            raise UnknownName("clue", code, known)
        found = next((one for one in known[code].answers if one[0] == answer), None)
        if found is None:
            raise UnknownName("answer", answer, [one[0] for one in known[code].answers])
        for family in families():
            if family not in found[2]:
                against[family].append(found[1])
    ordered = sorted(against.items(), key=lambda pair: len(pair[1]))
    agrees = "agrees with all that was seen"
    return tuple(
        Advice(
            family,
            families()[family],
            not said,
            tuple(f"not with {one}" for one in said) or (agrees,),
        )
        for family, said in ordered
    )
