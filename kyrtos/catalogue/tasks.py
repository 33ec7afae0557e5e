"""Work on catalogues that takes longer than a request may."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from procrastinate.contrib.django import app

from kyrtos.catalogue import imports, publishing
from kyrtos.catalogue.models import Import
from kyrtos.shop.models import Shop


@contextmanager
def _told(import_id: int, then: Import.State, what_to_do: str) -> Iterator[None]:
    """What goes wrong against all expectation is told on the import's page, not only in the
    worker's log.
    """
    try:
        yield
    except Exception as problem:
        told = (
            f"something went wrong in the background ({type(problem).__name__}); nothing was"
            f" changed. {what_to_do}"
        )
        Import.objects.filter(pk=import_id).update(state=then, problem=told)
        raise


@app.task
def publish(shop_id: int) -> None:
    """Pack a large catalogue."""
    publishing.publish(Shop.objects.get(pk=shop_id))


@app.task
def read_import(import_id: int) -> None:
    """Read a large file and say what it would do."""
    with _told(import_id, Import.State.FAILED, "Send the file again"):
        imports.read(Import.objects.get(pk=import_id))


@app.task
def take_import(
    import_id: int, without_refused: bool, take_doubtful: bool, blank_missing: bool = False
) -> None:
    """Put the rows of a large file into the catalogue.

    ``without_refused`` was looked at before it was put off.
    """
    with _told(import_id, Import.State.FAILED, "Send the file again"):
        imports.take_now(
            Import.objects.get(pk=import_id),
            take_doubtful=take_doubtful,
            blank_missing=blank_missing,
        )


@app.task
def undo_import(import_id: int) -> None:
    """Put the catalogue back as it was before a large import."""
    with _told(import_id, Import.State.TAKEN, "Try once more"):
        imports.undo_now(Import.objects.get(pk=import_id))
