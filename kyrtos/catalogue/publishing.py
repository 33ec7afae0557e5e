"""The catalogue as jobs see it.

Packed at every change of the rows, opened once on a machine and shared by its workers.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Mapping
from dataclasses import fields
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import psycopg
from django.conf import settings
from django.db import connection, transaction
from django.db.models import F
from procrastinate.contrib.django import app

from kyrtos.catalogue.models import CatalogueEntry, Published
from kyrtos.catalogue.signals import catalogue_published
from kyrtos.config.queue import AGAIN, enqueue
from kyrtos.shops.models import Shop
from sizing.pump.catalogue import EMPTY, Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.pump.packed import Blob, PackedCatalogue, pack

AT_ONCE = 3_000  # pumps: packing so many takes a fifth of a second
_KEPT = 3  # blobs of a shop
PLAIN = tuple(
    field.name for field in fields(Pump) if field.name not in ("curve", "together", "scaled_hz")
)
CURVE = tuple(field.name for field in fields(PumpCurve))


def to_pump(row: Mapping[str, Any]) -> Pump:
    """A pump of the core from a row of the database (``values()``)."""
    columns = (None if row[name] is None else tuple(row[name]) for name in CURVE)
    curve = PumpCurve(*columns)  # type: ignore[arg-type]
    return Pump(curve=curve, **{name: row[name] for name in PLAIN})


CATALOGUE_LOCK = "catalogue"  # what changes a shop's catalogue is done one after the other


def changed(shop: Shop) -> None:
    """The rows of a catalogue have changed.

    A small one is published at once, a large one by a worker.
    """
    Shop.objects.filter(pk=shop.pk).update(catalogue_revision=F("catalogue_revision") + 1)
    shop.refresh_from_db(fields=["catalogue_revision"])
    if CatalogueEntry.objects.filter(shop=shop).count() <= AT_ONCE:
        publish(shop)
    else:
        enqueue(
            publish_task,
            lock=CATALOGUE_LOCK,
            whose=shop.pk,
            once=True,
            shop_id=shop.pk,
        )


def publish(shop: Shop) -> None:
    """Pack the pumps as they are now.

    Jobs are sized against them from here on, and open jobs are looked through again.
    """
    revision = Shop.objects.values_list("catalogue_revision", flat=True).get(pk=shop.pk)
    rows = (
        CatalogueEntry.objects.filter(shop=shop, aside="", archived=False)
        .order_by("pump_id")
        .values(*PLAIN, *CURVE)
    )
    pumps = [to_pump(row) for row in rows.iterator(chunk_size=5000)]
    blob = pack(pumps)
    digest = hashlib.sha256(blob).hexdigest()[:32]
    with transaction.atomic():
        Published.objects.update_or_create(
            shop=shop,
            revision=revision,
            defaults={"blob": blob, "digest": digest, "pumps": len(pumps)},
        )
        Shop.objects.filter(pk=shop.pk, published_revision__lte=revision).update(
            published_revision=revision, published_digest=digest
        )
        kept = (
            Published.objects.filter(shop=shop)
            .order_by("-revision")
            .values_list("pk", flat=True)[:_KEPT]
        )
        Published.objects.filter(shop=shop).exclude(pk__in=list(kept)).delete()
        catalogue_published.send(Published, shop=shop)
    shop.refresh_from_db(fields=["published_revision", "published_digest"])


@app.task(retry=AGAIN, name="kyrtos.catalogue.tasks.publish")
def publish_task(shop_id: int) -> None:
    """Pack a large catalogue."""
    publish(Shop.objects.get(pk=shop_id))


def catalogue_of(shop: Shop) -> Catalogue:
    """The shop's published catalogue, kept open until another is published."""
    if not shop.published_revision:
        if not shop.catalogue_revision:
            return EMPTY
        publish(shop)  # the rows are older than publishing
    return _open(shop.pk, shop.published_digest)


@lru_cache(maxsize=8)
def _open(shop_id: int, digest: str) -> Catalogue:
    """By what it holds, not by its number: a number is given again when a change is rolled back."""
    there = (
        Published.objects.filter(shop_id=shop_id).order_by("-revision").values_list("pk", "digest")
    )
    found = (
        there.filter(digest=digest).first() or there[0]
    )  # a request may know an older one than those that are kept
    return PackedCatalogue(_blob(*found))


def _blob(pk: int, digest: str) -> Blob:
    """The blob mapped from a file of this machine, written by the first worker that needs it.

    In memory where there is no room for it.
    """
    try:
        path = _folder() / f"{digest}.catalogue"
        if not path.exists():
            _write(path, _fetch(pk))
        return np.memmap(path, dtype=np.uint8, mode="r")
    except OSError:
        return _fetch(pk)


def _fetch(pk: int) -> bytes:
    """The blob by PostgreSQL's binary protocol.

    As text it would come as twice as many hexadecimal digits.
    """
    connection.ensure_connection()
    with psycopg.Cursor(connection.connection) as cursor:
        row = cursor.execute(
            "SELECT blob FROM catalogue_published WHERE id = %s", [pk], binary=True
        ).fetchone()
    if row is None:
        raise Published.DoesNotExist(f"the packed catalogue {pk} is gone")
    return bytes(row[0])


def _folder() -> Path:
    """Our own folder, which nobody else may write to.

    Raises
    ------
    OSError
        It cannot be made, or belongs to somebody else.
    """
    folder = Path(settings.CACHE_FOLDER)
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    if folder.stat().st_uid != os.getuid():
        raise OSError(f"{folder} belongs to somebody else")
    return folder


def _write(path: Path, blob: bytes) -> None:
    """Whole or not at all, whoever else is writing; the oldest files make room."""
    part = path.with_suffix(f".{os.getpid()}.part")
    try:
        part.write_bytes(blob)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)  # of a disk that was full
    older = sorted(
        path.parent.glob("*.catalogue"), key=lambda one: one.stat().st_mtime, reverse=True
    )
    for one in older[settings.CACHE_FILES :]:
        one.unlink(missing_ok=True)
