"""A small drawing for each fitting (symbols of static/kyrtos/fittings.svg), for the completion and
under the field.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base import tables
from sizing.document.job import FittingEntry
from sizing.hydraulics import fittings

# By the beginning of the fitting's id; the first that fits.
_BY_START = (
    ("elbow_45", "elbow45"),
    ("elbow_22", "elbow22"),
    ("mitre", "mitre"),
    ("return", "return"),
    ("tee_run", "tee_run"),
    ("tee", "tee_branch"),
    ("wye", "wye"),
    ("elbow", "elbow90"),
    ("bend", "elbow90"),
    ("discharge_base", "elbow90"),
    ("ball", "ball"),
    ("globe", "globe"),
    ("butterfly", "butterfly"),
    ("angle", "angle"),
    ("check", "check"),
    ("foot", "foot"),
    ("suction_strainer", "strainer"),
    ("y_strainer", "strainer"),
    ("union", "union"),
    ("coupling", "union"),
    ("quick", "union"),
    ("entrance", "entrance"),
    ("exit", "exit"),
    ("adapter", "adapter"),
    ("reducer", "adapter"),
    ("", "gate"),
)


@dataclass(frozen=True)
class Drawn:
    """So many of one fitting, with its drawing."""

    glyph: str
    label: str
    count: int


def glyph(fitting_id: str) -> str:
    """The symbol of a fitting; a gate valve's for any valve without one of its own."""
    return next(name for start, name in _BY_START if fitting_id.startswith(start))


def drawn(entries: tuple[FittingEntry, ...]) -> tuple[Drawn, ...]:
    """The fittings of a leg as drawings."""
    return tuple(
        Drawn(glyph(one.fitting), fittings.fitting(one.fitting).label, one.count) for one in entries
    )


def words() -> list[dict[str, str]]:
    """Every short word for a fitting, with what it means and its drawing."""
    return [
        {"word": row["word"], "label": row["label"], "glyph": glyph(row["fitting_id"])}
        for row in tables.rows("fitting_words")
    ]
