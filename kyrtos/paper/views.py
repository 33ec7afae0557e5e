"""Issuing a paper and fetching it again."""

from __future__ import annotations

from typing import cast
from uuid import UUID

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.accounts.terms import system_of
from kyrtos.drawing.picture import picture
from kyrtos.drawing.time_chart import time_chart
from kyrtos.house_rules.services import rules_of
from kyrtos.jobs.models import Job
from kyrtos.jobs.services import current, size_document
from kyrtos.jobs.told_alone import told_alone
from kyrtos.paper import exports, pdf, seals, services
from kyrtos.paper.basin_order import basin_order_view
from kyrtos.paper.models import Paper
from kyrtos.paper.site_sheet import site_sheet_view
from kyrtos.shops.services import terms_of
from sizing.base.errors import SizingError, UnknownName
from sizing.editing import edit_scenarios
from sizing.kinds.start import first_document
from sizing.over_time.scenarios import scenarios
from sizing.results.specification import in_words
from sizing.size import Sizing


@require_POST
@may("issue paper")
@share
@told_alone("the paper")
def issue(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Issue and show the paper; when it cannot be, say why on the worksheet."""
    job = get_object_or_404(
        Job.objects.select_related("shop"), pk=job_id, shop=request.membership.shop
    )
    if request.POST.get("revision") not in ("", None, str(job.current_revision)):
        messages.warning(request, "The job changed since you looked at it. Look again, then issue.")
        return redirect("worksheet", job_id=job.pk)
    try:
        paper = services.issue(job=job, user=cast(User, request.user))
    except services.CannotIssue as problem:
        messages.error(request, str(problem))
        return redirect("worksheet", job_id=job.pk)
    did(request, "paper issued", f"{job.title}, paper {paper.number}")
    return redirect("paper", job_id=job.pk, number=paper.number)


@require_safe
@may("see")
def paper(request: ShopRequest, job_id: UUID, number: int) -> HttpResponse:
    """The paper as it was issued, byte for byte."""
    found = get_object_or_404(
        Paper.objects.select_related("job"),
        job_id=job_id,
        job__shop=request.membership.shop,
        number=number,
    )
    if not seals.is_as_sealed(found):
        told = f"paper {found.number} of {found.job.title}: its file is not the one that was sealed"
        context = {"told": told}
        return render(request, "paper/not_as_sealed.html", context, status=409)
    name = f"{slugify(found.job.title) or 'job'}-paper-{found.number}.pdf"
    return _inline(bytes(found.pdf), name, opened=found.drawn_here)


def _sized(request: ShopRequest, job_id: UUID) -> tuple[Job, Sizing]:
    job = get_object_or_404(
        Job.objects.select_related("shop"), pk=job_id, shop=request.membership.shop
    )
    return job, size_document(job.shop, current(job))


def _file(content: str | bytes, content_type: str, job: Job, ending: str) -> HttpResponse:
    name = f"{slugify(job.title) or 'job'}-{ending}"
    return HttpResponse(
        content,
        content_type=content_type,
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@require_safe
@may("see")
@share
@told_alone("the site sheet")
def site_sheet(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The sheet to take along to the site of a job, with what is known of it already."""
    job = get_object_or_404(
        Job.objects.select_related("shop"), pk=job_id, shop=request.membership.shop
    )
    view = site_sheet_view(current(job), job.shop, rules_of(job.shop))
    name = f"{slugify(job.title) or 'job'}-site-sheet.pdf"
    return _inline(pdf.render_site_sheet(view), name)


@require_safe
@may("see")
@share
@told_alone("the site sheet")
def blank_site_sheet(request: ShopRequest, kind: str) -> HttpResponse:
    """The sheet of a kind of job, nothing known yet."""
    shop = request.membership.shop
    try:
        blank = first_document(kind, terms_of(shop, system_of(request.membership)), rules_of(shop))
    except UnknownName:
        raise Http404("no such kind of job") from None
    view = site_sheet_view(blank, shop, rules_of(shop))
    return _inline(pdf.render_site_sheet(view), f"{kind}-site-sheet.pdf")


def _inline(content: bytes, name: str, *, opened: bool = True) -> HttpResponse:
    """A PDF to look at; one that was not drawn here is to be taken away instead."""
    way = "inline" if opened else "attachment"
    return HttpResponse(
        content,
        content_type="application/pdf",
        headers={"Content-Disposition": f'{way}; filename="{name}"'},
    )


@require_safe
@may("see")
@share
@told_alone("what to ask makers for")
def specification_file(request: ShopRequest, job_id: UUID, kind: str) -> HttpResponse:
    """What to ask makers for, as text or CSV; 404 while flow or run are not known."""
    job, sizing = _sized(request, job_id)
    rows = in_words(sizing)
    if not rows:
        raise Http404("the duty is not known yet")
    if kind == "csv":
        return _file(exports.rows_as_csv(rows), "text/csv; charset=utf-8", job, "wanted.csv")
    text = "\n".join(f"{label}: {value}" for label, value in rows) + "\n"
    return _file(text, "text/plain; charset=utf-8", job, "wanted.txt")


@require_safe
@may("see")
@share
@told_alone("the head breakdown")
def tape_file(request: ShopRequest, job_id: UUID, kind: str) -> HttpResponse:
    """The head tape as CSV or XLSX; 404 while there is none."""
    job, sizing = _sized(request, job_id)
    if sizing.head_breakdown is None:
        raise Http404("the head is not known yet")
    if kind == "csv":
        return _file(exports.as_csv(sizing), "text/csv; charset=utf-8", job, "head.csv")
    return _file(exports.as_xlsx(sizing), exports.XLSX, job, "head.xlsx")


@require_safe
@may("see")
@share
@told_alone("the picture")
def picture_file(request: ShopRequest, job_id: UUID, kind: str) -> HttpResponse:
    """The picture as SVG or PNG; 404 while there is none."""
    job, sizing = _sized(request, job_id)
    drawn = picture(sizing, sizing.job.units)
    if drawn is None:
        raise Http404("there is no picture yet")
    if kind == "svg":
        return _file(pdf.svg(drawn), "image/svg+xml", job, "picture.svg")
    return _file(pdf.png(drawn), "image/png", job, "picture.png")


@require_safe
@may("see")
@share
@told_alone("the run over time")
def run_file(request: ShopRequest, job_id: UUID, code: str, kind: str) -> HttpResponse:
    """A run over time as CSV, SVG or PNG, its figures as in the address; 404 where none can be."""
    job, sizing = _sized(request, job_id)
    running = sizing.running
    able = () if running is None else scenarios(sizing.kind, running)
    scenario = next((one for one in able if one.code == code), None)
    if running is None or scenario is None:
        raise Http404("this job cannot be run through that")
    typed = {key: str(text)[:40] for key, text in request.GET.items()}
    try:
        given = edit_scenarios.figures(sizing.job, code, typed)
        ran = scenario.run(running, scenario.answers(given))
    except SizingError as problem:
        return HttpResponse(str(problem), status=422, content_type="text/plain; charset=utf-8")
    if kind == "csv":
        text = exports.run_csv(ran, sizing.job.units)
        return _file(text, "text/csv; charset=utf-8", job, f"{code}.csv")
    chart = time_chart(ran, scenario.label, sizing.job.units)
    if kind == "svg":
        return _file(pdf.time_chart_svg(chart), "image/svg+xml", job, f"{code}.svg")
    return _file(pdf.time_chart_png(chart), "image/png", job, f"{code}.png")


@require_safe
@may("see")
@share
@told_alone("the order for the basin")
def basin_order(request: ShopRequest, job_id: UUID, kind: str) -> HttpResponse:
    """The basin that was drawn as an order to the workshop, PDF or SVG; 404 where there is none."""
    job, sizing = _sized(request, job_id)
    try:
        view = basin_order_view(
            sizing, job, {key: str(text)[:80] for key, text in request.GET.items()}
        )
    except SizingError as problem:
        raise Http404(str(problem)) from None
    if kind == "svg":
        return _file(pdf.basin_svg(view.picture), "image/svg+xml", job, "basin.svg")
    return _inline(pdf.render_basin_order(view), f"{slugify(job.title) or 'job'}-basin.pdf")
