"""The worksheet and everything that changes it. One template serves the page and the fragment."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.crypto import get_random_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe
from django.views.decorators.vary import vary_on_headers

from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, can, may
from kyrtos.accounts.terms import system_of
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.jobs.services import Conflict
from kyrtos.jobs.told_alone import told_alone
from kyrtos.shops import trouble
from kyrtos.worksheet.dialogs import dialogs
from kyrtos.worksheet.glyphs import words
from kyrtos.worksheet.sheet import sheet
from sizing.analysis.follow_on import follow_on
from sizing.analysis.remedies import Remedy
from sizing.base.errors import GoneError, SizingError
from sizing.base.failure import Parts
from sizing.base.units import System
from sizing.document import job as document
from sizing.editing import edit_structure
from sizing.hydraulics import pipe_words
from sizing.hydraulics.pipes import walls
from sizing.results.report import report
from sizing.size import Sizing

_MOST_TYPED = 100
# of a paper, what its line on the worksheet does not say: all of it is large
_NOT_SHOWN = ("document", "pump", "pump_record", "rules", "letterhead", "pdf")


def find_job(request: ShopRequest, job_id: UUID) -> Job:
    """The job, looked up within the person's shop: a stranger gets 404."""
    return get_object_or_404(
        Job.objects.select_related("shop", "follows", "customer_record", "site_record"),
        pk=job_id,
        shop=request.membership.shop,
    )


_MOST_CHANGES = 6


def user_of(request: HttpRequest) -> User:
    """The person who asks."""
    return cast(User, request.user)


def answer(
    request: ShopRequest,
    job: Job,
    content: document.JobDocument | None = None,
    conflict: Conflict | None = None,
    notice: str = "",
) -> HttpResponse:
    """The worksheet: sized, noted by whoever may change it, and shown.

    Where that breaks as a whole, what never hangs on the sizing: undo, the file, a copy.
    """
    shop = request.membership.shop

    def shown() -> HttpResponse:
        sizing = services.size_document(shop, content or services.current(job))
        if can(request.membership, "edit job"):
            services.note_sizing(job, sizing)
        return _shown(request, job, sizing, conflict, notice)

    made = trouble.alone(shop, "the worksheet", shown, None, job.pk)
    return made or _rescue(request, job, notice)


def _rescue(request: ShopRequest, job: Job, notice: str) -> HttpResponse:
    context = {
        "job": job,
        "steps": services.steps(job),
        "page_id": request.POST.get("page") or get_random_string(12),
        "notice": notice,
    }
    if request.htmx:  # type: ignore[attr-defined]
        return render(request, "worksheet/_rescue.html", context)
    return render(request, "worksheet/rescue.html", context | _page_context())


def _shown(
    request: ShopRequest, job: Job, sizing: Sizing, conflict: Conflict | None, notice: str
) -> HttpResponse:
    """As a fragment for htmx, else as the whole page."""
    shop, parts = request.membership.shop, Parts()
    untold: tuple[Remedy, ...] = ()
    remedies = parts.part("what would help", lambda: services.remedies_of(shop, sizing), untold)
    made = sheet(
        sizing, currency=shop.currency, home=_home(request), conflict=conflict, remedies=remedies
    )
    context = {
        "job": job,
        "sheet": made,
        "steps": services.steps(job),
        "page_id": request.POST.get("page") or get_random_string(12),
        "notice": notice,
        "papers": job.papers.defer(*_NOT_SHOWN).prefetch_related("seals"),
        "issued": parts.part("what changed since", lambda: _issued(job, sizing.job), None),
        "notes": job.notes.select_related("user"),
        "follow_on": parts.part("the job that follows", lambda: follow_on(sizing), None),
        "followed_by": job.followed_by.first(),
    }
    failures = (*made.failures, *parts.failures)
    context["failures"] = list(dict.fromkeys(one.about for one in failures))
    if request.htmx:  # type: ignore[attr-defined]
        response = render(request, "worksheet/_body.html", context)
    else:
        response = render(request, "worksheet/page.html", context | _page_context())
    trouble.note(shop, failures, job.pk)
    return response


def _issued(job: Job, content: document.JobDocument) -> dict[str, Any] | None:
    """When it was last issued and what changed since; None where nothing did."""
    last = job.papers.first()
    if last is None or job.issued_revision == job.current_revision:
        return None
    changed = services.changed_since(job, content, last.document)
    return {"when": last.issued, "changed": changed[:_MOST_CHANGES]}


def _home(request: ShopRequest) -> System:
    """The system to go back to from US units: that of the reader, or metric."""
    own = system_of(request.membership)
    return "metric" if own == "us" else own


def _page_context() -> dict[str, object]:
    """What the whole page needs besides: suggestions, and the dialogs with their keys."""
    return {
        "dialogs": list(dialogs().values()),
        "dialog_keys": [
            {"name": one.name, "key": one.key, "about_leg": one.about_leg}
            for one in dialogs().values()
        ],
        "walls": [one.label for one in walls().values()],
        "fitting_words": words(),
    }


@require_safe
@vary_on_headers("HX-Request")
@may("see")
def worksheet(request: ShopRequest, job_id: UUID) -> HttpResponse:
    return answer(request, find_job(request, job_id))


