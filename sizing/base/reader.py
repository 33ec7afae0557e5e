"""Who reads: the units and the decimal mark that a person prefers, while one page is made for them.

As the context of the decimal module is, this is a setting of the thread or task in hand. It decides
only how figures are shown and which unit a bare number takes, never what is reckoned.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Literal

Style = Literal["point", "comma"]  # the decimal mark of whoever writes
Dates = Literal["day_month", "month_day", "iso"]  # 26 Nov 2026; Nov 26, 2026; 2026-11-26


@dataclass(frozen=True)
class Reader:
    """What one person prefers: a unit for a quantity, by dimension, the decimal mark, the dates."""

    units: Mapping[str, str] = field(default_factory=dict)
    style: Style = "point"
    dates: Dates = "day_month"


NOBODY = Reader()
_current: ContextVar[Reader] = ContextVar("reader", default=NOBODY)


@contextmanager
def reading(reader: Reader) -> Iterator[None]:
    """Show figures as this reader prefers, for as long as the block lasts."""
    token = _current.set(reader)
    try:
        yield
    finally:
        _current.reset(token)


def current() -> Reader:
    """Who reads now; nobody in particular outside a page."""
    return _current.get()
