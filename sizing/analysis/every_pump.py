"""Every pump of the catalogue on a job: fits, might do or out, each with its reasons."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from sizing.analysis.changed import Known, NotYet
from sizing.pump.catalogue import Catalogue
from sizing.selection.match import Candidate, candidate

Standing = Literal["fits", "might do", "out"]
MOST_LISTED = 120
_MOST_SEARCHED = 20_000


@dataclass(frozen=True)
class Placed:
    """A pump and where it stands."""

    candidate: Candidate
    standing: Standing


@dataclass(frozen=True)
class EveryPump:
    """The pumps found: ``count`` in all, the first described; ``searched`` were looked at."""

    rows: tuple[Placed, ...]
    count: int
    searched: int


def every_pump(base: Known, catalogue: Catalogue, words: str = "") -> EveryPump:
    """The pumps whose name holds all words, those that fit first, then by name.

    Parameters
    ----------
    catalogue : as it stands on the site's mains, so many of each together.
    words : parts of maker, model or variant, in any order; '' for every pump.

    Raises
    ------
    NotYet
        What is asked of a pump is not known yet.
    """
    sizing = base.sizing
    if sizing.wanted is None or sizing.match is None:
        raise NotYet("this can be asked as soon as what is asked of a pump is known")
    family = catalogue.in_families(_families(base))
    rows = [*np.flatnonzero(family), *np.flatnonzero(~family)][:_MOST_SEARCHED]
    parts = words.lower().split()
    found = [
        int(row)
        for row in rows
        if not parts or all(part in catalogue.pumps[int(row)].name.lower() for part in parts)
    ]
    first = {one.pump.pump_id: rank for rank, one in enumerate(sizing.match.fits)}
    listed = sorted(
        found,
        key=lambda row: (
            first.get(catalogue.pumps[row].pump_id, len(first)),
            not family[row],
            catalogue.pumps[row].name,
        ),
    )[:MOST_LISTED]
    placed = [
        _placed(candidate(catalogue, base.system, sizing.wanted, base.rules, row)) for row in listed
    ]
    ranks = {"fits": 0, "might do": 1, "out": 2}
    placed.sort(key=lambda one: ranks[one.standing])  # stable: the order within stays
    return EveryPump(tuple(placed), len(found), len(rows))


def _families(base: Known) -> tuple[str, ...]:
    return base.sizing.kind.families(base.sizing.facts)


def _placed(one: Candidate) -> Placed:
    return Placed(one, "fits" if one.fits else "might do" if one.might_do else "out")
