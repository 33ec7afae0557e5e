"""What goes out as a table must stay text: a spreadsheet takes some cells for formulas."""

from __future__ import annotations

_FORMULAS = ("=", "+", "@", "\t", "\r")


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula; a negative number stays one.

    >>> harmless("=1+1"), harmless("-2.4 m"), harmless("-cmd")
    (' =1+1', '-2.4 m', ' -cmd')
    """
    dash = text[:1] == "-" and not text[1:2].isdigit()
    return f" {text}" if text[:1] in _FORMULAS or dash else text
