"""How much of a large table a test goes through: a part from a fixed seed, all of it by
``./run test --all``. What is left out by day is said in docs/architecture.md.
"""

from __future__ import annotations

import os
import random
from collections.abc import Sequence
from typing import TypeVar

T = TypeVar("T")
ALL = bool(os.environ.get("KYRTOS_TEST_ALL"))


def count(few: int, whole: int) -> int:
    """How often."""
    return whole if ALL else few


def some(cases: Sequence[T], few: int, seed: object = 0) -> list[T]:
    """So many of the cases, in their order; another ``seed`` takes others."""
    if ALL or few >= len(cases):
        return list(cases)
    taken = sorted(random.Random(str(seed)).sample(range(len(cases)), few))
    return [cases[at] for at in taken]
