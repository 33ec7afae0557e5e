"""The dialogs of the worksheet: a new file with a ``DIALOG`` in it is a new dialog."""

from __future__ import annotations

from functools import lru_cache

from kyrtos.worksheet.dialogs.base import Dialog
from sizing.base.found_in import found_in
from sizing.size import Sizing


@lru_cache
def dialogs() -> dict[str, Dialog]:
    """Every dialog by its name, in the order of their buttons."""
    found = found_in(__name__, __path__, "DIALOG")
    return {one.name: one for one in sorted(found, key=lambda one: (one.place, one.rank))}


def buttons(sizing: Sizing, place: str) -> tuple[Dialog, ...]:
    """The dialogs that can be opened for a job at one place of its sheet."""
    return tuple(one for one in dialogs().values() if one.place == place and one.applies(sizing))
