"""Noise as people know it."""

from __future__ import annotations

import math

# Up to so many dB(A) at a metre.
_NOISES = (
    (30.0, "a whisper"),
    (40.0, "a quiet library"),
    (50.0, "a refrigerator"),
    (60.0, "talking"),
    (70.0, "a washing machine"),
    (80.0, "a vacuum cleaner"),
)


def noise_in_words(decibels: float) -> str:
    """A noise at a metre as something that people know.

    >>> noise_in_words(38)
    'a quiet library'
    """
    return next((words for most, words in _NOISES if decibels <= most), "a busy street and more")


def together_db(one_db: float, count: int) -> float:
    """Noise of so many equal pumps [dB(A)]: 10 log10 n more than one.

    >>> round(together_db(40.0, 2), 1)
    43.0
    """
    return one_db + 10.0 * math.log10(count)


def at_distance_db(at_1_m_db: float, distance_m: float) -> float:
    """Noise at a distance in the open [dB(A)]: 20 log10 less; in a room it falls less."""
    return at_1_m_db - 20.0 * math.log10(max(distance_m, 1.0))
