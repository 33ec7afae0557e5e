"""Inlets and outlets of pumps as makers write them, as one nominal size."""

from __future__ import annotations

import re

from sizing.base import quantity, units
from sizing.base.errors import SizingError

_DN = re.compile(r"\bDN\s*(\d{2,3})\b", re.IGNORECASE)
# Nominal size by inches of thread: ISO 6708 beside ISO 228.
_BY_INCHES = {
    0.5: 15,
    0.75: 20,
    1.0: 25,
    1.25: 32,
    1.5: 40,
    2.0: 50,
    2.5: 65,
    3.0: 80,
    4.0: 100,
    6.0: 150,
}
_NEAR = 0.12


def nominal(text: str) -> int | None:
    """The nominal size (DN) of a port such as '1-1/2 in', 'DN40' or '40 mm'; None where none is.

    >>> nominal("1-1/2 in") == nominal("DN40") == nominal("40 mm") == 40
    True
    """
    named = _DN.search(text)
    if named:
        return int(named[1])
    try:
        size_m = quantity.read(text, "size", "in").si
    except SizingError:
        return None
    found = units.unit("mm", "size").from_si(size_m)
    if any(abs(found - dn) < 0.5 for dn in _BY_INCHES.values()):
        return round(found)
    inches = units.unit("in", "size").from_si(size_m)
    near = min(_BY_INCHES, key=lambda one: abs(one - inches))
    return _BY_INCHES[near] if abs(near - inches) <= _NEAR * near else None
