"""A pump from its box, inside a job: asked for, taken in, taken out again."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.permissions import ShopRequest, can, may
from kyrtos.catalogue.services import store
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.jobs.told_alone import told_alone
from kyrtos.worksheet import views
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.document import own_pumps
from sizing.document.job import JobDocument
from sizing.kinds import kind
from sizing.pump.catalogue import OWN
from sizing.pump.catalogue_columns import families

NAMES = ("name", "family", "open_flow", "highest_head", "points", "largest_solid")


LABELS = {
    "name": "Name",
    "open_flow": "Flow with an open outlet",
    "highest_head": "Highest head or pressure",
    "points": "Points printed on it, if any",
    "largest_solid": "Largest solid that passes, if it says",
}
_LIKE = "6 ft 2450 gph, 12 ft 1300"


@dataclass(frozen=True)
class OwnField:
    name: str
    label: str
    value: str
    problem: str
    hint: str


@dataclass(frozen=True)
class OwnPumpView:
    """The dialog: what was typed, what is wrong where, and the pumps that the job has already."""

    fields: tuple[OwnField, ...]
    family: str
    families: tuple[tuple[str, str], ...]
    there: tuple[tuple[str, str], ...]


def _view(
    job: Job, typed: dict[str, str], problems: dict[str, str], content: JobDocument
) -> OwnPumpView:
    likely = kind(content.kind).families(services.size_document(job.shop, content).facts)
    known = families()
    ordered = dict.fromkeys([*likely, *known])
    hints = {
        "open_flow": units.shown("flow", content.units).unit,
        "highest_head": units.shown("length", content.units).unit,
        "points": _LIKE,
        "largest_solid": units.shown("size", content.units).unit,
    }
    return OwnPumpView(
        fields=tuple(
            OwnField(name, label, typed.get(name, ""), problems.get(name, ""), hints.get(name, ""))
            for name, label in LABELS.items()
        ),
        family=typed.get("family") or (likely[0] if likely else ""),
        families=tuple((code, known[code]) for code in ordered),
        there=tuple((f"{OWN}{one.id}", one.name) for one in content.own_pumps),
    )


@require_safe
@may("see")
@told_alone("a pump at hand")
def ask(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The dialog, blank."""
    job = views.find_job(request, job_id)
    view = _view(job, {}, {}, services.current(job))
    return _dialog(request, job, view)


def _dialog(request: ShopRequest, job: Job, view: OwnPumpView, status: int = 200) -> HttpResponse:
    context = {
        "view": view,
        "job": job,
        "may_keep": can(request.membership, "change catalogue"),
    }
    return render(request, "dialogs/own_pump.html", context, status=status)


@require_POST
@may("edit job")
@told_alone("a pump at hand")
def take(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Take a pump in, or out again; the worksheet then, else the dialog with what is wrong."""
    job = views.find_job(request, job_id)
    typed = {name: request.POST.get(name, "")[:500] for name in NAMES}
    gone = request.POST.get("remove", "")
    try:
        saved = services.change(
            job=job,
            user=views.user_of(request),
            path="",
            page=request.POST.get("page", "")[:40],
            apply=lambda content: (
                own_pumps.remove(content, gone) if gone else own_pumps.add(content, typed)
            ),
        )
    except own_pumps.OwnPumpError as problem:
        view = _view(job, typed, {problem.field: str(problem)}, services.current(job))
        return _dialog(request, job, view, 422)
    except SizingError as problem:
        view = _view(job, typed, {"name": str(problem)}, services.current(job))
        return _dialog(request, job, view, 422)
    if not gone and request.POST.get("keep") and can(request.membership, "change catalogue"):
        store(job.shop, [own_pumps.for_catalogue(saved.document.own_pumps[-1])])
    return views.answer(request, saved.job, saved.document, notice=_notice(request, gone))


def _notice(request: HttpRequest, gone: str) -> str:
    if gone:
        return ""
    kept = " and kept in the catalogue" if request.POST.get("keep") else ""
    return f"Taken in{kept}: its curve is rough, so look at the band before you rely on it."
