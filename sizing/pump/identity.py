"""What makes two entries of a catalogue the same pump, and what a pump is called in addresses."""

from __future__ import annotations

import hashlib
import re
import unicodedata

LONGEST_SLUG = 120
HASH_DIGITS = 8
_SPELT_OUT = re.compile(
    r"[a-z0-9 \x1f./,()_-]+"
)  # of these a slug leaves nothing away but what parts words


def identity(maker: str, model: str, variant: str = "") -> str:
    """What makes two entries the same pump.

    Maker, model and variant as typed, but for case and spaces.
    """
    parts = (unicodedata.normalize("NFC", part).casefold() for part in (maker, model, variant))
    return "\x1f".join(" ".join(part.split()) for part in parts)


def slug_of(maker: str, model: str, variant: str = "") -> str:
    """Maker, model and variant in plain small letters, such as 'ondrath-k-42'.

    For reading only, several pumps may share it.
    """
    return re.sub(r"[^a-z0-9]+", "-", f"{maker} {model} {variant}".lower()).strip("-")


def id_of(maker: str, model: str, variant: str = "") -> str:
    """The id of a pump.

    Its slug, with digits of its identity behind it where the slug leaves a part of the name away.

    Two that differ only in what parts their words ('S-25', 'S 25') get the same: whoever keeps both
    calls :func:`told_apart`.

    >>> id_of("Ondrath", "K 42")
    'ondrath-k-42'
    >>> id_of("Quorl", "Pro+") == id_of("Quorl", "Pro")
    False
    """
    known, slug = identity(maker, model, variant), slug_of(maker, model, variant)[:LONGEST_SLUG]
    return slug if slug and _SPELT_OUT.fullmatch(known) else told_apart(slug, known)


def told_apart(pump_id: str, known: str) -> str:
    """An id with digits of the pump's identity behind it, where another has the plain one."""
    return f"{pump_id or 'pump'}-{hashlib.sha256(known.encode()).hexdigest()[:HASH_DIGITS]}"
