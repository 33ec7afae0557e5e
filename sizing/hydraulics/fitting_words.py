"""Fittings as they are written on a pad: '3x 90 ell, swing check, 2 in ball valve'."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import lru_cache

from sizing.base import tables
from sizing.base.errors import SizingError, UnknownName
from sizing.hydraulics.fittings import MOST_OF_ONE_KIND, Counted, fittings

MOST_ON_A_LEG = 60
_ANGLES = {"22", "22.5", "45", "90", "180"}
_NUMBERS = {
    word: number
    for number, word in enumerate(
        ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"), 1
    )
} | {"a": 1, "an": 1}
# Other names of the trade for the words of our own list.
_SAME = {
    **dict.fromkeys(("ell", "el", "elb", "knee", "bend"), "elbow"),
    **dict.fromkeys(("nrv", "nonreturn", "reflux"), "check"),
    **dict.fromkeys(("flapper", "flap"), "swing"),
    **dict.fromkeys(("sluice",), "gate"),
    **dict.fromkeys(("lr",), "long"),
    **dict.fromkeys(("coupler", "socket-coupling"), "coupling"),
    **dict.fromkeys(("22.5",), "22"),
}
# Words that say nothing about the loss here: what it is made of, how it is joined, its usual form.
_FILLERS = frozenset(
    (
        *("valve", "fitting", "pvc", "abs", "cpvc", "pp", "pe", "brass", "bronze", "steel", "iron"),
        *("ci", "copper", "plastic", "glued", "socket", "slip", "solvent", "cement", "soldered"),
        *("sweat", "press", "pushfit", "std", "standard", "short", "full", "port", "bore", "open"),
        *("inline", "in", "line", "type", "new", "of", "with", "strainer", "radius", "deg"),
        *("degree", "sch", "schedule"),
    )
)
_PARTS = re.compile(r"[,;+&\n](?![^(]*\))|\band\b(?![^(]*\))")
_INCH = r"(?:\"|''|mm\b|inch(?:es)?\b|in\b(?![- ]?line))"
_PIPE_SIZE = re.compile(
    rf"\b(?:(?:\d+[- ])?\d+/\d+\s*{_INCH}?|\d+(?:\.\d+)?\s*{_INCH})", re.IGNORECASE
)
_TWO_WAYS = re.compile(r"^([2-9]|\d\d+) \d+/\d+")  # two of 1/2 in, or one of 2-1/2 in
_LEADING = re.compile(r"^(\d+)(?![\d./])\s*(x|×|\*|no\.?|off|pcs?\.?|nr\.?)?\s*(?=\S)")
_TRAILING = re.compile(r"(?:\s*[x×*]\s*(\d+)|\s*\(\s*(\d+)\s*\)|\s*:\s*(\d+)|\s+(\d+))$")


@lru_cache
def words() -> dict[str, str]:
    """Short word -> fitting id, for typing; ids count as words too."""
    return {row["word"]: row["fitting_id"] for row in tables.rows("fitting_words")} | {
        key.lower(): key for key in fittings()
    }


@lru_cache
def _known() -> tuple[tuple[frozenset[str], str], ...]:
    """The words of each name and label of the list, whatever their order."""
    found: dict[frozenset[str], str] = {}
    for row in tables.rows("fitting_words"):
        for text in (row["word"], row["label"]):
            found.setdefault(_plain_words(text) - {"valve", "with"}, row["fitting_id"])
    return tuple(found.items())


def _plain_words(text: str) -> frozenset[str]:
    text = re.sub(r"non[- ]return", "nonreturn", text.lower().replace("½", ".5"))
    text = re.sub(r"(\d)s\b", r"\1", text)
    plain = re.findall(r"\d+(?:\.\d+)?|[a-z]+", text.replace("°", " "))
    singular = (_singular(one) for one in plain)
    return frozenset(_SAME.get(one, one) for one in singular)


def _singular(word: str) -> str:
    if word.endswith("ss") or len(word) < 3:
        return word
    return word.removesuffix("es") if word.endswith("ches") else word.removesuffix("s")


def read(text: str) -> tuple[Counted, ...]:
    """Read fittings typed in any order and with counts: '3 elbow, check', '2 x 45', '90 ells x 4'.

    A size of pipe beside a fitting is that of its leg, and passed over.

    Raises
    ------
    UnknownName
        For a word that is no fitting, with the nearest words.
    SizingError
        For a count outside 1 to 500.
    """
    found = []
    pieces = [part.strip() for part in _PARTS.split(text) if part.strip()]
    if len(pieces) > MOST_ON_A_LEG:
        raise SizingError(
            f"a leg holds at most {MOST_ON_A_LEG} fittings: count those that are alike"
        )
    for piece in pieces:
        if _TWO_WAYS.match(piece):
            number, size = piece.split(" ")[:2]
            raise SizingError(
                f"'{piece}' may be {number} of {size} in or one of {number}-{size} in: write"
                f" '{number} x' or '{number}-{size}'"
            )
        count, word = _count(_PIPE_SIZE.sub(" ", piece).strip().lower())
        if not 1 <= count <= MOST_OF_ONE_KIND:
            raise SizingError(f"'{piece}': a leg holds 1 to {MOST_OF_ONE_KIND} of a fitting")
        found.append(Counted(_fitting_id(word), count))
    return tuple(found)


def _count(piece: str) -> tuple[int, str]:
    """How many, and of what; the angle of an elbow is no count."""
    first, _, rest = piece.partition(" ")
    if first in _NUMBERS and rest:
        return _NUMBERS[first], rest.strip()
    leading = _LEADING.match(piece)
    if leading:
        rest = piece[leading.end() :]
        is_angle = not leading[2] and leading[1] in _ANGLES and _is_elbow(rest)
        if not is_angle:
            return int(leading[1]), rest
    trailing = _TRAILING.search(piece)
    if trailing and trailing.start():
        number = next(one for one in trailing.groups() if one)
        if not (trailing[4] and number in _ANGLES):
            return int(number), piece[: trailing.start()]
    return 1, piece


def _is_elbow(text: str) -> bool:
    return "elbow" in _plain_words(text) or text.lstrip().startswith(("°", "deg"))


def _fitting_id(word: str) -> str:
    if word in words():
        return words()[word]
    typed = _plain_words(word)
    fits = [
        (len(names), fitting_id)
        for names, fitting_id in _known()
        if names <= typed and typed - names <= _FILLERS | ({"90"} if "elbow" in typed else set())
    ]
    if not fits:
        raise UnknownName("fitting", word, [row["word"] for row in tables.rows("fitting_words")])
    most = max(size for size, _ in fits)
    return next(fitting_id for size, fitting_id in fits if size == most)


def write(counted: Iterable[Counted]) -> str:
    """The short text for some fittings, such that :func:`read` gives them back."""
    short = {fitting_id: word for word, fitting_id in reversed(words().items())}
    return ", ".join(
        (f"{one.count} " if one.count > 1 or short[one.fitting_id][0].isdigit() else "")
        + short[one.fitting_id]
        for one in counted
    )
