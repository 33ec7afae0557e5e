"""What would let a pump fit where none does: singly, or two changes together.

Each remedy is worked out and tried in full before it is told, and is the job that it was tried on.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from sizing.analysis.remedy_changes import Change, changes, matched
from sizing.base.message import Message, joined, message
from sizing.document.job import JobDocument
from sizing.pump.catalogue import Catalogue
from sizing.results.verdict import State, state_of
from sizing.size import Sizing, size

_MOST = 4
_ENOUGH = 2  # from so many single ones on, no two are tried together
_MOST_PAIRS = 40


@dataclass(frozen=True)
class Remedy:
    """What helps: in words, with what it would then be, and the job as it would be."""

    key: str
    what: Message
    said: Message
    state: State
    job: JobDocument


def remedies(sizing: Sizing, catalogue: Catalogue) -> tuple[Remedy, ...]:
    """What would help, the best first; none where a pump fits.

    Only what was tried and helps is told, at most four. The best is what would then be good, and
    costs least.
    """
    if sizing.match is None or sizing.match.fits or sizing.no_pump_needed or sizing.problems:
        return ()
    if sizing.rough_head_m is not None:
        return ()
    every = changes(sizing, catalogue)
    found: list[Remedy] = []
    groups: set[str] = set()
    for change in every:
        if len(found) < _MOST and _group(change) not in groups:
            remedy = _tried(sizing, (change,), catalogue)
            if remedy is not None:
                found.append(remedy)
                groups.add(_group(change))
    by_the_day = sizing.wanted is not None and sizing.wanted.served is not None
    if len(found) < _ENOUGH and not by_the_day:  # each try would be a whole year of days
        for pair in _pairs(every, groups):
            remedy = _tried(sizing, pair, catalogue)
            if remedy is not None:
                found.append(remedy)
            if len(found) == _ENOUGH:
                break
    return tuple(sorted(found, key=lambda one: one.state != "good"))


def _pairs(every: tuple[Change, ...], helps: set[str]) -> Iterator[tuple[Change, ...]]:
    """Two changes of different sorts, neither of which helps alone, the cheapest first."""
    rest = [one for one in every if _group(one) not in helps]
    pairs = [pair for pair in combinations(rest, 2) if _group(pair[0]) != _group(pair[1])]
    yield from sorted(pairs, key=lambda pair: sum(one.cost for one in pair))[:_MOST_PAIRS]


def _group(change: Change) -> str:
    """Changes of one sort: the first of them that helps is told."""
    return change.key.partition("-")[0]


def _tried(sizing: Sizing, pair: tuple[Change, ...], catalogue: Catalogue) -> Remedy | None:
    job = sizing.job
    for change in pair:
        job = change.apply(job)
    quick = matched(sizing, job, catalogue)
    if quick is None or not quick.fits:
        return None
    then = size(job, catalogue, sizing.rules)
    if then.match is None or not then.match.fits or then.site_faults or then.problems:
        return None
    state = state_of(then)
    if state not in ("good", "watch", "ask"):
        return None
    what = joined(*(one.what for one in pair), between=", and ")
    many = then.match.fit_count > 1
    fit = "{count} pumps fit, the {first} first" if many else "the {first} fits"
    said = joined(
        what,
        message(
            fit + "; then {state}",
            count=then.match.fit_count,
            first=then.match.fits[0].pump.name,
            state=state,
        ),
        between=": ",
    )
    return Remedy("+".join(one.key for one in pair), what, said, state, job)
