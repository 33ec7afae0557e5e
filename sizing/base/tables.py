"""Reading the reference tables that ship in ``sizing/data``."""

from __future__ import annotations

import csv
from functools import lru_cache
from pathlib import Path

DATA = Path(__file__).parents[1] / "data"


@lru_cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """All rows of ``data/<name>.csv`` as dictionaries of text; an empty cell is ''."""
    with (DATA / f"{name}.csv").open(encoding="utf-8", newline="") as stream:
        return tuple(csv.DictReader(stream))


def number(text: str) -> float | None:
    """The cell's number, or None for an empty cell (which means not known, never zero)."""
    return float(text) if text else None
