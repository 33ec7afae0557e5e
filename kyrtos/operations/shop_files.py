"""Files of a shop that are too large for a request: made or taken in by a worker."""

from __future__ import annotations

from collections.abc import Iterator

from django.db import InterfaceError, OperationalError

from kyrtos.accounts.audit import note
from kyrtos.accounts.models import User
from kyrtos.catalogue import services
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import to_pump
from kyrtos.operations import shop_data
from kyrtos.operations.models import ShopFile
from kyrtos.operations.shop_data import CalledOff
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_write import write_xlsx

LARGEST_BYTES = 200_000_000
KEPT = 2  # finished files of each kind a shop
_TELL_EVERY = 500


def begin(shop: Shop, user: User, kind: str, content: bytes = b"") -> ShopFile:
    """Note a file to be made or taken in; older finished ones of its kind make room."""
    made = ShopFile.objects.create(shop=shop, user=user, kind=kind, content=content)
    finished = ShopFile.objects.filter(shop=shop, kind=kind).exclude(state=ShopFile.State.WAITING)
    ShopFile.objects.filter(pk__in=list(finished.values_list("pk", flat=True)[KEPT:])).delete()
    return made


def call_off(file: ShopFile) -> bool:
    """Stop what is being made; whether there was anything to stop."""
    waiting = ShopFile.objects.filter(pk=file.pk, state=ShopFile.State.WAITING)
    return bool(waiting.update(state=ShopFile.State.CALLED_OFF))


def work_on(file: ShopFile) -> None:
    """Make it, or take it in: what goes wrong is told on its page."""
    if file.state != ShopFile.State.WAITING:
        return

    def told(done: int, total: int) -> None:
        waiting = ShopFile.objects.filter(pk=file.pk, state=ShopFile.State.WAITING)
        if not waiting.update(done=done, total=total):
            raise CalledOff("called off")

    try:
        if file.kind == ShopFile.Kind.INTO:
            file.told = _take_in(file)
            file.content, file.state = b"", ShopFile.State.TAKEN
        else:
            pumps = file.kind == ShopFile.Kind.PUMPS
            file.content = workbook(file.shop, told) if pumps else shop_data.write(file.shop, told)
            file.state = ShopFile.State.READY
    except CalledOff:
        file.state, file.content = ShopFile.State.CALLED_OFF, b""
    except SizingError as problem:
        file.state, file.content, file.told = ShopFile.State.FAILED, b"", str(problem)[:500]
    except (OperationalError, InterfaceError):
        raise  # the database went away: it is done again
    except Exception as problem:
        told_short = f"something went wrong in the background ({type(problem).__name__})"
        ShopFile.objects.filter(pk=file.pk).update(state=ShopFile.State.FAILED, told=told_short)
        raise
    file.save(update_fields=["state", "content", "told"])


def _take_in(file: ShopFile) -> str:
    assert file.user is not None  # who sent it just now

    def look(_done: int, _total: int) -> None:
        # within its transaction it may not touch the row that somebody calls it off by
        if not ShopFile.objects.filter(pk=file.pk, state=ShopFile.State.WAITING).exists():
            raise CalledOff("called off")

    came = shop_data.take_in(file.shop, file.user, bytes(file.content), look)
    note(file.shop, file.user.username, "shop's data taken in", came)
    return came


def workbook(shop: Shop, told: shop_data.Progress = lambda *_: None) -> bytes:
    """All pumps of a shop as the workbook that the import reads."""
    rows = CatalogueEntry.objects.filter(shop=shop, archived=False).order_by("pump_id")
    total = rows.count()

    def pumps() -> Iterator[Pump]:
        found = rows.values(*services.COLUMNS).iterator(chunk_size=2000)
        for at, row in enumerate(found):
            if at % _TELL_EVERY == 0:
                told(at, total)
            yield to_pump(row)

    return write_xlsx(pumps())
