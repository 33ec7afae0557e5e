"""The figures of a sentence, each with what it may be: a length, a flow, a count.

A sentence becomes a line in which every figure stands as a mark such as ``⟦L3⟧``: its sort, and
which of the figures it is. Patterns are then written on words and marks.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

# Words of a unit, by the sort of its figures. Longest first where one begins with another.
_UNITS: tuple[tuple[str, str], ...] = (
    ("R", r"mm/h(?:our)?|in/h(?:our)?|mm an hour|inch(?:es)? an hour"),
    (
        "Q",
        r"(?:l|litres?|liters?|ltr|gal(?:lons?)?|imp(?:erial)? gal(?:lons?)?|m3|m³|cubic metres?)"
        r"\s?(?:/|per|an?)\s?(?:s(?:ec(?:ond)?)?|min(?:ute)?|hr?|hour)\b|gpm|gph|lpm|lph|l/s|cfs"
        r"|lps|usgpm|igpm|m3/h|m³/h",
    ),
    ("A", r"(?:m2|m²|sq\.? ?m|sq\.? ?ft|ft2|ft²|square (?:met(?:re|er)s?|feet|foot)|acres?)"),
    (
        "V",
        r"(?:imp(?:erial)? )?gal(?:lons?)?|litres?|liters?|ltr|m3|m³|cubic (?:met(?:re|er)s?"
        r"|feet)|cu\.? ?ft|l",
    ),
    ("P", r"psi|mbar|bar|kpa|mpa"),
    ("E", r"kwh"),
    ("W", r"kw|hp|kva|horsepower|watts?|w"),
    ("U", r"volts?|vac|vdc|v"),
    ("H", r"hz|hertz"),
    ("C", r"°\s?[cf]|deg(?:rees)? [cf]\b|celsius|fahrenheit"),
    ("T", r"hours?|hrs?|minutes?|mins?|seconds?|secs?|days?|h|s|d"),
    (
        "L",
        r"millimet(?:re|er)s?|centimet(?:re|er)s?|met(?:re|er)s?|mm|cm|km|feet|foot|ft|inch(?:es)?"
        r"|yards?|yd|in(?!\s+(?:the|a|an|about|total|all)\b)|m|\"|″|''|'|′",
    ),
    ("S", r"%|per ?cent"),
)
_COUNTS = [
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
]
_WORDS = "|".join(_COUNTS)
_NUMBER = (
    r"(?:\d+[ -]\d+/\d+|\d+/\d+|\d{1,3}(?:[ ,.]\d{3})+(?![\d.,/])|\d+(?:[.,]\d+)?[½¼¾]?|[½¼¾])"
)
_UNIT = "|".join(f"(?P<{sort}>(?:{words}))" for sort, words in _UNITS)
_ENDS = r"(?![a-z0-9²³])"
_ONE = re.compile(
    rf"(?<![\w.,/-])(?P<number>-?{_NUMBER})\s?-?\s?(?:{_UNIT}){_ENDS}\.?", re.IGNORECASE
)
_FEET = re.compile(
    rf"(?<![\w.,/])(?P<feet>{_NUMBER})\s?(?:ft|feet|foot|'|′)\s?-?\s?(?P<inches>{_NUMBER})\s?"
    rf"(?:in(?:ch(?:es)?)?|\"|″|''){_ENDS}",
    re.IGNORECASE,
)
_TWO_TIMES = re.compile(
    rf"(?<![\w.,/])\d+\s?(?:h|hours?|min|minutes?)\s?(?:and )?\d+\s?(?:min|minutes?|s|sec|seconds?)"
    rf"{_ENDS}",
    re.IGNORECASE,
)
_PRESSURES = re.compile(
    r"(?<![\w.,/])(?P<low>\d+(?:[.,]\d+)?)\s?(?:/|-|–|to)\s?(?P<high>\d+(?:[.,]\d+)?)\s?"
    r"(?:(?P<unit>psi|bar|kpa)\b|(?= ?(?:pressure )?switch))",
    re.IGNORECASE,
)
_SIDES = re.compile(
    rf"(?<![\w.,/])(?P<sides>{_NUMBER}(?:\s?(?:x|×|by)\s?{_NUMBER}){{1,2}})\s?"
    rf"(?P<unit>mm|cm|m|inch(?:es)?|in|ft|feet){_ENDS}",
    re.IGNORECASE,
)
_COUNT = re.compile(
    rf"(?<![\w.,/-])(?P<number>\d+(?:[.,]\d+)?|{_WORDS})(?![\w/²³])(?!-?\s?phase)(?!\s?[.,]\d)",
    re.IGNORECASE,
)
# Numbers that are names: a schedule, a class, a nominal size of pipe, an angle.
_NAMES = re.compile(
    r"\b(?:sch(?:ed(?:ule)?)?\.?\s?\d+|(?:sdr|dr|sidr|pn|dn|class|type)\s?-?\d+(?:\.\d+)?"
    r"|(?:sdr|dr)\s\d+|pe\s?\d+(?:x[\d.]+)?|en\s?\d+|(?:45|90)(?:°|\s?deg(?:ree)?s?)?"
    r"(?=\s(?:degree\s)?(?:elbow|ell|bend))|3\s?-?\s?(?:phase)|1\s?-?\s?(?:phase))",
    re.IGNORECASE,
)
Put = Callable[[str, str], str]
# amounts in words
_IN_WORDS = tuple(
    (re.compile(rf"\b{words}\b"), figure)
    for words, figure in (
        ("(?:an|one) hour and a half", "1.5 h"),
        ("(?:a|one) minute and a half", "90 s"),
        ("half an hour", "30 min"),
        ("half a minute", "30 s"),
        ("half a met(?:re|er)", "0.5 m"),
        ("(?:an|one) inch and a half", "1.5 in"),
        ("(?:a )?quarter of an hour", "15 min"),
        ("(?<=in )an hour", "1 h"),
        ("(?<=within )an hour", "1 h"),
        ("(?<=in )a minute", "1 min"),
        ("(?<=within )a minute", "1 min"),
    )
)
MARK = re.compile(r"⟦([A-Z])(\d+)⟧")


@dataclass(frozen=True)
class Token:
    """A figure as it stands in the sentence, and its sort."""

    sort: str
    text: str


@dataclass(frozen=True)
class Marked:
    """A sentence whose figures are marks; ``tokens`` are they, by number."""

    line: str
    tokens: tuple[Token, ...]

    def text(self, piece: str) -> str:
        """A piece of the line as it was written."""
        return MARK.sub(lambda found: self.tokens[int(found[2])].text, piece)


def mark(sentence: str) -> Marked:
    """Put marks in the place of the figures of a sentence."""
    tokens: list[Token] = []

    def put(sort: str, text: str) -> str:
        tokens.append(Token(sort, text.strip()))
        return f"⟦{sort}{len(tokens) - 1}⟧"

    sentence = re.sub("[⟦⟧·\ue000-\ue009]", " ", sentence)  # ours
    line = " ".join(sentence.replace("″", '"').replace("′", "'").lower().split())
    for words, figure in _IN_WORDS:
        line = words.sub(figure, line)
    line = _NAMES.sub(lambda found: _hidden(found[0]), line)
    line = _PRESSURES.sub(lambda found: _two(found, put), line)
    line = _SIDES.sub(lambda found: _sides(found, put), line)
    line = _FEET.sub(
        lambda found: put("L", f"{_plain(found['feet'])} ft {_plain(found['inches'])} in"), line
    )
    line = _TWO_TIMES.sub(lambda found: put("T", found[0]), line)
    line = _ONE.sub(lambda found: put(str(found.lastgroup), _plain(found[0].rstrip("."))), line)
    line = _COUNT.sub(lambda found: put("N", _digits(found[0])), line)
    return Marked(_shown(line), tuple(tokens))


def _two(found: re.Match[str], put: Put) -> str:
    # a switch of '40/60': no switch of a house works at 15 bar, or at 15 psi
    unit = found["unit"] or ("psi" if float(found["high"].replace(",", ".")) > 15 else "bar")
    return "/".join(put("P", f"{found[one]} {unit}") for one in ("low", "high"))


def _sides(found: re.Match[str], put: Put) -> str:
    sides = re.split(r"\s?(?:x|×|by)\s?", found["sides"])
    return " x ".join(put("L", f"{_plain(side)} {found['unit']}") for side in sides)


def _digits(text: str) -> str:
    return str(_COUNTS.index(text) + 1) if text in _COUNTS else text


def _plain(text: str) -> str:
    """'1-1/2-inch' and '18-in' as the readers of figures know them."""
    return re.sub(r"(?<=\d)-(?=[a-z])", " ", text)


# Letters of a private plane stand for the digits of what is no figure.
def _hidden(text: str) -> str:
    return re.sub(r"\d", lambda digit: chr(0xE000 + int(digit[0])), text)


def _shown(text: str) -> str:
    return re.sub("[\ue000-\ue009]", lambda one: str(ord(one[0]) - 0xE000), text)
