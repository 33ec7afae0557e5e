"""The kinds of job as small drawings: the usual site of each, without a word in it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from kyrtos.drawing.blank import BlankPicture, blank_picture
from kyrtos.drawing.layout import Frame
from sizing.analysis.typical import typical_site
from sizing.kinds import kinds
from sizing.kinds.start import Terms, first_document

_SMALL = Frame(
    width=190,
    height=104,
    left=4,
    pit=44,
    split=186,
    chart=188,
    right=400,
    top=8,
    bottom=98,
    font=10,
    others=0,
)


@dataclass(frozen=True)
class KindDrawn:
    """A kind with its drawing; None where no usual site can be drawn."""

    code: str
    label: str
    purpose: str
    picture: BlankPicture | None


@lru_cache
def drawings() -> tuple[KindDrawn, ...]:
    """Every kind of job, drawn once."""
    found = []
    for one in kinds().values():
        site = typical_site(first_document(one.code, Terms()))
        drawn = None if site is None else blank_picture(site, (), "metric", _SMALL)
        found.append(KindDrawn(one.code, one.label, one.purpose, drawn))
    return tuple(found)