@require_POST
@may("edit job")
def change(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """One field: ``path``, ``value``, and the revision and page that it was typed on."""
    job = find_job(request, job_id)
    try:
        saved = services.change_field(
            job=job,
            user=user_of(request),
            path=request.POST.get("path", ""),
            text=request.POST.get("value", ""),
            base=_number(request.POST.get("revision", "")),
            page=request.POST.get("page", "")[:40],
            keep_mine=request.POST.get("keep") == "mine",
        )
    except SizingError as problem:
        return _refused(problem)
    return answer(request, saved.job, saved.document, saved.conflict)


def _refused(problem: SizingError) -> HttpResponse:
    """Why an edit was not made, as a sentence: 409 when what it is about is gone."""
    text = str(problem)
    return HttpResponse(
        f"{text[:1].upper()}{text[1:]}.",
        status=409 if isinstance(problem, GoneError) else 400,
        content_type="text/plain; charset=utf-8",
    )


def _number(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else 0


_LEG_ACTIONS: dict[str, Callable[[document.JobDocument, str], document.JobDocument]] = {
    "add": lambda content, leg: edit_structure.add_leg(content, leg or None),
    "remove": edit_structure.remove_leg,
    "up": lambda content, leg: edit_structure.move_leg(content, leg, -1),
    "down": lambda content, leg: edit_structure.move_leg(content, leg, 1),
}


def _changed(
    request: ShopRequest,
    job: Job,
    apply: Callable[[document.JobDocument], document.JobDocument],
) -> HttpResponse:
    """The worksheet after a change that one undo takes back whole; or why it was not made."""
    page = request.POST.get("page", "")[:40]
    try:
        saved = services.change(job=job, user=user_of(request), path="", page=page, apply=apply)
    except SizingError as problem:
        return _refused(problem)
    return answer(request, saved.job, saved.document)


@require_POST
@may("edit job")
def legs(request: ShopRequest, job_id: UUID, action: str) -> HttpResponse:
    """Add, remove or move a leg."""
    job, leg = find_job(request, job_id), request.POST.get("leg", "")
    return _changed(request, job, lambda content: _LEG_ACTIONS[action](content, leg))


@require_POST
@may("edit job")
def remedy(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Take what was told as helping."""
    job, key = find_job(request, job_id), request.POST.get("remedy", "")
    return _changed(request, job, lambda content: services.cured(job.shop, content, key))


@require_POST
@may("edit job")
def basin(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Put a basin with its floats into the job."""
    job, size = find_job(request, job_id), request.POST.get("size", "")[:40]
    return _changed(request, job, lambda content: services.with_basin(job.shop, content, size))


@require_POST
@may("edit job")
def rows(request: ShopRequest, job_id: UUID, action: str) -> HttpResponse:
    """Add or remove a row of a list."""
    job, key = find_job(request, job_id), request.POST.get("list", "")
    row = request.POST.get("row", "")
    if action == "add":
        return _changed(request, job, lambda content: edit_structure.add_row(content, key))
    return _changed(request, job, lambda content: edit_structure.remove_row(content, key, row))


@require_POST
@may("edit job")
def step(request: ShopRequest, job_id: UUID, direction: str) -> HttpResponse:
    """Undo or redo."""
    job = find_job(request, job_id)
    moved = (services.undo if direction == "undo" else services.redo)(
        job, _number(request.POST.get("revision", ""))
    )
    job.refresh_from_db()
    notice = (
        ""
        if moved
        else (
            f"Nothing was {direction}ne: there is nothing to {direction}, or the job changed on"
            " another page meanwhile: look again."
        )
    )
    return answer(request, job, notice=notice)


@require_safe
@may("see")
def download(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The open job file."""
    job = find_job(request, job_id)
    return _file(document.dump(services.current(job)), f"{slugify(job.title) or 'job'}.json")


@require_safe
@may("see")
@told_alone("the sizing as a file")
def result(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The sizing as JSON, the same as ``./run size`` prints."""
    job, shop = find_job(request, job_id), request.membership.shop
    sizing = services.size_document(shop, services.current(job))
    trouble.note(shop, sizing.failures, job.pk)
    remedies = services.remedies_of(shop, sizing)
    return _file(report(sizing, remedies), f"{slugify(job.title) or 'job'}-sizing.json")


def _file(content: dict[str, object], name: str) -> HttpResponse:
    text = json.dumps(content, indent=2, ensure_ascii=False)
    return HttpResponse(
        text,
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@require_POST
@may("edit job")
def copy(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """A new job with the same facts."""
    content = services.current(find_job(request, job_id))
    made = services.adopt(
        shop=request.membership.shop,
        user=user_of(request),
        content=content.model_copy(update={"title": f"{content.title} (copy)"[:200]}),
    )
    return redirect("worksheet", job_id=made.pk)


@require_safe
@may("see")
def pipes_like(request: ShopRequest) -> JsonResponse:
    """Pipes that what somebody has typed so far may become."""
    found = pipe_words.suggest(request.GET.get("q", "")[:_MOST_TYPED])
    return JsonResponse({"pipes": [one.label for one in found]})


@require_POST
@may("edit job")
@told_alone("the job that follows")
def following(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The job that this one leaves to be done: made once, then opened."""
    try:
        made = services.add_following(job=find_job(request, job_id), user=user_of(request))
    except SizingError as problem:
        return _refused(problem)
    return redirect("worksheet", job_id=made.pk)
