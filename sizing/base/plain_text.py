"""Texts that somebody typed, pasted or sent."""

from __future__ import annotations

import re

# C0 and C1 controls (U+0000 is refused at every door before), line and paragraph separators, and
# what turns the order of letters round.
_CONTROLS = re.compile("[\x01-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]+")


def has_controls(text: str) -> bool:
    """Whether a text holds line breaks or other control characters."""
    return bool(_CONTROLS.search(text))


def one_line(text: str) -> str:
    """The text on one line: each run of control characters is a space."""
    return _CONTROLS.sub(" ", text)
