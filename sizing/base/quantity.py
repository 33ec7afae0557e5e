"""Reading what people type into a field: an amount with its unit, in the words of the trade."""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import dataclass

from sizing.base import units
from sizing.base.errors import UnreadableQuantity
from sizing.base.units import Unit

_NUMBER = r"(?:\d{1,3}(?:,\d{3})+(?:\.\d*)?|\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_FRACTION = r"(?:(?P<whole>\d+)[ -]+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)"
_PART = re.compile(
    rf"\s*(?:(?P<fraction>{_FRACTION})(?![\d./])|(?P<number>{_NUMBER})(?![\d.,]))\s*", re.ASCII
)
_SIGN = re.compile(r"\s*([+-]?)")
_TYPOGRAPHIC = {
    "\u2212": "-",
    "\u202f": "",
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
EXAMPLES = {
    "flow": "3.6 m3/h or 16 gpm",
    "length": "2.4 m or 7 ft 10 in",
    "pressure": "2.5 bar or 36 psi",
    "temperature": "12 C or 54 F",
    "volume": "80 l or 21 gal",
    "time": "90 s or 1.5 min",
    "power": "750 W or 1 hp",
    "area": "60 m2 or 650 sq ft",
    "rain": "40 mm/h or 1.6 in/h",
    "ratio": "150 % or 1.5 x",
    "voltage": "230 V",
    "frequency": "10 /h",
}


_BUCKET = re.compile(r"^(?P<volume>.+?)\s+in\s+(?P<time>.+)$")


@dataclass(frozen=True)
class Quantity:
    """An amount as entered: ``value`` in ``unit``, with the ``text`` it was read from.

    ``bare``: it was typed without a unit.
    """

    value: float
    unit: Unit
    text: str
    bare: bool = False

    @property
    def si(self) -> float:
        """The value in the SI unit of its dimension (temperature in degrees Celsius)."""
        return self.unit.to_si(self.value)


def read(text: str, dimension: str, default_unit: str | None = None) -> Quantity:
    """Read an amount with its unit.

    Parameters
    ----------
    text : what was typed, such as '38 gpm', '10 l in 24 s', "14 ft 6 in", '3/4 in', '1,250 l/h',
        '2.5 bar'.
    dimension : a key of :data:`sizing.base.units.SI_UNITS`, or 'bore' or 'size' (lengths).
    default_unit : symbol of the field's unit, taken for a bare number; None refuses bare numbers.

    Raises
    ------
    UnreadableQuantity
        With a sentence that says what is wrong and shows how to write it.
    """
    if dimension == "flow" and (bucket := _BUCKET.match(text)):
        return _timed_bucket(bucket, text, default_unit)
    parts, sign = _split(text, dimension)
    amounts = [_amount(number, text) for number, _ in parts]
    found = _units(parts, dimension, default_unit, text)
    if any(later.scale >= earlier.scale for earlier, later in itertools.pairwise(found)):
        raise UnreadableQuantity(
            f"'{text.strip()}' repeats a unit or has a larger one after a smaller one"
        )
    first = found[0]
    value = sign * sum(
        amount * (unit.scale / first.scale) for amount, unit in zip(amounts, found, strict=True)
    )
    if not math.isfinite(first.to_si(value)):
        raise UnreadableQuantity(f"'{text.strip()}' is too large a number")
    if dimension == "temperature" and first.to_si(value) < -units.CELSIUS_ZERO_K:
        raise UnreadableQuantity(f"'{text.strip()}' is colder than anything can be")
    return Quantity(value, first, text.strip(), bare=not parts[0][1])


def _timed_bucket(bucket: re.Match[str], text: str, default_unit: str | None) -> Quantity:
    """A flow typed as a volume and the time it took ('10 l in 24 s').

    It comes in the field's unit, or in litres a second.
    """
    volume, time = read(bucket["volume"], "volume"), read(bucket["time"], "time")
    if not (time.si > 0 and volume.si >= 0):
        raise UnreadableQuantity(
            f"'{text.strip()}': the time of a bucket must be more than zero; write for example 10"
            " l in 24 s"
        )
    unit = units.unit(default_unit or "l/s", "flow")
    return Quantity(unit.from_si(volume.si / time.si), unit, text.strip())


def _split(text: str, dimension: str) -> tuple[list[tuple[re.Match[str], str]], int]:
    """The (number, unit name) pairs of a text, and its sign.

    Lengths and times may have several parts ('14 ft 6 in', '1 h 30 min'); everything else is one
    number, and whatever follows it is the unit.
    """
    plain = _plain(text)
    if not plain.strip():
        raise UnreadableQuantity(
            f"nothing is written here; write for example {_example(dimension)}"
        )
    signed = _SIGN.match(plain)
    assert signed is not None  # the pattern matches the empty text too
    at, parts = signed.end(), []
    compound = units.base(dimension) in ("length", "time")
    while at < len(plain):
        number = _PART.match(plain, at)
        if number is None:
            raise UnreadableQuantity(_no_number(text, dimension))
        following = re.compile(r"\d|\.\d").search(plain, number.end()) if compound else None
        at = following.start() if following else len(plain)
        parts.append((number, plain[number.end() : at].strip()))
    if not parts:
        raise UnreadableQuantity(_no_number(text, dimension))
    return parts, -1 if signed.group(1) == "-" else 1


def _plain(text: str) -> str:
    """The text with typographic signs, blanks and fractions written plainly."""
    for fancy, written in _TYPOGRAPHIC.items():
        text = text.replace(fancy, written)
    return text


def _amount(number: re.Match[str], text: str) -> float:
    if number["fraction"] is None:
        return float(number["number"].replace(",", ""))
    if int(number["bottom"]) == 0:
        raise UnreadableQuantity(f"'{text.strip()}' divides by zero")
    return int(number["whole"] or 0) + int(number["top"]) / int(number["bottom"])


def _units(
    parts: list[tuple[re.Match[str], str]], dimension: str, default_unit: str | None, text: str
) -> list[Unit]:
    """The unit of each part; a bare last number after feet is inches, as in 5'10."""
    names = [name for _, name in parts]
    if (
        len(names) > 1
        and not names[-1]
        and units.find(names[-2] or "?", "length") == units.unit("ft", "length")
    ):
        names[-1] = "in"
    if len(names) > 1 and not all(names):
        raise UnreadableQuantity(
            f"'{text.strip()}' has a number without its unit; write for example"
            f" {_example(dimension)}"
        )
    return [_unit(name, dimension, default_unit, text) for name in names]


def _unit(name: str, dimension: str, default_unit: str | None, text: str) -> Unit:
    if not name:
        if default_unit is None:
            raise UnreadableQuantity(
                f"'{text.strip()}' has no unit; write for example {_example(dimension)}"
            )
        return units.unit(default_unit, dimension)
    found = units.find(name, dimension)
    if found is not None:
        return found
    others = units.dimensions_of(name)
    if others:
        raise UnreadableQuantity(
            f"'{name}' is a unit of {others[0]}, and this is a {units.base(dimension)}; write for"
            f" example {_example(dimension)}"
        )
    raise UnreadableQuantity(
        f"'{name}' is not a unit known here; write for example {_example(dimension)}"
    )


def _no_number(text: str, dimension: str) -> str:
    if re.search(r"\d,\d", text):
        return (
            f"'{text.strip()}': a comma only parts thousands here; write the decimals after a"
            f" point, for example {_example(dimension)}"
        )
    return (
        f"'{text.strip()}' holds no number that can be read; write for example"
        f" {_example(dimension)}"
    )


def _example(dimension: str) -> str:
    return EXAMPLES.get(units.base(dimension), "a number with its unit")
