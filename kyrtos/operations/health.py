"""Whether the place is well: for watchdogs, balancers and ./run."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection, transaction
from django.http import HttpRequest, HttpResponse

from kyrtos.config.views import disk_is_full
from kyrtos.operations import background

_LEAST_FREE_BYTES = 50_000_000


def _said(text: str, status: int = 200) -> HttpResponse:
    head = {"Cache-Control": "no-store"}
    return HttpResponse(f"kyrtos {text}\n", status=status, content_type="text/plain", headers=head)


def web(request: HttpRequest) -> HttpResponse:
    """Whether this machine can serve: what a balancer asks before it sends anybody here."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
    except DatabaseError:
        return _said("serves, but its database does not answer", status=503)
    return _said("ok")


def health(request: HttpRequest) -> HttpResponse:
    """Whether all of it works: database, queue and worker; what a watchdog asks."""
    here = web(request)
    if here.status_code != 200:
        return here
    if _reads_only():
        return _said("serves, but its database may only be read: nothing can be saved", status=503)
    if _no_room():
        full = "serves, but the disk under its database is full: nothing can be saved"
        return _said(full, status=503)
    problem = background.standing().problem or _files_problem()
    if problem:
        return _said(f"serves, but {problem}", status=503)
    aside = background.set_aside()
    told = f"; {aside} background task{'' if aside == 1 else 's'} set aside since yesterday"
    return _said("ok" + (told if aside else ""))


def _reads_only() -> bool:
    with connection.cursor() as cursor:
        cursor.execute(
            "select pg_is_in_recovery() or current_setting('transaction_read_only') = 'on'"
        )
        (reads_only,) = cursor.fetchone() or (False,)
    return bool(reads_only)


def _no_room() -> bool:
    """Whether the database cannot spill 5 MB to its disk: a sort that changes nothing tries it."""
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("set local work_mem = '64kB'")
            cursor.execute(
                "select count(*) from (select g || repeat('x', 8000) as line"
                " from generate_series(1, 600) g order by 1 offset 0) sorted"
            )
    except DatabaseError as problem:
        return disk_is_full(problem)
    return False


def _files_problem() -> str:
    """What is wrong with the folder of photos and files; '' with a store of its own."""
    folder = Path(settings.MEDIA_ROOT)
    if settings.FILES_BUCKET or not folder.exists():
        return ""
    if not os.access(folder, os.W_OK):
        return "its folder of photos and files may only be read"
    free = shutil.disk_usage(folder).free
    return "its folder of photos and files is full" if free < _LEAST_FREE_BYTES else ""
