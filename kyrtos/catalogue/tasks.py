"""Where a worker finds the catalogue's tasks; each stands beside what it does."""

from kyrtos.catalogue.imports import read_import, take_import, undo_import
from kyrtos.catalogue.publishing import publish_task

__all__ = ["publish_task", "read_import", "take_import", "undo_import"]
