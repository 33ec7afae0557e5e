"""The units people write, their exact sizes, and how a figure is shown in them.

No other module holds conversion factors. ``data/units.csv`` states each beside its definition; the
tests work every one out again by pint's registry of exact definitions.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

from sizing.base import tables
from sizing.base.errors import UnknownName
from sizing.base.reader import current

SECONDS_PER_HOUR = 3600.0
SECONDS_PER_DAY = 86_400.0
DAYS_PER_YEAR = 365.25  # Julian
JOULES_PER_KWH = 3.6e6
System = Literal["metric", "us", "uk"]  # uk: metric, flows in l/min
SYSTEMS: tuple[System, ...] = get_args(System)

# The SI unit that each dimension has inside the core (temperature: degrees Celsius).
SI_UNITS = {
    "length": "m",
    "area": "m²",
    "volume": "m³",
    "time": "s",
    "flow": "m³/s",
    "pressure": "Pa",
    "power": "W",
    "energy": "J",
    "temperature": "°C",
    "temperature_step": "K",
    "velocity": "m/s",
    "rain": "m/s",
    "seepage": "m/s",
    "frequency": "1/s",
    "ratio": "",
    "voltage": "V",
    "mains": "Hz",
    "sound": "dB(A)",
    "money": "",
    "current": "A",
    "charge": "C",
    "mass": "kg",
    "price": "",
    "people": "",
    "drainage": "",
    "angle": "°",
    "per_length": "m²/s",
}
CELSIUS_ZERO_K = 273.15  # exact by definition of the degree Celsius


@dataclass(frozen=True)
class Unit:
    """A unit as shown (``symbol``); SI value = ``value * scale + offset``."""

    symbol: str
    dimension: str
    scale: float
    offset: float = 0.0

    def to_si(self, value: float) -> float:
        """A value in this unit as its SI value."""
        return value * self.scale + self.offset

    def from_si(self, value_si: float) -> float:
        """An SI value in this unit."""
        return (value_si - self.offset) / self.scale


@dataclass(frozen=True)
class Shown:
    """How a dimension is shown in one system: its unit, and how many decimals."""

    unit: str
    decimals: int


# One unit for one dimension on a screen, so that figures on it can be compared by eye.
SHOWN: dict[str, dict[System, Shown]] = {
    "length": {"metric": Shown("m", 2), "us": Shown("ft", 1)},
    "bore": {"metric": Shown("mm", 1), "us": Shown("in", 3)},
    "size": {"metric": Shown("mm", 0), "us": Shown("in", 2)},
    "area": {"metric": Shown("m²", 2), "us": Shown("ft²", 1)},
    "volume": {"metric": Shown("l", 0), "us": Shown("gal", 1)},
    "time": {"metric": Shown("s", 0), "us": Shown("s", 0)},
    "flow": {"metric": Shown("m³/h", 2), "us": Shown("gpm", 1)},
    "pressure": {"metric": Shown("bar", 2), "us": Shown("psi", 1)},
    "power": {"metric": Shown("W", 0), "us": Shown("W", 0)},
    "energy": {"metric": Shown("kWh", 0), "us": Shown("kWh", 0)},
    "temperature": {"metric": Shown("°C", 0), "us": Shown("°F", 0)},
    "temperature_step": {"metric": Shown("°C", 1), "us": Shown("°F", 1)},
    "velocity": {"metric": Shown("m/s", 2), "us": Shown("ft/s", 1)},
    "rain": {"metric": Shown("mm/h", 0), "us": Shown("in/h", 2)},
    "seepage": {"metric": Shown("l/min/100 m²", 1), "us": Shown("gpm/1000 ft²", 1)},
    "frequency": {"metric": Shown("/h", 1), "us": Shown("/h", 1)},
    "ratio": {"metric": Shown("%", 0), "us": Shown("%", 0)},
    "factor": {"metric": Shown("×", 2), "us": Shown("×", 2)},
    "voltage": {"metric": Shown("V", 0), "us": Shown("V", 0)},
    "sound": {"metric": Shown("dB(A)", 0), "us": Shown("dB(A)", 0)},
    "money": {"metric": Shown("¤", 0), "us": Shown("¤", 0)},
    "mains": {"metric": Shown("Hz", 0), "us": Shown("Hz", 0)},
    "current": {"metric": Shown("A", 1), "us": Shown("A", 1)},
    "charge": {"metric": Shown("Ah", 0), "us": Shown("Ah", 0)},
    "price": {"metric": Shown("/kWh", 2), "us": Shown("/kWh", 2)},
    "people": {"metric": Shown("people", 0), "us": Shown("people", 0)},
    "drainage": {"metric": Shown("DFU", 0), "us": Shown("DFU", 0)},
    "count": {"metric": Shown("×", 0), "us": Shown("×", 0)},
    "angle": {"metric": Shown("°", 0), "us": Shown("°", 0)},
    "latitude": {"metric": Shown("°", 2), "us": Shown("°", 2)},
    "sheet": {"metric": Shown("l/min/m", 0), "us": Shown("gph/in", 0)},
    "capacity": {"metric": Shown("m³/h/m", 2), "us": Shown("gpm/ft", 2)},
    "turnover": {"metric": Shown("/h", 1), "us": Shown("/h", 1)},
    "day": {"metric": Shown("l/day", 0), "us": Shown("gpd", 0)},
    "mass": {"metric": Shown("kg", 1), "us": Shown("lb", 1)},
}
for _dimension, _ways in SHOWN.items():
    _ways["uk"] = Shown("l/min", 1) if _dimension == "flow" else _ways["metric"]

# The units that a reader may prefer for a quantity, in each system the usual one first.
PREFERABLE: dict[str, dict[System, tuple[str, ...]]] = {
    "flow": {
        "metric": ("m³/h", "l/min", "l/s", "l/h"),
        "us": ("gpm", "gph"),
        "uk": ("l/min", "l/s", "l/h", "m³/h", "imp gpm", "imp gph"),
    },
    "length": {"metric": ("m",), "us": ("ft",), "uk": ("m", "ft")},
    "size": {"metric": ("mm", "cm"), "us": ("in",), "uk": ("mm", "cm", "in")},
    "volume": {"metric": ("l", "m³"), "us": ("gal",), "uk": ("l", "m³", "imp gal")},
    "pressure": {"metric": ("bar", "kPa"), "us": ("psi",), "uk": ("bar", "kPa", "psi")},
    "power": {"metric": ("W", "kW"), "us": ("W", "kW", "hp"), "uk": ("W", "kW", "hp")},
}
_DECIMALS = {
    "m³/h": 2,
    "l/min": 1,
    "l/s": 2,
    "l/h": 0,
    "gpm": 1,
    "gph": 0,
    "imp gpm": 1,
    "imp gph": 0,
    "m": 2,
    "ft": 1,
    "mm": 0,
    "cm": 1,
    "in": 2,
    "l": 0,
    "m³": 2,
    "gal": 1,
    "imp gal": 1,
    "bar": 2,
    "kPa": 0,
    "psi": 1,
    "W": 0,
    "kW": 2,
    "hp": 2,
}
# Ways of showing that share the arithmetic of another dimension.
BASE = {
    "bore": "length",
    "size": "length",
    "factor": "ratio",
    "count": "ratio",
    "sheet": "per_length",
    "capacity": "per_length",
    "turnover": "frequency",
    "day": "flow",
    "latitude": "angle",
}


def base(dimension: str) -> str:
    """The dimension whose units a way of showing uses ('bore' and 'size' are lengths)."""
    return BASE.get(dimension, dimension)


def _fold(text: str) -> str:
    """One spelling for one unit: lower case, plain digits, single spaces, a bare slash."""
    text = text.strip().lower().replace("²", "2").replace("³", "3").replace("º", "°")
    text = text.replace("°", "deg ").replace("u.s.", "us").rstrip(".")
    for word in (" per ", " an ", " a "):
        text = text.replace(word, "/")
    parts = [" ".join(part.split()) for part in text.split("/")]
    return "/".join(parts)


@lru_cache
def _load() -> tuple[dict[tuple[str, str], Unit], dict[tuple[str, str], Unit]]:
    """Units by (dimension, symbol) and by (dimension, folded spelling)."""
    symbols, spellings = {}, {}
    for row in tables.rows("units"):
        scale, offset = float(row["scale"]), float(row["offset"])
        made = Unit(row["symbol"], row["dimension"], scale, offset)
        symbols[made.dimension, made.symbol] = made
        for spelling in (made.symbol, *filter(None, row["spellings"].split(";"))):
            spellings[made.dimension, _fold(spelling)] = made
    return symbols, spellings


def unit(symbol: str, dimension: str) -> Unit:
    """The unit shown as ``symbol``.

    Raises
    ------
    UnknownName
        When no unit of the dimension has that symbol.
    """
    symbols, _ = _load()
    try:
        return symbols[base(dimension), symbol]
    except KeyError:
        raise UnknownName("unit", symbol, [s for d, s in symbols if d == base(dimension)]) from None


def of(dimension: str) -> list[Unit]:
    """Every unit of a dimension, in the order of the table."""
    symbols, _ = _load()
    return [found for (known, _), found in symbols.items() if known == base(dimension)]


@lru_cache(maxsize=4096)
def find(text: str, dimension: str) -> Unit | None:
    """The unit that somebody wrote, however spelled, or None.

    Flows need no entry for every pair: any volume over any time is read, so
    'litres per minute', 'imp gal/min' and 'l / s' all are.
    """
    _, spellings = _load()
    folded = _fold(text)
    known = spellings.get((base(dimension), folded))
    if known is not None or dimension != "flow" or folded.count("/") != 1:
        return known
    volume, time = (
        spellings.get(key) for key in zip(("volume", "time"), folded.split("/"), strict=True)
    )
    if volume is None or time is None:
        return None
    symbol = f"{volume.symbol}/{time.symbol}"
    return spellings.get(("flow", _fold(symbol))) or Unit(symbol, "flow", volume.scale / time.scale)


def dimensions_of(text: str) -> list[str]:
    """Every dimension in which ``text`` names a unit: for 'that is a pressure, not a flow'."""
    return [dimension for dimension in SI_UNITS if find(text, dimension) is not None]


def shown_unit(dimension: str, system: System) -> Unit:
    """The unit in which ``system`` shows ``dimension``."""
    return unit(shown(dimension, system).unit, dimension)


def preferred(dimension: str, system: System) -> str:
    """The unit that who reads now prefers for a quantity; '' for none, or one of other systems."""
    wanted = current().units.get(dimension, "")
    return wanted if wanted in PREFERABLE.get(dimension, {}).get(system, ()) else ""


def shown(dimension: str, system: System) -> Shown:
    """How a system shows a dimension: the unit that who reads now prefers, or the usual one."""
    wanted = preferred(dimension, system)
    return Shown(wanted, _DECIMALS[wanted]) if wanted else SHOWN[dimension][system]


def number_text(value: float, decimals: int) -> str:
    """A plain decimal with a real minus sign and thin groups of thousands; never '-0.00'.

    Its decimal mark is that of who reads now.
    """
    rounded = round(value, decimals)
    text = f"{abs(rounded):,.{decimals}f}".replace(",", "\u202f")
    if current().style == "comma":
        text = text.replace(".", ",")
    return f"\u2212{text}" if rounded < 0 else text


_WORTH_HP_W = 50.0  # motors under it are sold in watts everywhere
_KILO_W = 1000.0


def power_text(power_w: float) -> str:
    """A power in the units of both worlds, such as '310 W (0.42 hp)' or '1.09 kW (1.46 hp)'."""
    hp = number_text(unit("hp", "power").from_si(power_w), 2)
    shown = (
        f"{number_text(power_w / _KILO_W, 2)}\u00a0kW"
        if power_w >= _KILO_W
        else f"{number_text(power_w, 0)}\u00a0W"
    )
    return f"{shown} ({hp}\u00a0hp)"


def show(
    value_si: float,
    dimension: str,
    system: System,
    decimals: int | None = None,
    *,
    with_unit: bool = True,
) -> str:
    """``value_si`` as people of ``system`` read it, such as '9.81 m' or '32.2 ft'.

    Small values keep at least two significant figures. Times grow from seconds to days.
    """
    if not math.isfinite(value_si):
        return "never" if dimension == "time" else "without limit"
    if dimension == "time" and decimals is None:
        return duration_text(value_si)
    if (
        dimension == "power"
        and decimals is None
        and with_unit
        and value_si >= _WORTH_HP_W
        and not preferred("power", system)
    ):
        return power_text(value_si)
    style = shown(dimension, system)
    return _in_style(value_si, dimension, style, decimals, with_unit=with_unit)


def show_in(value_si: float, dimension: str, symbol: str) -> str:
    """``value_si`` in one unit, whatever the system; as :func:`show` in its decimals."""
    usual = next((way.decimals for way in SHOWN[dimension].values() if way.unit == symbol), 2)
    return _in_style(value_si, dimension, Shown(symbol, _DECIMALS.get(symbol, usual)), None)


def _in_style(
    value_si: float, dimension: str, style: Shown, decimals: int | None, *, with_unit: bool = True
) -> str:
    value = unit(style.unit, dimension).from_si(value_si)
    if decimals is None:
        decimals = style.decimals
        if dimension not in ("ratio", "temperature") and 0 < abs(value) < 10.0 ** (1 - decimals):
            decimals = min(6, 1 - math.floor(math.log10(abs(value))))
    gap = "" if style.unit.startswith("/") else "\u00a0"
    return number_text(value, decimals) + (f"{gap}{style.unit}" if with_unit and style.unit else "")


_METRIC = r"mm|cm|m/s|m³/h|m|bar|kPa|l/min|l/s|l|°C"
_NUMBERS = r"\d[\d.,/]*(?: to \d[\d.,/]*)?\s?"
_US = r"in|ft/s|ft|psi|gpm|gal|°F"
_BOTH = re.compile(
    rf"(?P<first>{_NUMBERS}(?:(?P<metric>{_METRIC})|(?:{_US})))"
    rf" \((?P<second>{_NUMBERS}(?:{_METRIC}|{_US}))\)"
)


def in_one_system(text: str, system: System) -> str:
    """A text that gives figures in both systems, such as '50 mm (2 in)', in the reader's alone."""

    def chosen(found: re.Match[str]) -> str:
        first_is_us = found["metric"] is None
        return found["first"] if first_is_us == (system == "us") else found["second"]

    return _BOTH.sub(chosen, text)


def duration_text(seconds: float) -> str:
    """A length of time in words a person would use: '45 s', '4 min 17 s', '7 h 10 min'."""
    whole = round(seconds)
    for limit, big, small, big_name, small_name in (
        (3600, 60, 1, "min", "s"),
        (2 * 86400, 3600, 60, "h", "min"),
        (math.inf, 86400, 3600, "days", "h"),
    ):
        if whole < 60:
            return f"{whole}\u00a0s"
        if whole < limit:
            first, rest = divmod(whole, big)
            tail = f" {rest // small}\u00a0{small_name}" if rest // small else ""
            return f"{first}\u00a0{big_name}{tail}"
    raise AssertionError("unreachable: the last limit is infinite")
