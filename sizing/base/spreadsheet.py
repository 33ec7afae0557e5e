"""What goes out as a table must stay text: a spreadsheet takes some cells for formulas."""

from __future__ import annotations

import re

_FORMULAS = ("=", "+", "@", "\t", "\r")
_FIGURE = re.compile(r"-\d[\d.,]*(?: ?[^\d=+\-@|!(]*)?\Z")  # with its unit, and nothing to reckon


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula; a negative number stays one.

    >>> harmless("=1+1"), harmless("-2.4 m"), harmless("-cmd"), harmless("-2+3")
    (' =1+1', '-2.4 m', ' -cmd', ' -2+3')
    """
    dash = text[:1] == "-" and not _FIGURE.match(text)
    return f" {text}" if text[:1] in _FORMULAS or dash else text
