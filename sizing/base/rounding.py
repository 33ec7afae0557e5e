"""Comparisons that do not turn on the last digit: 80.0 of 80.0 is a fit."""

from __future__ import annotations

from typing import Any

# of the figure compared with: less than any screen shows, and than any maker means
ROUNDING = 1e-3


def at_least(value: Any, wanted: Any) -> Any:
    """Whether a value (or each of an array) reaches what is wanted, but for rounding.

    >>> at_least(79.99, 80.0), at_least(79.0, 80.0)
    (True, False)
    """
    return value >= wanted - ROUNDING * abs(wanted)


def at_most(value: Any, limit: Any) -> Any:
    """Whether a value (or each of an array) stays within a limit, but for rounding.

    >>> at_most(80.01, 80.0), at_most(81.0, 80.0)
    (True, False)
    """
    return value <= limit + ROUNDING * abs(limit)
