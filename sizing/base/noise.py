"""Noise as people know it."""

from __future__ import annotations

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
