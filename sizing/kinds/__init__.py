"""Kinds of job, one file each.

A new file with a :class:`~sizing.kinds.base.Kind` in it is a new kind.
"""

from __future__ import annotations

import importlib
import pkgutil
from functools import lru_cache

from sizing.base.errors import UnknownName
from sizing.kinds.base import Kind


@lru_cache
def kinds() -> dict[str, Kind]:
    """Every kind by its code, found by looking into this folder."""
    modules = [
        importlib.import_module(f"{__name__}.{module.name}")
        for module in pkgutil.iter_modules(__path__)
    ]
    found = [module.KIND for module in modules if hasattr(module, "KIND")]
    return {one.code: one for one in sorted(found, key=lambda one: one.code)}


def kind(code: str) -> Kind:
    """The kind with that code.

    Raises
    ------
    UnknownName
    """
    try:
        return kinds()[code]
    except KeyError:
        raise UnknownName("kind of job", code, kinds()) from None
