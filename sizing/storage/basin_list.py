"""The basins that a shop sells, as a list that people write: one a line."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sizing.base import numbers, quantity
from sizing.base.errors import SizingError
from sizing.base.units import System

MOST = 200
BETWEEN_M = (0.1, 10.0)
EXAMPLE = "900 x 1500 mm; 480; stock"


@dataclass(frozen=True)
class OnSale:
    """A round basin: inside, floor to cover; its price in the shop's money."""

    diameter_m: float
    depth_m: float
    price: float | None = None
    to_order: bool = False

    @property
    def size_m(self) -> tuple[float, float]:
        """Diameter and depth."""
        return (self.diameter_m, self.depth_m)


def size(text: str, system: System) -> tuple[float, float]:
    """Diameter by depth [m], such as '54 by 90 in' or '900 x 1500'; bare numbers are mm or inches.

    Raises
    ------
    SizingError
    """
    parts = re.split(r"\s*(?:x|×|by)\s*", text.strip().lower())
    if len(parts) != 2:
        raise SizingError("type diameter by depth, such as 900 x 1500 mm or 54 by 90 in")
    unit = "in" if system == "us" else "mm"
    named = re.search(r"(mm|cm|m|in|ft|\"|')$", parts[1])
    if named and not re.search(r"[a-z\"']$", parts[0]):
        parts[0] += f" {named[1]}"  # the unit after the second holds for both
    read = [quantity.typed(one, "length", unit).si for one in parts]
    if not all(BETWEEN_M[0] <= one <= BETWEEN_M[1] for one in read):
        raise SizingError("a basin is between 0.1 m and 10 m wide and deep")
    return (read[0], read[1])


def read(text: str, system: System) -> tuple[OnSale, ...]:
    """A shop's list: a size a line, then its price, then 'stock' or 'to order', parted by ';'.

    Raises
    ------
    SizingError
        Naming the line.
    """
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            found.append(_line(line, system))
        except SizingError as problem:
            raise SizingError(f"line {number}, '{line.strip()[:40]}': {problem}") from None
    if len(found) > MOST:
        raise SizingError(f"that is {len(found)} basins; a list holds {MOST}")
    return tuple(found)


def _line(line: str, system: System) -> OnSale:
    first, *rest = (part.strip() for part in line.split(";"))
    diameter, depth = size(first, system)
    price, to_order = None, False
    for word in rest:
        if word.lower() in ("to order", "order"):
            to_order = True
        elif word.lower() in ("stock", "in stock", ""):
            to_order = False
        else:
            price = _price(word)
    return OnSale(diameter, depth, price, to_order)


def _price(word: str) -> float:
    written = re.fullmatch(r"\D*?(\d[\d.,\s]*)\D*", word)  # a sign of money before or behind
    try:
        found = float(numbers.as_kept(written[1].strip()).replace(",", "")) if written else -1.0
    except ValueError:
        found = -1.0
    if not written or found < 0:
        raise SizingError(f"'{word}' is no price; write it such as {EXAMPLE}")
    if not 0 <= found < 1e7:
        raise SizingError(f"'{word}' is no price that a basin has")
    return found
