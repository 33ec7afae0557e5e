"""Reading what people type into a field: an amount with its unit, in the words of the trade."""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import dataclass

from sizing.base import latitude, units
from sizing.base.errors import UnreadableQuantity
from sizing.base.numbers import FRACTION, TOKEN, number, plainly
from sizing.base.reader import Style, current
from sizing.base.units import Unit

_PART = re.compile(
    rf"\s*(?:(?P<fraction>{FRACTION})(?![\d./])|(?P<number>{TOKEN})(?![\d.,]))\s*", re.ASCII
)
_SIGN = re.compile(r"\s*([+-]?)")
_STARTS = r"(?=[+-]?\s*[\d.,])"
_CIRCA = re.compile(
    r"^\s*(?:~|≈|(?:ca|circa|about|approx|approximately|abt|around|roughly)\b\.?)\s*" + _STARTS,
    re.IGNORECASE,
)
# "7'-10"" and "2-1/2" are one figure each; elsewhere a dash between two numbers is a range.
_FEET_DASH = re.compile(r"('|ft\.?|feet)\s*-\s*(?=\d)", re.IGNORECASE)
_RANGE = re.compile(
    r"^(?P<low>.*?\d.*?)(?:\s+to\s+|\s*(?:–|—|\.\.\.?|…|(?<![eE])-)\s*)"
    + _STARTS
    + r"(?P<high>.+)$"
)
_MIXED_DASH = re.compile(r"(?<![/\d])(\d+)-(?=\d+\s*/\s*\d)")
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
    "mains": "50 Hz",
    "sound": "45 dB(A)",
    "money": "500",
    "frequency": "10 /h",
}


_BUCKET = re.compile(r"^(?P<volume>.+?)\s+in\s+(?P<time>.+)$")


_MOST_DIGITS = 15  # of a whole number in a fraction


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


def read(
    text: str, dimension: str, default_unit: str | None = None, style: Style = "point"
) -> Quantity:
    """Read an amount with its unit.

    Parameters
    ----------
    text : what was typed, such as '38 gpm', '10 l in 24 s', "14 ft 6 in", '3/4 in', '1,250 l/h',
        '4 500 l', '~ 2.5 bar'; of a latitude also "22° 30' S".
    dimension : a key of :data:`sizing.base.units.SI_UNITS`, or a way of showing one ('bore').
    default_unit : symbol of the field's unit, taken for a bare number; None refuses bare numbers.
    style : the decimal mark of whoever writes.

    Raises
    ------
    UnreadableQuantity
        With a sentence that says what is wrong and shows how to write it.
    """
    if dimension == "latitude":
        degrees, bare = latitude.read_deg(text, style)
        return Quantity(degrees, units.unit("°", "angle"), text.strip(), bare=bare)
    if dimension == "flow" and (bucket := _BUCKET.match(text)):
        return _timed_bucket(bucket, text, default_unit, style)
    parts, sign = _split(text, dimension)
    amounts = [_amount(number, text, style) for number, _ in parts]
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


def typed(text: str, dimension: str, default_unit: str | None = None) -> Quantity:
    """An amount as who reads now types it: :func:`read` with their decimal mark."""
    return read(text, dimension, default_unit, current().style)


def read_range(
    text: str, dimension: str, default_unit: str | None = None, style: Style = "point"
) -> tuple[Quantity, Quantity] | None:
    """The two ends of a range such as '4 to 10 /h' or '2.5 - 3.5 bar'; None where it is none.

    A unit after the second holds for both.

    Raises
    ------
    UnreadableQuantity
        An end that cannot be read, or a first end larger than the second.
    """
    found = _RANGE.match(_MIXED_DASH.sub(r"\1 ", _plain(text)))
    if found is None or dimension == "latitude":
        return None
    high = read(found["high"], dimension, default_unit, style)
    unit = default_unit if _has_unit(found["low"], dimension, style) else high.unit.symbol
    low = read(found["low"], dimension, unit, style)
    if low.si > high.si:
        raise UnreadableQuantity(
            f"'{text.strip()}' begins with the larger figure; write the smaller one first",
            "reversed_range",
        )
    return low, high


