"""Reading a latitude as maps, compasses and people write it."""

from __future__ import annotations

import re

from sizing.base.errors import UnreadableQuantity
from sizing.base.numbers import number, plainly
from sizing.base.reader import Style

_EXAMPLE = "write for example 46.5, 22 S or 22° 30' S"
_NUMBER = r"\d+(?:[.,]\d+)?"
_LATITUDE = re.compile(
    rf"\s*(?P<before>[nsew])?\s*(?P<sign>[+-])?\s*(?P<degrees>{_NUMBER})\s*(?:°|º|deg(?:rees?)?\b)?"
    rf"(?:\s*(?P<minutes>{_NUMBER})\s*(?:'|min\b)?)?"
    rf"(?:\s*(?P<seconds>{_NUMBER})\s*(?:\"|''|sec\b)?)?"
    r"\s*(?P<after>north|south|east|west|[nsew])?\s*",
    re.IGNORECASE | re.ASCII,
)


def read_deg(text: str, style: Style = "point") -> tuple[float, bool]:
    """Degrees, north positive, and whether it was a bare number.

    Degrees, minutes and seconds, the letter before or after; a sign or a letter, not both.

    Raises
    ------
    UnreadableQuantity
        No latitude: with what is wrong.
    """
    found = _LATITUDE.fullmatch(plainly(text))
    if found is None:
        raise UnreadableQuantity(f"'{text.strip()}' is no latitude; {_EXAMPLE}")
    letter = (found["before"] or (found["after"] or "")[:1]).lower()
    if letter in ("e", "w"):
        raise UnreadableQuantity(
            f"'{text.strip()}' says how far east or west; a latitude is north or south: {_EXAMPLE}",
            "wrong_unit",
        )
    if (letter and found["sign"] == "-") or (found["before"] and found["after"]):
        raise UnreadableQuantity(f"'{text.strip()}' names its side twice; {_EXAMPLE}", "ambiguous")
    parts = [number(found[name] or "0", style) for name in ("degrees", "minutes", "seconds")]
    degrees, minutes, seconds = (_sure(part, text) for part in parts)
    value = degrees + minutes / 60.0 + seconds / 3600.0
    if value > 90.0 or minutes >= 60.0 or seconds >= 60.0:
        raise UnreadableQuantity(
            f"'{text.strip()}' is beyond a pole, or has 60 minutes or more; {_EXAMPLE}",
            "out_of_range",
        )
    south = letter == "s" or found["sign"] == "-"
    return (-value if south else value), re.fullmatch(r"[\s\d.,+-]*", plainly(text)) is not None


def _sure(part: float | None, text: str) -> float:
    if part is None:
        raise UnreadableQuantity(f"'{text.strip()}' has a mark too many; {_EXAMPLE}", "ambiguous")
    return part
