"""Whatever is declared one a file: kinds, scenarios, dialogs are found by looking into a folder."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterable
from typing import Any


def found_in(package: str, path: Iterable[str], name: str) -> list[Any]:
    """What the modules of a package hold under ``name``, those without it left out.

    By the modules' names. ``path`` is the package's own ``__path__``.
    """
    modules = [
        importlib.import_module(f"{package}.{module.name}") for module in pkgutil.iter_modules(path)
    ]
    return [getattr(module, name) for module in modules if hasattr(module, name)]
