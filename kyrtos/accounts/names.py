"""Names to sign in by: given out once, and never one that looks like another."""

from __future__ import annotations

import hashlib
import unicodedata

from django.core.exceptions import ValidationError

GONE = "gone-"  # how somebody who asked to be forgotten is called
_ALIKE = str.maketrans("01i|5$_.+", "olllss---")
_PAIRS = (("rn", "m"), ("vv", "w"), ("cl", "d"))


def key_of(name: str) -> str:
    """A digest that names which look alike share: capitals, accents, 0 and o, l and 1, rn and m.

    It stays with who had the name when the name itself is forgotten.
    """
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKC", name).casefold())
    bare = "".join(one for one in plain if not unicodedata.combining(one)).translate(_ALIKE)
    for pair, looks in _PAIRS:
        bare = bare.replace(pair, looks)
    return hashlib.sha256(f"kyrtos name {bare}".encode()).hexdigest()


def judge(name: str) -> None:
    """Refuse a new name that nobody could tell from another.

    Raises
    ------
    ValidationError
        A letter is not Latin (those of other scripts look like them), or the name is kept back.
    """
    if any(one.isalpha() and not unicodedata.name(one, "").startswith("LATIN") for one in name):
        raise ValidationError("Use Latin letters, digits and @ . + - _ in this name.")
    if name.casefold().startswith(GONE):
        raise ValidationError(f"Names that begin with {GONE} are kept back: choose another.")
