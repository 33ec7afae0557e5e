"""Numbers as people write them: their decimal mark, their groups of thousands, their fractions."""

from __future__ import annotations

import re

from sizing.base.errors import SizingError
from sizing.base.reader import Style, current

# A space or an apostrophe groups thousands only before exactly three digits, so that "5'10" stays
# five feet ten.
TOKEN = (  # nosec B105
    r"(?:\d+(?:(?:[.,]|[ '](?=\d{3}(?!\d)))\d+)*[.,]?|[.,]\d+)(?:[eE][+-]?\d+)?"
)
FRACTION = r"(?:(?P<whole>\d+)[ -]+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)"
_TYPOGRAPHIC = {
    "\u2212": "-",
    "\u202f": " ",
    "\u2009": " ",
    "\u00a0": " ",
    "\u2019": "'",
    "\u2032": "'",
    "\u2033": '"',
    "\u201d": '"',
    "¼": " 1/4",
    "½": " 1/2",
    "¾": " 3/4",
    "⅛": " 1/8",
    "⅜": " 3/8",
    "⅝": " 5/8",
    "⅞": " 7/8",
}
_PLAIN = re.compile(rf"(?P<minus>-?)(?P<number>{TOKEN})", re.ASCII)
_GROUPS = re.compile(r"[1-9]\d{0,2}(?:,\d{3})+", re.ASCII)
_DOUBTFUL = re.compile(r"^\D*(?P<number>[1-9]\d{0,2}[.,]\d{3})(?![\d.,])", re.ASCII)


def plainly(text: str) -> str:
    """The text with typographic signs, blanks and fractions written plainly."""
    for fancy, written in _TYPOGRAPHIC.items():
        text = text.replace(fancy, written)
    return text


def number(token: str, style: Style = "point") -> float | None:
    """The number that a token is; None where a mark in it fits neither use: never guessed.

    One decimal mark at most; the other mark, a space or an apostrophe groups thousands: exactly
    three digits to a group, the first of one to three and not beginning with 0.
    """
    mantissa, e, exponent = token.partition("e") if "e" in token else token.partition("E")
    if style == "comma":
        mantissa = mantissa.translate(str.maketrans(".,", ",."))
    whole, dot, decimals = mantissa.partition(".")
    grouped = re.sub("[ ']", ",", whole)
    if "," in grouped and not _GROUPS.fullmatch(grouped):
        return None
    if not re.fullmatch(r"\d*", decimals):
        return None
    digits = grouped.replace(",", "") or "0"
    return float(f"{digits}{dot}{decimals}{e}{exponent}")


def plain_number(text: str, style: Style = "point") -> float | None:
    """The number that a whole text is, such as '-1 250.5'; None where it is none."""
    found = _PLAIN.fullmatch(plainly(text).strip())
    if found is None:
        return None
    value = number(found["number"], style)
    return -value if value is not None and found["minus"] else value


def sure_number(text: str, low: float, high: float, style: Style = "point") -> float:
    """The number that a whole text is, within bounds; one that may be meant in two ways is asked.

    Raises
    ------
    SizingError
        It is none, out of range, or '1,250', which may be a thousand or one and a quarter.
    """
    other = other_reading(text, style)
    if other is not None:
        raise SizingError(
            f"{text[:30]} may be read in two ways, also as {other[:30]}: write it without a mark"
            " for thousands"
        )
    value = plain_number(text, style)
    if value is None:
        raise SizingError(f"{text[:30]} is no number that can be read")
    if not low <= value <= high:
        raise SizingError(f"{text[:30]} is out of range: {low:g} to {high:.0f}")
    return value


def exactly(value: float, style: Style = "point") -> str:
    """A number for a table that goes out: ``sure_number`` reads it back to the last digit.

    >>> exactly(104.125), exactly(1250.0, "comma")
    ('104.1250', '1250,0')
    """
    text = repr(float(value))
    if _DOUBTFUL.match(text):
        text += "0"
    return text if style == "point" else text.replace(".", ",")


def other_reading(text: str, style: Style = "point") -> str | None:
    """The same text as somebody with the other decimal mark would mean it, written in ``style``.

    Only where both are sound: '1,250' may be a thousand or one and a quarter. None otherwise.
    """
    found = _DOUBTFUL.match(plainly(text))
    if found is None:
        return None
    written = found["number"]
    group = "," if style == "point" else "."
    decimal = "." if style == "point" else ","
    meant = written.replace(group, decimal) if group in written else written.replace(decimal, "")
    return text.replace(written, meant, 1)


def with_other_mark(text: str) -> str | None:
    """The same text as somebody with the other decimal mark writes it, marks exchanged.

    None where no figure in it has a mark.
    """
    swapped = _MARKED.sub(lambda found: found[0].translate(_SWAP), text)
    return None if swapped == text else swapped


_MARKED = re.compile(r"\d[\d.,]*[.,][\d.,]*\d|[.,]\d+", re.ASCII)
_SWAP = str.maketrans(".,", ",.")


def with_points(text: str, style: Style) -> str:
    """A text written in ``style``, its figures with decimal points."""
    return text if style == "point" else _MARKED.sub(lambda found: found[0].translate(_SWAP), text)


def as_read(text: str) -> str:
    """A text written with decimal points, its figures with the decimal mark of who reads now."""
    return with_points(text, current().style)  # the marks change places, both ways


def as_kept(text: str) -> str:
    """What was typed by who reads now, its figures with decimal points: how figures are kept."""
    return with_points(text, current().style)
