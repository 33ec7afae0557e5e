"""What goes on behind the pages: background work, back-ups, and files of a shop."""

from __future__ import annotations

from typing import cast

from django.conf import settings
from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import Action, ShopRequest, can, may
from kyrtos.accounts.share import share
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.config.middleware import takes
from kyrtos.config.queue import enqueue
from kyrtos.operations import background, backups, shop_data, shop_files, tasks
from kyrtos.operations.models import Backup, ShopFile

_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_AT_ONCE = 2000  # pumps written within a request, in about a second
_SHOWN = 30


@require_safe
@may("set shop")
def running(request: ShopRequest) -> HttpResponse:
    """Queue, worker and last failures."""
    context = {
        "now": background.standing(request.membership.shop_id),
        "troubles": request.membership.shop.troubles.all()[:_SHOWN],
    }
    return render(request, "operations/running.html", context)


@require_POST
@may("set shop")
def try_again(request: ShopRequest, task: int) -> HttpResponse:
    """A task that was set aside, once more."""
    if not background.try_again(task, request.membership.shop_id):
        raise Http404("no such task")
    did(request, "background task tried again", str(task))
    messages.success(request, "It is tried again; look here in a minute.")
    return redirect("running")


@may("set shop")
def back_ups(request: ShopRequest) -> HttpResponse:
    """The last good back-up, all of them, one now; and the shop's own data."""
    if request.method == "POST":
        if settings.BACKUP_FOLDER:
            enqueue(tasks.backup_now, lock="back-up", whose=None, once=True)
            did(request, "back-up asked for")
            messages.success(request, "A back-up is on its way; look again in a minute.")
        return redirect("back-ups")
    return _back_ups(request)


def _back_ups(request: ShopRequest, problem: str = "", status: int = 200) -> HttpResponse:
    shop = request.membership.shop
    context = {
        "problem": problem,
        "warning": backups.problem(),
        "last": backups.last_good(),
        "all": Backup.objects.all()[:_SHOWN],
        "folder": settings.BACKUP_FOLDER,
        "files": shop.files.defer("content"),
        "empty": shop_data.is_empty(shop),
    }
    return render(request, "operations/back_ups.html", context, status=status)


@takes(shop_files.LARGEST_BYTES)
@require_POST
@may("set shop")
def take_shop_file(request: ShopRequest) -> HttpResponse:
    """A shop's data, to be taken into this empty one by the worker."""
    sent = request.FILES.get("file")
    try:
        if sent is None:
            raise shop_data.CannotTakeIn("choose the ZIP file first")
        if (sent.size or 0) > shop_files.LARGEST_BYTES:
            raise shop_data.CannotTakeIn("the file is larger than 200 MB")
        if _waiting(request, ShopFile.Kind.INTO):
            raise shop_data.CannotTakeIn("one is being taken in: wait for it, or call it off")
        content = sent.read()
        shop_data.judged(content)
        if not shop_data.is_empty(request.membership.shop):
            raise shop_data.CannotTakeIn("this shop has jobs or pumps already")
    except shop_data.CannotTakeIn as problem:
        return _back_ups(request, str(problem), status=422)
    did(request, "shop's data sent", sent.name or "")
    return _begun(request, ShopFile.Kind.INTO, content)


@require_POST
@may("set shop")
def make_shop_file(request: ShopRequest) -> HttpResponse:
    """All of the shop's data as a ZIP, by the worker."""
    waiting = _waiting(request, ShopFile.Kind.ALL)
    if waiting:
        return redirect("file", file_id=waiting.pk)
    did(request, "shop's data asked for")
    return _begun(request, ShopFile.Kind.ALL)


@may("change catalogue")
@share
def export_xlsx(request: ShopRequest) -> HttpResponse:
    """The whole catalogue as the workbook that the import reads; a large one by the worker."""
    shop = request.membership.shop
    if CatalogueEntry.objects.filter(shop=shop, archived=False).count() <= _AT_ONCE:
        did(request, "catalogue exported", "XLSX")
        return _workbook(shop_files.workbook(shop))
    waiting = _waiting(request, ShopFile.Kind.PUMPS)
    if waiting:
        return redirect("file", file_id=waiting.pk)
    if request.method == "POST":
        did(request, "catalogue exported", "XLSX")
        return _begun(request, ShopFile.Kind.PUMPS)
    ready = shop.files.filter(kind=ShopFile.Kind.PUMPS, state=ShopFile.State.READY)
    last = ready.defer("content").first()
    return render(request, "operations/ask_for_pumps.html", {"last": last})


def _waiting(request: ShopRequest, kind: str) -> ShopFile | None:
    files = request.membership.shop.files.filter(kind=kind, state=ShopFile.State.WAITING)
    return files.defer("content").first()


def _begun(request: ShopRequest, kind: str, content: bytes = b"") -> HttpResponse:
    with transaction.atomic():  # neither is seen without the other
        made = shop_files.begin(request.membership.shop, cast(User, request.user), kind, content)
        tasks.soon(made)
    return redirect("file", file_id=made.pk)


def _found(request: ShopRequest, file_id: int) -> ShopFile:
    found = get_object_or_404(ShopFile, pk=file_id, shop=request.membership.shop)
    needed: Action = "change catalogue" if found.kind == ShopFile.Kind.PUMPS else "set shop"
    if not can(request.membership, needed):
        raise Http404("no such file")
    return found


@may("see")
def shop_file(request: ShopRequest, file_id: int) -> HttpResponse:
    """How far a file is; calling it off."""
    found = _found(request, file_id)
    if request.method == "POST":
        if shop_files.call_off(found):
            did(request, "file called off", found.get_kind_display())
        return redirect("file", file_id=found.pk)
    return render(request, "operations/file.html", {"file": found})


@require_safe
@may("see")
def shop_file_content(request: ShopRequest, file_id: int) -> HttpResponse:
    """The file itself."""
    found = _found(request, file_id)
    if found.state != ShopFile.State.READY:
        raise Http404("not ready")
    if found.kind == ShopFile.Kind.ALL:
        did(request, "shop's data taken out")
    return _sent(found)


def _sent(file: ShopFile) -> HttpResponse:
    if file.kind == ShopFile.Kind.PUMPS:
        return _workbook(bytes(file.content))
    head = {"Content-Disposition": f'attachment; filename="{file.name}"'}
    return HttpResponse(bytes(file.content), content_type="application/zip", headers=head)


def _workbook(content: bytes) -> HttpResponse:
    head = {"Content-Disposition": f'attachment; filename="{ShopFile.PUMPS_NAME}"'}
    return HttpResponse(content, content_type=_XLSX, headers=head)
