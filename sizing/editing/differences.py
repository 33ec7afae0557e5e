"""What differs between two states of a job, in the words of its fields."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.document.build_route import leg_name
from sizing.document.job import JobDocument, LegEntry
from sizing.kinds import kind

_PLAIN = {
    "title": "the name",
    "customer": "the customer",
    "site": "the site",
    "friction": "friction by",
    "fitting_method": "fittings by",
    "allowance": "the allowance for fittings",
    "as_built": "losses as built",
    "filters": "how dirty filters are",
    "arrangement": "how pumps stand together",
    "running_pumps": "how many pumps run",
    "standby": "how many stand by",
    "own_pumps": "pumps at hand",
    "second_look": "somebody else's figure",
}
_OF_A_LEG = {
    "name": "name",
    "side": "side",
    "bore": "bore",
    "length": "length",
    "ends_at": "end level",
    "fittings": "fittings",
    "wall": "wall",
    "share": "share of the flow",
    "rated": "rating of its fittings",
    "parallel": "pipes side by side",
    "items": "items",
    "survey": "ground",
}


def differences(before: JobDocument, after: JobDocument) -> tuple[str, ...]:
    """The fields that differ, in the order of the sheet; units of display do not count.

    A pump counts only where both name one: while nobody picked one, the rules choose.
    """
    return tuple(dict.fromkeys(_found(before, after)))


def _found(before: JobDocument, after: JobDocument) -> Iterator[str]:
    for name, words in _PLAIN.items():
        if getattr(before, name) != getattr(after, name):
            yield words
    for question in kind(after.kind).questions:
        if before.answers.get(question.key) != after.answers.get(question.key):
            yield f"{question.label[:1].lower()}{question.label[1:]}"
    for declared in kind(after.kind).lists:
        if before.lists.get(declared.key) != after.lists.get(declared.key):
            yield f"{declared.label[:1].lower()}{declared.label[1:]}"
    yield from _of_legs(before, after)
    if before.pump and after.pump and before.pump != after.pump:
        yield "the pump"


def _of_legs(before: JobDocument, after: JobDocument) -> Iterator[str]:
    known = {leg.id: leg for leg in before.legs}
    if [leg.id for leg in before.legs] != [leg.id for leg in after.legs]:
        yield "which legs the run has"
    for number, leg in enumerate(after.legs, 1):
        if leg.id in known and known[leg.id] != leg:
            yield from _of_leg(known[leg.id], leg, number)


def _of_leg(before: LegEntry, after: LegEntry, number: int) -> Iterator[str]:
    name = leg_name(after, number)
    if (before.series, before.nominal) != (after.series, after.nominal):
        yield f"pipe of {name}"
    for field, words in _OF_A_LEG.items():
        if getattr(before, field) != getattr(after, field):
            yield f"{words} of {name}"
