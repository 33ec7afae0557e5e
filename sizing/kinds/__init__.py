"""Kinds of job, one file each.

A new file with a :class:`~sizing.kinds.base.Kind` in it is a new kind.
"""

from __future__ import annotations

from functools import lru_cache

from sizing.base.errors import UnknownName
from sizing.base.found_in import found_in
from sizing.kinds.base import Kind


@lru_cache
def kinds() -> dict[str, Kind]:
    """Every kind by its code, found by looking into this folder."""
    found = found_in(__name__, __path__, "KIND")
    return {one.code: one for one in sorted(found, key=lambda one: one.code)}


def kind_of_family(family: str) -> str:
    """The code of the kind of job that a family of pump is sized in; '' for none."""
    return next((one.code for one in kinds().values() if family in one.sizes), "")


def kind(code: str) -> Kind:
    """The kind with that code.

    Raises
    ------
    UnknownName
    """
    try:
        return kinds()[code]
    except KeyError:
        raise UnknownName("kind of job", code, kinds()) from None