def _has_unit(text: str, dimension: str, style: Style) -> bool:
    try:
        return not read(text, dimension, units.of(dimension)[0].symbol, style).bare
    except UnreadableQuantity:
        return True  # what is wrong with it is told where it is read


def _timed_bucket(
    bucket: re.Match[str], text: str, default_unit: str | None, style: Style
) -> Quantity:
    """A flow typed as a volume and the time it took ('10 l in 24 s').

    It comes in the field's unit, or in litres a second.
    """
    volume = read(bucket["volume"], "volume", style=style)
    time = read(bucket["time"], "time", style=style)
    if not (time.si > 0 and volume.si >= 0):
        raise UnreadableQuantity(
            f"'{text.strip()}': the time of a bucket must be more than zero; write for example 10"
            " l in 24 s"
        )
    unit = units.unit(default_unit or "l/s", "flow")
    flow = unit.from_si(volume.si / time.si)
    if not math.isfinite(flow):
        raise UnreadableQuantity(
            f"'{text.strip()}': no bucket is filled in so short a time; write for example 10 l in"
            " 24 s",
            "out_of_range",
        )
    return Quantity(flow, unit, text.strip())


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
        following = re.compile(r"\d|[.,]\d").search(plain, number.end()) if compound else None
        at = following.start() if following else len(plain)
        parts.append((number, plain[number.end() : at].strip()))
    if not parts:
        raise UnreadableQuantity(_no_number(text, dimension))
    return parts, -1 if signed.group(1) == "-" else 1


def _plain(text: str) -> str:
    """The text written plainly, without 'about' before it and the dash of feet and inches."""
    return _FEET_DASH.sub(r"\1 ", _CIRCA.sub("", plainly(text)))


def _amount(part: re.Match[str], text: str, style: Style) -> float:
    if part["fraction"] is None:
        found = number(part["number"], style)
        if found is None:
            raise UnreadableQuantity(_which_mark(text, style), "ambiguous")
        return found
    if max(len(part[name] or "") for name in ("whole", "top", "bottom")) > _MOST_DIGITS:
        raise UnreadableQuantity(f"'{text.strip()[:40]}…' has more digits than any measure")
    if int(part["bottom"]) == 0:
        raise UnreadableQuantity(f"'{text.strip()}' divides by zero")
    return int(part["whole"] or 0) + int(part["top"]) / int(part["bottom"])


def _which_mark(text: str, style: Style) -> str:
    decimal, group = ("point", "comma") if style == "point" else ("comma", "point")
    return (
        f"'{text.strip()}': a {group} only parts thousands here, by groups of three; write the"
        f" decimals after a {decimal}"
    )


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
            f" {_example(dimension)}",
            "no_unit",
        )
    return [_unit(name, dimension, default_unit, text) for name in names]


def _unit(name: str, dimension: str, default_unit: str | None, text: str) -> Unit:
    if not name:
        if default_unit is None:
            raise UnreadableQuantity(
                f"'{text.strip()}' has no unit; write for example {_example(dimension)}",
                "no_unit",
            )
        return units.unit(default_unit, dimension)
    found = units.find(name, dimension)
    if found is not None:
        return found
    others = units.dimensions_of(name)
    if others:
        raise UnreadableQuantity(
            f"'{name}' is a unit of {others[0]}, and this is a {units.base(dimension)}; write for"
            f" example {_example(dimension)}",
            "wrong_unit",
        )
    raise UnreadableQuantity(
        f"'{name}' is not a unit known here; write for example {_example(dimension)}",
        "wrong_unit",
    )


def _no_number(text: str, dimension: str) -> str:
    return (
        f"'{text.strip()}' holds no number that can be read; write for example"
        f" {_example(dimension)}"
    )


def _example(dimension: str) -> str:
    return EXAMPLES.get(units.base(dimension), "a number with its unit")
