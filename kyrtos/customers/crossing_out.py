"""Names that somebody asked to have forgotten, crossed out of what others wrote."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from django.db.models import Model, Q, QuerySet
from django.db.models.fields.json import JSONField

_BLOCK = "█"
_LEAST_DIGITS = 6  # of a phone number: what is shorter may be any figure
_SHOWN = 30  # letters to either side of what was found
_WRITTEN = frozenset({"title", "note", "name", "text", "place", "customer", "site"})


def _pattern(name: str) -> str:
    """A name with any blanks between its words; a phone number with any signs between digits."""
    digits = re.sub(r"\D", "", name)
    if len(digits) >= _LEAST_DIGITS and re.fullmatch(r"\+?[\d ()./-]+", name):
        return r"\+?" + r"[ ()./-]*".join(digits)
    return r"\s+".join(re.escape(word) for word in name.split())


class Names:
    """What is to be crossed out: whole words, whatever their capitals and spaces."""

    def __init__(self, names: Iterable[str]) -> None:
        self.texts = sorted({" ".join(one.split()) for one in names} - {""}, key=len, reverse=True)
        self.looked_at: list[tuple[QuerySet[Any], tuple[str, ...]]] = []  # columns of texts
        loose = [_pattern(one) for one in self.texts]
        self._found = re.compile(rf"(?<!\w)(?:{'|'.join(loose) or '(?!)'})(?!\w)", re.IGNORECASE)

    def found_in(self, held: Any) -> Iterator[str]:
        """What stands around each place in a text or plain JSON."""
        if isinstance(held, str):
            for one in self._found.finditer(held):
                start, end = max(one.start() - _SHOWN, 0), one.end() + _SHOWN
                yield f"{'…' * (start > 0)}{held[start:end]}{'…' * (end < len(held))}"
        elif isinstance(held, Mapping):
            for key, value in held.items():
                if not isinstance(value, str) or key in _WRITTEN:
                    yield from self.found_in(value)
        elif isinstance(held, list):
            for value in held:
                yield from self.found_in(value) if not isinstance(value, str) else ()

    def within(self, text: str) -> bool:
        """Whether a text holds one of them."""
        return bool(self._found.search(text))

    def crossed_out(self, text: str) -> str:
        """The text, as long as before, without them."""
        return self._found.sub(lambda found: _BLOCK * len(found[0]), text)

    def out_of(self, held: Any, key: str = "") -> Any:
        """The same of what somebody wrote in plain JSON: of names, titles and notes.

        Not of ids and kinds: a customer may be called as a pump is.
        """
        if isinstance(held, str):
            return self.crossed_out(held) if key in ("", *_WRITTEN) else held
        if isinstance(held, Mapping):
            inside = "text" if key == "pending" else ""
            return {name: self.out_of(value, inside or name) for name, value in held.items()}
        return (
            [self.out_of(one, key or "of a list") for one in held]
            if isinstance(held, list)
            else held
        )

    def cross_out(self, rows: QuerySet[Any], *names: str) -> int:
        """Cross out these columns, texts or JSON, of rows that hold one; how many rows."""
        self.looked_at.append((rows, names))
        changed = 0
        for row in self.holding(rows, *names).only("pk", *names).iterator(chunk_size=200):
            before = {name: getattr(row, name) for name in names}
            after = {name: self.out_of(value) for name, value in before.items()}
            if after != before:
                changed += _kept(row, after)
        return changed

    def holding(self, rows: QuerySet[Any], *names: str) -> QuerySet[Any]:
        """Rows that may hold one in these columns: by its longest word, as a database finds it."""
        any_of = Q(pk=None)
        for text in self.texts:
            word = max(text.split(), key=len)
            for name in names:
                is_json = isinstance(rows.model._meta.get_field(name), JSONField)
                # JSON writes a quotation mark and a backslash as two
                asked = word.replace("\\", "\\\\").replace('"', '\\"') if is_json else word
                any_of |= Q(**{f"{name}__icontains": asked})
        return rows.filter(any_of)


def _kept(row: Model, values: Mapping[str, Any]) -> int:
    return int(type(row)._default_manager.filter(pk=row.pk).update(**values))
